package client

import (
	"fmt"
	"strings"

	"compactparcel/core/item"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteOutline() *cobra.Command {
	var draft int64
	var paths bool
	cmd := &cobra.Command{
		Use:   "outline SITE PAGE",
		Short: "List the elements of a page, what each is called and whose it is",
		Example: `  cparcel site outline kestrel-refuge /contact/
  cparcel site outline kestrel-refuge / --draft spring --paths`,
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
			ask := &api.GetOutlineParams{Path: page, Draft: some(draft)}
			got, err := result(c.GetOutlineWithResponse(cmd.Context(), args[0], ask))
			if err != nil {
				return err
			}
			return a.print(got, func() { a.outline(got, paths) })
		},
	}
	cmd.Flags().BoolVar(&paths, "paths", false, "show the selector of each, by which operations name it")
	a.draftFlag(cmd, &draft, nil, "the page as a `draft` has it")
	return cmd
}

// outline prints the elements of a page, each below the one around it.
func (a *app) outline(got *api.PageOutline, paths bool) {
	depth := map[int]int{}
	samples := 0
	var rows [][]any
	for _, e := range got.Elements {
		if d, ok := depth[e.Parent]; ok {
			depth[e.Number] = d + 1
		} else {
			depth[e.Number] = 0
		}
		what := strings.Repeat("  ", min(depth[e.Number], 12)) + string(e.Kind)
		if e.Name != "" {
			what += " “" + e.Name + "”"
		}
		if e.Sample != "" {
			what += "  " + a.mark("a sample")
			samples++
		}
		row := []any{what, a.whose(got, e.Item)}
		if paths {
			row = append(row, e.Path)
		}
		rows = append(rows, row)
	}
	head := []string{"element", "of"}
	if paths {
		head = append(head, "selector")
	}
	a.table("The page holds no elements.", head, rows)
	if paths {
		a.say("This is moment %s of the page; --seen %s means it, whatever comes since.", got.Seen, got.Seen)
	}
	if samples > 0 {
		a.say("%d samples still stand on it.", samples)
	}
}

// whose says which item an element is of, and on how many pages that is.
func (a *app) whose(got *api.PageOutline, of item.Address) string {
	if of.IsZero() {
		return "the page engine"
	}
	if got.Page != nil && of == *got.Page {
		return "this page"
	}
	for _, i := range got.Items {
		if i.Address == of && i.Pages != 1 {
			return fmt.Sprintf("%s, on %d pages", of, i.Pages)
		}
	}
	return of.String()
}
