package desk

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/core/render"
	"compactparcel/internal/store"

	"github.com/Masterminds/semver/v3"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Delivery states.
const (
	Opened  = "opened"
	Planned = "planned"
	Staged  = "staged"
	Live    = "live"
	Undone  = "undone"
)

// Receipt is what a delivery did, and how it can be undone.
type Receipt struct {
	Renames   []plan.Rename           `json:"renames"`
	Fills     map[string]string       `json:"fills"`
	Decisions map[string]plan.Decided `json:"decisions"`
	Wrote     []item.Address          `json:"wrote"`
	Touched   []plan.Touch            `json:"touched"`
	Checklist []string                `json:"checklist"`
	Before    item.Digest             `json:"before"`
	After     item.Digest             `json:"after,omitempty"`
	By        string                  `json:"by"`
	At        string                  `json:"at"`
	// Prior are the origins that the delivery replaced, for its undo.
	Prior []store.Origin `json:"prior,omitempty"`
	// Kept says what an undo left as it was.
	Kept []item.Address `json:"kept,omitempty"`
}

// DeliveryInfo is a delivery with its plan.
type DeliveryInfo struct {
	store.Delivery
	Site       string
	Kit        string
	Version    string
	DraftToken string
	Asked      plan.Ask
	Planned    *plan.Plan
	Receipted  *Receipt
}

func newer(a, b string) bool {
	x, errX := semver.StrictNewVersion(a)
	y, errY := semver.StrictNewVersion(b)
	if errX != nil || errY != nil {
		return a > b
	}
	return x.GreaterThan(y)
}

// DeliveryOpen opens a delivery of a sealed kit into a site, and plans it.
func (d *Desk) DeliveryOpen(ctx context.Context, p Person, kitName, version, site string, ask plan.Ask) (*DeliveryInfo, error) {
	what := fmt.Sprintf("delivery of %s@%s to %s", kitName, version, site)
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	v, err := d.kitVersion(ctx, kitName, version)
	if err != nil {
		return nil, err
	}
	if v.State != Sealed {
		return nil, problem(Refused, what, "seal it first: cparcel kit seal "+kitName+"@"+version, "the kit is not sealed")
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return nil, err
	}
	// Plan before anything is written: an ask that does not fit leaves no trace.
	if _, err := d.plan(ctx, c, v, ask); err != nil {
		return nil, explain(what, err)
	}
	text, _ := json.Marshal(ask)
	row := store.Delivery{CollectionID: c.ID, KitVersionID: v.ID, State: Opened, Ask: string(text), BaseRev: c.Revision, Etag: 1, ByUser: p.Name, CreatedAt: d.Now(), UpdatedAt: d.Now()}
	err = d.Store.Tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		return d.audit(tx, p, "open-delivery", fmt.Sprint(row.ID), what)
	})
	if err != nil {
		return nil, explain(what, err)
	}
	return d.Replan(ctx, p, row.ID)
}

func (d *Desk) plan(ctx context.Context, c *store.Collection, v *store.KitVersion, ask plan.Ask) (*plan.Result, error) {
	live, err := d.Store.Live(ctx, c)
	if err != nil {
		return nil, err
	}
	list, parcel, err := d.parcelView(ctx, v)
	if err != nil {
		return nil, err
	}
	return plan.Make(live, plan.Parcel{List: list, Digest: v.Digest, Collection: parcel}, ask)
}

// load gives a delivery's row with what it speaks of.
func (d *Desk) load(ctx context.Context, id int64) (*DeliveryInfo, *store.Collection, *store.KitVersion, error) {
	what := fmt.Sprintf("delivery %d", id)
	info := &DeliveryInfo{}
	if err := d.Store.DB(ctx).Where("id = ?", id).Take(&info.Delivery).Error; err != nil {
		return nil, nil, nil, explain(what, err)
	}
	var c store.Collection
	if err := d.Store.DB(ctx).Where("id = ?", info.CollectionID).Take(&c).Error; err != nil {
		return nil, nil, nil, explain(what, err)
	}
	var v struct {
		store.KitVersion
		Name string
	}
	if err := d.Store.DB(ctx).Table("kit_versions").Select("kit_versions.*, kits.name AS name").Joins("JOIN kits ON kits.id = kit_versions.kit_id").Where("kit_versions.id = ?", info.KitVersionID).Take(&v).Error; err != nil {
		return nil, nil, nil, explain(what, err)
	}
	info.Site, info.Kit, info.Version = c.Name, v.Name, v.Version
	if err := json.Unmarshal([]byte(info.Ask), &info.Asked); err != nil {
		return nil, nil, nil, explain(what, err)
	}
	if info.Plan != "" {
		info.Planned = &plan.Plan{}
		if err := json.Unmarshal([]byte(info.Plan), info.Planned); err != nil {
			return nil, nil, nil, explain(what, err)
		}
	}
	if info.Receipt != "" {
		info.Receipted = &Receipt{}
		if err := json.Unmarshal([]byte(info.Receipt), info.Receipted); err != nil {
			return nil, nil, nil, explain(what, err)
		}
	}
	if info.DraftID != nil {
		if dr, err := d.Store.FindDraft(ctx, *info.DraftID); err == nil && dr.State == store.DraftOpen {
			info.DraftToken = dr.Token
		}
	}
	return info, &c, &v.KitVersion, nil
}

