package blob

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"hash"
	"io"
	"io/fs"
	"os"
	"time"

	"compactparcel/core/item"
)

// ErrMissing is content that is not in the store.
var ErrMissing = errors.New("the content is missing from the blob store")

// ErrDamaged is content whose bytes are no longer those of its digest.
var ErrDamaged = errors.New("the content is damaged in the blob store")

func (s *Store) open(d item.Digest) (*os.File, error) {
	if !d.Valid() {
		return nil, fmt.Errorf("%q is no digest", d)
	}
	f, err := os.Open(s.path(d))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("%w: %s", ErrMissing, d.Short())
	}
	return f, err
}

// Open opens a blob to be read once, from its begin. Its bytes are held against the digest
// as they are read: the last read gives ErrDamaged in the place of io.EOF when they are
// others. Who passes them on does not end what it writes before it has seen io.EOF.
func (s *Store) Open(d item.Digest) (io.ReadCloser, error) {
	f, err := s.open(d)
	if err != nil {
		return nil, err
	}
	return &checked{f, sha256.New(), d}, nil
}

// proofLasts is for how long a file that nobody has written to counts as read: somebody
// who watches a film asks for many pieces of it.
const proofLasts = time.Minute

// proof is what a file was like when it was read to its end.
type proof struct {
	size  int64
	mtime time.Time
}

// File opens a blob that can be read at any place. It has been read to its end, now or less
// than a minute ago, and its bytes were those of the digest.
func (s *Store) File(d item.Digest) (*os.File, error) {
	f, err := s.open(d)
	if err != nil {
		return nil, err
	}
	info, err := f.Stat()
	if err == nil {
		now := proof{info.Size(), info.ModTime()}
		if had, ok := s.proved.Get(d); ok && had == now {
			return f, nil
		}
		_, err = io.Copy(io.Discard, &checked{f, sha256.New(), d})
		if err == nil {
			s.proved.Add(d, now)
			_, err = f.Seek(0, io.SeekStart)
		}
	}
	if err != nil {
		f.Close()
		return nil, err
	}
	return f, nil
}

// Check reads a blob to its end: nil, ErrMissing, ErrDamaged or a failure to read.
func (s *Store) Check(d item.Digest) error {
	r, err := s.Open(d)
	if err != nil {
		return err
	}
	defer r.Close()
	_, err = io.Copy(io.Discard, r)
	return err
}

// checked is a file whose bytes are held against a digest.
type checked struct {
	f   *os.File
	sum hash.Hash
	d   item.Digest
}

func (c *checked) Read(b []byte) (int, error) {
	n, err := c.f.Read(b)
	c.sum.Write(b[:n])
	if errors.Is(err, io.EOF) && item.Digest(hex.EncodeToString(c.sum.Sum(nil))) != c.d {
		err = fmt.Errorf("%w: %s", ErrDamaged, c.d.Short())
	}
	return n, err
}

func (c *checked) Close() error { return c.f.Close() }
