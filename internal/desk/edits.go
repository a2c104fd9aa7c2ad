package desk

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/core/steps"
	"compactparcel/internal/store"
)

// Edits is a list of operations on a site, done all or not at all.
type Edits struct {
	Site  string
	Draft int64 // 0 makes a new one
	List  []edit.Operation
	// Seen is what the page shows on which the operations point, and Done what their author did on it
	// since: they are carried through what others did. nil: they mean the page as it is now.
	Seen *steps.Seen
	Done []edit.Operation
	// Dry tells that nothing is written: what it would come to is shown.
	Dry bool
}

// MaxOperations bounds one list.
const MaxOperations = 200

// EditedItem is an item before and after.
type EditedItem struct {
	Head          item.Head
	Before, After []byte
	Gone          bool
}

// EditsDone is what a list of operations did, or would do.
type EditsDone struct {
	Draft   *store.Draft // nil where nothing was written
	Step    int
	Says    []string
	Items   []EditedItem
	Touched []plan.TouchedPage
}

// Edit does a list of operations in a draft, as one step.
func (d *Desk) Edit(ctx context.Context, p Person, in Edits) (*EditsDone, error) {
	what := "site " + in.Site
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	if len(in.List) == 0 || len(in.List) > MaxOperations || len(in.Done) > MaxOperations {
		return nil, problem(BadInput, what, To(CheckOptions), "name 1 to %d operations", MaxOperations)
	}
	c, err := d.site(ctx, in.Site)
	if err != nil {
		return nil, err
	}
	if in.Dry {
		v, err := d.Look(ctx, p, in.Site, in.Draft)
		if err != nil {
			return nil, err
		}
		out, _, err := d.applied(v, in)
		return out, explain(what, err)
	}
	var out *EditsDone
	for try := 0; ; try++ {
		var w *workedOut // outside the lock: nobody else's word waits for a long list
		if try < editTries {
			if w, err = d.workOut(ctx, c, in); err != nil {
				return nil, explain(what, err)
			}
		}
		out, err = d.layEdits(ctx, p, c, in, w)
		if !errors.Is(err, errMovedOn) {
			return outcome(out, explain(what, err))
		}
	}
}

// editTries is how often operations are worked out outside the lock, when others are quicker each time, before they
// are under it.
const editTries = 3

// errMovedOn tells that a draft is no longer as operations were worked out for.
var errMovedOn = errors.New("the draft moved on")

// workedOut is what operations come to in a draft as it was.
type workedOut struct {
	moment
	done *EditsDone
	list []edit.Change
	kept bool // the contents of list are kept
}

// workOut works operations out over a draft as it is now; nil where that can only be said under the lock. What it
// refuses there is refused: on another state they are worked out again.
func (d *Desk) workOut(ctx context.Context, c *store.Collection, in Edits) (*workedOut, error) {
	on, err := d.unlocked(ctx, c, in.Draft)
	if on == nil || err != nil {
		return nil, err
	}
	w := &workedOut{moment: momentOf(on, in.Draft)}
	if w.done, w.list, err = d.carried(on.tx, on, in); err != nil {
		if d.isPast(ctx, w.moment) {
			return nil, nil // it changed while it was read
		}
		return nil, err
	}
	for i := range w.list {
		h := &w.list[i].Head
		if w.list[i].Gone {
			continue
		}
		if *h, err = d.keepEdited(ctx, *h, w.list[i].Content); err != nil {
			return nil, err
		}
		w.done.Items[i].Head = *h
	}
	w.kept = true
	return w, nil
}

// keepEdited keeps the content of what an item comes to be.
func (d *Desk) keepEdited(ctx context.Context, h item.Head, content []byte) (item.Head, error) {
	if h.ID == "" {
		h.ID = store.NewID()
	}
	h, err := d.keepOne(ctx, h, content)
	if err != nil {
		return h, err
	}
	if err := item.CheckHead(h); err != nil {
		return h, problem(BadInput, h.Address.String(), To(Shorten), "%s", err)
	}
	return h, nil
}

