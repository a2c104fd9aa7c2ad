package desk

import (
	"context"

	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/core/render"
	"compactparcel/internal/store"
)

// UnshownPage is a page that visitors do not see, since it cannot be rendered. All others are published.
type UnshownPage struct {
	Slug    string
	Message string
}

// maxUnshown is how many of the pages that going live touched are looked at.
const maxUnshown = 200

// unshown finds the pages that a revision touched and that cannot be rendered.
func (d *Desk) unshown(ctx context.Context, c *store.Collection, rev int64) ([]UnshownPage, error) {
	what := "site " + c.Name
	wrote, _, _, err := d.Store.Read(ctx).Collections().Written(c.ID, rev)
	if err != nil {
		return nil, explain(what, err)
	}
	v, err := d.Store.At(ctx, c, rev)
	if err != nil {
		return nil, explain(what, err)
	}
	heads := make([]item.Head, len(wrote))
	for i, r := range wrote {
		heads[i] = r.Head()
	}
	touched, err := plan.PagesTouched(v, heads)
	if err != nil {
		return nil, explain(what, err)
	}
	r, out := render.New(v), []UnshownPage{}
	for _, t := range touched[:min(len(touched), maxUnshown)] {
		if _, err := r.Page(render.PageRequest{Slug: t.Slug}); render.IsUnshowable(err) {
			out = append(out, UnshownPage{t.Slug, err.Error()})
		} else if err != nil {
			return nil, explain(what, err)
		}
	}
	return out, nil
}
