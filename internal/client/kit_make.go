package client

import (
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) kitNew() *cobra.Command {
	var title, summary, license, credit string
	cmd := &cobra.Command{
		Use:   "new NAME@VERSION",
		Short: "Begin a kit, or a new version of one",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			name, version, err := splitKit(args[0])
			if err != nil {
				return err
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			k, err := created(
				c.NewKitWithResponse(
					cmd.Context(),
					api.NewKit{
						Name:    name,
						Version: version,
						Title:   some(title),
						Summary: some(summary),
						License: some(license),
						Credit:  some(credit),
					},
				),
			)
			if err != nil {
				return err
			}
			return a.print(k, func() {
				a.say("%s is being made. Add something: cparcel kit add %s ADDRESS --from SITE", args[0], args[0])
			})
		},
	}
	f := cmd.Flags()
	f.StringVar(&title, "title", "", "the kit's `title`")
	f.StringVar(&summary, "summary", "", "what it is, in a `line`")
	f.StringVar(&license, "license", "", "an SPDX licence `expression`, as CC-BY-4.0")
	f.StringVar(&credit, "credit", "", "`whom` to credit")
	return cmd
}

func (a *app) kitAdd() *cobra.Command {
	var from, element, as string
	var placed, styles bool
	cmd := &cobra.Command{
		Use:   "add NAME@VERSION ADDRESS...",
		Short: "Add items of a site, the library or a kit to a kit in the making",
		Args:  cobra.MinimumNArgs(1),
		Long: `Adds items to a kit in the making; everything they need comes along.

With --element, only the one element of the item that a CSS selector names is taken, as a
block or section of its own (--as block/NAME). With --placed-parts, all parts that are
placed somewhere on the site are added; with --styles, all its styles alone. "--from 'kit NAME@VERSION'" takes ` +
			`from a kit.`,
		Example: `  cparcel kit add hut-basics@1.0.0 page/home part/site-header --from kestrel-refuge
  cparcel kit add hut-basics@1.0.0 page/home --from kestrel-refuge --element 'ul.cards' --as block/reasons`,
		RunE: func(cmd *cobra.Command, args []string) error {
			list, err := addresses(args[1:])
			if err != nil {
				return err
			}
			if (placed || styles) != (len(list) == 0) || placed && styles {
				return usage("name the items, or take all with --placed-parts or --styles")
			}
			if (element == "") != (as == "") || element != "" && len(list) != 1 {
				return usage("with --element name one item, and with --as what the element becomes: --as block/NAME")
			}
			c, name, version, err := a.kitAt(cmd.Context(), args[0], api.KitStateMaking)
			if err != nil {
				return err
			}
			body := api.Picks{}
			if placed {
				body.PlacedParts = &from
			} else if styles {
				body.Styles = &from
			} else {
				picks := []api.Pick{}
				for _, x := range list {
					p := api.Pick{From: from, Address: x, Element: element}
					if as != "" {
						if p.As, err = address(as); err != nil {
							return err
						}
					}
					picks = append(picks, p)
				}
				body.Picks = &picks
			}
			k, err := result(c.AddToKitWithResponse(cmd.Context(), name, version, body))
			if err != nil {
				return err
			}
			return a.print(k, func() { a.kit(k) })
		},
	}
	f := cmd.Flags()
	f.StringVar(&from, "from", "library", "the `site` they come from, library, or 'kit NAME@VERSION'")
	f.StringVar(&element, "element", "", "take only the element that this CSS `selector` names")
	f.StringVar(&as, "as", "", "the `address` of the taken element: block/NAME or section/NAME")
	f.BoolVar(&styles, "styles", false, "all tokens and stylesheets: a kit of looks alone")
	f.BoolVar(&placed, "placed-parts", false, "all parts that are placed on the site")
	return cmd
}

func (a *app) kitExclude() *cobra.Command {
	var optional bool
	cmd := &cobra.Command{
		Use:   "exclude NAME@VERSION ADDRESS",
		Short: "Exclude an item from a kit in the making; what only came along becomes a need",
		Args:  cobra.ExactArgs(2),
		Long: `Excludes an item. One that you added is removed. One that only came along becomes a need of
the kit, an optional one with --optional; add it to have it back.`,
		RunE: func(cmd *cobra.Command, args []string) error {
			c, name, version, err := a.kitAt(cmd.Context(), args[0], api.KitStateMaking)
			if err != nil {
				return err
			}
			k, err := result(
				c.ExcludeFromKitWithResponse(cmd.Context(), name, version,
					&api.ExcludeFromKitParams{Address: args[1], Optional: &optional}),
			)
			if err != nil {
				return err
			}
			return a.print(k, func() { a.kit(k) })
		},
	}
	cmd.Flags().BoolVar(&optional, "optional", false, "the kit's pieces work without it")
	return cmd
}

func (a *app) kitSeal() *cobra.Command {
	var because string
	cmd := &cobra.Command{
		Use:   "seal NAME@VERSION",
		Short: "Make a version final",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, name, version, err := a.kitAt(cmd.Context(), args[0], api.KitStateMaking)
			if err != nil {
				return err
			}
			k, err := result(
				c.SealKitWithResponse(cmd.Context(), name, version, &api.SealKitParams{Because: some(because)}),
			)
			if err != nil {
				return err
			}
			return a.print(k, func() {
				a.say("%s: %s is sealed, %d items, %s, digest %s.", a.good("Done"), args[0], len(k.Items),
					weight(k.FileBytes), k.Digest)
			})
		},
	}
	cmd.Flags().
		StringVar(&because, "force", "",
			"seal it with a smaller number than its changes ask for; the `reason` is recorded")
	return cmd
}

// kitNextVersion says which version number a kit's changes ask for.
func (a *app) kitNextVersion() *cobra.Command {
	return &cobra.Command{
		Use:   "next-version NAME@VERSION",
		Short: "List what changed since the last sealed version, and which number that asks for",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, name, version, err := a.kitAt(cmd.Context(), args[0], api.KitStateMaking)
			if err != nil {
				return err
			}
			got, err := result(c.GetNextVersionWithResponse(cmd.Context(), name, version))
			if err != nil {
				return err
			}
			return a.print(got, func() {
				if got.Last == "" {
					a.say("%s: %s.", args[0], got.Reasons[0])
					return
				}
				a.comparison(&got.Comparison, &got.Advice)
				if !got.Enough {
					a.say("%s is too small a number: make it %s, or seal it with --force REASON.", a.bad(version),
						got.Next)
				}
			})
		},
	}
}
