package desk

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strings"

	"compactparcel/core/edit"
	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/core/steps"
	"compactparcel/internal/store"
)

// Edit is a change of one item, laid into a draft.
type Edit struct {
	Site    string
	Draft   int64 // 0 makes a new one
	Address item.Address
	Delete  bool
	Content []byte     // nil keeps what is there
	File    io.Reader  // of media, in the place of Content
	Meta    *item.Meta // nil keeps what is there
	// IfMatch is the state that the person saw; empty for an item that is new.
	IfMatch item.Digest
}

// Edited is an edit in its draft.
type Edited struct {
	Draft *store.Draft
	State item.Digest
	Step  int // its number in the draft's log; 0 where nothing changed
	// Along are the items that changed with it: pages below one that moved, and what links to them.
	Along []item.Address
	// Behind are those whose scripts may go on naming an address that a page left.
	Behind []item.Address
}

// EditItem lays a change into a draft. What the person saw is held against the draft while it is
// locked: of two edits of one thing one is told that it came late. Where a page gets another
// address, the pages below it and all links follow.
func (d *Desk) EditItem(ctx context.Context, p Person, e Edit) (*Edited, error) {
	what := e.Site + " " + e.Address.String()
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	c, err := d.site(ctx, e.Site)
	if err != nil {
		return nil, err
	}
	kept := item.Head{Address: e.Address}
	if e.Content != nil {
		if err := e.checkContent(); err != nil {
			return nil, err
		}
	}
	if e.File != nil {
		if kept, err = d.keepMedia(ctx, kept, e.File); err != nil {
			return nil, explain(what, err)
		}
	}
	var out Edited
	err = d.Store.Tx(ctx, func(tx *store.Tx) error {
		ctx := tx.Context()
		out = Edited{}
		on, err := d.editing(tx, c.ID, p, e)
		if err != nil {
			return err
		}
		out.Draft = on.draft
		view := on.view
		if err := d.carry(ctx, tx, on.draft, view, &e); err != nil {
			return err
		}
		h, err := d.edited(ctx, view, e, kept)
		if err != nil {
			return err
		}
		out.State = h.State()
		now, there := view.Find(e.Address)
		if there && !e.Delete && now.State() == out.State {
			return nil // it says nothing new, or says it once more
		}
		changes, says := []store.Change{{Delete: e.Delete, Head: h}}, e.says(there)
		if there && !e.Delete && now.Meta.Slug != h.Meta.Slug {
			if changes, err = d.moved(ctx, view, h, now.Meta.Slug, &out); err != nil {
				return err
			}
			says = fmt.Sprintf("moved %s from %s to %s", e.Address, now.Meta.Slug, h.Meta.Slug)
		}
		step := steps.Step{Kind: steps.Do, By: p.Name}
		if there && e.Content != nil {
			step.Typing = p.session
		}
		out.Step, err = on.lay(step, says, d.Now(), changes)
		return err
	})
	if err != nil {
		return nil, explain(what, err)
	}
	return &out, nil
}

// moved gives what changes when an edit gives a page another address.
func (d *Desk) moved(
	ctx context.Context, view *store.View, h item.Head, from string, out *Edited,
) ([]store.Change, error) {
	to := h.Meta.Slug
	h.Meta.Slug = from // the rest of the edit comes first
	m, err := edit.Move(view.With(ctx).Laid([]store.Change{{Head: h}}), h.Address, to)
	var taken *edit.TakenError
	if errors.As(err, &taken) {
		return nil, problem(Exists, h.Address.String(), To(ChooseOtherAddress), "%s is already at %s", taken.By,
			taken.Slug)
	}
	if err != nil {
		return nil, err
	}
	out.Behind = m.Behind
	var changes []store.Change
	for _, c := range m.Changes {
		if c.Content != nil {
			if c.Head, err = d.keepOne(ctx, c.Head, c.Content); err != nil {
				return nil, err
			}
		}
		if c.Head.Address == h.Address {
			out.State = c.Head.State()
		} else {
			out.Along = append(out.Along, c.Head.Address)
		}
		changes = append(changes, store.Change{Head: c.Head})
	}
	return changes, nil
}