// layEdits does operations in a draft, as they were worked out, or by working them out under its lock. Its error is
// errMovedOn where the draft is no longer as they were worked out for.
func (d *Desk) layEdits(ctx context.Context, p Person, c *store.Collection, in Edits, w *workedOut) (*EditsDone,
	error) {
	var out *EditsDone
	err := d.Store.Tx(ctx, func(tx *store.Tx) error {
		on, err := d.editing(tx, c.ID, p, Edit{Site: in.Site, Draft: in.Draft})
		if err != nil {
			return err
		}
		if on.again {
			out = &EditsDone{Draft: on.draft, Says: []string{"done before"}}
			return nil
		}
		if w != nil && !w.fits(on) {
			return errMovedOn
		}
		now := w
		if now == nil {
			now = &workedOut{}
			if now.done, now.list, err = d.carried(tx, on, in); err != nil {
				return err
			}
		}
		done := *now.done
		done.Items = slices.Clone(done.Items)
		out = &done
		return d.layWorkedOut(tx, p, on, in, now, out)
	})
	return out, err
}

// layWorkedOut lays changes into a locked draft, as one step.
func (d *Desk) layWorkedOut(
	tx *store.Tx, p Person, on *editing, in Edits, w *workedOut, out *EditsDone,
) error {
	ctx := tx.Context()
	out.Draft = on.draft
	var changes []store.Change
	for i, ch := range w.list {
		h := ch.Head
		if ch.Gone {
			changes = append(changes, store.Change{Delete: true, Head: h})
			continue
		}
		if !w.kept {
			var err error
			if h, err = d.keepEdited(ctx, h, ch.Content); err != nil {
				return err
			}
		}
		out.Items[i].Head = h
		changes = append(changes, store.Change{Head: h})
	}
	if len(changes) == 0 {
		return nil
	}
	step := steps.Step{Kind: steps.Do, By: p.Name}
	if !slices.ContainsFunc(in.List, func(o edit.Operation) bool { return o.Op != edit.Text }) {
		step.Typing = typingOf(p.session, in.Seen)
	}
	var err error
	out.Step, err = on.lay(step, strings.Join(out.Says, "; "), d.Now(), changes)
	return err
}

// typingOf names typing that goes on: of one sign-in, on a page as it was shown once.
func typingOf(session string, seen *steps.Seen) string {
	if seen == nil || session == "" {
		return session
	}
	return item.DigestOf(fmt.Appendf(nil, "%s %s", session, *seen)).Short()
}

// applied works a list of operations out over a state.
func (d *Desk) applied(view *store.View, in Edits) (*EditsDone, []edit.Change, error) {
	a, err := edit.Apply(view, in.List)
	var refused *edit.RefusedError
	if errors.As(err, &refused) {
		return nil, nil, problem(Refused, fmt.Sprintf("operation %d (%s)", refused.N, refused.Op), To(CheckOptions),
			"%s", refused.Why).seen()
	}
	if err != nil {
		return nil, nil, err
	}
	out := &EditsDone{Says: a.Says}
	var heads []item.Head
	for _, ch := range a.Changes {
		x := EditedItem{Head: ch.Head, After: ch.Content, Gone: ch.Gone}
		if had, ok := view.Find(ch.Head.Address); ok {
			if x.Before, err = item.Read(view, had); err != nil {
				return nil, nil, err
			}
		}
		out.Items, heads = append(out.Items, x), append(heads, ch.Head)
	}
	out.Touched, err = plan.PagesTouched(view, heads)
	return out, a.Changes, err
}

// shortened cuts a text to so many characters.
func shortened(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n-1]) + "…"
	}
	return s
}

// laidTexts keeps texts that were changed.
func (d *Desk) laidTexts(ctx context.Context, list []edit.Change) ([]store.Change, error) {
	var out []store.Change
	for _, c := range list {
		h, err := d.keepOne(ctx, c.Head, c.Content)
		if err != nil {
			return nil, err
		}
		out = append(out, store.Change{Head: h})
	}
	return out, nil
}

// BadSeen is the problem of a moment that cannot be read.
func BadSeen(site string, err error) error {
	return problem(BadInput, "site "+site, To(CheckOptions), "seen: %v", err)
}
