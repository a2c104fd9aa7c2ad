package httpapi

import (
	"context"
	"encoding/json"
	"slices"

	"compactparcel/core/faults"
	"compactparcel/core/render"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/internal/pictures"
	"compactparcel/internal/store"
)

// lookWidths are those at which a browser looks at pages, in px.
var lookWidths = []int{1280, 768, 390}

// maxLooks bounds how many pages are looked at by a browser.
const maxLooks = 200

// widthFaults finds what a browser sees of a site's pages at several widths; in a draft, what the live site does
// not have is new. How far the look is, is told: what waits is asked for again.
func (s *Server) widthFaults(ctx context.Context, p desk.Person, site string, draft int64) (
	[]faults.Fault, *api.WidthLook, error,
) {
	origin := s.Previews.Site(site)
	if draft != 0 {
		info, err := s.Desk.DraftShown(ctx, p, site, draft)
		if err != nil {
			return nil, nil, err
		}
		origin = s.Previews.Draft(site, draft, info.Token)
	}
	look := &api.WidthLook{Browser: s.Pictures.HasBrowser()}
	if !look.Browser {
		return nil, look, nil
	}
	found, err := s.seenAt(ctx, p, site, draft, origin, look)
	if err != nil || draft == 0 {
		return found, look, err
	}
	had, err := s.seenAt(ctx, p, site, 0, s.Previews.Site(site), look)
	faults.MarkNew(found, had)
	return found, look, err
}

// seenAt finds the faults of one state's pages, as far as browsers have seen them.
func (s *Server) seenAt(ctx context.Context, p desk.Person, site string, draft int64, origin string,
	look *api.WidthLook) ([]faults.Fault, error) {
	view, err := s.Desk.Look(ctx, p, site, draft)
	if err != nil {
		return nil, err
	}
	var slugs []string
	for slug := range render.New(view).Pages() {
		slugs = append(slugs, slug)
	}
	slices.Sort(slugs)
	if more := len(slugs) - maxLooks; more > 0 {
		look.Left, slugs = &more, slugs[:maxLooks]
	}
	look.Pages = max(look.Pages, len(slugs))
	var wanted []pictures.Wanted
	for _, slug := range slugs {
		for _, w := range lookWidths {
			wanted = append(wanted, pictures.Wanted{At: origin + slug, Width: w})
		}
	}
	got, err := s.Pictures.Want(ctx, wanted)
	if err != nil {
		return nil, err
	}
	var seen []faults.AtWidth
	for i, f := range got {
		if f.Picture == nil {
			continue
		}
		at := faults.AtWidth{Slug: slugs[i/len(lookWidths)], Width: f.Width}
		switch f.Picture.State {
		case store.PictureWaiting:
			look.Waiting++
			continue
		case store.PictureFailed:
			at.Unshown = f.Picture.Message
		default:
			var x pictures.Seen
			if err := json.Unmarshal([]byte(f.Picture.Seen), &x); err != nil {
				return nil, err
			}
			at.Over, at.Cut = beyond(x.Over), beyond(x.Cut)
			for _, c := range x.Covered {
				at.Covered = append(at.Covered, faults.Beyond{Path: c.Path, By: c.By})
			}
		}
		seen = append(seen, at)
	}
	return faults.ByWidth(view, seen)
}

func beyond(list []pictures.Overflow) []faults.Beyond {
	var out []faults.Beyond
	for _, o := range list {
		out = append(out, faults.Beyond{Path: o.Path, By: o.By})
	}
	return out
}
