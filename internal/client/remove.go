package client

import (
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteRemove() *cobra.Command {
	var draft int64
	var name string
	cmd := &cobra.Command{
		Use:   "remove SITE ADDRESS",
		Short: "Remove an item in a draft",
		Long: "Removes an item, such as media/files/price.pdf, in a draft. What still names it, and the addresses\n" +
			"that end with it, are told.",
		Example: `  cparcel site remove larch-saddle media/valley-map.svg --draft spring`,
		Args:    cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			old, err := result(c.GetItemWithResponse(cmd.Context(), args[0],
				&api.GetItemParams{Address: args[1], Draft: some(draft)}))
			if err != nil {
				return err
			}
			match := `"` + string(old.Item.State) + `"`
			got, err := result(c.DeleteItemWithResponse(cmd.Context(), args[0],
				&api.DeleteItemParams{Address: args[1], Draft: some(draft), IfMatch: &match}))
			if err != nil {
				return err
			}
			if err := a.nameDraft(cmd.Context(), c, args[0], &got.Draft, name); err != nil {
				return err
			}
			detail, err := result(c.GetDraftWithResponse(cmd.Context(), args[0], got.Draft))
			if err != nil {
				return err
			}
			return a.print(got, func() {
				if len(old.UsedBy) > 0 {
					a.say("%s %s is still named by %s.", a.bad("Needed"), args[1], listed(old.UsedBy))
				}
				a.endedBy(detail)
				a.edited(args[0], args[1], got)
			})
		},
	}
	a.draftFlag(cmd, &draft, &name,
		"the `name or number` of an open draft; a new name makes one (a new one when not given)")
	return cmd
}
