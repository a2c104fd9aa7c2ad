package desk

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/steps"
	"compactparcel/internal/store"
)

// past gives a draft as it stood behind a step, and tells whether others came since.
func (d *Desk) past(tx *store.Tx, on *editing, step int) (v *store.View, since bool, err error) {
	log, err := d.log(tx, on.draft.ID)
	if err != nil {
		return nil, false, err
	}
	was := map[string]store.Change{}
	for i := len(log) - 1; i >= 0 && log[i].N > step; i-- {
		since = true
		for _, e := range log[i].Edits {
			switch {
			case e.Before != nil:
				was[e.Item] = store.Change{Head: e.Before.Head(e.Item)}
			case e.After != nil && e.After.Address.Kind != item.Media: // a file that came moves nothing, and is at hand
				was[e.Item] = store.Change{Delete: true, Head: e.After.Head(e.Item)}
			}
		}
	}
	return on.view.Laid(slices.Collect(maps.Values(was))), since, nil
}

// carried does operations that were meant for the page as it was behind a step, with what their author did
// since: each item becomes what is made of it by then and of what came meanwhile. Where both changed the same
// it is refused, and nothing is done.
func (d *Desk) carried(tx *store.Tx, on *editing, in Edits) (*EditsDone, []edit.Change, error) {
	ctx := tx.Context()
	if in.Seen == nil {
		return d.applied(on.view, in)
	}
	past, since, err := d.past(tx, on, *in.Seen)
	if err != nil {
		return nil, nil, err
	}
	if !since {
		return d.applied(on.view, in)
	}
	if len(in.Done) > 0 {
		if past, err = d.laidOver(ctx, past, in.Done); err != nil {
			return nil, nil, err
		}
	}
	out, list, err := d.applied(past, in)
	if err != nil {
		return nil, nil, err
	}
	for i := range list {
		c, err := d.carryChange(ctx, past, on.view, list[i])
		if err != nil {
			return nil, nil, err
		}
		list[i] = *c
		out.Items[i].Head, out.Items[i].After = c.Head, c.Content
		if had, ok := on.view.Find(c.Head.Address); ok {
			if out.Items[i].Before, err = item.Read(on.view, had); err != nil {
				return nil, nil, err
			}
		}
	}
	return out, list, nil
}

// laidOver gives a state with operations done in it, which are kept nowhere.
func (d *Desk) laidOver(ctx context.Context, v *store.View, list []edit.Operation) (*store.View, error) {
	a, err := edit.Apply(v, list)
	var refused *edit.RefusedError
	if errors.As(err, &refused) {
		return nil, problem(Refused, fmt.Sprintf("done operation %d (%s)", refused.N, refused.Op), To(CheckOptions),
			"%s",
			refused.Why)
	}
	if err != nil {
		return nil, err
	}
	var changes []store.Change
	for _, ch := range a.Changes {
		h := ch.Head
		if h.ID == "" {
			h.ID = store.NewID()
		}
		if !ch.Gone {
			if h, err = d.keepOne(ctx, h, ch.Content); err != nil {
				return nil, err
			}
		}
		changes = append(changes, store.Change{Delete: ch.Gone, Head: h})
	}
	return v.Laid(changes), nil
}

// carryChange brings one change to the state as it is now.
func (d *Desk) carryChange(ctx context.Context, past, now *store.View, ch edit.Change) (*edit.Change, error) {
	what := ch.Head.Address.String()
	base, was := past.ByID(ch.Head.ID)
	ours, is := now.ByID(ch.Head.ID)
	moved := ch.Head.Address.Kind == item.Page && !ch.Gone && (!was || base.Meta.Slug != ch.Head.Meta.Slug)
	if other, taken := now.PageAt(ch.Head.Meta.Slug); moved && taken {
		if h, _ := now.Find(other); h.ID != ch.Head.ID {
			return nil, problem(Stale, what, To(ShowDrafts), "%s came to %s meanwhile", other, ch.Head.Meta.Slug)
		}
	}
	switch {
	case ch.Head.ID == "" || !was:
		if _, taken := now.Find(ch.Head.Address); taken {
			return nil, problem(Stale, what, To(ShowDrafts), "it was made meanwhile, too")
		}
		return &ch, nil
	case !is:
		return nil, problem(Stale, what, To(ShowDrafts), "it was taken out meanwhile")
	case ours.State() == base.State():
		return &ch, nil
	case ch.Gone:
		return nil, problem(Stale, what, To(ShowDrafts), "it was changed meanwhile")
	}
	theirs, err := d.keepOne(ctx, ch.Head, ch.Content)
	if err != nil {
		return nil, err
	}
	texts := &draftTexts{d, ctx, now}
	b, where, err := steps.Merge(texts, ours.ID, steps.StateOf(base), steps.StateOf(ours), steps.StateOf(theirs))
	if err != nil {
		return nil, err
	}
	if b == nil {
		return nil, problem(Stale, what, To(ShowDrafts), "somebody changed the same meanwhile (%s)", where)
	}
	h, text := b.State.Head(ours.ID), b.Content
	if text == nil {
		if text, err = texts.Text(b.State); err != nil {
			return nil, err
		}
	}
	return &edit.Change{Head: h, Content: text}, nil
}
