package desk

import (
	"context"
	"errors"

	"compactparcel/internal/store"
)

// committed is the proof that a transaction was committed: commit gives it. What is read after it, and fails, is told
// as having been done; an error of the transaction itself never is, since there is no proof then.
type committed struct{ really bool }

// committedBefore is the proof of what another act or an earlier request committed.
var committedBefore = committed{really: true}

// commit runs a transaction. One within another proves nothing: that one may still be taken back.
func (d *Desk) commit(ctx context.Context, f func(tx *store.Tx) error) (committed, error) {
	err := d.Store.Tx(ctx, f)
	return committed{err == nil && !store.Within(ctx)}, err
}

// after reads what a transaction came to that was committed. What keeps it from being read is never told as if
// nothing had happened.
func after[T any](did committed, read func() (T, error)) (T, error) {
	v, err := read()
	var p *Problem
	if err == nil || !did.really || errors.As(err, &p) && p.Type != Unavailable && p.Type != Damaged {
		return v, err
	}
	var none T
	what := ""
	if p != nil {
		what = p.What
	}
	return none, &Problem{
		Type: Uncertain, What: what, Message: "it was done, but its result cannot be read right now",
		Remedy: To(LookLater), Err: err,
	}
}

// outcome gives what a transaction worked out itself; nothing where it failed.
func outcome[T any](v T, err error) (T, error) {
	if err != nil {
		var none T
		return none, err
	}
	return v, nil
}
