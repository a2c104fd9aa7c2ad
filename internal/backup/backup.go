// Package backup writes all that a service keeps into one file, and reads it back.
//
// A backup is a tar, compressed by zstd. Its first entry, backup.json, lists all others with
// their size and SHA-256: the records as SQL (by mariadb-dump, in one transaction, so of one
// moment), the files by their digests, and the secret of the data folder. It is written
// beside its name and moved there when it is whole.
package backup

import (
	"archive/tar"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/store"

	driver "github.com/go-sql-driver/mysql"
	"github.com/klauspost/compress/zstd"
)

// Format is the format of backups that this version writes and reads.
const Format = 1

// Names of entries.
const (
	listName    = "backup.json"
	recordsName = "records.sql"
	secretName  = "secret"
	filesDir    = "files/"
)

// File is one entry.
type File struct {
	Name   string      `json:"name"`
	Bytes  int64       `json:"bytes"`
	SHA256 item.Digest `json:"sha256"`
}

// Summary is the list of a backup.
type Summary struct {
	Format      int       `json:"format"`
	At          time.Time `json:"at"`
	Schema      int64     `json:"schema"`
	Collections int       `json:"collections"`
	Files       []File    `json:"files"`
	Bytes       int64     `json:"bytes"`
	// Left are damaged files that an incomplete backup goes without.
	Left []string `json:"left,omitempty"`
}

// Source is what is backed up.
type Source struct {
	Store *store.Store
	DSN   string
	Dir   string // the data folder
}

// Write writes a backup into a file. Damaged content stops it, unless incomplete is set.
func Write(ctx context.Context, src Source, name string, incomplete bool) (sum *Summary, err error) {
	if _, err := os.Lstat(name); err == nil {
		return nil, fmt.Errorf("%s is there already: name another file", name)
	}
	// Nobody may take files away between the records and the files that they name.
	err = src.Store.Exclusively(ctx, store.SweepLock, time.Minute, func() error {
		sum, err = write(ctx, src, name, incomplete)
		return err
	})
	return sum, err
}

func write(ctx context.Context, src Source, name string, incomplete bool) (*Summary, error) {
	half, err := os.CreateTemp(filepath.Dir(name), "."+filepath.Base(name)+".*")
	if err != nil {
		return nil, err
	}
	defer func() { half.Close(); os.Remove(half.Name()) }()
	dump, err := os.CreateTemp(filepath.Dir(name), "."+filepath.Base(name)+".sql.*")
	if err != nil {
		return nil, err
	}
	defer func() { dump.Close(); os.Remove(dump.Name()) }()
	sum := &Summary{Format: Format, At: time.Now().UTC().Truncate(time.Second)}
	if sum.Schema, err = store.SchemaVersion(); err != nil {
		return nil, err
	}
	if err := dumpRecords(ctx, src.DSN, dump); err != nil {
		return nil, err
	}
	records, err := fileOf(recordsName, dump)
	if err != nil {
		return nil, err
	}
	sum.Files = append(sum.Files, records)
	secret, err := os.ReadFile(filepath.Join(src.Dir, secretName))
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, err
	}
	if err == nil {
		sum.Files = append(sum.Files, File{secretName, int64(len(secret)), item.DigestOf(secret)})
	}
	digests, err := src.Store.CollectionDigests(ctx)
	if err != nil {
		return nil, err
	}
	sum.Collections = len(digests)
	blobs, err := src.Store.AllBlobs(ctx)
	if err != nil {
		return nil, err
	}
	for _, b := range blobs {
		if err := src.Store.Blobs.Check(b.Digest); store.IsDamaged(err) {
			if !incomplete {
				return nil, fmt.Errorf("%w: run cparceld verify, or leave it out with --incomplete", err)
			}
			sum.Left = append(sum.Left, err.Error())
			continue
		} else if err != nil {
			return nil, err
		}
		sum.Files = append(sum.Files, File{filesDir + string(b.Digest), b.Bytes, b.Digest})
	}
	for _, f := range sum.Files {
		sum.Bytes += f.Bytes
	}
	if err := pack(ctx, half, sum, func(f File) (io.ReadCloser, error) {
		switch f.Name {
		case recordsName:
			_, err := dump.Seek(0, io.SeekStart)
			return io.NopCloser(dump), err
		case secretName:
			return io.NopCloser(bytes.NewReader(secret)), nil
		default:
			return src.Store.Blobs.Open(f.SHA256)
		}
	}); err != nil {
		return nil, err
	}
	return sum, os.Rename(half.Name(), name)
}

