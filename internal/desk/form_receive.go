package desk

import (
	"context"
	"encoding/json"
	"errors"
	"net/url"
	"strings"

	"compactparcel/core/form"
	"compactparcel/core/item"
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

// ErrFormFull tells that no more is kept of a form until its keeper deletes some.
var ErrFormFull = errors.New("the form takes no more for now")

// ErrTooFast tells that too much was sent from one place.
var ErrTooFast = errors.New("too much was sent from there")

// ReceiveEntry takes what a visitor sent with a form of a live site, from a network address: it is held
// against the form, kept, and mails about it are put into the queue. What fills the trap in is
// answered as all is, and not kept.
func (d *Desk) ReceiveEntry(ctx context.Context, site, name string, sent url.Values, from string) (*Received, error) {
	if _, ok := d.formLimits.try(site+"/"+name+" "+from, from, d.Now()); !ok {
		return nil, ErrTooFast
	}
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
	out := &Received{Text: f.Confirmation.Text, Form: f}
	if out.Back, err = textSetting(view, "address"); err != nil {
		return nil, err
	}
	if page := f.LeadsTo(); page != "" && out.Back != "" {
		out.Page = strings.TrimSuffix(out.Back, "/") + page
	}
	if sent.Get(f.Trap()) != "" {
		return out, nil
	}
	entry, wrong := f.Check(sent)
	if len(wrong) > 0 {
		out.Wrong = wrong
		return out, nil
	}
	receivers, unread := receiversOf(view)
	if unread != nil {
		d.Log.Warn("forms", "site", site, "error", unread) // it is kept all the same, and the check tells it
	}
	text, err := json.Marshal(entry)
	if err != nil {
		return nil, err
	}
	var mails []store.Addressee
	r := receivers[name]
	if len(r.To) > 0 || unread != nil { // whom it goes to is read again when it is sent
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
	if errors.Is(err, store.ErrFull) {
		d.Log.Warn("forms", "site", site, "form", name, "error", err)
		return nil, ErrFormFull
	}
	return out, err
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
