package httpapi

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/internal/pictures"
	"compactparcel/internal/store"

	"github.com/gin-gonic/gin"
)

// Limits of what is wanted at once: pictures, and the bytes of an address.
const (
	maxWanted = 200
	maxAt     = 1000
)

// WantPictures gives pictures of previews, and has made what is not there.
func (s *Server) WantPictures(c *gin.Context) {
	if err := s.Desk.MayLook(person(c)); err != nil {
		s.fail(c, err)
		return
	}
	in, ok := read[api.WantPictures](s, c)
	if !ok {
		return
	}
	if len(in.Pictures) > maxWanted {
		s.fail(c, &desk.Problem{Type: desk.BadInput, What: "pictures", Remedy: desk.To(desk.CheckOptions),
			Message: fmt.Sprintf("at most %d are wanted at once", maxWanted)})
		return
	}
	wanted := make([]pictures.Wanted, len(in.Pictures))
	for i, w := range in.Pictures {
		if len(w.At) > maxAt || w.Width != nil && !w.Width.Valid() {
			s.fail(c, &desk.Problem{Type: desk.BadInput, What: "pictures", Remedy: desk.To(desk.CheckOptions),
				Message: fmt.Sprintf("picture %d: an address has at most %d bytes, and a width is 1280, 768 or 390",
					i+1,
					maxAt)})
			return
		}
		wanted[i] = pictures.Wanted{At: w.At, Width: int(value(w.Width))}
		if wanted[i].Width == 0 {
			wanted[i].Width = pictures.Widths[0]
		}
	}
	found, err := s.Pictures.Want(c.Request.Context(), wanted)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := api.PictureList{Browser: s.Pictures.HasBrowser(), Pictures: []api.PictureOf{}}
	for _, f := range found {
		out.Pictures = append(out.Pictures, api.PictureOf{At: f.At, Width: f.Width, Picture: pictureOut(f.Picture)})
	}
	c.JSON(http.StatusOK, out)
}

func pictureOut(p *store.Picture) api.PictureRef {
	if p == nil {
		return api.PictureRef{State: api.PictureStateNone}
	}
	key := string(p.Picture)
	out := api.PictureRef{State: api.PictureState(p.State), Picture: &key, Message: some(p.Message)}
	if p.State == store.PictureMade {
		out.Height, out.Cut = &p.Height, some(p.Cut)
	}
	return out
}

