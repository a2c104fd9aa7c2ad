package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"
)

// EventKind says what changed. The set is closed.
type EventKind string

// The kinds of events.
const (
	SiteEvent     EventKind = "site"     // a site, live
	DraftEvent    EventKind = "draft"    // a draft of it: subject is its number
	EntryEvent    EventKind = "entry"    // something was sent with a form: subject is the form
	LibraryEvent  EventKind = "library"  // the library
	KitEvent      EventKind = "kit"      // a kit: subject is NAME@VERSION
	DeliveryEvent EventKind = "delivery" // a delivery: subject is its number
	JobEvent      EventKind = "job"      // a job: subject is its number
)

// EventKinds lists all of them.
var EventKinds = []EventKind{SiteEvent, DraftEvent, EntryEvent, LibraryEvent, KitEvent, DeliveryEvent, JobEvent}

// Event tells that something changed, by names alone: who wants to know more asks.
type Event struct {
	N       int64 `gorm:"primaryKey;autoIncrement:false"`
	At      time.Time
	Kind    EventKind
	Site    string // the site's name, if it is about one
	Subject string
}

// EventsKept is how long events can be read.
const EventsKept = 48 * time.Hour

type pendingKey struct{}

// pending are the events of a transaction that is not committed yet.
type pending struct{ list []Event }

// Tell notes what a transaction changes; others read it when it is committed.
func (t *Tx) Tell(kind EventKind, site, subject string) error {
	e := Event{Kind: kind, Site: site, Subject: subject}
	p, within := t.Context().Value(pendingKey{}).(*pending)
	if !within { // a single write
		return t.s.tx(t.Context(), func(tx *gorm.DB) error {
			return (&Tx{t.s, tx}).Tell(kind, site, subject)
		})
	}
	if !slices.Contains(p.list, e) {
		p.list = append(p.list, e)
	}
	return nil
}

// TellOf is Tell about a collection: a site, or the library. Of kits nothing is told.
func (t *Tx) tellOf(c *Collection) error {
	switch c.Kind {
	case Site:
		return t.Tell(SiteEvent, c.Name, "")
	case Library:
		return t.Tell(LibraryEvent, "", "")
	default:
		return nil
	}
}

// tellOfDraft is Tell about a draft.
func (t *Tx) tellOfDraft(id, collection int64) error {
	if name, known := t.s.siteName(collection); known {
		return t.Tell(DraftEvent, name, fmt.Sprint(id))
	}
	c, err := one[Collection](t.db.Select("name").Where("id = ?", collection))
	if err != nil {
		return err
	}
	t.s.rememberSite(collection, c.Name)
	return t.Tell(DraftEvent, c.Name, fmt.Sprint(id))
}

// siteName gives the name of a collection, which never changes, if it was asked for before.
func (s *Store) siteName(id int64) (string, bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	name, ok := s.names[id]
	return name, ok
}

// maxNames bounds how many names are remembered.
const maxNames = 10_000

func (s *Store) rememberSite(id int64, name string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.names == nil || len(s.names) >= maxNames {
		s.names = map[int64]string{}
	}
	s.names[id] = name
}

// number gives events their numbers, in the order in which transactions are committed: whoever comes
// next waits until this one is.
func number(tx *gorm.DB, list []Event) error {
	if len(list) == 0 {
		return nil
	}
	r, err := tx.Statement.ConnPool.ExecContext(tx.Statement.Context,
		"UPDATE event_clock SET n = LAST_INSERT_ID(n + ?) WHERE id = 1", len(list))
	if err != nil {
		return err
	}
	last, err := r.LastInsertId()
	if err != nil {
		return err
	}
	now := time.Now().UTC().Truncate(time.Microsecond)
	for i := range list {
		list[i].N, list[i].At = last-int64(len(list)-1-i), now
	}
	return tx.Create(&list).Error
}

// EventsAfter gives up to limit events behind a number, in their order.
func (s *Store) EventsAfter(ctx context.Context, n int64, limit int) ([]Event, error) {
	return all[Event](s.conn(ctx).Where("n > ?", n).Order("n").Limit(limit))
}

// EventBounds gives the number before the oldest event that is kept, and that of the newest.
func (s *Store) EventBounds(ctx context.Context) (before, newest int64, err error) {
	if err := s.conn(ctx).Raw("SELECT n FROM event_clock WHERE id = 1").Scan(&newest).Error; err != nil {
		return 0, 0, err
	}
	oldest, err := one[Event](s.conn(ctx).Order("n").Limit(1))
	if errors.Is(err, ErrNotFound) {
		return newest, newest, nil
	}
	if err != nil {
		return 0, 0, err
	}
	return oldest.N - 1, newest, nil
}
