package desk

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"compactparcel/core/blend"
	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/core/steps"
	"compactparcel/internal/store"
)

// aboutDraft begins the keys of decisions about what keepers did in a staged delivery's draft, where
// planning again changes the same: draft:ADDRESS for site (what they did) or kit (the delivery's).
const aboutDraft = "draft:"

// splitDecisions takes the decisions about the draft out of an answer.
func splitDecisions(a *Answer) (rest *Answer, draft map[string]blend.Decision, err error) {
	draft = map[string]blend.Decision{}
	if a == nil {
		return nil, draft, nil
	}
	out := *a
	out.Decisions = map[string]plan.Decided{}
	for key, d := range a.Decisions {
		of, about := strings.CutPrefix(key, aboutDraft)
		if !about {
			out.Decisions[key] = d
			continue
		}
		switch d.Decision {
		case plan.ForSite:
			draft[of] = blend.ForSite
		case plan.ForKit:
			draft[of] = blend.ForKit
		default:
			return nil, nil, problem(BadDecision, key, OneOf(plan.ForSite, plan.ForKit),
				"what was done in the draft stays (site), or the delivery's takes its place (kit)")
		}
	}
	return &out, draft, nil
}

// restage plans a staged delivery anew. Its draft keeps what keepers did in it: the delivery's step is made
// again, and the later ones are merged on top.
func (d *Desk) restage(ctx context.Context, p Person, info *DeliveryInfo, a *Answer) (*DeliveryInfo, error) {
	id, what := info.ID, fmt.Sprintf("delivery %d", info.ID)
	a, decisions, err := splitDecisions(a)
	if err != nil {
		return nil, err
	}
	did, err := d.commit(ctx, func(tx *store.Tx) error {
		ctx := tx.Context()
		c, err := tx.Collections().Lock(info.CollectionID)
		if err != nil {
			return err
		}
		now, _, v, err := d.load(ctx, id)
		if err != nil {
			return err
		}
		if now.State != Staged || now.DraftID == nil || now.Etag != info.Etag {
			return problem(Stale, what, To(Redo), "somebody else has changed it since you read it")
		}
		dr, err := tx.LockDraft(*now.DraftID)
		if err != nil {
			return err
		}
		ask := now.Asked
		if a != nil {
			ask = merge(ask, *a)
		}
		result, err := d.plan(ctx, c, v, ask)
		if err != nil {
			return err
		}
		if n := len(result.Plan.Questions); n > 0 {
			pr := problem(Waits, what, To(AnswerQuestions, "delivery", fmt.Sprint(id)), "%s", areOpen(n))
			pr.Details = result.Plan.Questions
			return pr
		}
		var before stagedDelivery
		if err := json.Unmarshal([]byte(now.Staged), &before); err != nil {
			return err
		}
		r := &restaging{d: d, tx: tx, c: c, dr: dr, decisions: decisions, what: what, old: before.Wrote}
		if err := r.run(p, result); err != nil {
			return err
		}
		made, err := planned(c, ask, result)
		if err != nil {
			return err
		}
		writes, err := d.stagedOf(ctx, p, now, result)
		if err != nil {
			return err
		}
		writes.Wrote = r.fresh
		staged, err := json.Marshal(writes)
		if err != nil {
			return err
		}
		if err := tx.Deliveries().Restage(id, now.Etag, made, string(staged), d.Now()); err != nil {
			return err
		}
		return d.audit(tx, p, "stage", what, "planned again")
	})
	if err != nil {
		return nil, explain(what, err)
	}
	return after(did, func() (*DeliveryInfo, error) { return d.Delivery(ctx, p, id) })
}

// restaging brings a staged delivery's locked draft to a new plan.
type restaging struct {
	d         *Desk
	tx        *store.Tx
	c         *store.Collection
	dr        *store.Draft
	decisions map[string]blend.Decision
	what      string

	live, view *store.View
	old        map[string]*steps.State // what the delivery came to before, by item
	fresh      map[string]*steps.State // and what it comes to now; nil where an item goes
}

