package client

import (
	"strings"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/says"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

// useFlags say what of a piece comes, and where it comes to stand.
type useFlags struct {
	pages                    []string
	before, after, inside    string
	title, element, as, menu string
	dry, ownLook             bool
	says                     answerFlags
}

func (u *useFlags) flags(cmd *cobra.Command) {
	f := cmd.Flags()
	f.StringArrayVar(&u.pages, "page", nil,
		"the `address` of the page on which it comes to stand, or that a page gets; of several pages\n"+
			"\"ADDRESS=TITLE@PATH\", may be repeated")
	f.StringVar(&u.menu, "menu", "", "this `menu` of the site gets an entry for each page that is new")
	f.StringVar(&u.before, "before", "", "before this element of the page, by a CSS `selector`")
	f.StringVar(&u.after, "after", "", "after this element, by a CSS `selector`")
	f.StringVar(&u.inside, "inside", "", "at the end of this element, by a CSS `selector`")
	f.StringVar(&u.title, "title", "", "the `title` of a page")
	f.StringVar(&u.element, "element", "", "only this element of the piece, by a CSS `selector`")
	f.StringVar(&u.as, "as", "", "the section or block that the element becomes, as `section/NAME`")
	f.BoolVar(&u.ownLook, "own-look", false,
		"let it keep the look that it comes with, where the site's colours, type and spacing are others")
	f.BoolVar(&u.dry, "dry-run", false, "write nothing, and say what would be done")
	u.says.pieceFlags(cmd)
}

// request reads what is to be used: what is a SOURCE:PIECE, or several pages with commas between.
func (u *useFlags) request(what string) (in api.UsePiece, err error) {
	in = api.UsePiece{Title: some(u.title), Element: some(u.element), Dry: some(u.dry),
		OwnLook: some(u.ownLook)}
	source, piece, from := strings.Cut(what, ":")
	if !from {
		source, piece = "", what
	}
	if strings.Contains(source, "@") {
		source = "kit " + source
	}
	in.From = some(source)
	several := strings.Contains(piece, ",")
	switch {
	case several:
		u.says.pages = u.pages
	case len(u.pages) > 1:
		return in, usage("--page is given once, or for each of several pages")
	case len(u.pages) == 1:
		in.Page = &u.pages[0]
	}
	for flag, to := range map[string]struct {
		text string
		into **item.Address
	}{"--menu": {u.menu, &in.Menu}, "--as": {u.as, &in.As}} {
		if to.text == "" {
			continue
		}
		at, err := item.ParseAddress(to.text)
		if err != nil {
			return in, usage("%s: %v", flag, err)
		}
		*to.into = &at
	}
	for place, element := range map[edit.Place]string{edit.Before: u.before, edit.After: u.after,
		edit.Inside: u.inside} {
		if element != "" && in.Beside != nil {
			return in, usage("name one place: --before, --after or --inside")
		}
		if element != "" {
			in.Beside, in.Place = &element, &place
		}
	}
	answers, err := u.says.exact("")
	if err != nil {
		return in, err
	}
	in.Decisions, in.Fills, in.Policy, in.Seats = answers.Decisions, answers.Fills, answers.Policy, answers.Seats
	in.Piece, in.Pages, err = usedPieces(piece, several, value(answers.Pages))
	return in, err
}

func (a *app) siteUse() *cobra.Command {
	var draft int64
	var name string
	var u useFlags
	cmd := &cobra.Command{
		Use:   "use [SOURCE:]PIECE SITE",
		Short: "Use one piece of the library, a kit or another site here, in one step",
		Long: "Puts one piece into a draft, with the styles, media and settings that it leans on, and shows it " +
			"on a\n" +
			"page. SOURCE is a kit as NAME@VERSION, or a site's name; the library when there is none. Used again,\n" +
			"what has changed at the source is blended with what was changed here. Several pages, with commas\n" +
			"between, come at once.",
		Example: `  cparcel site use section/opening-hours kestrel-refuge --page /contact/ --after "main h1"
  cparcel site use hut-basics@2.0.0:page/contact larch-saddle --page /find-us/ --title "Find us" --draft spring
  cparcel site use hut-basics@2.0.0:page/contact,page/room larch-saddle --page "page/room=A bed@/bed/" --menu menu/main
  cparcel site use blackwater-bothy:page/home kestrel-refuge --element "main .notice" --as section/notice --dry-run`,
		Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			in, err := u.request(args[0])
			if err != nil {
				return err
			}
			in.Draft = some(draft)
			c, err := a.api()
			if err != nil {
				return err
			}
			if in.Page != nil && in.Piece != nil && in.Piece.Kind != item.Page { // it is put on one that there is
				page, err := a.pageNamed(cmd.Context(), c, args[1], draft, *in.Page)
				if err != nil {
					return err
				}
				in.Page = &page
			}
			got, err := result(c.UsePieceWithResponse(cmd.Context(), args[1], in))
			if err != nil {
				return err
			}
			if err := a.nameDraft(cmd.Context(), c, args[1], got.Draft, name); err != nil {
				return err
			}
			return a.print(got, func() { a.pieceUsed(args[1], got) })
		},
	}
	u.flags(cmd)
	a.draftFlagAt(cmd, 1, &draft, &name,
		"the `name or number` of an open draft; a new name makes one (a new one when not given)")
	return cmd
}

