package client

import (
	"context"
	"fmt"
	"strings"

	"compactparcel/core/item"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteCommands() *cobra.Command {
	cmd := &cobra.Command{Use: "site", Short: "Look at sites, adopt, publish, go live"}
	cmd.AddCommand(
		a.siteList(),
		a.siteNew(),
		a.siteAdopt(),
		a.siteShow(),
		a.sitePut(),
		a.siteRemove(),
		a.siteSurround(),
		a.siteOutline(),
		a.sitePlacement(),
		a.siteSource(),
		a.siteScripts(),
		a.siteProposals(),
		a.siteAccept(),
		a.sitePublish(),
		a.siteOutlet(),
		a.siteGoLive(),
		a.siteDiscard(),
		a.siteCheck(),
		a.siteEdit(),
		a.siteUse(),
		a.siteSources(),
		a.siteLooks(),
		a.siteMedia(),
		a.sitePicture(),
		a.siteSizes(),
		a.siteIcon(),
		a.siteFonts(),
		a.siteFont(),
		a.siteCrop(),
		a.siteAlternatives(),
		a.siteArchive(),
		a.siteRestore(),
		a.siteDifferences(),
		a.siteBringBack(),
		a.siteHistory(),
		a.siteTrust(),
	)
	grouped(cmd)
	return cmd
}

func (a *app) siteList() *cobra.Command {
	return &cobra.Command{
		Use:   "list",
		Short: "List the sites",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			list, err := result(c.ListSitesWithResponse(cmd.Context()))
			if err != nil {
				return err
			}
			return a.print(list, func() {
				var rows [][]any
				for _, s := range list.Sites {
					rows = append(
						rows,
						[]any{
							s.Name,
							s.Title,
							s.Pages,
							s.Items,
							s.OpenDrafts,
							s.Revision,
							short(string(s.Digest)),
							s.Preview,
						},
					)
				}
				a.table("There is no site yet. Adopt one: cparcel site adopt DIR --name SITE",
					[]string{"site", "title", "pages", "items", "drafts", "revision", "digest", "look at it"}, rows)
			})
		},
	}
}

func (a *app) siteShow() *cobra.Command {
	var draft int64
	cmd := &cobra.Command{
		Use:   "show SITE [ADDRESS]",
		Short: "Show a site with its items, or one item with what it uses and what uses it",
		Args:  cobra.RangeArgs(1, 2),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			if len(args) == 2 {
				return a.showItem(cmd.Context(), c, args[0], args[1], draft)
			}
			list, err := result(
				c.ListItemsWithResponse(cmd.Context(), args[0], &api.ListItemsParams{Draft: some(draft)}),
			)
			if err != nil {
				return err
			}
			drafts, err := result(c.ListDraftsWithResponse(cmd.Context(), args[0]))
			if err != nil {
				return err
			}
			return a.print(list, func() {
				a.say("%s, revision %d, digest %s, %s", args[0], list.Revision, list.Digest, list.Preview)
				a.items(list.Items, list.Home)
				for _, x := range drafts.Drafts {
					a.say("Draft %d “%s” by %s: %s", x.Id, x.Name, x.By, x.Preview)
				}
			})
		},
	}
	a.draftFlag(cmd, &draft, nil, "show the draft with this `name or number` instead of the live site")
	return cmd
}

// items lists items; home is the page that is shown at /.
func (a *app) items(items []api.Item, home *item.Address) {
	var rows [][]any
	for _, i := range items {
		var about []string
		m := i.Meta
		for _, s := range []string{m.Slug, string(m.Role), m.Type, m.Version} {
			if s != "" {
				about = append(about, s)
			}
		}
		if home != nil && i.Address == *home && m.Slug != "/" {
			about = append(about, "the home page")
		}
		if i.Address.Kind == item.Part {
			about = append(about, whereabouts(m.Place(), m.Off))
		}
		rows = append(rows, []any{i.Address.String(), m.Title, weight(i.Bytes), strings.Join(about, " · ")})
	}
	a.table("There are no items.", []string{"address", "title", "weight", "about"}, rows)
}

func (a *app) showItem(ctx context.Context, c *api.ClientWithResponses, site, address string, draft int64) error {
	d, err := result(c.GetItemWithResponse(ctx, site, &api.GetItemParams{Address: address, Draft: some(draft)}))
	if err != nil {
		return err
	}
	return a.printItem(site, d)
}