// GetPicture gives the file of a picture.
func (s *Server) GetPicture(c *gin.Context, key string, params api.GetPictureParams) {
	if err := s.Desk.MayLook(person(c)); err != nil {
		s.fail(c, err)
		return
	}
	small := value(params.Small)
	f, err := s.Pictures.Open(c.Request.Context(), item.Digest(key), small)
	if errors.Is(err, pictures.ErrNoPicture) {
		s.nothing(c, "picture "+key[:min(len(key), 12)], "there is no such picture, or it is not made yet",
			desk.To(desk.Retry))
		return
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	defer f.Close()
	h := c.Writer.Header()
	h.Set("Content-Type", "image/png")
	if small {
		h.Set("Content-Type", "image/webp")
	}
	h.Set("Cache-Control", "private, max-age=31536000, immutable")
	h.Set("ETag", `"`+key+`"`)
	http.ServeContent(c.Writer, c.Request, "", time.Time{}, f)
}

// pagesAtATime is how many pages are shown before and after at once.
const pagesAtATime = 20

// DraftBeforeAfter shows the pages that a draft touches before and after.
func (s *Server) DraftBeforeAfter(c *gin.Context, site string, id int64, params api.DraftBeforeAfterParams) {
	t, err := s.Desk.DraftTouched(c.Request.Context(), person(c), site, id)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.beforeAfter(c, t, value(params.From), s.Previews.Draft(site, id, t.Draft.Token), 0)
}

// DeliveryBeforeAfter shows the pages that a delivery touches before and after.
func (s *Server) DeliveryBeforeAfter(c *gin.Context, id int64, params api.DeliveryBeforeAfterParams) {
	t, err := s.Desk.DeliveryTouched(c.Request.Context(), person(c), id)
	if err != nil {
		s.fail(c, err)
		return
	}
	if t.State == store.Live || t.State == store.Undone {
		s.keptBeforeAfter(c, id, t, value(params.From))
		return
	}
	after := s.Previews.Planned(id)
	if t.Draft != nil {
		after = s.Previews.Draft(t.Site, t.Draft.ID, t.Draft.Token)
	}
	s.beforeAfter(c, t, value(params.From), after, id)
}

// sides wants the pictures of pages on both sides at all widths: before, then after, by page and width.
func (s *Server) sides(ctx context.Context, t *desk.Touched, slugs []string, after string) ([]pictures.Found, error) {
	var wanted []pictures.Wanted
	for _, slug := range slugs {
		for _, width := range pictures.Widths {
			wanted = append(wanted, pictures.Wanted{At: s.Previews.Site(t.Site) + slug, Width: width},
				pictures.Wanted{At: after + slug, Width: width})
		}
	}
	return s.Pictures.Want(ctx, wanted)
}

// beforeAfter answers with pages as they are live and as they would be; what is seen of a delivery is kept
// with it.
func (s *Server) beforeAfter(c *gin.Context, t *desk.Touched, from int, after string, delivery int64) {
	ctx := c.Request.Context()
	from = min(max(from, 0), len(t.Pages))
	to := min(from+pagesAtATime, len(t.Pages))
	slugs := t.Pages[from:to]
	found, err := s.sides(ctx, t, slugs, after)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := s.pairsOf(ctx, slugs, found, true)
	out.Count = len(t.Pages)
	if to < len(t.Pages) {
		out.More = &to
	} else if err := s.others(ctx, t, after, &out); err != nil {
		s.fail(c, err)
		return
	}
	if delivery != 0 {
		if err := s.Desk.KeepPictures(ctx, person(c), delivery, keptOf(delivery, slugs, found)); err != nil {
			s.fail(c, err)
			return
		}
	}
	c.JSON(http.StatusOK, out)
}

// pictureDelivery has pictures made of the first pages that a staged delivery touches, so that its receipt shows
// them though nobody looked before.
func (s *Server) pictureDelivery(ctx context.Context, p desk.Person, id int64) {
	if !s.Pictures.HasBrowser() {
		return
	}
	t, err := s.Desk.DeliveryTouched(ctx, p, id)
	if err != nil || t.Draft == nil {
		return // it went on meanwhile
	}
	slugs := t.Pages[:min(len(t.Pages), pagesAtATime)]
	found, err := s.sides(ctx, t, slugs, s.Previews.Draft(t.Site, t.Draft.ID, t.Draft.Token))
	if err == nil {
		err = s.Desk.KeepPictures(ctx, p, id, keptOf(id, slugs, found))
	}
	if err != nil {
		s.Log.Warn("the pictures of a delivery", "delivery", id, "error", err)
	}
}

// pictureInTime asks for the pictures of a delivery that is about to go live, if nobody has: when it is staged and live
// within a moment, what was before is gone before anybody looks.
func (s *Server) pictureInTime(ctx context.Context, p desk.Person, id int64) {
	kept, err := s.Pictures.Store.Read(ctx).Pictures().Kept(id)
	switch {
	case err != nil:
		s.Log.Warn("the pictures of a delivery", "delivery", id, "error", err)
	case len(kept) == 0:
		s.pictureDelivery(ctx, p, id)
	}
}

// keptOf are pictures as they are kept with a delivery.
func keptOf(delivery int64, slugs []string, found []pictures.Found) []store.DeliveryPicture {
	var out []store.DeliveryPicture
	for i, slug := range slugs {
		for k, width := range pictures.Widths {
			n := (i*len(pictures.Widths) + k) * 2
			out = append(out, store.DeliveryPicture{DeliveryID: delivery, Slug: slug, Width: width,
				BeforePicture: found[n].Key, AfterPicture: found[n+1].Key})
		}
	}
	return out
}

// others finds pages that should be the same, and are not: what they show is held against each other.
func (s *Server) others(ctx context.Context, t *desk.Touched, after string, out *api.BeforeAfter) error {
	looked := len(t.Others)
	out.Others = &looked
	var differ []string
	for _, slug := range t.Others {
		same, err := s.Pictures.Same(ctx, s.Previews.Site(t.Site)+slug, after+slug)
		if err != nil {
			return err
		}
		if !same {
			differ = append(differ, slug)
		}
	}
	found, err := s.sides(ctx, t, differ, after)
	if err != nil {
		return err
	}
	more := s.pairsOf(ctx, differ, found, false)
	out.Pages, out.Waiting = append(more.Pages, out.Pages...), out.Waiting+more.Waiting
	return nil
}

// pairsOf puts pictures into pairs, with what differs.
func (s *Server) pairsOf(ctx context.Context, slugs []string, found []pictures.Found, expected bool) api.BeforeAfter {
	out := api.BeforeAfter{Browser: s.Pictures.HasBrowser(), Pages: []api.PictureSides{}}
	for i, slug := range slugs {
		x := api.PictureSides{Slug: slug, Expected: expected, Pairs: []api.PicturePair{}}
		for k, width := range pictures.Widths {
			n := (i*len(pictures.Widths) + k) * 2
			pair, waits := s.pair(ctx, width, found[n], found[n+1])
			x.Pairs = append(x.Pairs, pair)
			out.Waiting += waits
		}
		out.Pages = append(out.Pages, x)
	}
	return out
}

func (s *Server) pair(ctx context.Context, width int, before, after pictures.Found) (p api.PicturePair, waits int) {
	p = api.PicturePair{Width: width, Before: pictureOut(before.Picture), After: pictureOut(after.Picture)}
	for _, f := range []pictures.Found{before, after} {
		if f.Picture != nil && f.Picture.State == store.PictureWaiting {
			waits++
		}
	}
	if before.Shown && before.Key == after.Key {
		same := false
		p.Differs = &same
		return p, waits
	}
	if before.Picture == nil || after.Picture == nil || before.Picture.State != store.PictureMade ||
		after.Picture.State != store.PictureMade {
		return p, waits
	}
	d, err := s.Pictures.Difference(ctx, before.Picture, after.Picture)
	if err != nil { // one was swept between: it is made again, and asked for again
		s.Log.Warn("comparing pictures", "error", err)
		return p, waits + 1
	}
	differs := len(d.Areas) > 0
	p.Differs, p.Share = &differs, &d.Share
	areas := []api.PictureArea{}
	for _, r := range d.Areas {
		areas = append(areas, api.PictureArea{X: r.Min.X, Y: r.Min.Y, Width: r.Dx(), Height: r.Dy()})
	}
	p.Areas = &areas
	return p, waits
}

// lateOnes finds the pictures that were not made before a delivery went live, or was undone, where the live site shows
// to this day what they are of.
func (s *Server) lateOnes(
	ctx context.Context, t *desk.Touched, slugs []string, kept map[string]store.DeliveryPicture,
	made map[item.Digest]store.Picture,
) error {
	missing := map[item.Digest]bool{}
	var wanted []pictures.Wanted
	for _, slug := range slugs {
		for _, width := range pictures.Widths {
			r := kept[fmt.Sprint(width, slug)]
			late := false
			for _, key := range []item.Digest{r.BeforePicture, r.AfterPicture} {
				if _, there := made[key]; key != "" && !there {
					missing[key], late = true, true
				}
			}
			if late {
				wanted = append(wanted, pictures.Wanted{At: s.Previews.Site(t.Site) + slug, Width: width})
			}
		}
	}
	found, err := s.Pictures.Want(ctx, wanted)
	for _, f := range found {
		if missing[f.Key] && f.Picture != nil {
			made[f.Key] = *f.Picture
		}
	}
	return err
}

// keptBeforeAfter answers with the pictures that are kept with a delivery.
func (s *Server) keptBeforeAfter(c *gin.Context, id int64, t *desk.Touched, from int) {
	ctx := c.Request.Context()
	rows, err := s.Pictures.Store.Read(ctx).Pictures().Kept(id)
	if err != nil {
		s.fail(c, err)
		return
	}
	kept := map[string]store.DeliveryPicture{}
	var keys []item.Digest
	for _, r := range rows {
		kept[fmt.Sprint(r.Width, r.Slug)] = r
		keys = append(keys, r.BeforePicture, r.AfterPicture)
	}
	made, err := s.Pictures.Store.Read(ctx).Pictures().ByKeys(keys)
	if err != nil {
		s.fail(c, err)
		return
	}
	from = min(max(from, 0), len(t.Pages))
	to := min(from+pagesAtATime, len(t.Pages))
	if err := s.lateOnes(ctx, t, t.Pages[from:to], kept, made); err != nil {
		s.fail(c, err)
		return
	}
	find := func(key item.Digest) pictures.Found {
		f := pictures.Found{Key: key, Shown: key != ""}
		if p, ok := made[key]; ok {
			f.Picture = &p
		} else if f.Shown {
			f.Picture = &store.Picture{Picture: key, State: store.PictureFailed, Message: "it was not made in time"}
		}
		return f
	}
	var found []pictures.Found
	for _, slug := range t.Pages[from:to] {
		for _, width := range pictures.Widths {
			r := kept[fmt.Sprint(width, slug)]
			found = append(found, find(r.BeforePicture), find(r.AfterPicture))
		}
	}
	out := s.pairsOf(ctx, t.Pages[from:to], found, true)
	out.Count = len(t.Pages)
	if to < len(t.Pages) {
		out.More = &to
	}
	c.JSON(http.StatusOK, out)
}
