// Package store keeps the records in MariaDB, through GORM, by versioned SQL
// migrations, as repositories: the floors above see rows with typed columns and no SQL.
// Nothing in it knows what a person may do.
package store

import (
	"context"
	"fmt"
	"strconv"
	"sync"
	"sync/atomic"
	"time"

	"compactparcel/core/facts"
	"compactparcel/internal/blob"

	driver "github.com/go-sql-driver/mysql"
	"gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// How long the database may take: to be reached, for one statement, and until a lock is
// had. A database that has stopped answering is found much sooner: see Watch.
const (
	dialPatience      = 3 * time.Second
	statementPatience = 2 * time.Minute
	lockPatience      = 20 * time.Second
)

// Store is the records and the blobs.
type Store struct {
	db    *gorm.DB
	Blobs *blob.Store

	states states
	watch  watch
	// rehearsed: see Rehearse.
	rehearsed atomic.Bool
	commits   atomic.Int64
	underWay  underWay
	// process names this service process among those that share the records.
	process string

	mu          sync.Mutex
	facts       map[factsKey]*facts.Facts
	factsWeight int
	// named is what contents name, between reading and writing an item.
	named      map[factsKey][]string
	namedCount int
	names      map[int64]string // of collections
}

// Open connects and brings the tables up to date.
func Open(ctx context.Context, dsn string, blobs *blob.Store) (*Store, error) {
	cfg, err := driver.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("the database's address is not readable: %w", err)
	}
	cfg.ParseTime, cfg.Loc, cfg.InterpolateParams = true, time.UTC, true
	// An update that changes nothing has found its row all the same: see Swap.
	cfg.ClientFoundRows = true
	cfg.Timeout, cfg.ReadTimeout, cfg.WriteTimeout = dialPatience, statementPatience, statementPatience
	if err := driver.SetLogger(&driver.NopLogger{}); err != nil { // what fails is an error of whoever asked
		return nil, err
	}
	if cfg.Params == nil {
		cfg.Params = map[string]string{}
	}
	cfg.Params["tx_isolation"] = "'READ-COMMITTED'"
	cfg.Params["innodb_lock_wait_timeout"] = strconv.Itoa(int(lockPatience.Seconds()))
	cfg.Params["sql_mode"] = "'STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION,ERROR_FOR_DIVISION_BY_ZERO'"
	db, err := gorm.Open(mysql.New(mysql.Config{DSN: cfg.FormatDSN()}),
		&gorm.Config{Logger: logger.Discard, TranslateError: true, SkipDefaultTransaction: true})
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
	if err := migrate(ctx, cfg.Clone(), blobs); err != nil {
		return nil, err
	}
	return &Store{
		db:      db,
		Blobs:   blobs,
		process: NewID(),
		facts:   map[factsKey]*facts.Facts{},
		named:   map[factsKey][]string{},
	}, nil
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

// DB gives GORM, for tests that look at rows by themselves or let statements fail. The
// repositories are the way for everybody else.
func (s *Store) DB(ctx context.Context) *gorm.DB { return s.conn(ctx) }

// conn gives GORM: within the transaction that the context comes from, if any.
func (s *Store) conn(ctx context.Context) *gorm.DB {
	if tx, ok := ctx.Value(txKey{}).(*gorm.DB); ok {
		return tx.WithContext(ctx)
	}
	return s.db.WithContext(ctx)
}
