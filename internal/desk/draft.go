package desk

import (
	"context"
	"fmt"

	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/internal/store"

	"gorm.io/gorm"
)

// Edit is a change of one item, laid into a draft.
type Edit struct {
	Site    string
	Draft   int64 // 0 makes a new one
	Address item.Address
	Delete  bool
	Content []byte     // nil keeps what is there
	Meta    *item.Meta // nil keeps what is there
	// IfMatch is the state that the person saw; empty for an item that is new.
	IfMatch item.Digest
}

// EditItem lays a change into a draft and gives the draft and the item's new state.
func (d *Desk) EditItem(ctx context.Context, p Person, e Edit) (*store.Draft, item.Digest, error) {
	what := e.Site + " " + e.Address.String()
	if err := p.may(Keeper, what); err != nil {
		return nil, "", err
	}
	c, err := d.site(ctx, e.Site)
	if err != nil {
		return nil, "", err
	}
	view, err := d.Look(ctx, p, e.Site, e.Draft)
	if err != nil {
		return nil, "", err
	}
	live, err := d.Store.Live(ctx, c)
	if err != nil {
		return nil, "", explain(what, err)
	}
	if e.Draft != 0 && view.Draft.State != store.DraftOpen {
		return nil, "", problem(Refused, what, "make a new draft", "draft %d is %s", e.Draft, view.Draft.State)
	}
	h, there := view.Find(e.Address)
	switch {
	case !there && (e.Delete || e.Content == nil):
		return nil, "", problem(NotFound, what, "look at the site's items", "there is no such item")
	case there && e.IfMatch == "":
		return nil, "", problem(Exists, what, "read it first, and send its ETag as If-Match", "it is there already")
	case there && e.IfMatch != h.State():
		return nil, "", problem(Stale, what, "read it again, and make the change anew", "somebody has changed it since you read it")
	}
	base := item.Digest("")
	if l, ok := live.ByID(h.ID); ok && there {
		base = l.State()
	}
	if !there {
		h = item.Head{ID: store.NewID(), Address: e.Address}
		if e.Address.Kind == item.Media {
			h.Meta.MediaType = folder.MediaTypeOf(e.Address.Key)
		}
	}
	if e.Meta != nil {
		h.Meta = *e.Meta
	}
	if h.Address.Kind == item.Page {
		if err := item.CheckSlug(h.Meta.Slug); err != nil {
			return nil, "", problem(BadInput, what, "write it as /path/", "%s", err)
		}
		if other, ok := view.PageAt(h.Meta.Slug); ok && other != e.Address {
			return nil, "", problem(Exists, what, "choose another address", "%s is already at %s", other, h.Meta.Slug)
		}
	}
	if e.Content != nil {
		if h.Doc, err = d.Store.PutContent(ctx, h.Address.Kind, e.Content, d.Now()); err != nil {
			return nil, "", explain(what, err)
		}
		h.Bytes = int64(len(e.Content))
		f, err := d.Store.KeepFacts(ctx, h, e.Content)
		if err != nil {
			return nil, "", explain(what, err)
		}
		if f.Broken != "" {
			return nil, "", problem(BadInput, what, "mend it; nothing was kept", "%s", f.Broken)
		}
		h.Sense = f.Sense
	}
	draft := view.Draft
	err = d.Store.Tx(ctx, func(tx *gorm.DB) error {
		if draft == nil {
			if draft, err = d.Store.NewDraft(tx, c, "edits by "+p.Name, p.Name, d.Now()); err != nil {
				return err
			}
		}
		return d.Store.PutDraftItem(tx, draft, store.Change{Delete: e.Delete, Head: h}, base)
	})
	return draft, h.State(), explain(what, err)
}

// GoLive puts a draft live. A draft of a delivery goes live by its delivery.
func (d *Desk) GoLive(ctx context.Context, p Person, site string, id int64) (int64, error) {
	what := fmt.Sprintf("draft %d of %s", id, site)
	if err := p.may(Keeper, what); err != nil {
		return 0, err
	}
	dr, err := d.draft(ctx, id)
	if err != nil {
		return 0, err
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return 0, err
	}
	if dr.CollectionID != c.ID {
		return 0, problem(NotFound, what, "look at the site's drafts", "it is not a draft of %s", site)
	}
	if dr.State != store.DraftOpen {
		return 0, problem(Refused, what, "look at the site's drafts", "it is %s", dr.State)
	}
	var del store.Delivery
	if d.Store.DB(ctx).Where("draft_id = ? AND state = ?", id, Staged).Take(&del).Error == nil {
		info, err := d.DeliveryLive(ctx, p, del.ID, nil)
		if err != nil {
			return 0, err
		}
		return *info.LiveRev, nil
	}
	var rev int64
	err = d.Store.Tx(ctx, func(tx *gorm.DB) error {
		locked, err := store.Lock(tx, dr.CollectionID)
		if err != nil {
			return err
		}
		rev, err = d.Store.GoLive(tx, locked, dr, store.Note{By: p.Name, Act: "go-live", Says: "draft “" + dr.Name + "” went live", At: d.Now()})
		if err != nil {
			return err
		}
		return d.audit(tx, p, "go-live", what, "")
	})
	if err == nil {
		d.publishOutlets(ctx, c.ID)
	}
	return rev, explain(what, err)
}

// Discard throws an open draft away.
func (d *Desk) Discard(ctx context.Context, p Person, site string, id int64) error {
	what := fmt.Sprintf("draft %d of %s", id, site)
	if err := p.may(Keeper, what); err != nil {
		return err
	}
	dr, err := d.draft(ctx, id)
	if err != nil {
		return err
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return err
	}
	if dr.CollectionID != c.ID {
		return problem(NotFound, what, "look at the site's drafts", "it is not a draft of %s", site)
	}
	err = d.Store.Tx(ctx, func(tx *gorm.DB) error {
		r := tx.Model(&store.Draft{}).Where("id = ? AND state = ?", id, store.DraftOpen).Update("state", store.DraftDiscarded)
		if r.Error == nil && r.RowsAffected == 0 {
			return problem(Refused, what, "look at the site's drafts", "it is %s", dr.State)
		}
		if r.Error != nil {
			return r.Error
		}
		if err := tx.Model(&store.Delivery{}).Where("draft_id = ? AND state = ?", id, Staged).Updates(map[string]any{"state": Planned, "draft_id": nil, "etag": gorm.Expr("etag + 1")}).Error; err != nil {
			return err
		}
		return d.audit(tx, p, "discard", what, "")
	})
	return explain(what, err)
}
