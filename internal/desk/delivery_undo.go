package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"compactparcel/core/blend"
	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/core/says"
	"compactparcel/internal/store"
)

// Undo says how a delivery is taken back.
type Undo struct {
	// Items narrows it to some of what the delivery wrote; empty: all, and the delivery is
	// undone as a whole.
	Items []item.Address
	// KeepEdited leaves what somebody has edited since, or leans on, as it is.
	KeepEdited bool
	// Blend takes the delivery's changes out of what somebody has edited since, and leaves
	// the edits; Decisions settle its conflicts by their keys.
	Blend     bool
	Decisions map[string]blend.Decision
}

// DeliveryUndo takes a live delivery back in one new revision: every item that it
// wrote is again what it was before. An item that somebody has edited since, or
// that something new leans on, stops the undo, unless u says what becomes of it.
func (d *Desk) DeliveryUndo(ctx context.Context, p Person, id int64, u Undo) (*DeliveryInfo, error) {
	what := fmt.Sprintf("delivery %d", id)
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	info, c, _, err := d.load(ctx, id)
	if err != nil {
		return nil, err
	}
	did, err := d.commit(ctx, func(tx *store.Tx) error {
		locked, err := tx.Collections().Lock(c.ID)
		if err != nil {
			return err
		}
		now, err := tx.Deliveries().Lock(id)
		if err != nil {
			return err
		}
		if _, again := store.Repeated(ctx); again && (now.State == Undone || len(u.Items) > 0) {
			return nil
		}
		if now.State != Live {
			return problem(Refused, what, To(CheckName), "it is %s; only a live delivery can be undone", now.State)
		}
		if info, _, _, err = d.load(tx.Context(), id); err != nil { // as it is under the lock
			return err
		}
		x := &undoing{
			d:    d,
			ctx:  tx.Context(),
			tx:   tx,
			c:    locked,
			info: info,
			u:    u,
			what: what,
			used: map[string]bool{},
		}
		if err := x.read(); err != nil {
			return err
		}
		if err := x.decide(); err != nil {
			return err
		}
		return x.write(p)
	})
	if err != nil {
		return nil, explain(what, err)
	}
	d.publishOutlets(ctx, c.ID)
	return after(did, func() (*DeliveryInfo, error) { return d.Delivery(ctx, p, id) })
}

// undoing is one undo at work.
type undoing struct {
	d    *Desk
	ctx  context.Context
	tx   *store.Tx
	c    *store.Collection
	info *DeliveryInfo
	u    Undo
	what string
	used map[string]bool

	wrote, before []store.Item
	prior, now    map[string]store.Item
	changes       []store.Change
	kept          []item.Address
	stale         store.StaleError
	questions     []plan.Question
}

// read finds what the delivery wrote, what was there before, and what is there now.
func (x *undoing) read() error {
	rev := *x.info.LiveRev
	mine, err := x.tx.Collections().MadeBy(x.c.ID, rev, x.info.ID)
	if err != nil {
		return err
	}
	var open []store.Item
	if x.wrote, x.before, open, err = x.tx.Collections().Written(x.c.ID, rev); err != nil {
		return err
	}
	if !mine { // it changed nothing: what its revision wrote is somebody else's
		x.wrote, x.before = nil, nil
	}
	x.prior, x.now = map[string]store.Item{}, map[string]store.Item{}
	for _, r := range x.before {
		x.prior[r.ItemID] = r
	}
	for _, r := range open {
		x.now[r.ItemID] = r
	}
	if len(x.u.Items) == 0 {
		return nil
	}
	wrote := map[item.Address]bool{}
	for _, r := range append(append([]store.Item{}, x.wrote...), x.before...) {
		wrote[r.Address()] = true
	}
	for _, a := range x.u.Items {
		if !wrote[a] {
			return problem(BadInput, x.what, To(ShowDelivery, "delivery", fmt.Sprint(x.info.ID)),
				"the delivery did not write %s", a)
		}
	}
	only := func(list []store.Item) []store.Item {
		return slices.DeleteFunc(list, func(r store.Item) bool { return !slices.Contains(x.u.Items, r.Address()) })
	}
	x.wrote, x.before = only(x.wrote), only(x.before)
	return nil
}

