package client

import (
	"fmt"

	"compactparcel/core/item"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteMedia() *cobra.Command {
	var draft int64
	var words string
	cmd := &cobra.Command{
		Use:   "media SITE",
		Short: "Find media by name: their size, and what uses them",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.ListMediaWithResponse(cmd.Context(), args[0],
				&api.ListMediaParams{Words: some(words), Draft: some(draft)}))
			if err != nil {
				return err
			}
			return a.print(got, func() {
				var rows [][]any
				for _, m := range got.Media {
					size, used := "", "nothing"
					if m.Width != nil {
						size = fmt.Sprintf("%d×%d", *m.Width, *m.Height)
					}
					if n := len(m.UsedBy); n > 0 {
						if used = m.UsedBy[0].String(); n > 1 {
							used += fmt.Sprintf(" and %d more", n-1)
						}
					}
					rows = append(rows, []any{m.Item.Address, weight(m.Item.Bytes), size, used})
				}
				a.table("There are no media of such a name.", []string{"Address", "Weight", "Size", "Used by"}, rows)
			})
		},
	}
	cmd.Flags().StringVar(&words, "words", "", "only those in whose names these `words` stand")
	a.draftFlag(cmd, &draft, nil, "the `name or number` of an open draft, in the place of the live site")
	return cmd
}

func (a *app) siteSizes() *cobra.Command {
	var draft int64
	var name string
	var widths []int
	cmd := &cobra.Command{
		Use:     "sizes SITE media/NAME",
		Short:   "Make a picture in sizes, as WebP, and let all that shows it offer them",
		Example: "  cparcel site sizes kestrel-refuge media/ridge-dawn.jpg --widths 480,960,1600 --draft spring",
		Args:    cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			at, err := item.ParseAddress(args[1])
			if err != nil {
				return usage("%v", err)
			}
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.SizeMediaWithResponse(cmd.Context(), args[0],
				api.SizeMedia{Draft: some(draft), Media: at, Widths: &widths}))
			if err != nil {
				return err
			}
			return a.doneInDraft(cmd.Context(), c, args[0], name, got)
		},
	}
	cmd.Flags().IntSliceVar(&widths, "widths", nil, "the `widths` in px (default 480,960,1600)")
	a.draftFlag(cmd, &draft, &name, "the `name or number` of an open draft; a new name makes one")
	return cmd
}

func (a *app) siteIcon() *cobra.Command {
	var draft int64
	var name string
	cmd := &cobra.Command{
		Use:   "icon SITE FILE",
		Short: "Make the site's icon of a picture, in all sizes",
		Args:  cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			f, size, err := opened(args[1], "name the file of a picture")
			if err != nil {
				return err
			}
			defer f.Close()
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.SetIconWithBodyWithResponse(cmd.Context(), args[0],
				&api.SetIconParams{Draft: some(draft)}, "application/octet-stream",
				a.progress(f, size, "sending")))
			if err != nil {
				return err
			}
			return a.doneInDraft(cmd.Context(), c, args[0], name, got)
		},
	}
	a.draftFlag(cmd, &draft, &name, "the `name or number` of an open draft; a new name makes one")
	return cmd
}