// pack writes the list and then the files in its order, to a file that it makes sure of.
func pack(ctx context.Context, to *os.File, sum *Summary, open func(File) (io.ReadCloser, error)) error {
	z, err := zstd.NewWriter(to)
	if err != nil {
		return err
	}
	t := tar.NewWriter(z)
	list, err := json.Marshal(sum)
	if err != nil {
		return err
	}
	if err := put(t, sum.At, File{Name: listName, Bytes: int64(len(list))}, bytes.NewReader(list)); err != nil {
		return err
	}
	for _, f := range sum.Files {
		if err := ctx.Err(); err != nil {
			return err
		}
		r, err := open(f)
		if err != nil {
			return err
		}
		err = put(t, sum.At, f, r)
		r.Close()
		if err != nil {
			return err
		}
	}
	return errors.Join(t.Close(), z.Close(), to.Sync())
}

func put(t *tar.Writer, at time.Time, f File, r io.Reader) error {
	if err := t.WriteHeader(
		&tar.Header{Name: f.Name, Size: f.Bytes, Mode: 0o600, ModTime: at, Format: tar.FormatPAX},
	); err != nil {
		return err
	}
	if _, err := io.Copy(t, r); err != nil {
		return fmt.Errorf("writing %s: %w", f.Name, err)
	}
	return nil
}

func fileOf(name string, f *os.File) (File, error) {
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return File{}, err
	}
	sum := sha256.New()
	n, err := io.Copy(sum, f)
	return File{name, n, item.Digest(hex.EncodeToString(sum.Sum(nil)))}, err
}

// client gives a MariaDB program that is signed in at a database, without its password
// showing among the processes.
func client(ctx context.Context, dsn, program string, args ...string) (cmd *exec.Cmd, done func(), err error) {
	cfg, err := driver.ParseDSN(dsn)
	if err != nil {
		return nil, nil, err
	}
	f, err := os.CreateTemp("", "cparcel-cnf-")
	if err != nil {
		return nil, nil, err
	}
	done = func() { os.Remove(f.Name()) }
	where := "socket=" + cfg.Addr + "\n"
	if cfg.Net != "unix" {
		host, port, err := net.SplitHostPort(cfg.Addr)
		if err != nil {
			return nil, nil, errors.Join(err, f.Close(), os.Remove(f.Name()))
		}
		where = fmt.Sprintf("host=%s\nport=%s\nprotocol=tcp\n", host, port)
	}
	_, err = fmt.Fprintf(f, "[client]\nuser=%q\npassword=%q\n%s", cfg.User, cfg.Passwd, where)
	if err = errors.Join(err, f.Close()); err != nil {
		done()
		return nil, nil, err
	}
	args = append([]string{"--defaults-file=" + f.Name()}, append(args, cfg.DBName)...)
	return exec.CommandContext(ctx, program, args...), done, nil
}

// dumpRecords writes the records as SQL: those of one moment.
func dumpRecords(ctx context.Context, dsn string, w io.Writer) error {
	cmd, done, err := client(ctx, dsn, "mariadb-dump", "--single-transaction", "--quick", "--skip-lock-tables",
		"--hex-blob", "--default-character-set=utf8mb4", "--no-tablespaces", "--skip-dump-date",
		"--ignore-table-data="+nameOf(dsn)+".request_keys", "--ignore-table-data="+nameOf(dsn)+".blob_leases")
	if err != nil {
		return err
	}
	defer done()
	cmd.Stdout = w
	return run(cmd)
}

// run runs a program; what it says of a failure is part of the error.
func run(cmd *exec.Cmd) error {
	var said strings.Builder
	cmd.Stderr = &said
	if err := cmd.Run(); err != nil {
		return fmt.Errorf("%s: %w: %s", filepath.Base(cmd.Path), err, strings.TrimSpace(said.String()))
	}
	return nil
}

func nameOf(dsn string) string {
	cfg, err := driver.ParseDSN(dsn)
	if err != nil {
		return "" // client has parsed it
	}
	return cfg.DBName
}