func (r *restaging) run(p Person, result *plan.Result) (err error) {
	ctx := r.tx.Context()
	if r.live, err = r.d.Store.Live(ctx, r.c); err != nil {
		return err
	}
	if r.view, err = r.d.Store.Over(ctx, r.c, r.dr); err != nil {
		return err
	}
	changes, err := r.d.changesOf(ctx, r.live, result)
	if err != nil {
		return err
	}
	if err := r.d.checkUntouched(r.live, r.live.Laid(changes), result.Plan.Touched); err != nil {
		return err
	}
	for i, ch := range changes {
		if _, isLive := r.live.ByID(ch.Head.ID); isLive {
			continue
		}
		if had, there := r.view.Find(ch.Head.Address); there { // what the draft has already stays the same item
			changes[i].Head.ID = had.ID
		}
	}
	r.fresh = wrote(changes)
	final, edits, err := r.merged()
	if err != nil {
		return err
	}
	bases := map[string]item.Digest{}
	for _, ch := range final {
		if h, ok := r.live.ByID(ch.Head.ID); ok {
			bases[h.ID] = h.State()
		}
	}
	var preconditions []store.DraftPrecondition
	for _, pr := range result.Preconditions {
		preconditions = append(preconditions,
			store.DraftPrecondition{Kind: pr.Address.Kind, Key: pr.Address.Key, State: pr.State})
	}
	if err := r.tx.ReplaceDraft(r.dr, r.live.Rev, final, bases, preconditions); err != nil {
		return err
	}
	_, err = r.tx.AppendStep(r.dr, steps.Step{Kind: steps.Delivery, By: p.Name, Edits: edits},
		"planned again: "+r.dr.Name, r.d.Now())
	return err
}

// stateOf is what a set of states says of an item: as it is live where it says nothing.
func (r *restaging) stateOf(set map[string]*steps.State, id string) *steps.State {
	if s, said := set[id]; said {
		return s
	}
	if h, there := r.live.ByID(id); there {
		return steps.StateOf(h)
	}
	return nil
}

// merged gives the draft's changes with the delivery as it is now below what keepers did, and the edits that
// lead there from the draft as it is.
func (r *restaging) merged() (out []store.Change, edits []steps.Edit, err error) {
	rows, err := r.d.Store.DraftItems(r.tx.Context(), r.dr)
	if err != nil {
		return nil, nil, err
	}
	ids := map[string]bool{}
	for _, row := range rows {
		ids[row.ItemID] = true
	}
	for id := range r.old {
		ids[id] = true
	}
	for id := range r.fresh {
		ids[id] = true
	}
	texts := &draftTexts{r.d, r.tx.Context(), r.view}
	var open []plan.Question
	known := map[string]bool{}
	for _, id := range slices.Sorted(maps.Keys(ids)) {
		was, will := r.stateOf(r.old, id), r.stateOf(r.fresh, id)
		now := texts.Now(id)
		final := now
		for _, s := range []*steps.State{was, now, will} {
			known[steps.Edit{After: s}.Address().String()] = true
		}
		switch {
		case now.Is(was):
			final = will
		case will.Is(was) || now.Is(will):
		default:
			if final, err = r.both(texts, id, was, now, will, &open); err != nil {
				return nil, nil, err
			}
		}
		if !now.Is(final) {
			edits = append(edits, steps.Edit{Item: id, Before: now, After: final})
		}
		live, isLive := r.live.ByID(id)
		switch {
		case final == nil && isLive:
			out = append(out, store.Change{Delete: true, Head: live})
		case final != nil && (!isLive || !final.Is(steps.StateOf(live))):
			out = append(out, store.Change{Head: final.Head(id)})
		}
	}
	for of := range r.decisions {
		if !known[of] {
			return nil, nil, problem(BadDecision, aboutDraft+of, To(AnswerHere), "the draft has nothing there")
		}
	}
	if len(open) > 0 {
		pr := problem(Waits, r.what, To(AnswerHere), "%s", areOpen(len(open)))
		pr.Details = open
		return nil, nil, pr
	}
	return out, edits, nil
}

// both merges what keepers made of an item and what the delivery makes of it now.
func (r *restaging) both(
	texts *draftTexts, id string, was, now, will *steps.State, open *[]plan.Question,
) (*steps.State, error) {
	address := steps.Edit{Before: now, After: will}.Address()
	side := r.decisions[address.String()]
	if was != nil && now != nil && will != nil {
		b, conflicts, err := steps.MergeBy(texts, id, was, now, will,
			func(*blend.Conflict) blend.Decision { return side })
		if err != nil {
			return nil, err
		}
		if len(conflicts) == 0 {
			if b.Content == nil {
				return b.State, nil
			}
			h, err := r.d.keepOne(r.tx.Context(), b.State.Head(id), b.Content)
			return steps.StateOf(h), err
		}
	}
	switch side {
	case blend.ForSite:
		return now, nil
	case blend.ForKit:
		return will, nil
	}
	*open = append(*open, plan.Question{Key: aboutDraft + address.String(), Kind: plan.AboutConflict,
		Message: fmt.Sprintf("%s was changed in the draft, and the plan changes the same now.", address),
		Choices: []plan.Choice{{Decision: plan.ForSite, Effect: "what was done in the draft stays"},
			{Decision: plan.ForKit, Effect: "the delivery's takes its place"}}})
	return now, nil
}

// isStaged tells whether a delivery has a draft that can be planned anew.
func (i *DeliveryInfo) isStaged() bool { return i.State == Staged && i.DraftID != nil }
