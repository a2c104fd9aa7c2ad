package desk

import (
	"context"
	"errors"
	"slices"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/outline"
	"compactparcel/core/plan"
	"compactparcel/core/render"
	"compactparcel/core/steps"
	"compactparcel/internal/store"
)

// PageOutline is the outline of a page, in a draft or live.
type PageOutline struct {
	outline.Page
	Of    item.Address // zero of a generated page
	Seen  steps.Seen   // the moment that it shows, to be named with edits
	Items []OutlineItem
}

// OutlineItem is an item that elements of a page are of.
type OutlineItem struct {
	Head  item.Head
	Pages int // that show it
}

// Outline lists the elements of a page for somebody who edits it by pointing.
func (d *Desk) Outline(ctx context.Context, p Person, site, slug string, draft int64) (*PageOutline, error) {
	v, seen, err := d.lookAtStep(ctx, p, site, draft)
	if err != nil {
		return nil, err
	}
	what := site + slug
	o, err := render.New(v).Page(render.PageRequest{Slug: slug, Mapped: true})
	if err != nil {
		return nil, explain(what, err)
	}
	if o.Status != 200 && slug != render.NotFoundSlug {
		return nil, problem(NotFound, slug, To(ShowItems, "site", site), "%s has no page at this address", site)
	}
	options, err := d.faultOptions(ctx, v)
	if err != nil {
		return nil, explain(what, err)
	}
	out := &PageOutline{Page: *outline.Of(o, options.Samples), Of: o.Page}
	if err := addLines(v, out.Elements); err != nil {
		return nil, explain(what, err)
	}
	for i, e := range out.Elements {
		if e.Kind == outline.Component && !e.Made {
			if err := addAttributes(v, &out.Elements[i]); err != nil {
				return nil, explain(what, err)
			}
		}
		h, ok := v.Find(e.Item)
		if !ok || slices.ContainsFunc(out.Items, func(i OutlineItem) bool { return i.Head.Address == e.Item }) {
			continue
		}
		x := OutlineItem{Head: h, Pages: 1}
		if h.Address != o.Page {
			if x.Pages, err = plan.PagesShowing(v, h); err != nil {
				return nil, explain(what, err)
			}
		}
		out.Items = append(out.Items, x)
	}
	out.Seen = seen
	return out, nil
}

// lookAtStep gives a draft, or the live site, with the moment that it shows. A step that comes while it is read
// lets it be read again.
func (d *Desk) lookAtStep(
	ctx context.Context, p Person, site string, draft int64,
) (v *store.View, seen steps.Seen, err error) {
	if err := p.may(Viewer, "site "+site); err != nil {
		return nil, seen, err
	}
	if draft == 0 {
		if v, err = d.Look(ctx, p, site, 0); err == nil {
			seen.Revision = v.Rev
		}
		return v, seen, err
	}
	before, err := d.Store.Read(ctx).LastStep(draft)
	for err == nil {
		v, err := d.Look(ctx, p, site, draft)
		if err != nil {
			return nil, seen, err
		}
		after, err := d.Store.Read(ctx).LastStep(draft)
		if err != nil {
			return nil, seen, explain(site, err)
		}
		if after == before {
			after.Revision = v.Rev
			return v, after, nil
		}
		before = after
	}
	return nil, seen, explain(site, err)
}

// addLines says on which line of its item each element begins.
func addLines(v item.Collection, list []outline.Element) error {
	ends := map[item.Address][]int{}
	for i := range list {
		e := &list[i]
		h, ok := v.Find(e.Item)
		if e.Made || !ok {
			continue
		}
		if _, known := ends[e.Item]; !known {
			b, err := item.Read(v, h)
			if err != nil {
				return err
			}
			ends[e.Item] = []int{}
			for at, c := range b {
				if c == '\n' {
					ends[e.Item] = append(ends[e.Item], at)
				}
			}
		}
		before, _ := slices.BinarySearch(ends[e.Item], e.Offset)
		e.Line = before + 1
	}
	return nil
}

// addAttributes adds those that a component is known to have and does not show here.
func addAttributes(v item.Collection, e *outline.Element) error {
	known, err := edit.ComponentAttributes(v, e.Tag)
	var refused *edit.RefusedError
	if errors.As(err, &refused) {
		return nil // the site's list of them is no such list: setting one tells
	}
	if err != nil {
		return err
	}
	for _, name := range known {
		if !slices.ContainsFunc(e.Attributes, func(a outline.Attribute) bool { return a.Name == name }) {
			e.Attributes = append(e.Attributes, outline.Attribute{Name: name})
		}
	}
	return nil
}
