package preview

import (
	"fmt"
	"net/http"

	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/internal/store"
)

// Words that choose a record by what makes a template break.
const (
	longestRecord = "longest"    // the one with the most text
	bareRecord    = "no-picture" // one without a picture
)

// alone shows one piece as the query says: ?variant=NAME, and with a real record in it,
// ?site=SITE&record=KEY (or longest, or no-picture), so that a way to show records is
// chosen with one before the eyes.
func (p *Previews) alone(r *http.Request, s *shown, a item.Address) (*render.Output, error) {
	q := r.URL.Query()
	as := render.As{Variant: q.Get("variant"), On: q.Get("on")}
	site := q.Get("site")
	if site == "" {
		return s.r.AloneAs(a, as)
	}
	c, err := p.Store.Read(r.Context()).Collections().ByName(store.Site, site)
	if err != nil {
		return nil, fmt.Errorf("there is no site %s", site)
	}
	view, err := p.Store.Live(r.Context(), c)
	if err != nil {
		return nil, err
	}
	if as.Record, err = findRecord(view, q.Get("type"), q.Get("record")); err != nil {
		return nil, err
	}
	both := item.NewUnion(s.view, view)
	s.both = render.New(both)
	return s.both.AloneAs(a, as)
}

// findRecord finds a site's record of a type by its key, or by what it is like.
func findRecord(c *store.View, kind, which string) (item.Address, error) {
	var best item.Head
	for _, h := range c.Heads() {
		if h.Address.Kind != item.Record || kind != "" && h.Meta.Type != kind {
			continue
		}
		switch which {
		case longestRecord:
			if h.Bytes > best.Bytes {
				best = h
			}
		case bareRecord:
			f, err := c.Facts(h)
			if err != nil {
				return item.Address{}, err
			}
			if best.Address.IsZero() && !hasPicture(c, h, f) {
				best = h
			}
		default:
			if h.Address.Key == which {
				best = h
			}
		}
	}
	if best.Address.IsZero() {
		return best.Address, fmt.Errorf("there is no such record on the site (%s)", which)
	}
	return best.Address, nil
}

func hasPicture(w closure.World, h item.Head, f *facts.Facts) bool {
	for _, u := range closure.Uses(w, h, f) {
		if u.To.Kind == item.Media {
			return true
		}
	}
	return false
}
