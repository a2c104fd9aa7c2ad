package client

import (
	"compactparcel/core/folder"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteOutlet() *cobra.Command {
	cmd := &cobra.Command{Use: "outlet", Short: "Where a site is published by going live"}
	cmd.AddCommand(a.outletAdd(), a.outletList(), a.outletPublish(), a.outletRemove())
	return cmd
}

func (a *app) outletAdd() *cobra.Command {
	var into, base, links, forms string
	cmd := &cobra.Command{
		Use:   "add SITE NAME",
		Short: "Add an outlet on the service's machine and publish there",
		Args:  cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			ways := api.LinkForm(links)
			o, err := created(
				c.AddOutletWithResponse(cmd.Context(), args[0], args[1],
					api.NewOutlet{Folder: some(into), Base: &base, Links: &ways, Forms: some(forms)}),
			)
			if err != nil {
				return err
			}
			return a.print(o, func() {
				a.say("%s publishes to %s from now on: what goes live is there at once.", args[0], o.Folder)
				a.outletLine(*o)
			})
		},
	}
	cmd.Flags().StringVar(&into, "folder", "", "a `folder` below the service's folder of outlets (default SITE/NAME)")
	cmd.Flags().StringVar(&base, "base", "/", "the `path` below which the site will stand")
	cmd.Flags().StringVar(&links, "links", folder.RootedLinks,
		"how links are written: rooted, relative, or file (opened from disk)")
	cmd.Flags().StringVar(&forms, "forms", "",
		"where forms are sent: `here` to this service, or an address with {form} in it (default nowhere)")
	return cmd
}

func (a *app) outletLine(o api.Outlet) {
	if o.Message != "" {
		a.say("  %s     %s", a.mark("note"), o.Message)
	} else if o.Release > 0 {
		a.say("Release %d is there.", o.Release)
	}
}

func (a *app) outletList() *cobra.Command {
	return &cobra.Command{
		Use:   "list SITE",
		Short: "List a site's outlets",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			list, err := result(c.ListOutletsWithResponse(cmd.Context(), args[0]))
			if err != nil {
				return err
			}
			return a.print(list, func() {
				var rows [][]any
				for _, o := range list.Outlets {
					state, at := a.good("up to date"), "–"
					if o.Behind {
						state = a.mark("behind")
					}
					if o.TryAt != nil {
						state += ", tried again " + o.TryAt.Local().Format("15:04:05")
					}
					if o.PublishedAt != nil {
						at = o.PublishedAt.Local().Format("2006-01-02 15:04")
					}
					rows = append(rows, []any{o.Name, o.Folder, o.Base, string(o.Links), o.Release, at, state,
						o.Message})
				}
				a.table("There is no outlet yet. Add one: cparcel site outlet add "+args[0]+" main",
					[]string{"outlet", "folder", "base", "links", "release", "when", "state", "note"}, rows)
			})
		},
	}
}

func (a *app) outletPublish() *cobra.Command {
	var over bool
	var back int
	cmd := &cobra.Command{
		Use:   "publish SITE NAME",
		Short: "Publish to an outlet now, or show an older release again",
		Args:  cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			r, err := result(
				c.PublishOutletWithResponse(cmd.Context(), args[0], args[1],
					api.PublishOutlet{Over: &over, Back: some(back)}),
			)
			if err != nil {
				return err
			}
			return a.print(r, func() {
				switch {
				case back != 0:
					a.say("%s shows release %d again, until the next publication.", r.Outlet.Folder, r.Number)
				case r.Same:
					a.say("%s is already up to date: release %d, %d files.", r.Outlet.Folder, r.Number, r.Files)
				default:
					a.say("%s is at release %d: %d files, %d of them new or changed, %d gone.", r.Outlet.Folder,
						r.Number, r.Files, r.Written, r.Removed)
				}
			})
		},
	}
	cmd.Flags().BoolVar(&over, "over", false, "overwrite what somebody changed there")
	cmd.Flags().IntVar(&back, "back", 0, "show the older release with this `number` again")
	return cmd
}

func (a *app) outletRemove() *cobra.Command {
	return &cobra.Command{
		Use:   "remove SITE NAME",
		Short: "Forget an outlet; its folder stays as it is",
		Args:  cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			if _, err := body(c.RemoveOutletWithResponse(cmd.Context(), args[0], args[1])); err != nil {
				return err
			}
			return a.print(
				map[string]string{"removed": args[1]},
				func() { a.say("%s is forgotten; what was published stays.", args[1]) },
			)
		},
	}
}
