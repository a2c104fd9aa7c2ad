package desk

import (
	"context"
	"fmt"

	"compactparcel/core/blend"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/internal/store"
)

// meanwhile holds a draft's items against what the site is now. What somebody edited
// since the draft was made is blended into it, and named; what cannot be blended is a
// question, which decisions answer by its key. What came into being or went meanwhile is
// left to going live, which refuses it. Site and draft are locked by tx.
func (d *Desk) meanwhile(
	tx *store.Tx,
	c *store.Collection,
	dr *store.Draft,
	id int64,
	decisions map[string]blend.Decision,
) ([]item.Address, error) {
	ctx := tx.Context()
	what := fmt.Sprintf("delivery %d", id)
	live, err := d.Store.Live(ctx, c)
	if err != nil {
		return nil, err
	}
	base, err := d.Store.At(ctx, c, dr.BaseRev)
	if err != nil {
		return nil, err
	}
	rows, err := d.Store.DraftItems(ctx, dr)
	if err != nil {
		return nil, err
	}
	var blended []item.Address
	var changed []item.Head
	var questions []plan.Question
	used := map[string]bool{}
	for _, row := range rows {
		now, ok := live.ByID(row.ItemID)
		was, had := base.ByID(row.ItemID)
		if !ok || !had || row.Op != store.Put || now.State() == row.BaseState || now.Address != was.Address ||
			now.Address.Kind == item.Media {
			continue
		}
		h, conflicts, err := d.blendHeads(ctx, base, live, was, now, row.Head(), decisions, used)
		if err != nil {
			return nil, err
		}
		for _, x := range conflicts {
			if x.Decision == "" {
				questions = append(
					questions,
					plan.Question{
						Key:  plan.ConflictKey(now.Address, x.Key),
						Kind: plan.AboutConflict,
						Message: fmt.Sprintf(
							"%s, line %d, %s: it was edited after the delivery was staged, and the delivery "+
								"changes it, too.",
							now.Address,
							x.Line,
							x.Where,
						),
						Choices: []plan.Choice{
							{Decision: plan.ForSite, Effect: "the edit: " + blend.Brief(x.Site)},
							{Decision: plan.ForKit, Effect: "the delivery's: " + blend.Brief(x.Kit)},
						},
					},
				)
			}
		}
		blended = append(blended, now.Address)
		changed = append(changed, h)
	}
	for key := range decisions {
		if !used[key] {
			return nil, problem(BadInput, what, To(AnswerQuestions, "delivery", fmt.Sprint(id)),
				"there is no conflict %s to decide", key)
		}
	}
	if len(questions) > 0 {
		pr := problem(Waits, what, To(AnswerQuestions, "delivery", fmt.Sprint(id)),
			"the site was edited after staging: %d questions are open", len(questions))
		pr.Details = questions
		return nil, pr
	}
	for _, h := range changed {
		now, _ := live.Find(h.Address)
		if err := tx.Rebase(dr, h, now.State()); err != nil {
			return nil, err
		}
	}
	return blended, nil
}

// blendHeads blends an item's three forms, content and metadata, and keeps the result.
func (d *Desk) blendHeads(
	ctx context.Context,
	from, to item.Collection,
	base, ours, theirs item.Head,
	decisions map[string]blend.Decision,
	used map[string]bool,
) (item.Head, []blend.Conflict, error) {
	choose := func(x *blend.Conflict) blend.Decision {
		key := plan.ConflictKey(ours.Address, x.Key)
		side := decisions[key]
		if side == "" {
			side = decisions[ours.Address.String()]
		}
		if side == blend.ForSite || side == blend.ForKit {
			used[key], used[ours.Address.String()] = true, true
			return side
		}
		return ""
	}
	var texts [3][]byte
	for i, x := range []struct {
		c item.Collection
		h item.Head
	}{{from, base}, {to, ours}, {to, theirs}} {
		b, err := item.Read(x.c, x.h)
		if err != nil {
			return ours, nil, err
		}
		texts[i] = b
	}
	got := blend.Merge(ours.Address.Kind, texts[0], texts[1], texts[2], choose)
	h := ours
	var more []blend.Conflict
	var err error
	if h.Meta, more, err = plan.BlendMeta(&base.Meta, ours.Meta, theirs.Meta, choose); err != nil {
		return ours, nil, err
	}
	batch := d.Store.NewBatch(ctx, d.Now())
	h, err = batch.Text(h, got.Text, facts.Extract(h.Address.Kind, h.Meta.Context, got.Text))
	if err == nil {
		err = batch.Flush()
	}
	return h, append(got.Conflicts, more...), err
}
