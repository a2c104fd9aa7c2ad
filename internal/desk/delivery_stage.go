package desk

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"sort"

	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/core/render"
	"compactparcel/internal/store"

	"gorm.io/gorm"
)

// DeliveryStage writes a delivery's draft. planDigest is the plan the person
// looked at, or empty; another plan means the site or the answers have changed.
func (d *Desk) DeliveryStage(ctx context.Context, p Person, id int64, planDigest item.Digest) (*DeliveryInfo, error) {
	what := fmt.Sprintf("delivery %d", id)
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	info, c, v, err := d.load(ctx, id)
	if err != nil {
		return nil, err
	}
	if info.State == Staged {
		return info, nil
	}
	if info.State != Planned {
		return nil, problem(Refused, what, wayOn(info.State), "it is %s", info.State)
	}
	result, err := d.plan(ctx, c, v, info.Asked)
	if err != nil {
		return nil, explain(what, err)
	}
	if got := result.Plan.Digest(); got != info.PlanDigest || planDigest != "" && planDigest != got {
		return nil, problem(Stale, what, "plan again and look at what changed: cparcel delivery plan "+fmt.Sprint(id), "the site has changed since the plan was made")
	}
	if n := len(result.Plan.Questions); n > 0 {
		pr := problem(Waits, what, "answer them, then stage", "%d questions are open", n)
		pr.Details = result.Plan.Questions
		return nil, pr
	}
	live, err := d.Store.Live(ctx, c)
	if err != nil {
		return nil, explain(what, err)
	}
	_, parcel, err := d.parcelView(ctx, v)
	if err != nil {
		return nil, explain(what, err)
	}
	changes, err := d.changesOf(ctx, live, parcel, result)
	if err != nil {
		return nil, explain(what, err)
	}
	after, err := d.Store.OverChanges(ctx, c, changes)
	if err != nil {
		return nil, explain(what, err)
	}
	if err := d.checkUntouched(live, after, result.Plan.Touched); err != nil {
		return nil, explain(what, err)
	}
	err = d.Store.Tx(ctx, func(tx *gorm.DB) error {
		locked, err := store.Lock(tx, c.ID)
		if err != nil {
			return err
		}
		if locked.Revision != live.Rev {
			return problem(Stale, what, "plan again", "the site went live with something else at the same time")
		}
		dr, err := d.Store.NewDraft(tx, locked, fmt.Sprintf("%s@%s (delivery %d)", info.Kit, info.Version, id), p.Name, d.Now())
		if err != nil {
			return err
		}
		for _, ch := range changes {
			base := item.Digest("")
			if h, ok := live.ByID(ch.Head.ID); ok {
				base = h.State()
			}
			if err := d.Store.PutDraftItem(tx, dr, ch, base); err != nil {
				return err
			}
		}
		for _, pr := range result.Premises {
			row := store.DraftPremise{DraftID: dr.ID, Kind: string(pr.Address.Kind), Key: pr.Address.Key, State: pr.State}
			if err := tx.Create(&row).Error; err != nil {
				return err
			}
		}
		r := tx.Model(&store.Delivery{}).Where("id = ? AND etag = ?", id, info.Etag).Updates(map[string]any{"state": Staged, "draft_id": dr.ID, "base_rev": live.Rev, "etag": info.Etag + 1, "updated_at": d.Now()})
		if r.Error == nil && r.RowsAffected == 0 {
			return problem(Stale, what, "look at it again", "somebody changed it at the same time")
		}
		if r.Error != nil {
			return r.Error
		}
		return d.audit(tx, p, "stage", what, "")
	})
	if err != nil {
		return nil, explain(what, err)
	}
	return d.Delivery(ctx, p, id)
}

// changesOf turns what a plan puts into changes of the site's items.
func (d *Desk) changesOf(ctx context.Context, live, parcel *store.View, r *plan.Result) ([]store.Change, error) {
	var changes []store.Change
	put := func(h item.Head, content []byte) error {
		if old, ok := live.Find(h.Address); ok {
			h.ID = old.ID
		} else {
			h.ID = store.NewID()
		}
		if content != nil {
			doc, err := d.Store.PutContent(ctx, h.Address.Kind, content, d.Now())
			if err != nil {
				return err
			}
			h.Doc, h.Bytes = doc, int64(len(content))
			f, err := d.Store.KeepFacts(ctx, h, content)
			if err != nil {
				return err
			}
			h.Sense = f.Sense
		}
		changes = append(changes, store.Change{Head: h})
		return nil
	}
	for _, x := range r.Puts {
		if err := put(x.Head, x.Content); err != nil {
			return nil, err
		}
	}
	if len(r.Plan.StyleOrder) > 0 {
		b, _ := json.Marshal(r.Plan.StyleOrder)
		h := item.Head{Address: item.StyleOrder}
		if old, ok := live.Find(item.StyleOrder); ok {
			h = old
		}
		if err := put(h, b); err != nil {
			return nil, err
		}
	}
	return changes, nil
}

// checkUntouched renders every page that the plan does not name before and after,
// also those that no page item stands for: the bytes must be the same.
func (d *Desk) checkUntouched(before, after *store.View, touched []plan.Touch) error {
	named := map[string]bool{}
	for _, t := range touched {
		named[t.Slug] = true
	}
	was, will := render.New(before), render.New(after)
	var slugs []string
	for slug := range was.Pages() {
		slugs = append(slugs, slug)
	}
	for _, m := range was.Made() {
		slugs = append(slugs, m.Slug)
	}
	sort.Strings(slugs)
	for _, slug := range slugs {
		if named[slug] {
			continue
		}
		a, err := was.Page(render.Ask{Slug: slug})
		if err != nil {
			continue // broken before; not ours to judge
		}
		b, err := will.Page(render.Ask{Slug: slug})
		if err != nil {
			return fmt.Errorf("rendering %s with the delivery: %w", slug, err)
		}
		if !bytes.Equal(a.Body, b.Body) || a.Status != b.Status {
			return problem(Refused, slug, "report this: the plan is wrong; nothing was staged", "the page would change, and the plan does not name it")
		}
	}
	return nil
}
