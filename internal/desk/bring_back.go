package desk

import (
	"context"
	"fmt"
	"slices"

	"compactparcel/core/blend"
	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/core/steps"
	"compactparcel/internal/store"
)

// BringBack is an earlier state of a site that is brought back into a draft.
type BringBack struct {
	Site     string
	Revision int64
	// Since is the revision up to which changes are taken back; 0 is the newest. What was changed after it, in the
	// site or the draft, is kept where it does not touch what comes back, and asked for where it does.
	Since int64
	// Items are those that are brought back; none is the whole site.
	Items []item.Address
	Draft int64
	// Decisions say, by address, whether an item is kept as it is or taken as it was.
	Decisions map[string]plan.Decision
}

// BringBack makes items as a revision had them, in a draft: those that are named, or all; what was added up to
// Since goes then. All else stays as it is. What is open is a problem of its own, with the questions, and nothing is
// written.
func (d *Desk) BringBack(ctx context.Context, p Person, in BringBack) (*EditsDone, error) {
	what := fmt.Sprintf("revision %d of %s", in.Revision, in.Site)
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	for key, word := range in.Decisions {
		if word != plan.Keep && word != plan.Take {
			return nil, problem(BadInput, what, OneOf(plan.Keep, plan.Take), "%s cannot be decided for %q", key, word)
		}
	}
	then, err := d.revision(ctx, p, in.Site, in.Revision)
	if err != nil {
		return nil, err
	}
	var since *store.View
	if in.Since != 0 {
		if since, err = d.revision(ctx, p, in.Site, in.Since); err != nil {
			return nil, err
		}
	}
	out := &EditsDone{}
	err = d.Store.Tx(ctx, func(tx *store.Tx) error {
		ctx := tx.Context()
		*out = EditsDone{}
		on, err := d.editing(tx, then.Collection.ID, p, Edit{Site: in.Site, Draft: in.Draft})
		if err != nil {
			return err
		}
		if out.Draft = on.draft; on.again {
			return nil
		}
		b := &bringing{BringBack: in, d: d, ctx: ctx, then: then, since: since, view: on.view, used: map[string]bool{}}
		if since == nil {
			b.since = on.live
		}
		list, err := b.all()
		if err != nil {
			return err
		}
		if len(b.open) > 0 {
			pr := problem(Waits, what, To(AnswerHere), "%s", areOpen(len(b.open)))
			pr.Details = b.open
			return pr
		}
		for key := range in.Decisions {
			if !b.used[key] {
				return problem(BadInput, what, To(ReadAgain), "there is nothing to decide about %s", key)
			}
		}
		changes, err := d.becoming(ctx, on.view, list)
		if err != nil || len(changes) == 0 {
			return err
		}
		for _, ch := range changes {
			out.Items = append(out.Items, EditedItem{Head: ch.Head})
		}
		says := fmt.Sprintf("brought back revision %d", in.Revision)
		out.Says = []string{says}
		out.Step, err = on.lay(steps.Step{Kind: steps.Do, By: p.Name}, says, d.Now(), changes)
		return err
	})
	return outcome(out, explain(what, err))
}

// bringing works out what items come to be.
type bringing struct {
	BringBack
	d                 *Desk
	ctx               context.Context
	then, since, view *store.View
	used              map[string]bool
	open              []plan.Question
	out               []steps.Becoming
}

func (b *bringing) all() ([]steps.Becoming, error) {
	if len(b.Items) == 0 {
		for _, h := range b.since.Heads() {
			if _, had := b.then.ByID(h.ID); had {
				continue
			}
			if err := b.item(h.ID, false); err != nil { // first what goes, which may stand in the way
				return nil, err
			}
		}
		for _, h := range b.then.Heads() {
			if err := b.item(h.ID, false); err != nil {
				return nil, err
			}
		}
		return b.out, nil
	}
	for _, a := range b.Items {
		h, found := b.then.Find(a)
		if !found {
			h, found = b.since.Find(a)
		}
		if !found {
			h, found = b.view.Find(a)
		}
		if !found {
			return nil, problem(NotFound, a.String(), To(ShowItems, "site", b.Site),
				"neither that revision nor the site has it")
		}
		if err := b.item(h.ID, true); err != nil {
			return nil, err
		}
	}
	return b.out, nil
}

func stateIn(v *store.View, id string) *steps.State {
	if h, ok := v.ByID(id); ok {
		return steps.StateOf(h)
	}
	return nil
}

// item takes back what became of an item between the two revisions. What is named is asked for where only later
// changes made it otherwise.
func (b *bringing) item(id string, named bool) error {
	then, base, now := stateIn(b.then, id), stateIn(b.since, id), stateIn(b.view, id)
	switch {
	case now.Is(then) || base.Is(then) && !named:
		return nil
	case now.Is(base):
		b.out = append(b.out, steps.Becoming{Item: id, State: then})
		return nil
	case then == nil || base == nil || now == nil || base.Is(then):
		b.whole(id, then, base, now)
		return nil
	}
	texts := &draftTexts{b.d, b.ctx, b.view}
	merged, open, err := steps.MergeBy(texts, id, base, now, then, b.choose(now.Address))
	if err != nil {
		return err
	}
	if len(open) > 0 {
		b.ask(now.Address, open[0].Where)
		return nil
	}
	b.out = append(b.out, *merged)
	return nil
}

// choose decides all conflicts of an item by what was said of it.
func (b *bringing) choose(a item.Address) blend.Resolve {
	return func(*blend.Conflict) blend.Decision {
		word, said := b.Decisions[a.String()]
		b.used[a.String()] = b.used[a.String()] || said
		switch word {
		case plan.Take:
			return blend.ForKit
		case plan.Keep:
			return blend.ForSite
		default:
			return ""
		}
	}
}

// whole decides about an item that one of the moments does not have.
func (b *bringing) whole(id string, then, base, now *steps.State) {
	var a item.Address
	for _, s := range []*steps.State{now, base, then} {
		if s != nil && a.IsZero() {
			a = s.Address
		}
	}
	switch b.Decisions[a.String()] {
	case plan.Take:
		b.used[a.String()] = true
		b.out = append(b.out, steps.Becoming{Item: id, State: then})
	case plan.Keep:
		b.used[a.String()] = true
	default:
		b.ask(a, "")
	}
}

func (b *bringing) ask(a item.Address, where string) {
	if slices.ContainsFunc(b.open, func(q plan.Question) bool { return q.Key == a.String() }) {
		return
	}
	message := fmt.Sprintf("%s was changed since", a)
	if where != "" {
		message += ", at " + where
	}
	choices := []plan.Choice{
		{Decision: plan.Keep, Effect: "keep it as it is now"},
		{Decision: plan.Take, Effect: fmt.Sprintf("take it as revision %d had it", b.Revision)},
	}
	b.open = append(b.open, plan.Question{Key: a.String(), Kind: plan.AboutItem, Message: message, Choices: choices})
}
