package desk

import (
	"context"
	"encoding/json"
	"errors"
	"net"
	"sync"
	"time"

	"compactparcel/internal/mail"
	"compactparcel/internal/store"
)

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
	later := time.Time{}
	if err := d.mailFor(ctx, e, task.Addressee); err != nil {
		m.State, m.Says = store.MailWaiting, err.Error()
		if d.Now().Sub(e.At) > mailDays {
			m.State = store.MailFailed
		}
		later = d.Now().Add(min(mailFirst<<min(m.Tries-1, 12), mailMost))
		var paused *pausedError
		if errors.As(err, &paused) {
			m.Tries--
			later = paused.until
		}
	}
	return string(m.State), d.Store.Tx(ctx, func(tx *store.Tx) error {
		if m.State == store.MailWaiting {
			if err := tx.FormEntries().Queue(*m, later, d.Now()); err != nil {
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
		return d.send(ctx, mail.Message{To: r.To, ReplyTo: sender, Subject: m.Subject, Text: m.Text})
	case to == store.ToSender && r.Answer != nil && sender != "":
		m := f.ForSender(r, entry)
		return d.send(ctx, mail.Message{To: []string{sender}, Subject: m.Subject, Text: m.Text})
	}
	return errors.New("the site says no more to whom it goes")
}

// mailPause is how long the mail server is left alone that did not answer: longer each time, so that a thousand
// mails do not wait for it one after the other.
type mailPause struct {
	mu     sync.Mutex
	silent int // times in a row
	over   time.Time
	says   string // what came of the last mail
}

// paused tells until when no mail is tried; nil: they are tried.
func (p *mailPause) paused(now time.Time) *pausedError {
	p.mu.Lock()
	defer p.mu.Unlock()
	if now.Before(p.over) {
		return &pausedError{p.over, p.says}
	}
	return nil
}

// answered notes that the server is there.
func (p *mailPause) answered() {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.silent, p.over = 0, time.Time{}
}

// silence notes that the server did not answer. One at a time asks a server that was silent: the pause begins again
// with each that is not answered.
func (p *mailPause) silence(err error, now time.Time) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.over, p.says = now.Add(min(mailFirst<<min(p.silent, 12), time.Hour)), err.Error()
	p.silent++
}

// pausedError tells that a mail was not tried: the mail server is left alone for a while.
type pausedError struct {
	until time.Time
	says  string // what came of the last mail
}

func (e *pausedError) Error() string { return "the mail server did not answer: " + e.says }

// send sends a mail, and notes whether the server was there. Its error is a *pausedError where the server is left
// alone.
func (d *Desk) send(ctx context.Context, m mail.Message) error {
	if paused := d.mailPause.paused(d.Now()); paused != nil {
		return paused
	}
	err := d.Mails.Send(ctx, m)
	var network net.Error
	silent := errors.As(err, &network) || errors.Is(err, context.DeadlineExceeded)
	if ctx.Err() == nil {
		if silent {
			d.mailPause.silence(err, d.Now())
		} else {
			d.mailPause.answered()
		}
	}
	return err
}
