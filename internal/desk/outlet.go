package desk

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"net/url"
	"path"
	"path/filepath"
	"sync"
	"time"

	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/core/workers"
	"compactparcel/internal/outlet"
	"compactparcel/internal/store"
)

func digestOfFile(r io.Reader) (item.Digest, error) {
	sum := sha256.New()
	_, err := io.Copy(sum, r)
	return item.Digest(hex.EncodeToString(sum.Sum(nil))), err
}

// Outlets lists where a site is published by itself.
func (d *Desk) Outlets(ctx context.Context, p Person, site string) ([]store.Outlet, error) {
	if err := p.may(Viewer, "site "+site); err != nil {
		return nil, err
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return nil, err
	}
	rows, err := d.outlets(ctx, c.ID)
	return rows, explain("site "+site, err)
}

func (d *Desk) outlets(ctx context.Context, collection int64) ([]store.Outlet, error) {
	rows, err := d.Store.Read(ctx).Outlets().Of(collection)
	return rows, err
}

// NewOutlet says where a site shall be published by itself.
type NewOutlet struct {
	Name string
	// Folder is relative to the service's folder of outlets; empty means SITE/NAME.
	Folder string
	Base   string
	Links  string
	// Forms is where forms are sent: "here" to this service, an address with {form} in the place of
	// a form's name, or nowhere.
	Forms string
}

// FormsHere lets an outlet's forms be sent to this service.
const FormsHere = "here"

// formsOf gives the address to which a site's forms are sent.
func (d *Desk) formsOf(site, where string) (string, error) {
	if where != FormsHere {
		return where, nil
	}
	if d.FormsAt == "" {
		return "", problem(Refused, "the forms of "+site, To(CheckOptions), "this service receives no forms")
	}
	return d.FormsAt + "/" + url.PathEscape(site) + "/{form}", nil
}

// AddOutlet adds an outlet and publishes the live site there.
func (d *Desk) AddOutlet(ctx context.Context, p Person, site string, in NewOutlet) (*store.Outlet, error) {
	what := "outlet " + in.Name + " of " + site
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	if d.OutletRoot == "" {
		return nil, problem(Refused, what, To(EnableOutlets), "this service has no folder for outlets")
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return nil, err
	}
	if item.CheckKey(in.Name) != nil || len(in.Name) > 60 {
		return nil, problem(BadInput, what, Form("main: lower-case letters, digits and dashes"),
			"this cannot be an outlet's name")
	}
	if in.Folder == "" {
		in.Folder = site + "/" + in.Name
	}
	if len(in.Folder) > 400 {
		return nil, problem(BadInput, what, To(Shorten), "a folder's path can have at most 400 bytes")
	}
	in.Folder = path.Clean(filepath.ToSlash(in.Folder))
	if err := outlet.CheckPath(in.Folder); err != nil {
		return nil, problem(BadInput, what, Form("huts/larch"), "%s", err)
	}
	forms, err := d.formsOf(site, in.Forms)
	if err != nil {
		return nil, err
	}
	o := folder.Options{Base: in.Base, Links: in.Links, Forms: forms}
	if err := o.Check(); err != nil {
		return nil, problem(BadInput, what, To(CheckOptions), "%s", err)
	}
	row := &store.Outlet{
		CollectionID: c.ID,
		Name:         in.Name,
		Folder:       in.Folder,
		Base:         o.Base,
		Links:        o.Links,
		Forms:        in.Forms,
		ByUser:       p.Name,
		CreatedAt:    d.Now(),
	}
	var did committed
	err = d.Store.Exclusively(ctx, "outlets", 10*time.Second, func() (err error) {
		did, err = d.commit(ctx, func(tx *store.Tx) error {
			all, err := tx.Outlets().List()
			if err != nil {
				return err
			}
			for _, o := range all {
				if outlet.Overlap(o.Folder, row.Folder) && (o.CollectionID != c.ID || o.Name != row.Name) {
					return problem(Exists, what, To(ChooseOtherName), "another outlet already publishes to %s",
						o.Folder)
				}
			}
			if err := tx.Outlets().Create(row); err != nil {
				return err
			}
			return d.audit(tx, p, "outlet", what, row.Folder)
		})
		return err
	})
	if store.IsDuplicate(err) {
		return nil, problem(Exists, what, To(ChooseOtherName), "there is already an outlet of this name")
	}
	if err != nil {
		return nil, explain(what, err)
	}
	return after(did, func() (*store.Outlet, error) {
		_, err := d.publishTo(ctx, c, row, false)
		return row, explain(what, err)
	})
}

