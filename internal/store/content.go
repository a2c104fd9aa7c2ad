package store

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"compactparcel/core/facts"
	"compactparcel/core/item"

	"github.com/klauspost/compress/zstd"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// MaxDoc is the largest text, in bytes, that is kept in the database.
const MaxDoc = 1 << 20

var (
	encoder, _ = zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest))
	decoder, _ = zstd.NewReader(nil, zstd.WithDecoderMaxMemory(256<<20))
)

// inBlobs tells where an item's content lies.
func inBlobs(kind item.Kind, size int64) bool { return kind == item.Media || size > MaxDoc }

// PutContent keeps an item's content. Nothing refers to it yet: the caller does
// so within the lease.
func (s *Store) PutContent(ctx context.Context, kind item.Kind, b []byte, now time.Time) (item.Digest, error) {
	if inBlobs(kind, int64(len(b))) {
		d, _, err := s.PutBlob(ctx, bytes.NewReader(b), now)
		return d, err
	}
	d := item.DigestOf(b)
	return d, keepDocs(s.conn(ctx), []Doc{*newDoc(d, b, now)})
}

// keepDocs writes texts. One that is there is written again, so that it is whole whatever
// has become of it; in the order of their digests, so that two writers wait and do not
// stop each other.
func keepDocs(tx *gorm.DB, docs []Doc) error {
	slices.SortFunc(docs, func(a, b Doc) int { return strings.Compare(string(a.Digest), string(b.Digest)) })
	whole := clause.OnConflict{DoUpdates: clause.AssignmentColumns([]string{"bytes", "coding", "body", "created_at"})}
	return tx.Clauses(whole).Create(&docs).Error
}

func newDoc(d item.Digest, b []byte, now time.Time) *Doc {
	doc := &Doc{Digest: d, Bytes: int64(len(b)), Coding: "plain", Body: b, CreatedAt: now}
	if z := encoder.EncodeAll(b, nil); len(z) < len(b) {
		doc.Coding, doc.Body = "zstd", z
	}
	if doc.Body == nil {
		doc.Body = []byte{}
	}
	return doc
}

// Lease is how long a blob is kept for somebody who is about to refer to it.
const Lease = time.Hour

// PutBlob keeps a file. The lease row is written once the digest is known and
// before anybody can look whether the file is there.
func (s *Store) PutBlob(ctx context.Context, r io.Reader, now time.Time) (item.Digest, int64, error) {
	d, n, err := s.Blobs.Put(r)
	if err != nil {
		return "", 0, err
	}
	if err := s.conn(ctx).Create(&BlobLease{Digest: d, Until: now.Add(Lease)}).Error; err != nil {
		return "", 0, err
	}
	return d, n, s.conn(ctx).
		Clauses(clause.OnConflict{DoNothing: true}).
		Create(&Blob{Digest: d, Bytes: n, CreatedAt: now}).
		Error
}

// Content opens an item's content, to be read once. Its bytes are held against its digest:
// of a file as they are read, so that only io.EOF says that all was right. The digest alone says what it
// is; kind and size only say where to look first, since a text may have had another size when it was kept.
func (s *Store) Content(ctx context.Context, h item.Head) (io.ReadCloser, error) {
	first, second := s.docContent, s.blobContent
	if inBlobs(h.Address.Kind, h.Bytes) {
		first, second = second, first
	}
	rc, err := first(ctx, h.Doc)
	if isMissing(err) {
		if other, otherErr := second(ctx, h.Doc); !isMissing(otherErr) {
			rc, err = other, otherErr
		}
	}
	if err != nil {
		return nil, fmt.Errorf("the content of %s (%s): %w", h.Address, h.Doc.Short(), err)
	}
	return rc, nil
}

// blobContent opens a content of the blob store; ErrMissing where it is not there.
func (s *Store) blobContent(_ context.Context, d item.Digest) (io.ReadCloser, error) {
	r, err := s.Blobs.Open(d)
	if err != nil {
		return nil, err
	}
	return item.Sure{ReadCloser: r}, nil
}

// docContent opens a content of the database; ErrMissing where it is not there.
func (s *Store) docContent(ctx context.Context, d item.Digest) (io.ReadCloser, error) {
	var doc Doc
	err := s.conn(ctx).Where("digest = ?", d).Take(&doc).Error
	if errors.Is(err, ErrNotFound) {
		err = ErrMissing // it is never that there is no such item
	}
	if err != nil {
		return nil, err
	}
	b, err := doc.text()
	if err != nil {
		return nil, err
	}
	return item.Sure{ReadCloser: io.NopCloser(bytes.NewReader(b))}, nil
}

// text gives the text itself, held against its digest.
func (d *Doc) text() ([]byte, error) {
	b := d.Body
	if d.Coding == "zstd" {
		var err error
		if b, err = decoder.DecodeAll(d.Body, make([]byte, 0, min(d.Bytes, MaxDoc))); err != nil {
			return nil, fmt.Errorf("%w: %s: %w", ErrDamaged, d.Digest.Short(), err)
		}
	}
	if item.DigestOf(b) != d.Digest {
		return nil, fmt.Errorf("%w: %s", ErrDamaged, d.Digest.Short())
	}
	return b, nil
}

