package store

import (
	"encoding/json"
	"errors"
	"strings"
	"time"

	"compactparcel/core/form"

	"gorm.io/gorm"
)

// FormEntry is what a visitor sent with a form of a site.
type FormEntry struct {
	ID           int64
	CollectionID int64
	Form         string
	At           time.Time
	Fields       string
}

// Entry gives its fields.
func (e FormEntry) Entry() (out form.Entry, err error) {
	return out, json.Unmarshal([]byte(e.Fields), &out)
}

// Addressee says to whom a mail about an entry goes. The set is closed.
type Addressee string

// The addressees.
const (
	ToTeam   Addressee = "team"
	ToSender Addressee = "sender"
)

// MailState says how far a mail is.
type MailState string

// The states of mails.
const (
	MailWaiting MailState = "waiting"
	MailSent    MailState = "sent"
	MailFailed  MailState = "failed" // it was tried for days
)

// MailStates lists all of them.
var MailStates = []MailState{MailWaiting, MailSent, MailFailed}

// FormMail is a mail about an entry.
type FormMail struct {
	EntryID   int64     `gorm:"primaryKey;autoIncrement:false"`
	Addressee Addressee `gorm:"primaryKey"`
	State     MailState
	Tries     int
	At        time.Time
	Says      string
}

// MailJob is the kind of jobs that send a mail about an entry.
const MailJob = "mail"

// MailTask is what such a job is about.
type MailTask struct {
	Entry     int64
	Addressee Addressee
}

// FormEntries is the repository of what was sent with forms.
type FormEntries struct{ t *Tx }

// FormEntries gives the entries.
func (t *Tx) FormEntries() FormEntries { return FormEntries{t} }

// How many entries are kept: of a form, and of all forms of a site.
const (
	MaxFormEntries = 20_000
	MaxSiteEntries = 100_000
)

// ErrFull tells that no more entries are kept until some are deleted.
var ErrFull = errors.New("as many entries are kept as may be")

// room tells that there is none for another entry. It counts no further than it must.
func (r FormEntries) room(e *FormEntry) error {
	for _, bound := range []struct {
		most int
		q    *gorm.DB
	}{
		{MaxFormEntries, r.t.db.Model(&FormEntry{}).Where("collection_id = ? AND form = ?", e.CollectionID, e.Form)},
		{MaxSiteEntries, r.t.db.Model(&FormEntry{}).Where("collection_id = ?", e.CollectionID)},
	} {
		var over []int64
		if err := bound.q.Offset(bound.most-1).Limit(1).Pluck("id", &over).Error; err != nil {
			return err
		}
		if len(over) > 0 {
			return ErrFull
		}
	}
	return nil
}

// Since counts the entries of a site's forms that came since a time.
func (r FormEntries) Since(collection int64, at time.Time) (map[string]int64, error) {
	var rows []struct {
		Form string
		N    int64
	}
	err := r.t.db.Model(&FormEntry{}).Select("form, COUNT(*) AS n").
		Where("collection_id = ? AND at > ?", collection, at).Group("form").Scan(&rows).Error
	out := map[string]int64{}
	for _, x := range rows {
		out[x.Form] = x.N
	}
	return out, err
}

// Add keeps an entry, and puts jobs into the queue for the mails about it. Its error is ErrFull where as many are
// kept as may be.
func (r FormEntries) Add(e *FormEntry, to ...Addressee) error {
	if err := r.room(e); err != nil {
		return err
	}
	if err := r.t.db.Create(e).Error; err != nil {
		return err
	}
	c, err := one[Collection](r.t.db.Select("name").Where("id = ?", e.CollectionID))
	if err != nil {
		return err
	}
	if err := r.t.Tell(EntryEvent, c.Name, e.Form); err != nil {
		return err
	}
	for _, a := range to {
		m := FormMail{EntryID: e.ID, Addressee: a, State: MailWaiting, At: e.At}
		if err := r.t.db.Create(&m).Error; err != nil {
			return err
		}
		if err := r.Queue(m, e.At, e.At); err != nil {
			return err
		}
	}
	return nil
}

