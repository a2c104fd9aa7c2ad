package client

import (
	"strings"

	"compactparcel/core/item"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteAlternatives() *cobra.Command {
	var draft int64
	var name, was string
	cmd := &cobra.Command{
		Use:   "alternatives SITE media/NAME [WORDS]",
		Short: "List the alternative texts of a picture, or write another wherever one stands",
		Args:  cobra.RangeArgs(2, 3),
		RunE: func(cmd *cobra.Command, args []string) error {
			media, err := item.ParseAddress(args[1])
			if err != nil {
				return usage("%v", err)
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			if len(args) == 2 {
				got, err := result(c.ListMediaTextsWithResponse(cmd.Context(), args[0],
					&api.ListMediaTextsParams{Media: media.String(), Draft: some(draft)}))
				if err != nil {
					return err
				}
				return a.print(got, func() {
					var rows [][]any
					for _, t := range got.Texts {
						text := t.Text
						switch {
						case value(t.Missing):
							text = "(none is written)"
						case text == "":
							text = "(says nothing)"
						}
						by := make([]string, len(t.Items))
						for i, x := range t.Items {
							by[i] = x.String()
						}
						rows = append(rows, []any{text, strings.Join(by, ", ")})
					}
					a.table("Nothing shows it as a picture.", []string{"Alternative text", "In"}, rows)
				})
			}
			var given *string
			if cmd.Flags().Changed("was") {
				given = &was
			}
			got, err := result(c.WriteMediaTextWithResponse(cmd.Context(), args[0],
				api.WriteMediaText{Media: media, Draft: some(draft), Was: given, Text: args[2]}))
			if err != nil {
				return err
			}
			return a.doneInDraft(cmd.Context(), c, args[0], name, got)
		},
	}
	cmd.Flags().StringVar(&was, "was", "", "the `words` that stand there now (where none are written, when not given)")
	a.draftFlag(cmd, &draft, &name, "the `name or number` of an open draft; a new name makes one")
	return cmd
}
