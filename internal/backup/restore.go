package backup

import (
	"archive/tar"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"compactparcel/core/item"
	"compactparcel/internal/blob"
	"compactparcel/internal/store"

	"github.com/klauspost/compress/zstd"
)

// Bounds of what is read, in bytes: the list of a backup, and how far back its packing may reach, which is memory.
const (
	maxList   = 256 << 20
	maxWindow = 64 << 20
)

// Target is where a backup is brought.
type Target struct {
	DSN   string // of a database without tables
	Dir   string // the data folder
	Blobs *blob.Store
}

// Read brings a backup into an empty place. Every byte is held against its digest; an error
// leaves a place that must not be used.
func Read(ctx context.Context, name string, to Target) (*Summary, error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	z, err := zstd.NewReader(f, zstd.WithDecoderMaxWindow(maxWindow), zstd.WithDecoderConcurrency(2))
	if err != nil {
		return nil, err
	}
	defer z.Close()
	t := tar.NewReader(z)
	sum, err := readList(t)
	if err != nil {
		return nil, fmt.Errorf("%s is no backup that can be read: %w", name, err)
	}
	for _, want := range sum.Files {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		h, err := t.Next()
		if err != nil {
			return nil, fmt.Errorf("%s breaks off before %s: %w", name, want.Name, err)
		}
		if h.Name != want.Name || h.Size != want.Bytes {
			return nil, fmt.Errorf("%s holds %s where its list says %s", name, h.Name, want.Name)
		}
		if err := take(ctx, want, t, to); err != nil {
			return nil, fmt.Errorf("%s, %s: %w", name, want.Name, err)
		}
	}
	if _, err := t.Next(); err == nil {
		return nil, fmt.Errorf("%s holds more than its list says", name)
	} else if !errors.Is(err, io.EOF) {
		return nil, fmt.Errorf("%s breaks off: %w", name, err)
	}
	return sum, nil
}

func readList(t *tar.Reader) (*Summary, error) {
	h, err := t.Next()
	if err != nil {
		return nil, err
	}
	if h.Name != listName || h.Size > maxList {
		return nil, errors.New("it does not begin with its list")
	}
	sum := &Summary{}
	if err := json.NewDecoder(io.LimitReader(t, maxList)).Decode(sum); err != nil {
		return nil, err
	}
	knows, err := store.SchemaVersion()
	if err != nil {
		return nil, err
	}
	if sum.Format > Format || sum.Schema > knows {
		return nil, fmt.Errorf(
			"a newer version of the service wrote it (format %d, schema %d): restore it with that one", sum.Format,
			sum.Schema)
	}
	return sum, nil
}

// take brings one entry where it belongs.
func take(ctx context.Context, want File, r io.Reader, to Target) error {
	sum := sha256.New()
	r = io.TeeReader(r, sum)
	holds := func() error {
		if item.Digest(hex.EncodeToString(sum.Sum(nil))) != want.SHA256 {
			return errors.New("its bytes are not those that the list says")
		}
		return nil
	}
	switch {
	case want.Name == recordsName:
		f, err := os.CreateTemp(to.Dir, "restore-")
		if err != nil {
			return err
		}
		defer func() { f.Close(); os.Remove(f.Name()) }()
		if _, err := io.Copy(f, r); err != nil {
			return err
		}
		if err := holds(); err != nil {
			return err
		}
		return loadRecords(ctx, to.DSN, f)
	case want.Name == secretName:
		b, err := io.ReadAll(io.LimitReader(r, 1<<10))
		if err == nil {
			err = holds()
		}
		if err != nil {
			return err
		}
		return os.WriteFile(filepath.Join(to.Dir, secretName), b, 0o600)
	case strings.HasPrefix(want.Name, filesDir) && item.Digest(strings.TrimPrefix(want.Name, filesDir)) == want.SHA256:
		d, _, err := to.Blobs.PutSoon(r)
		if err == nil && d != want.SHA256 {
			return holds()
		}
		return err
	}
	return errors.New("this version does not know what it is")
}

// loadRecords runs the SQL of a backup in a database that has no tables. In binary mode the
// program takes no commands of its own from it, such as one for the shell.
func loadRecords(ctx context.Context, dsn string, f *os.File) error {
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return err
	}
	cmd, done, err := client(ctx, dsn, "mariadb", "--binary-mode", "--local-infile=0",
		"--default-character-set=utf8mb4", "--max-allowed-packet=64M")
	if err != nil {
		return err
	}
	defer done()
	cmd.Stdin = f
	return run(cmd)
}
