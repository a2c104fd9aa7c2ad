package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"sync"
	"time"

	"compactparcel/core/item"

	"gorm.io/gorm"
)

// RequestKey is a request that carries a key, so that it can be repeated: the Idempotency-Key
// header (IETF httpapi working group). A repeated one gets the first one's answer.
type RequestKey struct {
	UserID     int64       `gorm:"primaryKey;autoIncrement:false"`
	RequestKey item.Digest `gorm:"primaryKey"`
	Request    item.Digest // of method, address and body
	Process    string
	Commits    int
	Subject    string
	Status     int
	Header     string
	Body       []byte
	CreatedAt  time.Time
}

// RequestKeysKept is how long the answer of a request is kept for a repeated one.
const RequestKeysKept = 24 * time.Hour

// MaxAnswer is the largest answer, in bytes, that is kept. A larger one is worked out anew.
const MaxAnswer = 8 << 20

// Keyed is one request with a key, while it is answered.
type Keyed struct {
	s   *Store
	row RequestKey
}

// Sorts of trouble with a repeated request.
var (
	ErrOtherRequest = errors.New("this key was sent with another request")
	ErrUnderWay     = errors.New("the first request with this key is still being answered")
)

// Answered is a kept answer.
type Answered struct {
	Status int
	Header map[string]string
	Body   []byte
}

// BeginRequest notes a request with a key. It gives the kept answer when there is one, else
// the request to be answered: one that was begun before, by a process that died or could
// not say what became of it, is Repeated.
func (s *Store) BeginRequest(
	ctx context.Context,
	user int64,
	key string,
	request item.Digest,
	now time.Time,
) (*Keyed, *Answered, error) {
	k := &Keyed{
		s: s,
		row: RequestKey{
			UserID:     user,
			RequestKey: item.DigestOf([]byte(key)),
			Request:    request,
			Process:    s.process,
			CreatedAt:  now,
		},
	}
	if !s.underWay.begin(k.row) {
		return nil, nil, ErrUnderWay
	}
	answered := true // until it is clear that somebody answers it now
	defer func() {
		if answered {
			s.underWay.end(k.row)
		}
	}()
	err := s.conn(ctx).Create(&k.row).Error
	if err == nil {
		answered = false
		return k, nil, nil
	}
	if !IsDuplicate(err) {
		return nil, nil, err
	}
	var answer *Answered
	err = s.tx(ctx, func(tx *gorm.DB) error {
		answer = nil
		had, err := lockRequest(tx, k.row)
		if err != nil {
			return err
		}
		switch {
		case had.Request != request:
			return ErrOtherRequest
		case had.Status != 0:
			answer, err = had.answer()
			return err
		}
		k.row = *had
		k.row.Process = s.process
		return tx.Model(&RequestKey{}).
			Where("user_id = ? AND request_key = ?", user, had.RequestKey).
			Update("process", s.process).
			Error
	})
	if err != nil || answer != nil {
		return nil, answer, err
	}
	answered = false
	return k, nil, nil
}

// underWay are the requests with a key that this process is answering. That one is being answered is known
// here alone: where keeping an answer fails, its row cannot say that it ended.
type underWay struct {
	mu   sync.Mutex
	keys map[requestID]bool
}

type requestID struct {
	user int64
	key  item.Digest
}

// begin notes a request; false where it is being answered already.
func (u *underWay) begin(r RequestKey) bool {
	u.mu.Lock()
	defer u.mu.Unlock()
	id := requestID{r.UserID, r.RequestKey}
	if u.keys[id] {
		return false
	}
	if u.keys == nil {
		u.keys = map[requestID]bool{}
	}
	u.keys[id] = true
	return true
}

func (u *underWay) end(r RequestKey) {
	u.mu.Lock()
	defer u.mu.Unlock()
	delete(u.keys, requestID{r.UserID, r.RequestKey})
}

func lockRequest(tx *gorm.DB, of RequestKey) (*RequestKey, error) {
	var had RequestKey
	err := tx.Raw("SELECT * FROM request_keys WHERE user_id = ? AND request_key = ? FOR UPDATE", of.UserID,
		of.RequestKey).
		Take(&had).
		Error
	return &had, err
}

