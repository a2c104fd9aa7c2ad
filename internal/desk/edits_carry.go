package desk

import (
	"context"
	"errors"
	"fmt"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/steps"
	"compactparcel/internal/store"
)

// past gives a draft as somebody saw it, and tells whether anything of it is another since: by steps of the
// draft, by typing that went on, or by what went live below it.
func (d *Desk) past(tx *store.Tx, on *editing, seen steps.Seen) (v *store.View, since bool, err error) {
	log, err := d.log(tx, on.draft.ID)
	if err != nil {
		return nil, false, err
	}
	if n := len(log); seen.Revision > on.site.Revision || seen.Step > 0 && (n == 0 || seen.Step > log[n-1].N) {
		return nil, false, problem(Stale, "the page", To(ReadAgain), "this draft has no moment %s", seen)
	}
	was := seen.At(log)
	if seen.Revision < on.site.Revision {
		if err := d.liveThen(tx, on, log, seen, was); err != nil {
			return nil, false, err
		}
	}
	var changes []store.Change
	for id, s := range was {
		now, is := on.view.ByID(id)
		switch {
		case s != nil && is && now.State() == s.Head(id).State(), s == nil && !is:
			continue
		case s != nil:
			changes = append(changes, store.Change{Head: s.Head(id)})
		case now.Address.Kind != item.Media: // a file that came moves nothing, and is at hand
			changes = append(changes, store.Change{Delete: true, Head: now})
		}
		since = true
	}
	return on.view.Laid(changes), since, nil
}

// liveThen notes the states of items that live revisions changed since somebody saw a draft that did not
// change them itself then.
func (d *Desk) liveThen(
	tx *store.Tx, on *editing, log []steps.Step, seen steps.Seen, was map[string]*steps.State,
) error {
	ids, err := tx.ChangedSince(on.site, seen.Revision)
	if err != nil {
		return err
	}
	then, err := d.Store.At(tx.Context(), on.site, seen.Revision)
	if err != nil {
		return err
	}
	for _, id := range ids {
		if state, touched := seen.Known(log, id); touched {
			if state == nil {
				continue
			}
			// What a step left as the live site had it was no change of the draft any more.
			_, err := tx.ItemWithState(on.site, id, state.Head(id).State())
			if errors.Is(err, store.ErrNotFound) {
				continue
			}
			if err != nil {
				return err
			}
		}
		was[id] = nil
		if h, ok := then.ByID(id); ok {
			was[id] = steps.StateOf(h)
		}
	}
	return nil
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
			"%s", refused.Why).seen()
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