// edited gives an item as an edit makes it of what the draft has.
func (d *Desk) edited(ctx context.Context, view *store.View, e Edit, kept item.Head) (item.Head, error) {
	what := e.Site + " " + e.Address.String()
	h, there := view.Find(e.Address)
	_, repeated := store.Repeated(ctx)
	switch {
	case !there && e.Delete && repeated:
		return item.Head{Address: e.Address}, nil
	case !there && (e.Delete || e.Content == nil && e.File == nil):
		return h, problem(NotFound, what, To(ShowItems, "site", e.Site), "there is no such item")
	case there && e.IfMatch == "" && e.Delete && !repeated:
		return h, problem(Stale, what, To(ReadAgain), "name the state that you have read (If-Match)")
	case there && e.IfMatch == "" && !repeated:
		return h, problem(Exists, what, To(ReadAgain), "it already exists")
	case there && e.IfMatch != h.State() && !repeated:
		return h, problem(Stale, what, To(ReadAgain), "somebody else has changed it since you read it")
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
	if !there && e.Address.Kind == item.Part && h.Meta.Role == "" {
		if h.Meta.Role = render.RoleOf(e.Address.Key, e.Content); h.Meta.Role == "" {
			return h, problem(BadInput, what, To(CheckOptions),
				"nothing says what it is on a page: give it a role (%s)",
				strings.Join(item.RoleNames(), ", "))
		}
	}
	if err := item.CheckHead(h); err != nil {
		return h, problem(BadInput, what, To(Shorten), "%s", err)
	}
	if h.Address.Kind == item.Page {
		if err := item.CheckSlug(h.Meta.Slug); err != nil {
			return h, problem(BadInput, what, Form("/path/"), "%s", err)
		}
		if other, ok := view.PageAt(h.Meta.Slug); ok && other != e.Address {
			return h, problem(Exists, what, To(ChooseOtherAddress), "%s is already at %s", other, h.Meta.Slug)
		}
	}
	switch {
	case e.File != nil:
		h.Doc, h.NormalizedDigest, h.Bytes = kept.Doc, kept.NormalizedDigest, kept.Bytes
		if isFile(h) {
			break
		}
		f, err := d.Store.Facts(ctx, h)
		if err != nil {
			return h, err
		}
		if f.Broken != "" {
			return h, problem(BadInput, what, To(FixContent), "%s", f.Broken)
		}
		h.NormalizedDigest = f.NormalizedDigest
	case e.Content != nil:
		var err error
		if h, err = d.keepOne(ctx, h, e.Content); err != nil {
			return h, err
		}
		f, err := d.Store.Facts(ctx, h)
		if err != nil {
			return h, err
		}
		if f.Broken != "" {
			return h, problem(BadInput, what, To(FixContent), "%s", f.Broken)
		}
	}
	return h, nil
}

// says what an edit does, for the draft's log.
func (e Edit) says(there bool) string {
	switch {
	case e.Delete:
		return "removed " + e.Address.String()
	case !there:
		return "added " + e.Address.String()
	}
	return "changed " + e.Address.String()
}

// checkContent refuses a text that is too long to be read.
func (e Edit) checkContent() error {
	if len(e.Content) > folder.MaxTextBytes {
		return problem(TooLarge, e.Site+" "+e.Address.String(), To(Shorten), "a text can have at most %d MB",
			folder.MaxTextBytes>>20)
	}
	return nil
}

// keepMedia keeps a file as it streams.
func (d *Desk) keepMedia(ctx context.Context, h item.Head, r io.Reader) (item.Head, error) {
	doc, n, err := d.Store.PutBlob(ctx, r, d.Now())
	h.Doc, h.NormalizedDigest, h.Bytes = doc, doc, n
	return h, err
}

// LiveNow is what going live came to.
type LiveNow struct {
	Revision int64
	Digest   item.Digest // of the site
	Unshown  []UnshownPage
}

// GoLive puts a draft live. A draft of a delivery goes live by its delivery.
func (d *Desk) GoLive(ctx context.Context, p Person, site string, id int64) (*LiveNow, error) {
	rev, did, err := d.goLive(ctx, p, site, id, nil)
	if err != nil {
		return nil, err
	}
	return after(did, func() (*LiveNow, error) {
		c, err := d.site(ctx, site)
		if err != nil {
			return nil, err
		}
		unshown, err := d.unshown(ctx, c, rev)
		return &LiveNow{rev, c.Digest, unshown}, err
	})
}

// goLive is GoLive while a draft is as may says; it is asked within the transaction, with the draft
// locked.
func (d *Desk) goLive(
	ctx context.Context, p Person, site string, id int64, may func(*store.Draft) error,
) (rev int64, did committed, err error) {
	what := fmt.Sprintf("draft %d of %s", id, site)
	if err := p.may(Keeper, what); err != nil {
		return 0, did, err
	}
	dr, err := d.draftOf(ctx, site, id)
	if err != nil {
		return 0, did, err
	}
	del, err := d.Store.Read(ctx).Deliveries().OfDraft(id)
	if err == nil {
		info, err := d.deliveryGoLive(ctx, p, del.ID, nil, may)
		if err != nil {
			return 0, did, err
		}
		return *info.LiveRev, committedBefore, nil
	}
	if !errors.Is(err, store.ErrNotFound) {
		return 0, did, explain(what, err)
	}
	did, err = d.commit(ctx, func(tx *store.Tx) error {
		locked, err := tx.Collections().Lock(dr.CollectionID)
		if err != nil {
			return err
		}
		now, err := tx.LockDraft(id)
		if _, again := store.Repeated(ctx); again && now != nil && now.LiveRev != nil {
			rev = *now.LiveRev
			return nil
		}
		if err != nil {
			return err
		}
		if may != nil {
			if err := may(now); err != nil {
				return err
			}
		}
		if err := d.upToDate(tx, locked, now, what, site); err != nil {
			return err
		}
		rev, err = tx.GoLive(locked, now,
			store.Note{By: p.Name, Act: "go-live", Message: "draft “" + now.Name + "” went live", At: d.Now()})
		if err != nil {
			return err
		}
		return d.audit(tx, p, "go-live", what, "")
	})
	if err != nil {
		return 0, did, explain(what, err)
	}
	d.publishOutlets(ctx, dr.CollectionID)
	return rev, did, nil
}

// draftOf gives a draft of a site.
func (d *Desk) draftOf(ctx context.Context, site string, id int64) (*store.Draft, error) {
	c, err := d.site(ctx, site)
	if err != nil {
		return nil, err
	}
	dr, err := d.draft(ctx, id)
	if err != nil {
		return nil, err
	}
	if dr.CollectionID != c.ID {
		return nil, problem(NotFound, fmt.Sprintf("draft %d of %s", id, site), To(ShowDrafts),
			"it is not a draft of %s", site)
	}
	return dr, nil
}

// Discard throws an open draft away.
func (d *Desk) Discard(ctx context.Context, p Person, site string, id int64) error {
	what := fmt.Sprintf("draft %d of %s", id, site)
	if err := p.may(Keeper, what); err != nil {
		return err
	}
	dr, err := d.draftOf(ctx, site, id)
	if err != nil {
		return err
	}
	err = d.Store.Tx(ctx, func(tx *store.Tx) error {
		if _, err := tx.Collections().Lock(dr.CollectionID); err != nil {
			return err
		}
		now, err := tx.LockDraft(id)
		if _, again := store.Repeated(ctx); again && now != nil && now.State == store.DraftDiscarded {
			return nil
		}
		if err != nil {
			return err
		}
		if err := tx.DiscardDraft(id); err != nil {
			return err
		}
		return d.audit(tx, p, "discard", what, "")
	})
	return explain(what, err)
}
