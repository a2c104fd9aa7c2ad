package desk

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"compactparcel/core/item"
	"compactparcel/core/steps"
	"compactparcel/internal/store"
)

// DraftChange is one item that a draft changes.
type DraftChange struct {
	Address item.Address
	// Was is the item's address on the live site; zero where it is new there.
	Was  item.Address
	Gone bool // the draft removes it
}

// DraftInfo is a draft with what differs from live.
type DraftInfo struct {
	store.Draft
	Changes []DraftChange
	// Behind lists what was changed on the live site since the draft changed it, too.
	Behind []item.Address
	// Ended are the addresses that it ends.
	Ended []EndedAddress
	// CanUndo and CanRedo tell what the person who asks can take back and do again.
	CanUndo, CanRedo bool
}

// DraftShown gives a draft of a site.
func (d *Desk) DraftShown(ctx context.Context, p Person, site string, id int64) (*DraftInfo, error) {
	what := fmt.Sprintf("draft %d of %s", id, site)
	if err := p.may(Viewer, what); err != nil {
		return nil, err
	}
	dr, err := d.draftOf(ctx, site, id)
	if err != nil {
		return nil, err
	}
	info := &DraftInfo{Draft: *dr, Changes: []DraftChange{}}
	c, err := d.Store.Read(ctx).Collections().ByID(dr.CollectionID)
	if err != nil {
		return nil, explain(what, err)
	}
	live, err := d.Store.Live(ctx, c)
	if err != nil {
		return nil, explain(what, err)
	}
	rows, err := d.Store.DraftItems(ctx, dr)
	if err != nil {
		return nil, explain(what, err)
	}
	for _, r := range rows {
		ch := DraftChange{Address: r.Head().Address, Gone: r.Op == store.Delete}
		h, there := live.ByID(r.ItemID)
		if there {
			ch.Was = h.Address
		}
		info.Changes = append(info.Changes, ch)
		if dr.State == store.DraftOpen && (there && h.State() != r.BaseState || !there && r.BaseState != "") {
			info.Behind = append(info.Behind, ch.Address)
		}
	}
	if dr.State == store.DraftOpen {
		over, err := d.Store.Over(ctx, c, dr)
		if err != nil {
			return nil, explain(what, err)
		}
		if info.Ended, err = ended(live, over, rows); err != nil {
			return nil, explain(what, err)
		}
	}
	log, err := d.log(d.Store.Read(ctx), dr.ID)
	if err != nil {
		return nil, explain(what, err)
	}
	_, info.CanUndo = steps.ToUndo(log, p.Name)
	_, info.CanRedo = steps.ToRedo(log, p.Name)
	return info, nil
}

// DraftSteps lists what was done in a draft, the first step at the beginning.
func (d *Desk) DraftSteps(ctx context.Context, p Person, site string, id int64) ([]store.DraftStep, error) {
	what := fmt.Sprintf("draft %d of %s", id, site)
	if err := p.may(Viewer, what); err != nil {
		return nil, err
	}
	if _, err := d.draftOf(ctx, site, id); err != nil {
		return nil, err
	}
	out, err := d.Store.Read(ctx).DraftSteps(id)
	return out, explain(what, err)
}