// usedPieces reads what is used: one piece, or several pages with commas between.
func usedPieces(text string, several bool, pages map[string]api.PageRequest) (
	one *item.Address, all *[]api.UsedPage, err error,
) {
	list := strings.Split(text, ",")
	out := make([]api.UsedPage, len(list))
	for i, word := range list {
		if out[i].Piece, err = item.ParseAddress(strings.TrimSpace(word)); err != nil {
			return nil, nil, usage("%v", err)
		}
		page := pages[out[i].Piece.String()]
		delete(pages, out[i].Piece.String())
		out[i].Title, out[i].Path = some(page.Title), some(page.Slug)
	}
	for name := range pages {
		return nil, nil, usage("--page %q is none of the pages that come", name)
	}
	if !several {
		return &out[0].Piece, nil, nil
	}
	return nil, &out, nil
}

func (a *app) pieceUsed(site string, got *api.PieceUsed) {
	for _, s := range got.Says {
		a.say("%s.", sentence(s))
	}
	if got.Plan != nil {
		a.nameGroups(got.Plan)
		for _, n := range got.Plan.Notes {
			a.say("  %s", n)
		}
	}
	words := make([]string, len(got.Items))
	for i, x := range got.Items {
		words[i] = x.String()
	}
	if len(words) == 0 {
		a.say("It is there already, as it is at its source.")
	} else {
		a.say("%s: %s", says.Count(len(words), "item"), strings.Join(words, ", "))
	}
	a.steppedOn(site, got.Touched, got.Draft, got.Step, got.Preview)
}

func (a *app) siteSources() *cobra.Command {
	var draft int64
	var name string
	cmd := &cobra.Command{
		Use:   "sources SITE",
		Short: "List where items came from, and whose source has changed since",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.ListPieceSourcesWithResponse(cmd.Context(), args[0],
				&api.ListPieceSourcesParams{Draft: some(draft)}))
			if err != nil {
				return err
			}
			return a.print(got, func() {
				var rows [][]any
				var take []string
				for _, x := range got.Sources {
					if x.State == api.SourceStateChanged {
						from := x.From
						if x.Now != nil {
							from = *x.Now
						}
						if from = strings.TrimPrefix(from, "kit "); from == "library" {
							from = ""
						} else {
							from += ":"
						}
						take = append(take, "cparcel site use "+from+x.Source.String()+" "+args[0])
					}
					rows = append(rows, []any{x.Item, x.From, x.Source, x.State})
				}
				a.table("Nothing here came from anywhere else.", []string{"Item", "From", "Source", "State"}, rows)
				for _, t := range take {
					a.say("Take the newer one: %s", t)
				}
			})
		},
	}
	a.draftFlag(cmd, &draft, &name, "the `name or number` of an open draft, in the place of the live site")
	return cmd
}
