package desk

import (
	"context"
	"errors"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/render"
)

// PartPages says on which pages a part appears, and what another placement would change.
type PartPages struct {
	Part  item.Head
	Pages []render.PlacedPage
	// Gains and Losses are pages that it would get, with the part that stands there now, and lose, with the part
	// that would stand there; both empty where no placement was proposed.
	Gains, Losses []render.PlacedPage
	// Titles are those of the parts that stand there.
	Titles map[item.Address]string
}

// PartPages says for each page of a site which part of a part's role stands there. With a proposed placement, as the
// operation part-where takes it, it says what would be, and what that changes.
func (d *Desk) PartPages(ctx context.Context, p Person, site string, part item.Address, draft int64, proposed *string) (
	*PartPages, error,
) {
	v, err := d.Look(ctx, p, site, draft)
	if err != nil {
		return nil, err
	}
	what := part.String() + " of " + site
	h, ok := v.Find(part)
	if !ok || part.Kind != item.Part {
		return nil, problem(NotFound, what, To(ShowItems, "site", site), "%s has no %s", site, part)
	}
	out := &PartPages{Part: h, Titles: map[item.Address]string{}}
	for _, o := range v.OfKind(item.Part) {
		out.Titles[o.Address] = o.Meta.Title
	}
	if out.Pages, err = render.New(v).PlacedPages(h); err != nil || proposed == nil {
		return out, explain(what, err)
	}
	done, err := edit.Apply(v, []edit.Operation{{Op: edit.PartWhere, Item: part, Value: *proposed}})
	var refused *edit.RefusedError
	if errors.As(err, &refused) {
		return nil, problem(Refused, what, To(CheckOptions), "%s", refused.Why)
	}
	if err != nil {
		return nil, explain(what, err)
	}
	over := item.NewOver(v)
	for _, ch := range done.Changes {
		over.Set(ch.Head, ch.Content)
		out.Part = ch.Head
	}
	after, err := render.New(over).PlacedPages(out.Part)
	if err != nil {
		return nil, explain(what, err)
	}
	out.compare(part, after)
	return out, nil
}

// compare fills in what changes from what was before to what is after.
func (x *PartPages) compare(part item.Address, after []render.PlacedPage) {
	was, is := map[string]render.PlacedPage{}, map[string]render.PlacedPage{}
	for _, a := range x.Pages {
		was[a.Slug] = a
	}
	for _, a := range after {
		is[a.Slug] = a
		if a.Part == part && was[a.Slug].Part != part {
			b := was[a.Slug]
			b.Slug, b.Title = a.Slug, a.Title
			x.Gains = append(x.Gains, b)
		}
	}
	for _, b := range x.Pages {
		if b.Part == part && is[b.Slug].Part != part {
			a := is[b.Slug]
			a.Slug, a.Title = b.Slug, b.Title
			x.Losses = append(x.Losses, a)
		}
	}
	x.Pages = after
}