// Delivery gives one delivery.
func (d *Desk) Delivery(ctx context.Context, p Person, id int64) (*DeliveryInfo, error) {
	if err := p.may(Viewer, fmt.Sprintf("delivery %d", id)); err != nil {
		return nil, err
	}
	info, _, _, err := d.load(ctx, id)
	return info, err
}

// Deliveries lists all deliveries, the newest first.
func (d *Desk) Deliveries(ctx context.Context, p Person) ([]DeliveryInfo, error) {
	if err := p.may(Viewer, "deliveries"); err != nil {
		return nil, err
	}
	var rows []struct {
		store.Delivery
		Site, Kit, Version string
	}
	err := d.Store.DB(ctx).Raw(`SELECT deliveries.*, collections.name AS site, kits.name AS kit, kit_versions.version AS version FROM deliveries
		JOIN collections ON collections.id = deliveries.collection_id JOIN kit_versions ON kit_versions.id = deliveries.kit_version_id
		JOIN kits ON kits.id = kit_versions.kit_id ORDER BY deliveries.id DESC LIMIT 500`).Scan(&rows).Error
	out := make([]DeliveryInfo, len(rows))
	for i, r := range rows {
		out[i] = DeliveryInfo{Delivery: r.Delivery, Site: r.Site, Kit: r.Kit, Version: r.Version}
	}
	return out, explain("deliveries", err)
}

// Replan plans a delivery anew from the site as it is now.
func (d *Desk) Replan(ctx context.Context, p Person, id int64) (*DeliveryInfo, error) {
	return d.DeliveryDecide(ctx, p, id, 0, nil)
}

// Answer is what a person adds to a delivery. A nil map changes nothing; a
// decision without a word takes back what was decided, an empty fill the value.
type Answer struct {
	Decisions       map[string]plan.Decided
	Fills           map[string]string
	Policy          string
	PartsMayGiveWay *bool
}

// DeliveryDecide takes decisions and fill-ins, and plans anew. etag is the one the
// person saw, or 0. What does not fit is refused as a whole.
func (d *Desk) DeliveryDecide(ctx context.Context, p Person, id int64, etag int, a *Answer) (*DeliveryInfo, error) {
	what := fmt.Sprintf("delivery %d", id)
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	info, c, v, err := d.load(ctx, id)
	if err != nil {
		return nil, err
	}
	if etag != 0 && etag != info.Etag {
		return nil, problem(Stale, what, "look at it again", "somebody has changed it since you read it")
	}
	if info.State != Opened && info.State != Planned {
		return nil, problem(Refused, what, wayOn(info.State), "it is %s; its plan is settled", info.State)
	}
	ask := info.Asked
	if a != nil {
		ask = merge(ask, *a)
	}
	result, err := d.plan(ctx, c, v, ask)
	if err != nil {
		return nil, explain(what, err)
	}
	// A decision is bound to what it decided about, so that it outlives a new plan
	// only as long as it means the same.
	for _, row := range result.Plan.Rows {
		key := row.Address.String()
		if dec, ok := ask.Decisions[key]; ok && dec.About == "" {
			dec.About = row.About
			ask.Decisions[key] = dec
		}
	}
	askText, _ := json.Marshal(ask)
	planText, _ := json.Marshal(result.Plan)
	r := d.Store.DB(ctx).Model(&store.Delivery{}).Where("id = ? AND etag = ?", id, info.Etag).Updates(map[string]any{"state": Planned, "ask": string(askText), "plan": string(planText),
		"plan_digest": result.Plan.Digest(), "base_rev": c.Revision, "etag": info.Etag + 1, "updated_at": d.Now()})
	if r.Error == nil && r.RowsAffected == 0 {
		return nil, problem(Stale, what, "look at it again", "somebody changed it at the same time")
	}
	if r.Error != nil {
		return nil, explain(what, r.Error)
	}
	return d.Delivery(ctx, p, id)
}

