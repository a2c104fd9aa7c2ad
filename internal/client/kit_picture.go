package client

import (
	"net/url"
	"slices"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/api"

	"github.com/spf13/cobra"
)

func (a *app) kitPicture() *cobra.Command {
	var variant, site, record string
	var width int
	var wait time.Duration
	cmd := &cobra.Command{
		Use:   "picture NAME[@VERSION] PIECE FILE",
		Short: "Make a picture of a piece of a kit, also of a variant, and with a record of a site in it",
		Example: `  cparcel kit picture hut-basics@1.0.0 section/opening-hours hours.png
  cparcel kit picture hut-basics@1.0.0 part/site-header header.png --variant over-picture
  cparcel kit picture hut-basics@1.0.0 part/room-page room.png --site kestrel-refuge --record longest`,
		Args: cobra.ExactArgs(3),
		RunE: func(cmd *cobra.Command, args []string) error {
			c, name, version, err := a.kitAt(cmd.Context(), args[0], anyState)
			if err != nil {
				return err
			}
			piece, err := item.ParseAddress(args[1])
			if err != nil {
				return usage("%v", err)
			}
			k, err := result(c.GetKitWithResponse(cmd.Context(), name, version))
			if err != nil {
				return err
			}
			q := url.Values{}
			at := slices.IndexFunc(k.Items, func(e api.KitItem) bool { return e.Address == piece })
			if at < 0 {
				return usage("%s@%s holds no %s: cparcel kit show %[1]s@%[2]s lists what it holds", name, version,
					piece)
			}
			if site != "" {
				q.Set("type", value(k.Items[at].Records))
				q.Set("site", site)
				q.Set("record", record)
			}
			if variant != "" {
				q.Set("variant", variant)
			}
			shown := k.Preview + "/_cp/alone/" + piece.String()
			if len(q) > 0 {
				shown += "?" + q.Encode()
			}
			px := api.WantedPictureWidth(width)
			p, err := a.pictureOf(cmd.Context(), c,
				api.WantPictures{Pictures: []api.WantedPicture{{At: shown, Width: &px}}}, wait)
			if err != nil {
				return err
			}
			if err := a.savePicture(cmd.Context(), c, value(p.Picture), args[2]); err != nil {
				return err
			}
			return a.print(p, func() { a.say("%s is in %s, %d × %d px.", piece, args[2], width, value(p.Height)) })
		},
	}
	f := cmd.Flags()
	f.StringVar(&variant, "variant", "", "one of the `variants` that the piece offers")
	f.StringVar(&site, "site", "", "a `site` whose record stands in it")
	f.StringVar(&record, "record", "longest", "which record: longest, no-picture, or its `name`")
	f.IntVar(&width, "width", 1280, "the width in `px`: 1280, 768 or 390")
	f.DurationVar(&wait, "wait", picturesWait, "how long it is waited for at most")
	return cmd
}
