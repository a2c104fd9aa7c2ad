package store

import (
	"context"
	"encoding/json"
	"io"
	"slices"
	"strings"
	"sync"
	"time"

	"compactparcel/core/facts"
	"compactparcel/core/item"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Batch keeps many contents with few statements, written while others are read. Its methods may be
// called by several goroutines. Nothing refers to the contents yet: Flush before something does.
type Batch struct {
	s   *Store
	ctx context.Context
	now time.Time

	mu sync.Mutex
	contents
	held int
	// done is closed when what was written last is written; err is the first failure.
	done chan struct{}
	err  error
}

// contents are what a batch writes at once.
type contents struct {
	docs  []Doc
	facts []factsRow
	blobs []Blob
}

type factsRow struct {
	Digest  item.Digest
	Kind    string
	Context string
	Engine  int
	Body    []byte
}

// What a batch holds before it writes.
const (
	batchRows  = 400
	batchBytes = 4 << 20
)

// NewBatch begins a batch.
func (s *Store) NewBatch(ctx context.Context, now time.Time) *Batch {
	return &Batch{s: s, ctx: ctx, now: now}
}

// Text keeps a text whose facts are known, and gives its head with the digests.
func (b *Batch) Text(h item.Head, content []byte, f *facts.Facts) (item.Head, error) {
	h.Doc, h.Bytes, h.NormalizedDigest = item.DigestOf(content), int64(len(content)), f.NormalizedDigest
	if inBlobs(h.Address.Kind, h.Bytes) {
		var err error
		if h, err = b.File(h, strings.NewReader(string(content))); err != nil {
			return h, err
		}
		h.NormalizedDigest = f.NormalizedDigest
	}
	body, err := json.Marshal(f)
	if err != nil {
		return h, err
	}
	row := factsRow{h.Doc, string(h.Address.Kind), h.Meta.Context, factsEngine, encoder.EncodeAll(body, nil)}
	var doc *Doc
	if !inBlobs(h.Address.Kind, h.Bytes) {
		doc = newDoc(h.Doc, content, b.now)
	}
	key := factsKey{h.Doc, h.Address.Kind, h.Meta.Context}
	b.s.remember(key, f)
	b.s.rememberNamed(key, unique(namedBy(item.Head{Address: h.Address}, f)))
	b.mu.Lock()
	defer b.mu.Unlock()
	b.facts = append(b.facts, row)
	b.held += len(row.Body)
	if doc != nil {
		b.docs = append(b.docs, *doc)
		b.held += len(doc.Body)
	}
	if len(b.facts) >= batchRows || b.held >= batchBytes {
		return h, b.flush()
	}
	return h, nil
}

// Bare keeps a text of which no item is made: what an item was.
func (b *Batch) Bare(kind item.Kind, content []byte) error {
	if inBlobs(kind, int64(len(content))) {
		_, err := b.File(item.Head{}, strings.NewReader(string(content)))
		return err
	}
	doc := newDoc(item.DigestOf(content), content, b.now)
	b.mu.Lock()
	defer b.mu.Unlock()
	b.docs = append(b.docs, *doc)
	b.held += len(doc.Body)
	if len(b.docs) >= batchRows || b.held >= batchBytes {
		return b.flush()
	}
	return nil
}

// File keeps a file as it streams, and gives the head with its digest. The disk is
// asked to be sure of it when the batch is flushed.
func (b *Batch) File(h item.Head, r io.Reader) (item.Head, error) {
	d, n, err := b.s.Blobs.PutSoon(r)
	if err != nil {
		return h, err
	}
	h.Doc, h.NormalizedDigest, h.Bytes = d, d, n
	b.mu.Lock()
	defer b.mu.Unlock()
	b.blobs = append(b.blobs, Blob{Digest: d, Bytes: n, CreatedAt: b.now})
	if len(b.blobs) >= batchRows {
		return h, b.flush()
	}
	return h, nil
}

// Flush writes what is held, and gives the first failure of all writing.
func (b *Batch) Flush() error {
	b.mu.Lock()
	defer b.mu.Unlock()
	if err := b.flush(); err != nil {
		return err
	}
	return b.wait()
}

// wait waits for what is being written.
func (b *Batch) wait() error {
	if b.done != nil {
		<-b.done
		b.done = nil
	}
	return b.err
}

// flush begins to write what is held, when what was begun before is written. Within another
// transaction it is written at once: nobody else may use that.
func (b *Batch) flush() error {
	if err := b.wait(); err != nil {
		return err
	}
	c := b.contents
	b.contents, b.held = contents{}, 0
	if _, within := b.ctx.Value(txKey{}).(*gorm.DB); within {
		b.err = b.write(c)
		return b.err
	}
	done := make(chan struct{})
	b.done = done
	go func() {
		defer close(done)
		b.err = b.write(c)
	}()
	return nil
}

func (b *Batch) write(c contents) error {
	if len(c.facts)+len(c.docs)+len(c.blobs) == 0 {
		return nil
	}
	if len(c.blobs) > 0 {
		if err := b.s.Blobs.Sync(); err != nil {
			return err
		}
	}
	return b.s.tx(b.ctx, func(tx *gorm.DB) error {
		if len(c.docs) > 0 {
			if err := keepDocs(tx, c.docs); err != nil {
				return err
			}
		}
		if len(c.facts) > 0 {
			slices.SortFunc(
				c.facts,
				func(x, y factsRow) int { return strings.Compare(string(x.Digest), string(y.Digest)) },
			)
			args := make([]any, 0, 5*len(c.facts))
			for _, f := range c.facts {
				args = append(args, f.Digest, f.Kind, f.Context, f.Engine, f.Body)
			}
			rows := strings.TrimSuffix(strings.Repeat("(?,?,?,?,?),", len(c.facts)), ",")
			if err := tx.Exec(keepFacts+rows+factsAnew, args...).Error; err != nil {
				return err
			}
		}
		if len(c.blobs) > 0 {
			leases := make([]BlobLease, len(c.blobs))
			for i, x := range c.blobs {
				leases[i] = BlobLease{Digest: x.Digest, Until: b.now.Add(Lease)}
			}
			if err := tx.Create(&leases).Error; err != nil {
				return err
			}
			return tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&c.blobs).Error
		}
		return nil
	})
}