// RemoveOutlet forgets an outlet. The folder and what is in it stay.
func (d *Desk) RemoveOutlet(ctx context.Context, p Person, site, name string) error {
	what := "outlet " + name + " of " + site
	if err := p.may(Keeper, what); err != nil {
		return err
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return err
	}
	err = d.Store.Tx(ctx, func(tx *store.Tx) error {
		was, err := tx.Outlets().Delete(c.ID, name)
		if err != nil {
			return err
		}
		if !was {
			return problem(NotFound, what, To(CheckName), "there is no such outlet")
		}
		return d.audit(tx, p, "outlet-removed", what, "")
	})
	return explain(what, err)
}

// PublishOutlet publishes the live site into one outlet now; over allows what somebody
// changed there to be written over. back, when it is not 0, shows an older release
// again instead.
func (d *Desk) PublishOutlet(
	ctx context.Context,
	p Person,
	site, name string,
	over bool,
	back int,
) (*store.Outlet, *outlet.Result, error) {
	what := "outlet " + name + " of " + site
	if err := p.may(Keeper, what); err != nil {
		return nil, nil, err
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return nil, nil, err
	}
	row, err := d.Store.Read(ctx).Outlets().ByName(c.ID, name)
	if err != nil {
		return nil, nil, explain(what, err)
	}
	if back != 0 {
		f, err := outlet.Open(d.outletDir(row))
		if err == nil {
			err = f.Back(back)
		}
		if err != nil {
			return nil, nil, problem(NotFound, what, To(ChooseRelease), "%s", err)
		}
		row.ReleaseNumber = back
		row.Message = fmt.Sprintf("release %d is shown again by %s; the next publication shows the live site", back,
			p.Name)
		row.SiteDigest, row.Attempts, row.TryAt = c.Digest, 0, nil
		return row, &outlet.Result{Number: back, Edits: []outlet.Edit{}}, explain(what, d.noteOutlet(ctx, row))
	}
	r, err := d.publishTo(ctx, c, row, over)
	if err != nil {
		return nil, nil, explain(what, err)
	}
	if r == nil {
		return nil, nil, problem(Refused, what, To(AdoptEdits, "site", c.Name), "%s", row.Message)
	}
	return row, r, nil
}

func (d *Desk) outletDir(row *store.Outlet) string {
	return filepath.Join(d.OutletRoot, filepath.FromSlash(row.Folder))
}

// noteOutlet writes down how an outlet stands.
func (d *Desk) noteOutlet(ctx context.Context, row *store.Outlet) error {
	return d.Store.Read(ctx).Outlets().Note(row)
}

// How long an outlet that failed waits: at first, and at the most.
const (
	firstPause = 15 * time.Second
	maxPause   = 6 * time.Hour
)

// pause is how long an outlet waits after so many failures in a row.
func pause(attempts int) time.Duration {
	p := firstPause
	for i := 1; i < attempts && p < maxPause; i++ {
		p *= 2
	}
	return min(p, maxPause)
}

// publishTo writes a site's live state into an outlet and notes how it went: without a
// result it was not published, and row says why. What fails is tried again, later and later.
func (d *Desk) publishTo(
	ctx context.Context,
	c *store.Collection,
	row *store.Outlet,
	over bool,
) (*outlet.Result, error) {
	var result *outlet.Result
	err := workers.Guard(func() (err error) {
		result, err = d.writeOutlet(ctx, c, row, over)
		return err
	})
	row.Message = ""
	now := d.Now()
	if err != nil {
		next := now.Add(pause(row.Attempts + 1))
		row.Message, row.Attempts, row.TryAt = cut(err.Error(), 980), row.Attempts+1, &next
		d.Log.Warn("publishing to an outlet", "site", c.Name, "outlet", row.Name, "attempt", row.Attempts, "again",
			next, "error", err, "stack", workers.Stack(err))
		result = nil
	} else {
		row.ReleaseNumber, row.PublishedAt, row.SiteDigest, row.Attempts, row.TryAt = result.Number, &now, c.Digest, 0,
			nil
	}
	return result, d.noteOutlet(ctx, row)
}

