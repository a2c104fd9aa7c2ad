package client

import (
	"fmt"
	"strings"

	"compactparcel/core/says"
	"compactparcel/core/sourcemap"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteSource() *cobra.Command {
	var line int
	var element string
	var draft int64
	cmd := &cobra.Command{
		Use:   "source SITE PAGE (--line N | --element SELECTOR)",
		Short: "Show where a line or an element of a page comes from",
		Long: `Shows which item each run of bytes of a line, or of an element, comes from, with the
line of its source and the number of pages that show it. What the page engine writes
by itself is listed with its reason.`,
		Example: `  cparcel site source kestrel-refuge /contact/ --line 40
  cparcel site source kestrel-refuge / --element footer`,
		Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			if (line > 0) == (element != "") {
				return usage("name a line with --line, or an element with --element")
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			page, err := a.pageNamed(cmd.Context(), c, args[0], draft, args[1])
			if err != nil {
				return err
			}
			ask := &api.GetPageSourceParams{Path: page}
			if line > 0 {
				ask.Line = &line
			} else {
				ask.Element = &element
			}
			if draft > 0 {
				ask.Draft = &draft
			}
			got, err := result(c.GetPageSourceWithResponse(cmd.Context(), args[0], ask))
			if err != nil {
				return err
			}
			return a.print(got, func() { a.sources(got) })
		},
	}
	cmd.Flags().IntVar(&line, "line", 0, "the `line` of the page, from 1")
	cmd.Flags().StringVar(&element, "element", "", "the element of the page that a CSS `selector` names")
	a.draftFlag(cmd, &draft, nil, "the page as a `draft` has it")
	return cmd
}

// sources prints where the runs of a place come from.
func (a *app) sources(got *api.PageSource) {
	var rows [][]any
	for _, p := range got.Places {
		from, pages := "the engine", ""
		about := value(p.Reason)
		if p.Address != nil {
			from, pages = p.Address.String(), says.Count(value(p.Pages), "page")
			switch {
			case p.Field != nil:
				from += " (" + *p.Field + ")"
			case p.SourceLine != nil:
				from += fmt.Sprintf(":%d", *p.SourceLine)
			}
			if p.Kind != sourcemap.Copied {
				about = string(p.Kind)
			}
			if p.Through != nil && len(*p.Through) > 1 {
				var chain []string
				for _, x := range *p.Through {
					chain = append(chain, x.String())
				}
				about = strings.TrimSpace(about + " through " + strings.Join(chain[:len(chain)-1], " → "))
			}
		} else if p.Inputs != nil {
			var names []string
			for _, x := range *p.Inputs {
				names = append(names, x.String())
			}
			about += " from " + strings.Join(names, ", ")
		}
		rows = append(rows, []any{p.Line, p.Text, from, pages, about})
	}
	a.table("Nothing stands there.", []string{"line", "text", "source", "shown on", "how"}, rows)
}