func (r *RequestKey) answer() (*Answered, error) {
	a := &Answered{Status: r.Status}
	if err := json.Unmarshal([]byte(r.Header), &a.Header); err != nil {
		return nil, fmt.Errorf("reading a kept answer: %w", err)
	}
	b, err := decoder.DecodeAll(r.Body, nil)
	if err != nil {
		return nil, fmt.Errorf("reading a kept answer: %w", err)
	}
	a.Body = b
	return a, nil
}

// End keeps the answer of a request, or lets go of its key when nothing was done. A request
// of which nobody knows what it did keeps its key without an answer.
func (k *Keyed) End(ctx context.Context, a Answered, uncertain bool) error {
	defer k.s.underWay.end(k.row)
	at := k.s.conn(ctx).
		Model(&RequestKey{}).
		Where("user_id = ? AND request_key = ? AND process = ?", k.row.UserID, k.row.RequestKey, k.s.process)
	if uncertain || a.Status >= 500 || len(a.Body) > MaxAnswer {
		return at.Update("process", "").Error // whoever repeats it sees what was committed
	}
	header, err := json.Marshal(a.Header)
	if err != nil {
		return err
	}
	return at.Updates(
		map[string]any{"status": a.Status, "header": string(header), "body": encoder.EncodeAll(a.Body, nil)},
	).Error
}

type keyedKey struct{}

// WithRequest gives a context whose transactions note that they belong to a request.
func WithRequest(ctx context.Context, k *Keyed) context.Context {
	return context.WithValue(ctx, keyedKey{}, k)
}

// Repeated tells whether the request was begun before and committed something; subject is
// what it noted of it.
func Repeated(ctx context.Context) (subject string, ok bool) {
	k, _ := ctx.Value(keyedKey{}).(*Keyed)
	if k == nil || k.row.Commits == 0 {
		return "", false
	}
	return k.row.Subject, true
}

// Unkeyed gives a context whose transactions are not those of the request itself: parts of what it does.
func Unkeyed(ctx context.Context) context.Context {
	return context.WithValue(ctx, keyedKey{}, (*Keyed)(nil))
}

// NoteSubject notes, in a transaction, what a request has made, for the one that repeats it.
func (t *Tx) NoteSubject(subject string) error {
	k, _ := t.Context().Value(keyedKey{}).(*Keyed)
	if k == nil {
		return nil
	}
	return t.db.Model(&RequestKey{}).
		Where("user_id = ? AND request_key = ?", k.row.UserID, k.row.RequestKey).
		Update("subject", subject).
		Error
}

// noteRequest counts a transaction of a request, within it.
func noteRequest(ctx context.Context, tx *gorm.DB) error {
	k, _ := ctx.Value(keyedKey{}).(*Keyed)
	if k == nil {
		return nil
	}
	return tx.Model(&RequestKey{}).
		Where("user_id = ? AND request_key = ?", k.row.UserID, k.row.RequestKey).
		Update("commits", gorm.Expr("commits + 1")).
		Error
}

// SweepRecords removes what has had its time: leases, sessions, keys of requests.
func (s *Store) SweepRecords(ctx context.Context, now time.Time) error {
	for _, q := range []struct {
		sql string
		at  time.Time
	}{
		{"DELETE FROM blob_leases WHERE until <= ?", now},
		{"DELETE FROM sessions WHERE expires_at <= ?", now},
		{"DELETE FROM setup_links WHERE expires_at <= ?", now},
		{"DELETE FROM access_tokens WHERE expires_at <= ?", now.Add(-30 * 24 * time.Hour)},
		{"DELETE FROM request_keys WHERE created_at <= ?", now.Add(-RequestKeysKept)},
		{"DELETE FROM events WHERE at <= ?", now.Add(-EventsKept)},
		{"DELETE FROM jobs WHERE state IN ('done', 'failed', 'stopped') AND created_at <= ?",
			now.Add(-30 * 24 * time.Hour)},
	} {
		if err := s.conn(ctx).Exec(q.sql, q.at).Error; err != nil {
			return err
		}
	}
	return nil
}
