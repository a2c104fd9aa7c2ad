// Package store keeps the records in MariaDB, through GORM, by versioned SQL
// migrations. What joins tables or is SQL stands here; the use cases above read and
// write single records through GORM. Nothing in it knows what a person may do.
package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"strings"
	"sync"
	"time"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/internal/blob"

	driver "github.com/go-sql-driver/mysql"
	"github.com/pressly/goose/v3"
	"gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is the records and the blobs.
type Store struct {
	db    *gorm.DB
	Blobs *blob.Store

	states states

	mu          sync.Mutex
	facts       map[factsKey]*facts.Facts
	factsWeight int
	// named is what contents name, between reading and writing an item.
	named      map[factsKey][]string
	namedCount int
}

// Open connects and brings the tables up to date.
func Open(ctx context.Context, dsn string, blobs *blob.Store) (*Store, error) {
	cfg, err := driver.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("the database's address is not readable: %w", err)
	}
	cfg.ParseTime, cfg.Loc, cfg.InterpolateParams = true, time.UTC, true
	if cfg.Params == nil {
		cfg.Params = map[string]string{}
	}
	cfg.Params["tx_isolation"] = "'READ-COMMITTED'"
	db, err := gorm.Open(mysql.New(mysql.Config{DSN: cfg.FormatDSN()}), &gorm.Config{Logger: logger.Discard, TranslateError: true, SkipDefaultTransaction: true})
	if err != nil {
		return nil, fmt.Errorf("connecting to the database: %w", err)
	}
	sqlDB, err := db.DB()
	if err != nil {
		return nil, err
	}
	sqlDB.SetMaxOpenConns(40)
	sqlDB.SetMaxIdleConns(20)
	sqlDB.SetConnMaxIdleTime(time.Minute)
	goose.SetBaseFS(migrations)
	goose.SetLogger(goose.NopLogger())
	if err := goose.SetDialect("mysql"); err != nil {
		return nil, err
	}
	if err := goose.UpContext(ctx, sqlDB, "migrations"); err != nil {
		return nil, fmt.Errorf("bringing the tables up to date: %w", err)
	}
	return &Store{db: db, Blobs: blobs, facts: map[factsKey]*facts.Facts{}, named: map[factsKey][]string{}}, nil
}

// Ping tells whether the database answers.
func (s *Store) Ping(ctx context.Context) error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	return db.PingContext(ctx)
}

// Close ends all connections.
func (s *Store) Close() error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	return db.Close()
}

// DB gives GORM for reading outside a transaction.
func (s *Store) DB(ctx context.Context) *gorm.DB { return s.db.WithContext(ctx) }

// Tx runs f in one transaction, again when the database asks for it (a deadlock).
func (s *Store) Tx(ctx context.Context, f func(tx *gorm.DB) error) error {
	for try := 0; ; try++ {
		err := s.db.WithContext(ctx).Transaction(f)
		var my *driver.MySQLError
		if try < 5 && errors.As(err, &my) && (my.Number == 1213 || my.Number == 1205) {
			time.Sleep(time.Duration(20*(try+1)) * time.Millisecond)
			continue
		}
		return err
	}
}

// ErrNotFound is a record that is not there.
var ErrNotFound = gorm.ErrRecordNotFound

// IsDuplicate tells whether an insert failed since the record is there already.
func IsDuplicate(err error) bool {
	var my *driver.MySQLError
	return errors.Is(err, gorm.ErrDuplicatedKey) || errors.As(err, &my) && my.Number == 1062
}

// IsGone tells whether the database was not to be reached.
func IsGone(err error) bool {
	if err == nil {
		return false
	}
	t := err.Error()
	return errors.Is(err, driver.ErrInvalidConn) || strings.Contains(t, "connection refused") || strings.Contains(t, "bad connection") || strings.Contains(t, "connection reset") || strings.Contains(t, "broken pipe")
}

// FindCollection gives a collection by kind and name.
func (s *Store) FindCollection(ctx context.Context, kind, name string) (*Collection, error) {
	var c Collection
	err := s.DB(ctx).Where("kind = ? AND name = ?", kind, name).Take(&c).Error
	return &c, err
}

// emptyDigest is the digest of a collection without items.
var emptyDigest = item.CollectionDigest(nil)

// NewCollection makes an empty collection.
func (s *Store) NewCollection(tx *gorm.DB, kind, name, title string, now time.Time) (*Collection, error) {
	c := &Collection{Kind: kind, Name: name, Title: title, Digest: emptyDigest, CreatedAt: now}
	return c, tx.Create(c).Error
}