func wayOn(state string) string {
	switch state {
	case Staged:
		return "discard its draft to plan again, or go live"
	case Live:
		return "undo it, or open a new delivery"
	}
	return "open a new delivery"
}

func merge(ask plan.Ask, a Answer) plan.Ask {
	decisions, fills := map[string]plan.Decided{}, map[string]string{}
	for k, v := range ask.Decisions {
		decisions[k] = v
	}
	for k, v := range a.Decisions {
		if v.Decision == "" {
			delete(decisions, k)
			continue
		}
		decisions[k] = v
	}
	for k, v := range ask.Fills {
		fills[k] = v
	}
	for k, v := range a.Fills {
		if v == "" {
			delete(fills, k)
			continue
		}
		fills[k] = v
	}
	ask.Decisions, ask.Fills = decisions, fills
	if a.Policy != "" {
		ask.Policy = a.Policy
	}
	if a.PartsMayGiveWay != nil {
		ask.PartsMayGiveWay = *a.PartsMayGiveWay
	}
	return ask
}

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

// checkUntouched renders every page that the plan does not name before and after:
// the bytes must be the same.
func (d *Desk) checkUntouched(before, after *store.View, touched []plan.Touch) error {
	named := map[item.Address]bool{}
	for _, t := range touched {
		named[t.Page] = true
	}
	was, will := render.New(before), render.New(after)
	for slug, h := range was.Pages() {
		if named[h.Address] {
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

// DeliveryLive puts a staged delivery live: its draft, its origins and its receipt
// in one transaction.
func (d *Desk) DeliveryLive(ctx context.Context, p Person, id int64) (*DeliveryInfo, error) {
	what := fmt.Sprintf("delivery %d", id)
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	info, c, v, err := d.load(ctx, id)
	if err != nil {
		return nil, err
	}
	if info.State != Staged {
		return nil, problem(Refused, what, map[string]string{Opened: "plan and stage it first", Planned: "stage it first"}[info.State]+wayOnLive(info.State), "it is %s", info.State)
	}
	dr, err := d.draft(ctx, *info.DraftID)
	if err != nil {
		return nil, err
	}
	result, err := d.planAtStaging(ctx, c, v, info)
	if err != nil {
		return nil, err
	}
	err = d.Store.Tx(ctx, func(tx *gorm.DB) error {
		locked, err := store.Lock(tx, c.ID)
		if err != nil {
			return err
		}
		var now store.Delivery
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("id = ?", id).Take(&now).Error; err != nil {
			return err
		}
		if now.State != Staged || now.DraftID == nil || *now.DraftID != dr.ID {
			return problem(Stale, what, "look at it again", "it is %s meanwhile", now.State)
		}
		receipt := d.receipt(p, info, result, locked.Digest)
		rev, err := d.Store.GoLive(tx, locked, dr, store.Note{By: p.Name, Act: "deliver", Says: fmt.Sprintf("%s@%s delivered", info.Kit, info.Version), Delivery: &id, At: d.Now()})
		if err != nil {
			return err
		}
		receipt.After = locked.Digest
		if receipt.Prior, err = d.writeOrigins(tx, locked, info, result); err != nil {
			return err
		}
		text, _ := json.Marshal(receipt)
		if err := tx.Model(&store.Delivery{}).Where("id = ?", id).Updates(map[string]any{"state": Live, "live_rev": rev, "receipt": string(text), "etag": gorm.Expr("etag + 1"), "updated_at": d.Now()}).Error; err != nil {
			return err
		}
		return d.audit(tx, p, "go-live", what, fmt.Sprintf("%s@%s into %s", info.Kit, info.Version, info.Site))
	})
	if err != nil {
		return nil, explain(what, err)
	}
	return d.Delivery(ctx, p, id)
}

func wayOnLive(state string) string {
	if state == Live || state == Undone {
		return "open a new delivery"
	}
	return ""
}

// planAtStaging plans again over the state that was staged on: the receipt must
// speak of what was staged, not of what the site is meanwhile.
func (d *Desk) planAtStaging(ctx context.Context, c *store.Collection, v *store.KitVersion, info *DeliveryInfo) (*plan.Result, error) {
	base, err := d.Store.At(ctx, c, info.BaseRev)
	if err != nil {
		return nil, err
	}
	list, parcel, err := d.parcelView(ctx, v)
	if err != nil {
		return nil, err
	}
	return plan.Make(base, plan.Parcel{List: list, Digest: v.Digest, Collection: parcel}, info.Asked)
}

func (d *Desk) receipt(p Person, info *DeliveryInfo, r *plan.Result, before item.Digest) *Receipt {
	out := &Receipt{Renames: []plan.Rename{}, Fills: info.Asked.Fills, Decisions: info.Asked.Decisions, Wrote: []item.Address{}, Touched: r.Plan.Touched, Checklist: []string{}, Before: before, By: p.Name, At: d.Now().Format("2006-01-02T15:04:05Z07:00")}
	for from, to := range r.Moved {
		if from != to {
			out.Renames = append(out.Renames, plan.Rename{From: from, To: to})
		}
	}
	sort.Slice(out.Renames, func(i, j int) bool { return out.Renames[i].From.Less(out.Renames[j].From) })
	for _, x := range r.Puts {
		out.Wrote = append(out.Wrote, x.Head.Address)
		if x.Content == nil {
			continue
		}
		f := facts.Of(x.Head.Address.Kind, x.Head.Meta.Context, x.Content)
		if f.NoAlt > 0 {
			out.Checklist = append(out.Checklist, fmt.Sprintf("%s: write an alternative text for %d pictures", x.Head.Address, f.NoAlt))
		}
		if x.Head.Address.Kind == item.Menu && len(f.Uses(facts.Address)) == 0 {
			out.Checklist = append(out.Checklist, fmt.Sprintf("%s: the menu is empty", x.Head.Address))
		}
	}
	for _, l := range r.Plan.Links {
		out.Checklist = append(out.Checklist, fmt.Sprintf("%s, line %d: the link to %s leads nowhere yet", l.From, l.Line, l.Slug))
	}
	for _, f := range r.Plan.Fills {
		if !f.Given {
			out.Checklist = append(out.Checklist, fmt.Sprintf("%s still shows its sample (%q)", f.Label, f.Sample))
		}
	}
	for _, s := range r.Plan.Settings {
		out.Checklist = append(out.Checklist, "the kit proposes "+s+"; it was not taken")
	}
	for _, n := range r.Plan.Needs {
		if n.State != "met" && !strings.HasPrefix(n.What, "/") {
			out.Checklist = append(out.Checklist, fmt.Sprintf("%s is %s (%s)", n.What, n.State, n.Says))
		}
	}
	return out
}

// writeOrigins records where items came from and gives the origins it replaced.
func (d *Desk) writeOrigins(tx *gorm.DB, c *store.Collection, info *DeliveryInfo, r *plan.Result) ([]store.Origin, error) {
	var rows []store.Item
	if err := tx.Where("collection_id = ? AND to_rev = ?", c.ID, store.Forever).Find(&rows).Error; err != nil {
		return nil, err
	}
	byAddr := map[item.Address]store.Item{}
	for _, row := range rows {
		byAddr[row.Address()] = row
	}
	var prior []store.Origin
	if err := tx.Where("collection_id = ? AND kit = ?", c.ID, info.Kit).Find(&prior).Error; err != nil {
		return nil, err
	}
	keep := map[item.Address]bool{}
	for _, row := range r.Plan.Rows {
		// What the site keeps as its own did not come from the kit.
		if row.Standing == plan.Taken && row.Decision == plan.Keep {
			keep[row.Address] = true
		}
	}
	for _, x := range append(append([]plan.Put{}, r.Puts...), r.Kept...) {
		if x.KitAddress.IsZero() || keep[x.KitAddress] {
			continue
		}
		row, ok := byAddr[x.Head.Address]
		if !ok {
			continue
		}
		o := store.Origin{CollectionID: c.ID, Kit: info.Kit, KitKind: string(x.KitAddress.Kind), KitKey: x.KitAddress.Key, Copy: 1, Version: info.Version, ItemID: row.ItemID, Sense: x.Head.Sense, DeliveryID: info.ID}
		up := clause.OnConflict{Columns: []clause.Column{{Name: "collection_id"}, {Name: "kit"}, {Name: "kit_kind"}, {Name: "kit_key"}, {Name: "copy"}}, DoUpdates: clause.AssignmentColumns([]string{"version", "item_id", "sense", "delivery_id"})}
		if err := tx.Clauses(up).Create(&o).Error; err != nil {
			return nil, err
		}
	}
	return prior, nil
}
