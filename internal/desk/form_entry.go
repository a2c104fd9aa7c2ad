package desk

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"compactparcel/core/form"
	"compactparcel/core/item"
	"compactparcel/internal/store"
)

// SiteForm is a form of a site with what was sent.
type SiteForm struct {
	Name     string
	Title    string
	Receiver form.Receiver
	Entries  store.EntryCount
	At       string // where it is received
	// Recent is how many entries came within an hour; Note is a word to the keeper where that, or all that is
	// kept, is more than is usual.
	Recent int64
	Note   string
}

// floodedFrom is from how many entries an hour on a form may be flooded.
const floodedFrom = 100

// note says what a keeper should know of the entries of a form.
func (f SiteForm) note() string {
	switch {
	case f.Entries.Entries >= store.MaxFormEntries:
		return fmt.Sprintf("It is full: %d entries are kept, and no more is taken until some are deleted.",
			f.Entries.Entries)
	case f.Recent >= floodedFrom:
		return fmt.Sprintf("%d entries came within the last hour: somebody may be flooding it.", f.Recent)
	case f.Entries.Entries >= store.MaxFormEntries*9/10:
		return fmt.Sprintf("It is nearly full: %d of %d entries.", f.Entries.Entries, store.MaxFormEntries)
	}
	return ""
}

// SiteForms lists the forms of a site, those too that have entries and are there no more.
func (d *Desk) SiteForms(ctx context.Context, p Person, site string) ([]SiteForm, error) {
	what := "site " + site
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	v, err := d.Look(ctx, p, site, 0)
	if err != nil {
		return nil, err
	}
	receivers, err := receiversOf(v)
	if err != nil {
		return nil, problem(BadInput, what, To(FixContent), "%v", err)
	}
	counts, err := d.Store.Read(ctx).FormEntries().Count(v.Collection.ID)
	if err != nil {
		return nil, explain(what, err)
	}
	recent, err := d.Store.Read(ctx).FormEntries().Since(v.Collection.ID, d.Now().Add(-time.Hour))
	if err != nil {
		return nil, explain(what, err)
	}
	var out []SiteForm
	for _, h := range v.OfKind(item.Form) {
		name := h.Address.Key
		x := SiteForm{Name: name, Receiver: receivers[name], Entries: counts[name], At: d.formAddress(site, name)}
		f, err := formOf(v, name)
		switch {
		case err == nil:
			x.Title = f.Title
		case !errors.Is(err, ErrNoForm):
			return nil, explain(what, err)
		}
		out = append(out, x)
		delete(counts, name)
	}
	for name, n := range counts {
		out = append(out, SiteForm{Name: name, Entries: n})
	}
	for i := range out {
		out[i].Recent = recent[out[i].Name]
		out[i].Note = out[i].note()
	}
	slices.SortFunc(out, func(a, b SiteForm) int { return strings.Compare(a.Name, b.Name) })
	return out, nil
}

// formAddress is where this service receives a form; "" where it receives none.
func (d *Desk) formAddress(site, name string) string {
	if d.FormsAt == "" {
		return ""
	}
	return d.FormsAt + "/" + url.PathEscape(site) + "/" + name
}

// FormEntry is an entry with the mails about it.
type FormEntry struct {
	ID     int64
	At     time.Time
	Fields form.Entry
	Mails  []store.FormMail
}