// factsEngine counts the versions of the reader of facts: raise it when facts change.
const factsEngine = 13

type factsKey struct {
	doc     item.Digest
	kind    item.Kind
	context string
}

// MaxRead is the largest content, in bytes, that is read for what it names. A larger one,
// which only media can be, names nothing that is known.
const MaxRead = 32 << 20

// Facts gives an item's facts, from memory, from the table or from its bytes.
func (s *Store) Facts(ctx context.Context, h item.Head) (*facts.Facts, error) {
	if h.Bytes > MaxRead {
		return &facts.Facts{NormalizedDigest: h.Doc, Opaque: true}, nil
	}
	key := factsKey{h.Doc, h.Address.Kind, h.Meta.Context}
	s.mu.Lock()
	f, ok := s.facts[key]
	s.mu.Unlock()
	if ok {
		return f, nil
	}
	var row struct{ Body []byte }
	err := s.conn(ctx).
		Table("facts").
		Select("body").
		Where("digest = ? AND kind = ? AND context = ? AND engine = ?", key.doc, key.kind, key.context, factsEngine).
		Take(&row).
		Error
	if err != nil && !errors.Is(err, ErrNotFound) {
		return nil, fmt.Errorf("the facts of %s: %w", h.Address, err)
	}
	if err == nil {
		if f = readFacts(row.Body); f != nil {
			s.remember(key, f)
			return f, nil
		}
	}
	rc, err := s.Content(ctx, h)
	if err != nil {
		return nil, err
	}
	defer rc.Close()
	b, err := io.ReadAll(rc)
	if err != nil {
		return nil, err
	}
	return s.KeepFacts(ctx, h, b)
}

// readFacts reads facts as they are kept; nil when they are damaged, so that they are
// worked out anew. The coding has a checksum of its own.
func readFacts(body []byte) *facts.Facts {
	b, err := decoder.DecodeAll(body, nil)
	if err != nil {
		return nil
	}
	f := &facts.Facts{}
	if json.Unmarshal(b, f) != nil {
		return nil
	}
	return f
}

// primeFacts takes the facts of many items from the table into memory.
func (s *Store) primeFacts(ctx context.Context, heads []item.Head) error {
	var digests []item.Digest
	s.mu.Lock()
	for _, h := range heads {
		if _, ok := s.facts[factsKey{h.Doc, h.Address.Kind, h.Meta.Context}]; !ok {
			digests = append(digests, h.Doc)
		}
	}
	s.mu.Unlock()
	for len(digests) > 0 {
		n := min(len(digests), 400)
		var rows []factsRow
		if err := s.conn(ctx).
			Table("facts").
			Select("digest, kind, context, body").
			Where("engine = ? AND digest IN ?", factsEngine, digests[:n]).
			Find(&rows).
			Error; err != nil {
			return err
		}
		for _, r := range rows {
			if f := readFacts(r.Body); f != nil {
				s.remember(factsKey{r.Digest, item.Kind(r.Kind), r.Context}, f)
			}
		}
		digests = digests[n:]
	}
	return nil
}

// KeepFacts works out the facts of a content at hand and keeps them.
func (s *Store) KeepFacts(ctx context.Context, h item.Head, content []byte) (*facts.Facts, error) {
	f := facts.Extract(h.Address.Kind, h.Meta.Context, content)
	body, err := json.Marshal(f)
	if err != nil {
		return nil, err
	}
	key := factsKey{h.Doc, h.Address.Kind, h.Meta.Context}
	err = s.conn(ctx).
		Exec(keepFacts+" (?,?,?,?,?)"+factsAnew, key.doc, string(key.kind), key.context, factsEngine,
			encoder.EncodeAll(body, nil)).
		Error
	if err != nil {
		return nil, err
	}
	s.remember(key, f)
	return f, nil
}

// The statement that keeps facts, also in the place of damaged ones.
const (
	keepFacts = "INSERT INTO facts (digest, kind, context, engine, body) VALUES"
	factsAnew = " ON DUPLICATE KEY UPDATE body = VALUES(body)"
)

// maxFactsInMemory bounds, in bytes and about, the memory that facts take.
const maxFactsInMemory = 32 << 20

func (s *Store) remember(key factsKey, f *facts.Facts) {
	weight := 600 + 160*len(f.Refs) + 24*len(f.Terms) + 40*len(f.Mentions)
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.factsWeight += weight; s.factsWeight > maxFactsInMemory {
		clear(s.facts)
		s.factsWeight = weight
	}
	s.facts[key] = f
}

// ForgetBlob drops the record of a swept blob.
func (s *Store) ForgetBlob(ctx context.Context, d item.Digest) error {
	return s.conn(ctx).Exec("DELETE FROM blobs WHERE digest = ?", d).Error
}