func (d *Desk) writeOutlet(
	ctx context.Context,
	c *store.Collection,
	row *store.Outlet,
	over bool,
) (*outlet.Result, error) {
	f, err := outlet.Open(d.outletDir(row))
	if err != nil {
		return nil, err
	}
	v, err := d.Store.Live(ctx, c)
	if err != nil {
		return nil, err
	}
	o := folder.Options{
		Site:     c.Name,
		Revision: v.Rev,
		Digest:   v.Digest(),
		Base:     row.Base,
		Links:    row.Links,
		Facts:    v.Facts,
	}
	if o.Forms, err = d.formsOf(c.Name, row.Forms); err != nil {
		return nil, err
	}
	if !over { // else all is written anew, whatever the digest says
		if same, err := f.Unchanged(o, render.Engine); err != nil || same != nil {
			return same, err
		}
	}
	return f.Publish(over, func(out folder.Out) (*folder.Release, error) {
		rel, notes, err := folder.Publish(v, o, out)
		for _, n := range notes {
			d.Log.Info("publishing to an outlet", "site", c.Name, "outlet", row.Name, "file", n.Path, "note", n.Why)
		}
		return rel, err
	})
}

// publishPatience is how long who puts something live waits for its publication. It goes on after that.
const publishPatience = 5 * time.Second

// publishOutlets publishes a site into all its outlets: the last act of going live. It goes on when the
// request ends, or has waited long enough.
func (d *Desk) publishOutlets(ctx context.Context, collection int64) {
	ended := make(chan struct{})
	d.GoOn(func(ctx context.Context) {
		defer close(ended)
		d.publishSite(ctx, collection)
	})
	patience := time.NewTimer(publishPatience)
	defer patience.Stop()
	select {
	case <-ended:
	case <-patience.C:
	case <-ctx.Done():
	}
}

// publishSite publishes a site into those of its outlets that are behind, other sites beside it. What cannot be
// published is noted at the outlet; the site is live all the same.
func (d *Desk) publishSite(ctx context.Context, collection int64) {
	if d.OutletRoot == "" {
		return
	}
	defer d.publishing.lock(collection)()
	rows, err := d.outlets(ctx, collection)
	if err != nil { // CatchUpOutlets does it
		d.Log.Warn("publishing to outlets", "error", err)
		return
	}
	if len(rows) == 0 {
		return
	}
	c, err := d.Store.Read(ctx).Collections().ByID(collection)
	if err != nil {
		d.Log.Warn("publishing to outlets", "error", err)
		return
	}
	for i := range rows {
		if rows[i].SiteDigest == c.Digest {
			continue
		}
		if _, err := d.publishTo(ctx, c, &rows[i], false); err != nil {
			d.Log.Warn("publishing to an outlet", "site", c.Name, "outlet", rows[i].Name, "error", err)
		}
	}
}

// locks are locks by number, made when they are wanted.
type locks struct{ byNumber sync.Map }

// lock takes one, and gives what lets go of it.
func (l *locks) lock(n int64) (unlock func()) {
	mu, _ := l.byNumber.LoadOrStore(n, &sync.Mutex{})
	mu.(*sync.Mutex).Lock()
	return mu.(*sync.Mutex).Unlock
}

// publishedAtOnce is how many sites are caught up with at once: each takes memory for its pages.
const publishedAtOnce = 4

// CatchUpOutlets publishes what went live while nobody could publish it, and tries again
// what failed, when its time has come.
func (d *Desk) CatchUpOutlets(ctx context.Context) error {
	ids, err := d.Store.Read(ctx).Outlets().Behind(d.Now())
	failed := workers.Guard(func() error {
		return workers.Some(publishedAtOnce, len(ids), func(_, i int) error { d.publishSite(ctx, ids[i]); return nil })
	})
	if failed != nil { // it panicked; what fails otherwise is noted at its outlet
		d.Log.Error("publishing to outlets", "error", failed, "stack", workers.Stack(failed))
	}
	if err != nil && !errors.Is(err, context.Canceled) {
		return fmt.Errorf("looking for outlets that are behind: %w", err)
	}
	return nil
}

// CatchUpEvery is how often outlets are looked after.
const CatchUpEvery = 5 * time.Second
