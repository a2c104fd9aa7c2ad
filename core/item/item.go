// Package item holds the one model of Compact Parcel: a collection of items.
//
// A library, a site, a kit and a folder on disk are all collections. An item has
// an address (kind/key), a permanent id, metadata and content. Two digests are
// kept of each: the exact one, SHA-256 of the bytes, for storage and equality,
// and the normalized digest, in which formatting is set aside, for standings.
package item

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"sort"
	"sync/atomic"
)

// Digest is a SHA-256 in lower-case hex.
type Digest string

// DigestOf is the exact digest of content.
func DigestOf(b []byte) Digest {
	s := sha256.Sum256(b)
	return Digest(hex.EncodeToString(s[:]))
}

// Valid tells whether d has the form of a digest.
func (d Digest) Valid() bool {
	if len(d) != 64 {
		return false
	}
	for _, c := range d {
		if !(c >= '0' && c <= '9' || c >= 'a' && c <= 'f') {
			return false
		}
	}
	return true
}

// Short is the first twelve characters, for people and asset names.
func (d Digest) Short() string {
	if len(d) < 12 {
		return string(d)
	}
	return string(d[:12])
}

// Head is an item without its content.
type Head struct {
	ID               string  `json:"id,omitempty"` // permanent; empty outside a store
	Address          Address `json:"address"`
	Meta             Meta    `json:"meta"`
	Doc              Digest  `json:"sha256"`
	NormalizedDigest Digest  `json:"normalizedDigest"`
	Bytes            int64   `json:"bytes"`
}

// State is the digest over address, content and metadata: two heads with one
// state are the same item in the same condition, whatever their ids.
func (h Head) State() Digest {
	meta, err := json.Marshal(h.Meta)
	if err != nil {
		panic(err) // Meta holds only plain values
	}
	return DigestOf([]byte(h.Address.String() + "\x00" + string(h.Doc) + "\x00" + string(meta)))
}

// Collection is what the core knows of any home of items. OfKind and PageAt cost what they give and not
// what the collection holds: they are asked for each link of each page. What wraps a collection cannot
// lose them, since they are methods of it.
type Collection interface {
	Heads() []Head // sorted by address
	Find(Address) (Head, bool)
	Open(Head) (io.ReadCloser, error)
	OfKind(kinds ...Kind) []Head // by address
	// PageAt gives the page whose own address is a slug.
	PageAt(slug string) (Address, bool)
	// KeptAt gives the item that is served at a root-relative address of its own, too: one that it had
	// before it was adopted.
	KeptAt(at string) (Address, bool)
}

// Sure is a content of which it is known that its bytes are those of its digest: they
// were hashed, and have not changed since. Who packs it need not hash it again.
type Sure struct{ io.ReadCloser }

// ReadError tells that the content of an item that is there could not be read: never that
// there is no such item.
type ReadError struct {
	Address Address
	Err     error
}

func (e *ReadError) Error() string { return fmt.Sprintf("reading %s: %v", e.Address, e.Err) }

// Unwrap gives the cause.
func (e *ReadError) Unwrap() error { return e.Err }

// Read gives an item's whole content, or a *ReadError.
func Read(c Collection, h Head) ([]byte, error) {
	r, err := c.Open(h)
	if err != nil {
		return nil, &ReadError{h.Address, err}
	}
	defer r.Close()
	b, err := io.ReadAll(r)
	if err != nil {
		return nil, &ReadError{h.Address, err}
	}
	return b, nil
}

// Set is a collection in memory.
type Set struct {
	heads   map[Address]Head
	content map[Digest][]byte
	files   map[Digest]func() (io.ReadCloser, error)
	known   atomic.Pointer[Index] // nil until it is asked for, and again after a change
}

// NewSet gives an empty collection.
func NewSet() *Set {
	return &Set{
		heads:   map[Address]Head{},
		content: map[Digest][]byte{},
		files:   map[Digest]func() (io.ReadCloser, error){},
	}
}

// Put adds or replaces an item. The caller gives the normalized digest, since finding
// it needs to know the content's language.
func (s *Set) Put(h Head, content []byte) Head {
	h.Doc, h.Bytes = DigestOf(content), int64(len(content))
	if h.NormalizedDigest == "" {
		h.NormalizedDigest = h.Doc
	}
	s.content[h.Doc] = content
	s.ReplaceMeta(h)
	return h
}

// PutFile adds or replaces an item whose content stays outside memory. The head
// must hold its digests and its size.
func (s *Set) PutFile(h Head, open func() (io.ReadCloser, error)) {
	s.files[h.Doc] = open
	s.ReplaceMeta(h)
}

// ReplaceMeta replaces the metadata of an item that is there.
func (s *Set) ReplaceMeta(h Head) {
	s.heads[h.Address] = h
	s.known.Store(nil)
}

// Drop takes an item out.
func (s *Set) Drop(a Address) {
	delete(s.heads, a)
	s.known.Store(nil)
}

// index is that of all items, worked out when it is asked for.
func (s *Set) index() *Index {
	if x := s.known.Load(); x != nil {
		return x
	}
	out := make([]Head, 0, len(s.heads))
	for _, h := range s.heads {
		out = append(out, h)
	}
	SortHeads(out)
	x := NewIndex(out)
	s.known.Store(x)
	return x
}

// Heads lists the items, sorted by address. The list is the caller's.
func (s *Set) Heads() []Head { return slices.Clone(s.index().heads) }

// OfKind lists the items of some kinds, by address.
func (s *Set) OfKind(kinds ...Kind) []Head { return s.index().OfKind(kinds...) }

// PageAt gives the page whose own address is a slug.
func (s *Set) PageAt(slug string) (Address, bool) { return s.index().PageAt(slug) }

// KeptAt gives the item that kept an address.
func (s *Set) KeptAt(at string) (Address, bool) { return s.index().KeptAt(at) }

// SortHeads sorts by address.
func SortHeads(h []Head) {
	sort.Slice(h, func(i, j int) bool { return h[i].Address.Less(h[j].Address) })
}

// Find gives the item at an address.
func (s *Set) Find(a Address) (Head, bool) { h, ok := s.heads[a]; return h, ok }

// Open gives an item's content.
func (s *Set) Open(h Head) (io.ReadCloser, error) {
	b, ok := s.content[h.Doc]
	if open, large := s.files[h.Doc]; !ok && large {
		return open()
	}
	if !ok {
		return nil, fmt.Errorf("%s has no content with digest %s", h.Address, h.Doc.Short())
	}
	return Sure{io.NopCloser(bytes.NewReader(b))}, nil
}
