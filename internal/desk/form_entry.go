package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"compactparcel/core/form"
	"compactparcel/core/item"
	"compactparcel/internal/mail"
	"compactparcel/internal/store"
)

// Received is what becomes of what a visitor sent.
type Received struct {
	Text  string // what is said
	Page  string // or where the visitor is led
	Wrong []form.Wrong
	Form  *form.Form
	Back  string // where the site is served; empty when that is not known
}

// ErrNoForm tells that no site has a form of this name.
var ErrNoForm = errors.New("there is no such form")

// ErrTooFast tells that too much was sent from one place.
var ErrTooFast = errors.New("too much was sent from there")

// setForms is the setting that says who gets what is sent.
var setForms = item.Address{Kind: item.Setting, Key: "forms"}

// ReceiveEntry takes what a visitor sent with a form of a live site, from a network address: it is held
// against the form, kept, and mails about it are put into the queue. What fills the trap in is
// answered as all is, and not kept.
func (d *Desk) ReceiveEntry(ctx context.Context, site, name string, sent url.Values, from string) (*Received, error) {
	c, err := d.Store.Read(ctx).Collections().ByName(store.Site, site)
	if errors.Is(err, store.ErrNotFound) {
		return nil, ErrNoForm
	}
	if err != nil {
		return nil, err
	}
	view, err := d.Store.Live(ctx, c)
	if err != nil {
		return nil, err
	}
	f, err := formOf(view, name)
	if err != nil {
		return nil, err
	}
	if _, ok := d.formLimits.try(site+"/"+name+" "+from, from, d.Now()); !ok {
		return nil, ErrTooFast
	}
	out := &Received{Text: f.Confirmation.Text, Form: f}
	if out.Back, err = textSetting(view, "address"); err != nil {
		return nil, err
	}
	if strings.HasPrefix(f.Confirmation.Page, "/") && out.Back != "" {
		out.Page = strings.TrimSuffix(out.Back, "/") + f.Confirmation.Page
	}
	if sent.Get(f.Trap()) != "" {
		return out, nil
	}
	entry, wrong := f.Check(sent)
	if len(wrong) > 0 {
		out.Wrong = wrong
		return out, nil
	}
	receivers, err := receiversOf(view)
	if err != nil {
		d.Log.Warn("forms", "site", site, "error", err) // it is kept all the same, and the check tells it
	}
	text, err := json.Marshal(entry)
	if err != nil {
		return nil, err
	}
	var mails []store.Addressee
	r := receivers[name]
	if len(r.To) > 0 {
		mails = append(mails, store.ToTeam)
	}
	if sender := f.Sender(entry); r.Answer != nil && sender != "" {
		if _, ok := d.answerLimits.try(sender, sender, d.Now()); ok { // nobody is flooded in our name
			mails = append(mails, store.ToSender)
		}
	}
	err = d.Store.Tx(ctx, func(tx *store.Tx) error {
		return tx.FormEntries().Add(&store.FormEntry{CollectionID: c.ID, Form: name, At: d.Now(),
			Fields: string(text)},
			mails...)
	})
	return out, err
}

// formOf reads a form of a site; ErrNoForm when it has none that can be read.
func formOf(view *store.View, name string) (*form.Form, error) {
	h, ok := view.Find(item.Address{Kind: item.Form, Key: name})
	if !ok {
		return nil, ErrNoForm
	}
	b, err := item.Read(view, h)
	if err != nil {
		return nil, err
	}
	f, err := form.Parse(b)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrNoForm, err)
	}
	return f, nil
}

func textSetting(view *store.View, key string) (s string, err error) {
	h, ok := view.Find(item.Address{Kind: item.Setting, Key: key})
	if !ok {
		return "", nil
	}
	b, err := item.Read(view, h)
	if err != nil {
		return "", err
	}
	if json.Unmarshal(b, &s) != nil {
		s = ""
	}
	return s, nil
}

// receiversOf reads who gets what is sent with a site's forms.
func receiversOf(view *store.View) (map[string]form.Receiver, error) {
	h, ok := view.Find(setForms)
	if !ok {
		return nil, nil
	}
	b, err := item.Read(view, h)
	if err != nil {
		return nil, err
	}
	return form.Receivers(b)
}