// decide finds what becomes of each item.
func (x *undoing) decide() error {
	rewritten := map[string]bool{}
	for _, w := range x.wrote {
		rewritten[w.ItemID] = true
		cur, there := x.now[w.ItemID]
		old, had := x.prior[w.ItemID]
		switch {
		case there && cur.State == w.State && had:
			x.changes = append(x.changes, store.Change{Head: old.Head()})
		case there && cur.State == w.State:
			x.changes = append(x.changes, store.Change{Delete: true, Head: cur.Head()})
		case !there && !had: // deleted meanwhile: it is as it was
		case there && had && cur.State == old.State: // set back by hand
		case there && had && x.u.Blend && w.Address().Kind != item.Media:
			if err := x.blend(w, cur, old); err != nil {
				return err
			}
		default:
			x.keep(w.Address(), "has been edited since then")
		}
	}
	for _, b := range x.before {
		if _, still := x.now[b.ItemID]; !still && !rewritten[b.ItemID] { // the delivery had taken it away
			x.changes = append(x.changes, store.Change{Head: b.Head()})
		}
	}
	var final []store.Change
	for _, ch := range x.changes {
		if ch.Delete {
			users, err := x.d.usersOutside(x.tx, x.c.ID, *x.info.LiveRev, ch.Head.Address, x.now, x.changes)
			if err != nil {
				return err
			}
			if len(users) > 0 {
				x.keep(ch.Head.Address, fmt.Sprintf("is now used by %s", users[0]))
				continue
			}
		}
		final = append(final, ch)
	}
	x.changes = final
	for key := range x.u.Decisions {
		if !x.used[key] {
			return problem(BadInput, x.what, To(AnswerQuestions, "delivery", fmt.Sprint(x.info.ID)),
				"there is no conflict %s to decide", key)
		}
	}
	if len(x.questions) > 0 {
		pr := problem(Waits, x.what, To(AnswerOrKeepEdited, "delivery", fmt.Sprint(x.info.ID)),
			"%d questions are open", len(x.questions))
		pr.Details = x.questions
		return pr
	}
	if len(x.stale.Conflicts) > 0 && !x.u.KeepEdited && !(x.u.Blend && len(x.kept) == 0) {
		way := To(BlendOrKeepEdited, "delivery", fmt.Sprint(x.info.ID))
		if x.u.Blend {
			way.Code = KeepEditedOrReset
		}
		pr := problem(Stale, x.what, way, "%s", x.stale.Error())
		pr.Details = x.stale.Conflicts
		return pr
	}
	return nil
}

func (x *undoing) keep(a item.Address, says string) {
	x.kept = append(x.kept, a)
	x.stale.Conflicts = append(x.stale.Conflicts, store.Conflict{Address: a, Message: says})
}

// blend takes the delivery's change out of an item that was edited since.
func (x *undoing) blend(wrote, cur, old store.Item) error {
	live, err := x.d.Store.Live(x.ctx, x.c)
	if err != nil {
		return err
	}
	h, conflicts, err := x.d.blendHeads(x.ctx, live, live, wrote.Head(), cur.Head(), old.Head(), x.u.Decisions, x.used)
	if err != nil {
		return err
	}
	for _, c := range conflicts {
		if c.Decision == "" {
			x.questions = append(
				x.questions,
				plan.Question{
					Key:  plan.ConflictKey(cur.Address(), c.Key),
					Kind: plan.AboutConflict,
					Message: fmt.Sprintf("%s, line %d, %s: what the delivery changed was edited afterwards.",
						cur.Address(),
						c.Line, c.Where),
					Choices: []plan.Choice{
						{Decision: plan.ForSite, Effect: "as it is now: " + blend.Brief(c.Site)},
						{Decision: plan.ForKit, Effect: "as it was before: " + blend.Brief(c.Kit)},
					},
				},
			)
		}
	}
	x.changes = append(x.changes, store.Change{Head: h})
	return nil
}

// write makes the revision, and gives the origins back that the delivery had replaced.
func (x *undoing) write(p Person) error {
	done := fmt.Sprintf("%s@%s taken back", x.info.Kit, x.info.Version)
	if len(x.u.Items) > 0 {
		done = fmt.Sprintf("%s of %s@%s taken back", says.Count(len(x.u.Items), "item"), x.info.Kit, x.info.Version)
	}
	id := x.info.ID
	undo, err := x.tx.Write(x.c, x.changes,
		store.Note{By: p.Name, Act: "undo", Message: done, Delivery: &id, At: x.d.Now()})
	if err != nil {
		return err
	}
	receipt := x.info.Receipted
	ids := map[string]bool{}
	if len(x.u.Items) > 0 {
		for _, r := range append(append([]store.Item{}, x.wrote...), x.before...) {
			ids[r.ItemID] = true
		}
	}
	if err := x.giveBackOrigins(ids); err != nil {
		return err
	}
	receipt.Kept = x.kept
	if len(x.u.Items) > 0 {
		for _, a := range x.u.Items {
			if !slices.Contains(receipt.Undone, a) && !slices.Contains(x.kept, a) {
				receipt.Undone = append(receipt.Undone, a)
			}
		}
	}
	text, err := json.Marshal(receipt)
	if err != nil {
		return err
	}
	if len(x.u.Items) > 0 {
		err = x.tx.Deliveries().UndoSome(id, string(text), x.d.Now())
	} else {
		err = x.tx.Deliveries().Undo(id, undo, string(text), x.d.Now())
	}
	if err != nil {
		return err
	}
	return x.d.audit(x.tx, p, "undo", x.what, "")
}

// usersOutside gives the items that have come to lean on an address since a
// revision and that stay as they are. An item that named it before the delivery
// came is no obstacle: the name led nowhere then, too.
func (d *Desk) usersOutside(
	tx *store.Tx,
	collection, rev int64,
	a item.Address,
	now map[string]store.Item,
	changes []store.Change,
) ([]item.Address, error) {
	ids, err := tx.Collections().UsersOf(collection, a.String())
	if err != nil {
		return nil, err
	}
	changing := map[string]bool{}
	for _, ch := range changes {
		changing[ch.Head.ID] = true
	}
	var out []item.Address
	for _, id := range ids {
		user, ok := now[id]
		if !ok || changing[id] || user.FromRev < rev {
			continue
		}
		old, err := tx.Collections().ItemBefore(collection, id, rev)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return nil, err
		}
		if err == nil {
			named, err := d.Store.Names(tx.Context(), old.Head(), a)
			if err != nil {
				return nil, err
			}
			if named {
				continue
			}
		}
		out = append(out, user.Address())
	}
	return out, nil
}