// Queue puts a job into the queue that sends a mail at a time.
func (r FormEntries) Queue(m FormMail, at, now time.Time) error {
	payload, err := json.Marshal(MailTask{m.EntryID, m.Addressee})
	if err != nil {
		return err
	}
	return r.t.Jobs().Create(&Job{Kind: MailJob, Payload: string(payload), State: JobWaiting, RunAt: at,
		CreatedAt: now})
}

// ByID gives an entry.
func (r FormEntries) ByID(id int64) (*FormEntry, error) {
	return one[FormEntry](r.t.db.Where("id = ?", id))
}

// Mail gives a mail about an entry.
func (r FormEntries) Mail(id int64, to Addressee) (*FormMail, error) {
	return one[FormMail](r.t.db.Where("entry_id = ? AND addressee = ?", id, to))
}

// NoteMail notes what became of a mail.
func (r FormEntries) NoteMail(m *FormMail) error {
	if s := []rune(m.Says); len(s) > 500 {
		m.Says = string(s[:499]) + "…"
	}
	return r.t.db.Model(&FormMail{}).Where("entry_id = ? AND addressee = ?", m.EntryID, m.Addressee).
		Updates(map[string]any{"state": m.State, "tries": m.Tries, "at": m.At, "says": m.Says}).Error
}

// EntryQuery says which entries of a form are listed.
type EntryQuery struct {
	Collection int64
	Form       string
	Before     int64  // only older ones than this entry; 0: all
	Words      string // that must stand in it
	Limit      int    // 0: all
}

// List lists entries, the newest first.
func (r FormEntries) List(q EntryQuery) ([]FormEntry, error) {
	db := r.t.db.Where("collection_id = ? AND form = ?", q.Collection, q.Form).Order("id DESC")
	if q.Before > 0 {
		db = db.Where("id < ?", q.Before)
	}
	words := strings.Fields(q.Words)
	for _, w := range words[:min(len(words), MaxSearchWords)] {
		db = db.Where("fields COLLATE utf8mb4_unicode_ci LIKE ?", "%"+likeText(w)+"%")
	}
	if q.Limit > 0 {
		db = db.Limit(q.Limit)
	}
	return all[FormEntry](db)
}

// Mails gives the mails about some entries.
func (r FormEntries) Mails(list []FormEntry) (map[int64][]FormMail, error) {
	ids := make([]int64, len(list))
	for i, e := range list {
		ids[i] = e.ID
	}
	rows, err := all[FormMail](r.t.db.Where("entry_id IN ?", ids).Order("entry_id, addressee DESC"))
	out := map[int64][]FormMail{}
	for _, m := range rows {
		out[m.EntryID] = append(out[m.EntryID], m)
	}
	return out, err
}

// Count tells how many entries the forms of a site have, and the time of the last.
func (r FormEntries) Count(collection int64) (map[string]EntryCount, error) {
	var rows []struct {
		Form string
		EntryCount
	}
	err := r.t.db.Model(&FormEntry{}).Select("form, COUNT(*) AS entries, MAX(at) AS last").
		Where("collection_id = ?", collection).Group("form").Scan(&rows).Error
	out := map[string]EntryCount{}
	for _, x := range rows {
		out[x.Form] = x.EntryCount
	}
	return out, err
}

// EntryCount is how many entries a form has.
type EntryCount struct {
	Entries int64
	Last    time.Time
}

// Delete removes entries of a form: one, or all that came before a time. It gives how many went.
func (r FormEntries) Delete(collection int64, form string, entry int64, before *time.Time) (int64, error) {
	q := r.t.db.Where("collection_id = ? AND form = ?", collection, form)
	if before != nil {
		q = q.Where("at < ?", *before)
	} else {
		q = q.Where("id = ?", entry)
	}
	q = q.Delete(&FormEntry{})
	return q.RowsAffected, q.Error
}

// Sites lists the collections that have entries.
func (r FormEntries) Sites() (ids []int64, err error) {
	return ids, r.t.db.Model(&FormEntry{}).Distinct("collection_id").Pluck("collection_id", &ids).Error
}
