package service

import (
	"context"
	"fmt"
	"io"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/desk"
	"compactparcel/internal/pictures"
	"compactparcel/internal/preview"
)

// firstWait is how long the demo waits for its first pictures: it begins without those that take longer.
const firstWait = 90 * time.Second

// firstPictures has the pictures made that a newcomer sees first: of sites, of kits and of what is kept for reuse.
func (s *Service) firstPictures(
	ctx context.Context, out io.Writer, d *desk.Desk, shown *preview.Previews, shots *pictures.Pictures,
) error {
	if !shots.HasBrowser() {
		return nil
	}
	who := desk.Person{Name: "demo", Role: desk.Admin}
	var wanted []pictures.Wanted
	want := func(at string) { wanted = append(wanted, pictures.Wanted{At: at, Width: pictures.Widths[0]}) }
	sites, err := d.Sites(ctx, who)
	if err != nil {
		return err
	}
	for _, x := range sites {
		want(shown.Site(x.Name) + "/")
	}
	kits, err := d.Kits(ctx, who)
	if err != nil {
		return err
	}
	for _, k := range kits {
		if face, ok := k.Face(); ok && k.State == desk.Sealed {
			want(shown.Kit(k.ID) + preview.Alone(face))
		} else if ok {
			want(shown.Making(k.ID) + preview.Alone(face))
		}
	}
	pieces, _, err := d.Library(ctx, who, desk.LibraryQuery{})
	if err != nil {
		return err
	}
	for _, h := range pieces {
		if k := h.Address.Kind; k.IsMarkup() || k == item.Media {
			want(shown.Library() + preview.Alone(h.Address))
		}
	}
	ctx, cancel := context.WithTimeout(ctx, firstWait)
	defer cancel()
	told := false
	return shots.Await(ctx, wanted, func(waiting int) {
		if !told && s.cfg.Output != "json" {
			told = true
			fmt.Fprintf(out, "Making the pictures of sites, kits and pieces: %d to come\n", waiting)
		}
	})
}
