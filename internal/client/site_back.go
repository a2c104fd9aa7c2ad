package client

import (
	"strings"

	"compactparcel/core/item"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteDifferences() *cobra.Command {
	var from, to int64
	cmd := &cobra.Command{
		Use:   "differences SITE --from REVISION",
		Short: "List the items that two revisions of a site have otherwise",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if from <= 0 {
				return usage("name a revision with --from (cparcel site history %s lists them)", args[0])
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			list, err := result(c.CompareRevisionsWithResponse(cmd.Context(), args[0],
				&api.CompareRevisionsParams{From: from, To: some(to)}))
			if err != nil {
				return err
			}
			return a.print(list, func() {
				var rows [][]any
				for _, x := range list.Differences {
					what, which := "changed", x.After
					switch {
					case x.Before == nil:
						what = a.good("added")
					case x.After == nil:
						what, which = a.bad("removed"), x.Before
					case *x.Before != *x.After:
						what = "was " + x.Before.String()
					}
					rows = append(rows, []any{which.String(), what})
				}
				a.table("Nothing differs.", []string{"item", "since then"}, rows)
			})
		},
	}
	cmd.Flags().Int64Var(&from, "from", 0, "the `number` of a revision")
	cmd.Flags().Int64Var(&to, "to", 0, "the `number` of another; the newest when not given")
	return cmd
}

func (a *app) siteBringBack() *cobra.Command {
	var draft, rev, since int64
	var name string
	var decide []string
	cmd := &cobra.Command{
		Use:   "bring-back SITE --revision NUMBER [ITEM…]",
		Short: "Make items, or all of a site, as an earlier revision had them, in a draft",
		Args:  cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if rev <= 0 {
				return usage("name a revision with --revision (cparcel site history %s lists them)", args[0])
			}
			in := api.BringBack{Revision: rev, Since: some(since), Draft: some(draft)}
			decisions := map[string]string{}
			for _, x := range decide {
				key, word, ok := strings.Cut(x, "=")
				if !ok {
					return usage("write --decide ADDRESS=keep or ADDRESS=take")
				}
				decisions[key] = word
			}
			if len(decisions) > 0 {
				in.Decisions = &decisions
			}
			var items []item.Address
			for _, x := range args[1:] {
				addr, err := item.ParseAddress(x)
				if err != nil {
					return usage("%s", err)
				}
				items = append(items, addr)
			}
			if items != nil {
				in.Items = &items
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.BringBackWithResponse(cmd.Context(), args[0], in))
			if err != nil {
				return err
			}
			if err := a.nameDraft(cmd.Context(), c, args[0], &got.Draft, name); err != nil {
				return err
			}
			return a.print(got, func() {
				for _, x := range got.Items {
					a.say("  %s", x)
				}
				if got.Step == nil {
					a.say("It is so already.")
					return
				}
				a.say("As revision %d had it, in draft %d: %s\nGo live: cparcel site go-live %s %d", rev, got.Draft,
					got.Preview, args[0], got.Draft)
			})
		},
	}
	f := cmd.Flags()
	f.Int64Var(&rev, "revision", 0, "the `number` of the revision")
	f.Int64Var(&since, "since", 0,
		"take back what was changed until this `revision`, and keep what came later (the newest when not given)")
	f.StringArrayVar(&decide, "decide", nil,
		"of an item that was changed later, `ADDRESS=keep` or ADDRESS=take; may be repeated")
	a.draftFlag(cmd, &draft, &name,
		"the `name or number` of an open draft; a new name makes one (a new one when not given)")
	return cmd
}