// SiteForm is a form of a site with what was sent.
type SiteForm struct {
	Name     string
	Title    string
	Receiver form.Receiver
	Entries  store.EntryCount
	At       string // where it is received
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
	var out []SiteForm
	for _, h := range v.OfKind(item.Form) {
		name := h.Address.Key
		x := SiteForm{Name: name, Receiver: receivers[name], Entries: counts[name], At: d.formAddress(site, name)}
		if f, err := formOf(v, name); err == nil {
			x.Title = f.Title
		}
		out = append(out, x)
		delete(counts, name)
	}
	for name, n := range counts {
		out = append(out, SiteForm{Name: name, Entries: n})
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

// forgetEntries removes the entries that were kept for as long as their sites say.
func (d *Desk) forgetEntries(ctx context.Context) (int64, error) {
	ids, err := d.Store.Read(ctx).FormEntries().Sites()
	if err != nil {
		return 0, err
	}
	var total int64
	for _, id := range ids {
		c, err := d.Store.Read(ctx).Collections().ByID(id)
		if err != nil {
			return total, err
		}
		v, err := d.Store.Live(ctx, c)
		if err != nil {
			return total, err
		}
		receivers, err := receiversOf(v)
		if err != nil {
			d.Log.Warn("forms", "site", c.Name, "error", err)
			continue
		}
		for name, r := range receivers {
			if r.KeepDays <= 0 {
				continue
			}
			before := d.Now().Add(-time.Duration(r.KeepDays) * 24 * time.Hour)
			n, err := d.Store.Read(ctx).FormEntries().Delete(id, name, 0, &before)
			if total += n; err != nil {
				return total, err
			}
		}
	}
	return total, nil
}

// How a mail is tried again: after a minute, then after twice as long each time, for five days.
const (
	mailFirst = time.Minute
	mailMost  = 6 * time.Hour
	mailDays  = 5 * 24 * time.Hour
)

// SendMail sends one mail about an entry. It is a job's handler. What cannot be sent now is tried again
// later; what cannot be sent for days is failed, and says so beside its entry.
func (d *Desk) SendMail(ctx context.Context, payload json.RawMessage) (string, error) {
	var task store.MailTask
	if err := json.Unmarshal(payload, &task); err != nil {
		return "", err
	}
	e, err := d.Store.Read(ctx).FormEntries().ByID(task.Entry)
	if errors.Is(err, store.ErrNotFound) {
		return "the entry was deleted", nil
	}
	if err != nil {
		return "", err
	}
	m, err := d.Store.Read(ctx).FormEntries().Mail(task.Entry, task.Addressee)
	if err != nil {
		return "", err
	}
	if m.State == store.MailSent {
		return "it was sent", nil
	}
	m.Tries++
	m.At, m.Says, m.State = d.Now(), "", store.MailSent
	if err := d.mailFor(ctx, e, task.Addressee); err != nil {
		m.State, m.Says = store.MailWaiting, err.Error()
		if d.Now().Sub(e.At) > mailDays {
			m.State = store.MailFailed
		}
	}
	return string(m.State), d.Store.Tx(ctx, func(tx *store.Tx) error {
		if m.State == store.MailWaiting {
			later := min(mailFirst<<min(m.Tries-1, 12), mailMost)
			if err := tx.FormEntries().Queue(*m, d.Now().Add(later), d.Now()); err != nil {
				return err
			}
		}
		return tx.FormEntries().NoteMail(m)
	})
}

// mailFor writes a mail about an entry, as the site says it now, and sends it.
func (d *Desk) mailFor(ctx context.Context, e *store.FormEntry, to store.Addressee) error {
	if d.Mails == nil {
		return errors.New("this service has no mail server: start it with --smtp")
	}
	c, err := d.Store.Read(ctx).Collections().ByID(e.CollectionID)
	if err != nil {
		return err
	}
	v, err := d.Store.Live(ctx, c)
	if err != nil {
		return err
	}
	f, err := formOf(v, e.Form)
	if err != nil {
		return err
	}
	receivers, err := receiversOf(v)
	if err != nil {
		return err
	}
	entry, err := e.Entry()
	if err != nil {
		return err
	}
	r, sender := receivers[e.Form], f.Sender(entry)
	switch {
	case to == store.ToTeam && len(r.To) > 0:
		m := f.ForTeam(r, entry)
		return d.Mails.Send(ctx, mail.Message{To: r.To, ReplyTo: sender, Subject: m.Subject, Text: m.Text})
	case to == store.ToSender && r.Answer != nil && sender != "":
		m := f.ForSender(r, entry)
		return d.Mails.Send(ctx, mail.Message{To: []string{sender}, Subject: m.Subject, Text: m.Text})
	}
	return errors.New("the site says no more to whom it goes")
}