func (a *app) printItem(site string, d *api.ItemDetail) error {
	return a.print(d, func() {
		a.say("%s in %s, %s, state %s", titled(d.Item.Address.String(), d.Item.Meta.Title), site, weight(d.Item.Bytes),
			short(string(d.Item.State)))
		if d.Origin != nil {
			a.say("It came from %s.", cameFrom(*d.Origin))
		}
		var rows [][]any
		for _, u := range d.Uses {
			to, found := u.To.String(), "yes"
			if u.To.IsZero() {
				to = u.Slug
			}
			if !u.Found {
				found = a.mark("no")
			}
			rows = append(rows, []any{to, found, u.Line, u.Relation.Sentence("it", u.Where)})
		}
		a.table("It uses nothing.", []string{"uses", "there", "line", "how"}, rows)
		if len(d.UsedBy) > 0 {
			var by []string
			for _, u := range d.UsedBy {
				by = append(by, u.String())
			}
			a.say("Used by %s.", strings.Join(by, ", "))
		}
		if d.Content != nil {
			a.say("\n%s", strings.TrimRight(*d.Content, "\n"))
		}
	})
}

// titled names something by its name, and its title where it has one.
func titled(name, title string) string {
	if title == "" {
		return name
	}
	return name + " “" + title + "”"
}

// cameFrom says where an item came from: from a delivery of a kit, from the library or from a site.
func cameFrom(o api.OriginNote) string {
	switch of, name, held := strings.Cut(o.Kit, ":"); {
	case held && of == "library":
		return fmt.Sprintf("the library, %s", o.Address)
	case held:
		return fmt.Sprintf("the site %s, %s", name, o.Address)
	case o.Delivery == 0:
		return fmt.Sprintf("%s@%s, %s", o.Kit, o.Version, o.Address)
	}
	return fmt.Sprintf("%s@%s, %s (delivery %d)", o.Kit, o.Version, o.Address, o.Delivery)
}

func (a *app) siteSurround() *cobra.Command {
	var draft int64
	cmd := &cobra.Command{
		Use:   "surround SITE PAGE",
		Short: "Show which parts surround a page, and why",
		Long: `Shows which parts surround a page, and why: a page, a record's page, a listing, the
search results, or /404.html for unknown addresses.`,
		Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			page, err := a.pageNamed(cmd.Context(), c, args[0], draft, args[1])
			if err != nil {
				return err
			}
			ask := &api.GetSurroundParams{Path: page}
			if draft > 0 {
				ask.Draft = &draft
			}
			s, err := result(c.GetSurroundWithResponse(cmd.Context(), args[0], ask))
			if err != nil {
				return err
			}
			return a.print(s, func() {
				var rows [][]any
				for _, p := range s.Parts {
					part := "–"
					if !p.Part.IsZero() {
						part = p.Part.String()
					}
					why := p.Why
					if len(p.Ties) > 0 {
						why += "; " + a.mark("a tie") + " with"
						for _, t := range p.Ties {
							why += " " + t.String()
						}
					}
					rows = append(rows, []any{string(p.Role), part, why})
				}
				a.table("Nothing surrounds it.", []string{"role", "part", "why"}, rows)
			})
		},
	}
	a.draftFlag(cmd, &draft, nil, "the page as a `draft` has it")
	return cmd
}

func (a *app) siteHistory() *cobra.Command {
	var before int64
	cmd := &cobra.Command{
		Use:   "history SITE",
		Short: "List a site's changes, newest first",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			list, err := result(c.ListRevisionsWithResponse(cmd.Context(), args[0],
				&api.ListRevisionsParams{Before: some(before)}))
			if err != nil {
				return err
			}
			return a.print(list, func() {
				var rows [][]any
				for _, x := range list.Revisions {
					rows = append(
						rows,
						[]any{
							x.Revision,
							x.At.Local().Format("2006-01-02 15:04"),
							x.By,
							x.Changed,
							short(string(x.Digest)),
							x.Message,
						},
					)
				}
				a.table("Nothing has changed it yet.", []string{"revision", "when", "by", "items", "digest", "what"},
					rows)
			})
		},
	}
	cmd.Flags().Int64Var(&before, "before", 0, "only revisions before this `revision`")
	return cmd
}

// value gives what a pointer points to, or the zero value.
func value[T any](p *T) (v T) {
	if p != nil {
		v = *p
	}
	return v
}

func some[T comparable](v T) *T {
	var zero T
	if v == zero {
		return nil
	}
	return &v
}
