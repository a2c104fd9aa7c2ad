package store

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"time"

	"compactparcel/core/facts"
	"compactparcel/core/item"

	"github.com/klauspost/compress/zstd"
	"gorm.io/gorm/clause"
)

// MaxDoc is the largest text, in bytes, that is kept in the database.
const MaxDoc = 1 << 20

var (
	encoder, _ = zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedDefault))
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
	return d, s.DB(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(newDoc(d, b, now)).Error
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
	if err := s.DB(ctx).Create(&BlobLease{Digest: d, Until: now.Add(Lease)}).Error; err != nil {
		return "", 0, err
	}
	return d, n, s.DB(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&Blob{Digest: d, Bytes: n, CreatedAt: now}).Error
}

// Content opens an item's content.
func (s *Store) Content(ctx context.Context, h item.Head) (io.ReadCloser, error) {
	if inBlobs(h.Address.Kind, h.Bytes) {
		return s.Blobs.File(h.Doc)
	}
	var doc Doc
	if err := s.DB(ctx).Where("digest = ?", h.Doc).Take(&doc).Error; err != nil {
		return nil, fmt.Errorf("the content of %s (%s): %w", h.Address, h.Doc.Short(), err)
	}
	b, err := doc.text()
	if err != nil {
		return nil, fmt.Errorf("the content of %s: %w", h.Address, err)
	}
	return io.NopCloser(bytes.NewReader(b)), nil
}

// text gives the text itself.
func (d *Doc) text() ([]byte, error) {
	if d.Coding != "zstd" {
		return d.Body, nil
	}
	b, err := decoder.DecodeAll(d.Body, make([]byte, 0, d.Bytes))
	if err != nil {
		return nil, fmt.Errorf("%s is damaged: %w", d.Digest.Short(), err)
	}
	return b, nil
}

// factsEngine counts the versions of the reader of facts: raise it when facts change.
const factsEngine = 6

type factsKey struct {
	doc     item.Digest
	kind    item.Kind
	context string
}

// Facts gives an item's facts, from memory, from the table or from its bytes.
func (s *Store) Facts(ctx context.Context, h item.Head) (*facts.Facts, error) {
	key := factsKey{h.Doc, h.Address.Kind, h.Meta.Context}
	s.mu.Lock()
	f, ok := s.facts[key]
	s.mu.Unlock()
	if ok {
		return f, nil
	}
	var row struct{ Body []byte }
	err := s.DB(ctx).Table("facts").Select("body").Where("digest = ? AND kind = ? AND context = ? AND engine = ?", key.doc, key.kind, key.context, factsEngine).Take(&row).Error
	if err == nil {
		if b, e := decoder.DecodeAll(row.Body, nil); e == nil {
			f = &facts.Facts{}
			if json.Unmarshal(b, f) == nil {
				s.remember(key, f)
				return f, nil
			}
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
		if err := s.DB(ctx).Table("facts").Select("digest, kind, context, body").Where("engine = ? AND digest IN ?", factsEngine, digests[:n]).Find(&rows).Error; err != nil {
			return err
		}
		for _, r := range rows {
			b, err := decoder.DecodeAll(r.Body, nil)
			if err != nil {
				continue // it is worked out anew
			}
			f := &facts.Facts{}
			if json.Unmarshal(b, f) == nil {
				s.remember(factsKey{r.Digest, item.Kind(r.Kind), r.Context}, f)
			}
		}
		digests = digests[n:]
	}
	return nil
}

// KeepFacts works out the facts of a content at hand and keeps them.
func (s *Store) KeepFacts(ctx context.Context, h item.Head, content []byte) (*facts.Facts, error) {
	f := facts.Of(h.Address.Kind, h.Meta.Context, content)
	body, err := json.Marshal(f)
	if err != nil {
		return nil, err
	}
	key := factsKey{h.Doc, h.Address.Kind, h.Meta.Context}
	err = s.DB(ctx).Exec("INSERT IGNORE INTO facts (digest, kind, context, engine, body) VALUES (?,?,?,?,?)", key.doc, string(key.kind), key.context, factsEngine, encoder.EncodeAll(body, nil)).Error
	s.remember(key, f)
	return f, err
}

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

// BlobWanted tells whether any record or lease wants a blob; for the sweep.
func (s *Store) BlobWanted(ctx context.Context, d item.Digest, now time.Time) (bool, error) {
	var n int64
	err := s.DB(ctx).Raw(`SELECT (SELECT COUNT(*) FROM blob_leases WHERE digest = ? AND until > ?) + (SELECT COUNT(*) FROM items WHERE doc = ?)
		+ (SELECT COUNT(*) FROM draft_items WHERE doc = ?) + (SELECT COUNT(*) FROM kit_versions WHERE file = ?) + (SELECT COUNT(*) FROM origins WHERE doc = ?)`, d, now, d, d, d, d).Scan(&n).Error
	return n > 0, err
}

// ForgetBlob drops the record of a swept blob and of leases that ran out.
func (s *Store) ForgetBlob(ctx context.Context, d item.Digest, now time.Time) error {
	if err := s.DB(ctx).Exec("DELETE FROM blob_leases WHERE until <= ?", now).Error; err != nil {
		return err
	}
	return s.DB(ctx).Exec("DELETE FROM blobs WHERE digest = ?", d).Error
}
