package client

import (
	"compactparcel/core/item"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) siteCrop() *cobra.Command {
	var draft int64
	var name string
	var in api.CropMedia
	var left, top int
	var asCopy bool
	cmd := &cobra.Command{
		Use:   "crop SITE media/NAME",
		Short: "Crop a picture wherever it is shown, or make a copy of it that is",
		Example: `  cparcel site crop kestrel-refuge media/hut-door.jpg --left 100 --width 600 --height 400
  cparcel site crop kestrel-refuge media/hut-door.jpg --width 400 --height 400 --copy`,
		Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			media, err := item.ParseAddress(args[1])
			if err != nil {
				return usage("%v", err)
			}
			in.Media, in.Draft = media, some(draft)
			in.Left, in.Top, in.Copy = some(left), some(top), some(asCopy)
			c, err := a.api()
			if err != nil {
				return err
			}
			got, err := result(c.CropMediaWithResponse(cmd.Context(), args[0], in))
			if err != nil {
				return err
			}
			return a.doneInDraft(cmd.Context(), c, args[0], name, got)
		},
	}
	f := cmd.Flags()
	f.IntVar(&left, "left", 0, "where the area begins, in `px` from the left")
	f.IntVar(&top, "top", 0, "where the area begins, in `px` from the top")
	f.IntVar(&in.Width, "width", 0, "its width in `px`")
	f.IntVar(&in.Height, "height", 0, "its height in `px`")
	f.BoolVar(&asCopy, "copy", false, "make a copy that nothing shows yet")
	a.draftFlag(cmd, &draft, &name, "the `name or number` of an open draft; a new name makes one")
	return cmd
}
