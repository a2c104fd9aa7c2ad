// Package blob keeps large and binary content as files named by their digest.
//
// Content is written beside and moved into place, so that a file under its
// digest is always whole. Who is about to refer to a blob takes a lease first;
// the sweep passes over what is leased or young, so nothing is ever swept
// between being written and being recorded.
package blob

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"compactparcel/core/item"

	"github.com/hashicorp/golang-lru/v2/expirable"
	"golang.org/x/sys/unix"
)

// Store is a folder of blobs.
type Store struct {
	dir string
	// proved are files that were read to their end lately.
	proved *expirable.LRU[item.Digest, proof]
}

// Open makes the folder when there is none and clears what an interrupted write left.
func Open(dir string) (*Store, error) {
	if err := os.MkdirAll(filepath.Join(dir, "incoming"), 0o700); err != nil {
		return nil, err
	}
	s := &Store{dir: dir, proved: expirable.NewLRU[item.Digest, proof](512, nil, proofLasts)}
	old, _ := filepath.Glob(filepath.Join(dir, "incoming", "*"))
	for _, p := range old {
		// A sweep that was interrupted: what lay aside goes back, to be judged anew.
		if d := item.Digest(strings.TrimPrefix(filepath.Base(p), "swept-")); d.Valid() {
			if err := os.Rename(p, s.path(d)); err != nil {
				return nil, err
			}
			continue
		}
		if i, err := os.Stat(p); err == nil && time.Since(i.ModTime()) > time.Hour {
			os.Remove(p)
		}
	}
	return s, nil
}

func (s *Store) path(d item.Digest) string {
	return filepath.Join(s.dir, string(d[:2]), string(d[2:]))
}

// Put keeps the content of r and gives its digest and size.
func (s *Store) Put(r io.Reader) (item.Digest, int64, error) { return s.put(r, true) }

// PutSoon is Put for many: the disk may lose the content until Sync has been called.
func (s *Store) PutSoon(r io.Reader) (item.Digest, int64, error) { return s.put(r, false) }

// Sync asks the disk to be sure of all that PutSoon has kept.
func (s *Store) Sync() error {
	dir, err := os.Open(s.dir)
	if err != nil {
		return err
	}
	defer dir.Close()
	if err := unix.Syncfs(int(dir.Fd())); err != nil {
		return fmt.Errorf("keeping content: %w", err)
	}
	return nil
}

func (s *Store) put(r io.Reader, sure bool) (item.Digest, int64, error) {
	f, err := os.CreateTemp(filepath.Join(s.dir, "incoming"), "in-")
	if err != nil {
		return "", 0, fmt.Errorf("keeping content: %w", err)
	}
	moved := false
	defer func() {
		if !moved {
			os.Remove(f.Name())
		}
	}()
	sum := sha256.New()
	n, err := io.Copy(io.MultiWriter(f, sum), r)
	if err == nil && sure {
		err = f.Sync()
	}
	if e := f.Close(); err == nil {
		err = e
	}
	if err != nil {
		return "", 0, fmt.Errorf("keeping content: %w", err)
	}
	d := item.Digest(hex.EncodeToString(sum.Sum(nil)))
	p := s.path(d)
	// One that is there and whole becomes young again: the sweep's grace period starts anew.
	// It cannot, if the sweep has just taken it away; then, and when it is damaged, it is
	// written again. Reading it costs less than replacing it: file systems flush a file that
	// is renamed over another.
	if s.Check(d) == nil {
		if now := time.Now(); os.Chtimes(p, now, now) == nil {
			return d, n, nil
		}
	}
	err = os.Rename(f.Name(), p)
	if errors.Is(err, fs.ErrNotExist) { // the first with these two digits
		if err = os.MkdirAll(filepath.Dir(p), 0o700); err == nil {
			err = os.Rename(f.Name(), p)
		}
	}
	if err != nil {
		return "", 0, fmt.Errorf("keeping content: %w", err)
	}
	moved = true
	if sure {
		if dir, err := os.Open(filepath.Dir(p)); err == nil { // the name, too, must survive a power cut
			_ = dir.Sync() // not every file system can
			dir.Close()
		}
	}
	return d, n, nil
}

// Sweep removes the blobs older than grace that wanted says nobody wants. A blob
// is moved aside before the last look: whoever puts it again from then on writes it
// anew, and one that became young or wanted meanwhile goes back to its place.
func (s *Store) Sweep(grace time.Duration, wanted func(item.Digest) (bool, error)) (removed int, err error) {
	old := func(p string) bool {
		info, err := os.Stat(p)
		return err == nil && time.Since(info.ModTime()) >= grace
	}
	err = filepath.WalkDir(s.dir, func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		digest := item.Digest(filepath.Base(filepath.Dir(p)) + d.Name())
		if !digest.Valid() || !old(p) {
			return nil
		}
		if keep, err := wanted(digest); err != nil || keep {
			return err
		}
		aside := filepath.Join(s.dir, "incoming", "swept-"+string(digest))
		if err := os.Rename(p, aside); err != nil {
			return err
		}
		keep, err := wanted(digest)
		if err != nil || keep || !old(aside) {
			return errors.Join(err, os.Rename(aside, p))
		}
		if err := os.Remove(aside); err != nil {
			return err
		}
		removed++
		return nil
	})
	return removed, err
}
