package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"math/rand/v2"
	"time"

	driver "github.com/go-sql-driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// UncertainError tells that the database went away while a transaction was being committed:
// what it did may have happened.
type UncertainError struct{ Err error }

func (e *UncertainError) Error() string {
	return "the database connection was lost during the commit: " + e.Err.Error()
}

// Unwrap gives the cause.
func (e *UncertainError) Unwrap() error { return e.Err }

// Tx is the way to the records: within one transaction, or, from Read, as they are now. Its
// methods give the repositories. It is used by one goroutine at a time.
type Tx struct {
	s  *Store
	db *gorm.DB
}

// Context is the context of a transaction: whatever of this package is asked with it is read
// and written within the transaction.
func (t *Tx) Context() context.Context { return t.db.Statement.Context }

// Tx runs f in one transaction, again when the database asks for it (a deadlock). Its error
// is an *UncertainError when nobody knows whether it was committed; after any other error
// nothing has changed. The request whose key the context carries is noted in it.
func (s *Store) Tx(ctx context.Context, f func(tx *Tx) error) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		if err := f(&Tx{s, tx}); err != nil {
			return err
		}
		return noteRequest(ctx, tx)
	})
}

// Read gives the records for reading and for single writes: within the transaction that the
// context comes from, if any.
func (s *Store) Read(ctx context.Context) *Tx { return &Tx{s, s.conn(ctx)} }

// Within tells whether a context is that of a transaction.
func Within(ctx context.Context) bool {
	_, ok := ctx.Value(txKey{}).(*gorm.DB)
	return ok
}

type txKey struct{}

// tx is Tx without noting a request. Within another transaction it joins that one: what it reads, writes and
// tells is of that one, and is told when that one is committed.
func (s *Store) tx(ctx context.Context, f func(tx *gorm.DB) error) error {
	if outer, ok := ctx.Value(txKey{}).(*gorm.DB); ok {
		return f(outer.WithContext(ctx))
	}
	if s.rehearsed.Load() {
		err := s.attempt(ctx, func(tx *gorm.DB) error {
			if err := f(tx); err != nil {
				return err
			}
			return errRehearsed
		})
		if !errors.Is(err, errRehearsed) {
			return err
		}
	}
	for try := 1; ; try++ {
		err := s.attempt(ctx, f)
		if try <= 8 && isDeadlock(err) && wait(ctx, apart(try)) == nil {
			continue
		}
		return err
	}
}

// errRehearsed ends the first try of a transaction that is rehearsed.
var errRehearsed = errors.New("the first try of a rehearsed transaction")

// Rehearse lets every transaction of this store be tried twice from now on: the first is taken back at its end,
// as by a deadlock. It is for tests: what a transaction leaves outside the records must not tell.
func (s *Store) Rehearse() { s.rehearsed.Store(true) }

func (s *Store) attempt(ctx context.Context, f func(tx *gorm.DB) error) (err error) {
	tx := s.db.WithContext(ctx).Begin()
	if tx.Error != nil {
		return tx.Error
	}
	open := true
	defer func() {
		if open {
			tx.Rollback()
		}
	}()
	told := &pending{}
	inner := tx.WithContext(context.WithValue(context.WithValue(ctx, pendingKey{}, told), txKey{}, tx))
	if err := f(inner); err != nil {
		return err
	}
	if err := number(tx, told.list); err != nil {
		return err
	}
	if err := ctx.Err(); err != nil {
		return err
	}
	open = false
	defer s.commits.Add(1) // when it is uncertain whether anything was written, too
	if err := tx.Commit().Error; err != nil {
		if isDeadlock(err) {
			return err
		}
		return &UncertainError{err}
	}
	return nil
}

// snapshot runs f over one moment of the records, which it may only read. Nobody waits for it.
func (s *Store) snapshot(ctx context.Context, f func(tx *gorm.DB) error) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		return f(tx.WithContext(context.WithValue(ctx, txKey{}, tx)))
	}, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
}

// Commits counts what this process committed: while it stays, nothing was written from here.
func (s *Store) Commits() int64 { return s.commits.Load() }

func wait(ctx context.Context, d time.Duration) error {
	t := time.NewTimer(d)
	defer t.Stop()
	select {
	case <-ctx.Done():
		return ctx.Err()
	case <-t.C:
		return nil
	}
}

// apart is how long a transaction waits that met another: never as long as that one.
func apart(try int) time.Duration {
	return time.Duration(10*try)*time.Millisecond + rand.N(time.Duration(30*try)*time.Millisecond)
}

func isDeadlock(err error) bool {
	var my *driver.MySQLError
	return errors.As(err, &my) && my.Number == 1213
}

// ErrMoved tells that a row is not, or no longer, as somebody saw it.
var ErrMoved = errors.New("it was changed at the same time")

// swap changes one row if it still is as q says, and gives ErrMoved when it is not: the one
// way in which this service compares and swaps.
func swap(q *gorm.DB, set map[string]any) error {
	r := q.Updates(set)
	if r.Error == nil && r.RowsAffected == 0 {
		return ErrMoved
	}
	return r.Error
}

// lockRow reads one row and keeps it from others until the transaction ends.
func lockRow[T any](tx *gorm.DB, id int64) (*T, error) {
	row := new(T)
	err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("id = ?", id).Take(row).Error
	return row, err
}

// SweepLock is the name under which files are removed, and under which all must be found.
const SweepLock = "sweep"

// Exclusively runs f while nobody else, in any process on this database, does so under the
// same name. It gives ErrBusy when somebody does.
func (s *Store) Exclusively(ctx context.Context, name string, patience time.Duration, f func() error) error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	conn, err := db.Conn(ctx) // the lock belongs to one connection
	if err != nil {
		return err
	}
	defer conn.Close()
	var got *int
	if err := conn.QueryRowContext(ctx, "SELECT GET_LOCK(CONCAT(DATABASE(), ?), ?)", "/"+name, patience.Seconds()).
		Scan(&got); err != nil {
		return err
	}
	if got == nil || *got != 1 {
		return fmt.Errorf("%s: %w", name, ErrBusy)
	}
	defer func() { // a connection that is gone holds no lock
		_, _ = conn.ExecContext(context.WithoutCancel(ctx), "DO RELEASE_LOCK(CONCAT(DATABASE(), ?))", "/"+name)
	}()
	return f()
}

// one gives the row of a query; ErrNotFound where there is none.
func one[T any](q *gorm.DB) (*T, error) {
	row := new(T)
	err := q.Take(row).Error
	return row, err
}

// all gives the rows of a query.
func all[T any](q *gorm.DB) ([]T, error) {
	var rows []T
	err := q.Find(&rows).Error
	return rows, err
}
