package client

import (
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/says"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) sitePlacement() *cobra.Command {
	var draft int64
	var where string
	cmd := &cobra.Command{
		Use:   "placement SITE part/NAME",
		Short: "List on which pages a part appears, and what another placement would change",
		Long: "Lists for each page which part of the part's role stands there. With --where nothing is written: it\n" +
			"tells which pages the part would gain and from whom, and lose and to whom. `site edit … part-where`\n" +
			"does it.",
		Example: `  cparcel site placement blackwater-bothy part/footer
  cparcel site placement blackwater-bothy part/footer --where "records:room except page:/room/attic/"`,
		Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			part, err := item.ParseAddress(args[1])
			if err != nil {
				return usage("%v", err)
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			ask := &api.GetPlacementParams{Part: part.String(), Draft: some(draft)}
			if cmd.Flags().Changed("where") {
				ask.Where = &where
			}
			got, err := result(c.GetPlacementWithResponse(cmd.Context(), args[0], ask))
			if err != nil {
				return err
			}
			return a.print(got, func() { a.placement(got) })
		},
	}
	cmd.Flags().StringVar(&where, "where", "", "another placement: `targets`, and behind \"except\" those without it")
	a.draftFlag(cmd, &draft, nil, "the site as a `draft` has it")
	return cmd
}

// whereabouts says where a part appears.
func whereabouts(p item.Placement, off bool) string {
	switch {
	case off:
		return "switched off"
	case len(p.Where) == 0:
		return "on no page"
	}
	says := "on " + strings.Join(p.Where, ", ")
	if len(p.Unless) > 0 {
		says += " except on " + strings.Join(p.Unless, ", ")
	}
	return says
}

// placement prints where a part appears.
func (a *app) placement(got *api.PartPlacement) {
	where := item.Placement{Where: got.Where, Unless: got.Unless}
	a.say("%s (%s) is %s", got.Part, got.Role, whereabouts(where, got.Off))
	named := func(p *item.Address) string {
		if p == nil {
			return "none"
		}
		return p.String()
	}
	var rows [][]any
	for _, p := range got.Pages {
		why := p.Why
		if ties := value(p.Ties); len(ties) > 0 {
			why += "; " + says.Count(len(ties), "other") + " with an equal claim"
		}
		rows = append(rows, []any{p.Path, value(p.Title), named(p.Part), why})
	}
	a.table("No page can show it.", []string{"Page", "Title", "Part there", "Why"}, rows)
	for _, p := range got.Gains {
		a.say("It gains %s from %s.", p.Path, named(p.Part))
	}
	for _, p := range got.Losses {
		a.say("It loses %s to %s.", p.Path, named(p.Part))
	}
}
