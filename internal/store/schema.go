package store

import (
	"context"
	"database/sql"
	"embed"
	"fmt"
	"io/fs"

	"compactparcel/internal/blob"

	driver "github.com/go-sql-driver/mysql"
	"github.com/pressly/goose/v3"
)

// The migrations. The database commits each statement of a definition by itself, so a
// service that is killed between two of them runs the file again: every statement says IF
// EXISTS or IF NOT EXISTS, or does nothing the second time.
//
//go:embed migrations/*.sql
var migrations embed.FS

// NewerError tells of tables that a newer version of the service has made.
type NewerError struct{ Has, Knows int64 }

func (e *NewerError) Error() string {
	return fmt.Sprintf(
		"the data were written by a newer version of the service (schema %d, this one knows %d): start that "+
			"version; nothing was changed",
		e.Has,
		e.Knows,
	)
}

// migrate brings the tables up to date, on a connection without a limit of time: a large
// table takes its time.
func migrate(ctx context.Context, cfg *driver.Config, blobs *blob.Store) error {
	cfg.ReadTimeout, cfg.WriteTimeout, cfg.MultiStatements = 0, 0, false
	connector, err := driver.NewConnector(cfg)
	if err != nil {
		return err
	}
	db := sql.OpenDB(connector)
	defer db.Close()
	if knows, err := SchemaVersion(); err != nil {
		return err
	} else if current(ctx, db, knows) {
		return nil
	}
	// A service that was killed between making the table of versions and its first row.
	_, err = db.ExecContext(
		ctx,
		"INSERT INTO goose_db_version (version_id, is_applied) SELECT 0, 1 FROM DUAL WHERE NOT EXISTS (SELECT 1 "+
			"FROM goose_db_version)",
	)
	if err != nil && !isNumber(err, 1146) {
		return fmt.Errorf("reading the version of the tables: %w", err)
	}
	p, err := provider(db, blobs)
	if err != nil {
		return err
	}
	has, knows, err := p.GetVersions(ctx)
	if err != nil {
		return fmt.Errorf("reading the version of the tables: %w", err)
	}
	if has > knows {
		return &NewerError{has, knows}
	}
	if _, err := p.Up(ctx); err != nil {
		return fmt.Errorf("bringing the tables up to date: %w", err)
	}
	return nil
}

// provider reads the migrations: the files, and what is done by code.
func provider(db *sql.DB, blobs *blob.Store) (*goose.Provider, error) {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	return goose.NewProvider(goose.DialectMySQL, db, files,
		goose.WithGoMigrations(goose.NewGoMigration(convertVersion, &goose.GoFunc{RunDB: convert(blobs)}, nil),
			goose.NewGoMigration(sumVersion, &goose.GoFunc{RunDB: sums}, nil)))
}

// current tells whether each migration that this version knows is put down as done, and none that it does not know;
// then there is nothing to be read of them.
func current(ctx context.Context, db *sql.DB, knows int64) bool {
	var done, last int64
	err := db.QueryRowContext(ctx, "SELECT COUNT(DISTINCT version_id), MAX(version_id) FROM goose_db_version WHERE "+
		"is_applied AND version_id > 0").Scan(&done, &last)
	return err == nil && last == knows && done == knows
}

// SchemaVersion is the version of the tables that this service makes.
func SchemaVersion() (int64, error) {
	files, err := fs.Glob(migrations, "migrations/*.sql")
	if err != nil || len(files) == 0 {
		return 0, err
	}
	var v int64
	_, err = fmt.Sscanf(files[len(files)-1], "migrations/%d_", &v)
	return max(v, convertVersion, sumVersion), err
}