// log reads a draft's log.
func (d *Desk) log(tx *store.Tx, id int64) ([]steps.Step, error) {
	rows, err := tx.DraftSteps(id)
	if err != nil {
		return nil, err
	}
	out := make([]steps.Step, len(rows))
	for i, r := range rows {
		if out[i], err = r.Step(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// RenameDraft gives a draft another name.
func (d *Desk) RenameDraft(ctx context.Context, p Person, site string, id int64, name string) (*store.Draft, error) {
	what := fmt.Sprintf("draft %d of %s", id, site)
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	if name = strings.TrimSpace(name); name == "" || utf8.RuneCountInString(name) > 100 || isNumber(name) {
		return nil, problem(BadInput, what, Form("spring: up to 100 characters, and no number"),
			"this cannot be a name")
	}
	var dr *store.Draft
	err := d.inDraft(ctx, site, id, func(tx *store.Tx, _ *store.Collection, now *store.Draft) error {
		dr = now
		others, err := tx.Collections().OpenDrafts(dr.CollectionID)
		if err != nil {
			return err
		}
		for _, o := range others {
			if o.ID != id && o.Name == name {
				return problem(Exists, what, To(ChooseOtherName), "draft %d has this name already", o.ID)
			}
		}
		return tx.RenameDraft(dr, name)
	})
	return outcome(dr, explain(what, err))
}

// inDraft does something in one transaction, with the site and its open draft locked.
func (d *Desk) inDraft(
	ctx context.Context, site string, id int64, f func(tx *store.Tx, c *store.Collection, dr *store.Draft) error,
) error {
	dr, err := d.draftOf(ctx, site, id)
	if err != nil {
		return err
	}
	return d.Store.Tx(ctx, func(tx *store.Tx) error {
		locked, err := tx.Collections().Lock(dr.CollectionID)
		if err != nil {
			return err
		}
		now, err := tx.LockDraft(id)
		if err != nil {
			return err
		}
		return f(tx, locked, now)
	})
}

func isNumber(s string) bool { return strings.Trim(s, "0123456789") == "" }

// Stepped is what an undo or a redo did.
type Stepped struct {
	Draft *store.Draft
	Step  int // its own number
	Of    int // the step that it took back
	Items []item.Address
}

// DraftUndo takes back the last step of the person who asks, exactly, or out of what was done since.
func (d *Desk) DraftUndo(ctx context.Context, p Person, site string, id int64) (*Stepped, error) {
	return d.back(ctx, p, site, id, steps.Undo, steps.ToUndo, "there is nothing of yours to take back")
}

// DraftRedo does again what the person who asks took back last.
func (d *Desk) DraftRedo(ctx context.Context, p Person, site string, id int64) (*Stepped, error) {
	return d.back(ctx, p, site, id, steps.Redo, steps.ToRedo, "there is nothing of yours to do again")
}

func (d *Desk) back(
	ctx context.Context, p Person, site string, id int64, kind steps.Kind,
	choose func([]steps.Step, string) (steps.Step, bool), nothing string,
) (*Stepped, error) {
	what := fmt.Sprintf("draft %d of %s", id, site)
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	out := &Stepped{}
	err := d.inDraft(ctx, site, id, func(tx *store.Tx, locked *store.Collection, now *store.Draft) error {
		ctx := tx.Context()
		*out = Stepped{Draft: now}
		if subject, ok := store.Repeated(ctx); ok {
			_, err := fmt.Sscanf(subject, "step %d of %d", &out.Step, &out.Of)
			return err
		}
		log, err := d.log(tx, id)
		if err != nil {
			return err
		}
		step, ok := choose(log, p.Name)
		if !ok {
			return problem(Refused, what, To(ShowDrafts), "%s", nothing)
		}
		live, err := d.Store.Live(ctx, locked)
		if err != nil {
			return err
		}
		view, err := d.Store.Over(ctx, locked, out.Draft)
		if err != nil {
			return err
		}
		becoming, err := steps.Back(&draftTexts{d, ctx, view}, log, step)
		var conflict *steps.ConflictError
		if errors.As(err, &conflict) {
			return problem(Stale, what, To(ShowDrafts), "step %d stays: %s", step.N, conflict.Error())
		}
		if err != nil {
			return err
		}
		changes, err := d.becoming(ctx, view, becoming)
		if err != nil {
			return err
		}
		for _, ch := range changes {
			out.Items = append(out.Items, ch.Head.Address)
		}
		out.Of = step.N
		says := fmt.Sprintf("took back step %d", step.N)
		if kind == steps.Redo {
			says = fmt.Sprintf("did step %d again", step.Of)
		}
		out.Step, err = tx.Lay(out.Draft, live, view, steps.Step{Kind: kind, Of: step.N, By: p.Name}, says, d.Now(),
			changes)
		if err != nil {
			return err
		}
		return tx.NoteSubject(fmt.Sprintf("step %d of %d", out.Step, out.Of))
	})
	return outcome(out, explain(what, err))
}

// becoming keeps what items come to be, and gives the changes.
func (d *Desk) becoming(ctx context.Context, view *store.View, list []steps.Becoming) ([]store.Change, error) {
	var out []store.Change
	for _, b := range list {
		if b.State == nil {
			if h, ok := view.ByID(b.Item); ok {
				out = append(out, store.Change{Delete: true, Head: h})
			}
			continue
		}
		h := b.State.Head(b.Item)
		if b.Content != nil {
			var err error
			if h, err = d.keepOne(ctx, h, b.Content); err != nil {
				return nil, err
			}
		}
		if other, taken := view.Find(h.Address); taken && other.ID != b.Item && !goes(list, other.ID) {
			return nil, problem(Stale, h.Address.String(), To(ShowDrafts), "something else has its address by now")
		}
		if other, taken := view.PageAt(h.Meta.Slug); taken && h.Address.Kind == item.Page && other != h.Address &&
			!becomes(list, view, other, h.Meta.Slug) {
			return nil, problem(Stale, h.Address.String(), To(ShowDrafts), "%s is at %s by now", other, h.Meta.Slug)
		}
		out = append(out, store.Change{Head: h})
	}
	return out, nil
}

// goes tells whether an item goes by the same step.
func goes(list []steps.Becoming, id string) bool {
	return slices.ContainsFunc(list, func(b steps.Becoming) bool { return b.Item == id && b.State == nil })
}

// becomes tells whether a page leaves an address by the same step.
func becomes(list []steps.Becoming, view *store.View, page item.Address, slug string) bool {
	h, _ := view.Find(page)
	for _, b := range list {
		if b.Item == h.ID {
			return b.State == nil || b.State.Meta.Slug != slug
		}
	}
	return false
}

// carry brings an edit that was made for an older state of an item through what was done since, where
// both touch different places. Where it cannot, the edit stays as it came, and is told that it came
// late.
func (d *Desk) carry(ctx context.Context, tx *store.Tx, draft *store.Draft, view *store.View, e *Edit) error {
	now, there := view.Find(e.Address)
	if !there || e.Delete || e.File != nil || e.IfMatch == "" || e.IfMatch == now.State() {
		return nil
	}
	log, err := d.log(tx, draft.ID)
	if err != nil {
		return err
	}
	base := stateWith(log, now.ID, e.IfMatch)
	if base == nil {
		return nil
	}
	theirs := *base
	if e.Content != nil {
		h, err := d.keepOne(ctx, base.Head(now.ID), e.Content)
		if err != nil {
			return err
		}
		theirs.Doc, theirs.NormalizedDigest, theirs.Bytes = h.Doc, h.NormalizedDigest, h.Bytes
	}
	if e.Meta != nil {
		theirs.Meta = *e.Meta
	}
	texts := &draftTexts{d, ctx, view}
	b, _, err := steps.Merge(texts, now.ID, base, steps.StateOf(now), &theirs)
	if err != nil || b == nil {
		return err
	}
	if e.Content = b.Content; e.Content == nil {
		if e.Content, err = texts.Text(b.State); err != nil {
			return err
		}
	}
	e.Meta, e.IfMatch = &b.State.Meta, now.State()
	return nil
}

// stateWith finds in a draft's log the state of an item that has a digest.
func stateWith(log []steps.Step, id string, digest item.Digest) *steps.State {
	for i := len(log) - 1; i >= 0; i-- {
		for _, x := range log[i].Edits {
			for _, s := range []*steps.State{x.After, x.Before} {
				if x.Item == id && s != nil && s.Head("").State() == digest {
					return s
				}
			}
		}
	}
	return nil
}

// draftTexts is a draft for the core.
type draftTexts struct {
	d    *Desk
	ctx  context.Context
	view *store.View
}

func (t *draftTexts) Now(id string) *steps.State {
	if h, ok := t.view.ByID(id); ok {
		return steps.StateOf(h)
	}
	return nil
}

func (t *draftTexts) Text(s *steps.State) ([]byte, error) { return item.Read(t.view, s.Head("")) }