// FormEntries lists the entries of a form, the newest first. It gives the form as it is now, too; nil
// where it is there no more.
func (d *Desk) FormEntries(ctx context.Context, p Person, site string, q store.EntryQuery) (*form.Form, []FormEntry,
	error) {
	what := fmt.Sprintf("form/%s of %s", q.Form, site)
	if err := p.may(Keeper, what); err != nil {
		return nil, nil, err
	}
	v, err := d.Look(ctx, p, site, 0)
	if err != nil {
		return nil, nil, err
	}
	f, err := formOf(v, q.Form)
	if err != nil && !errors.Is(err, ErrNoForm) {
		return nil, nil, explain(what, err)
	}
	q.Collection = v.Collection.ID
	rows, err := d.Store.Read(ctx).FormEntries().List(q)
	if err != nil {
		return nil, nil, explain(what, err)
	}
	if f == nil && len(rows) == 0 && q.Before == 0 && q.Words == "" {
		return nil, nil, problem(NotFound, what, To(ShowItems, "site", site), "there is no such form")
	}
	mails, err := d.Store.Read(ctx).FormEntries().Mails(rows)
	if err != nil {
		return nil, nil, explain(what, err)
	}
	out := make([]FormEntry, len(rows))
	for i, r := range rows {
		out[i] = FormEntry{ID: r.ID, At: r.At, Mails: mails[r.ID]}
		if out[i].Fields, err = r.Entry(); err != nil {
			return nil, nil, explain(what, err)
		}
	}
	return f, out, nil
}

// entriesRead is how many entries are read at once.
const entriesRead = 500

// EachFormEntry reads the entries of a form before a number, or all where that is 0, the newest first, some at a time.
// It gives the form as it is now, too; nil where it is there no more.
func (d *Desk) EachFormEntry(
	ctx context.Context, p Person, site, name string, before int64, use func(FormEntry) error,
) (*form.Form, error) {
	q := store.EntryQuery{Form: name, Before: before, Limit: entriesRead}
	for {
		f, list, err := d.FormEntries(ctx, p, site, q)
		if err != nil {
			return nil, err
		}
		for _, e := range list {
			if err := use(e); err != nil {
				return nil, err
			}
		}
		if len(list) < entriesRead {
			return f, nil
		}
		q.Before = list[len(list)-1].ID
	}
}

// DeleteEntries removes entries of a form: one, or all that came before a time. It gives how many went.
func (d *Desk) DeleteEntries(
	ctx context.Context, p Person, site, name string, entry int64, before *time.Time,
) (n int64, err error) {
	what := fmt.Sprintf("form/%s of %s", name, site)
	if err := p.may(Keeper, what); err != nil {
		return 0, err
	}
	if entry == 0 && before == nil {
		return 0, problem(BadInput, what, To(CheckOptions), "say which entry, or before which time")
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return 0, err
	}
	err = d.Store.Tx(ctx, func(tx *store.Tx) error {
		if n, err = tx.FormEntries().Delete(c.ID, name, entry, before); err != nil {
			return err
		}
		if _, again := store.Repeated(ctx); n == 0 && before == nil && !again {
			return problem(NotFound, what, To(ShowItems, "site", site), "there is no entry %d", entry)
		}
		return d.audit(tx, p, "delete-entries", what, fmt.Sprintf("%d entries", n))
	})
	return n, explain(what, err)
}

// forgetEntries removes the entries that were kept for as long as their sites say. A site that cannot be
// read keeps nobody else's.
func (d *Desk) forgetEntries(ctx context.Context) error {
	ids, err := d.Store.Read(ctx).FormEntries().Sites()
	if err != nil {
		return err
	}
	var failed []error
	for _, id := range ids {
		if err := d.forgetEntriesOf(ctx, id); err != nil {
			failed = append(failed, fmt.Errorf("the entries of site %d: %w", id, err))
		}
	}
	return errors.Join(failed...)
}

func (d *Desk) forgetEntriesOf(ctx context.Context, site int64) error {
	c, err := d.Store.Read(ctx).Collections().ByID(site)
	if err != nil {
		return err
	}
	v, err := d.Store.Live(ctx, c)
	if err != nil {
		return err
	}
	receivers, err := receiversOf(v)
	if err != nil {
		return err
	}
	for name, r := range receivers {
		if r.KeepDays <= 0 {
			continue
		}
		before := d.Now().Add(-time.Duration(r.KeepDays) * 24 * time.Hour)
		if _, err := d.Store.Read(ctx).FormEntries().Delete(site, name, 0, &before); err != nil {
			return err
		}
	}
	return nil
}
