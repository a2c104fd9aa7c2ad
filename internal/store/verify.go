package store

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"slices"
	"strings"
	"time"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/internal/blob"

	"gorm.io/gorm"
)

// Finding is something that is not as it should be.
type Finding struct {
	What    string // the text, file, item or collection
	Message string
	Mended  bool
}

// Verified says how much was looked at.
type Verified struct {
	Texts, Files, Collections, Items int
	Wrong, Mended                    int
}

// Verify holds all that is kept against its digests and all that is remembered against its
// sources. With mend it puts right what can be.
func (s *Store) Verify(ctx context.Context, mend bool, say func(Finding)) (*Verified, error) {
	v := &verifier{s: s, ctx: ctx, mend: mend, say: say, out: &Verified{}, bad: map[item.Digest]string{}}
	for _, step := range []func() error{v.texts, v.files, v.kits, v.references, v.collections} {
		if err := step(); err != nil {
			return nil, err
		}
	}
	return v.out, nil
}

type verifier struct {
	s    *Store
	ctx  context.Context
	mend bool
	say  func(Finding)
	out  *Verified
	bad  map[item.Digest]string // contents that are damaged or missing: why
}

func (v *verifier) found(mended bool, what, format string, args ...any) {
	v.out.Wrong++
	if mended {
		v.out.Mended++
	}
	v.say(Finding{what, fmt.Sprintf(format, args...), mended})
}

// texts holds the texts of the database against their digests.
func (v *verifier) texts() error {
	var docs []Doc
	return v.s.conn(v.ctx).FindInBatches(&docs, 200, func(*gorm.DB, int) error {
		for _, d := range docs {
			v.out.Texts++
			if _, err := d.text(); err != nil {
				v.bad[d.Digest] = "its bytes do not match its digest"
			}
		}
		return nil
	}).Error
}

// files holds the files of the blob store against their digests.
func (v *verifier) files() error {
	blobs, err := v.s.AllBlobs(v.ctx)
	if err != nil {
		return err
	}
	for _, b := range blobs {
		if err := v.ctx.Err(); err != nil {
			return err
		}
		v.out.Files++
		switch err := v.s.Blobs.Check(b.Digest); {
		case errors.Is(err, blob.ErrMissing), errors.Is(err, fs.ErrNotExist):
			v.bad[b.Digest] = "it is missing"
		case errors.Is(err, blob.ErrDamaged):
			v.bad[b.Digest] = "its bytes do not match its digest"
		case err != nil:
			return err
		}
	}
	return nil
}

// kits brings damaged contents back from the kit files on the shelf that hold them, and a
// damaged text or file is named.
func (v *verifier) kits() error {
	if len(v.bad) > 0 && v.mend {
		if err := v.fromKits(); err != nil {
			return err
		}
	}
	for _, d := range sortedDigests(v.bad) {
		v.found(false, "content "+d.Short(), "%s", v.bad[d])
	}
	return nil
}

func sortedDigests(m map[item.Digest]string) []item.Digest {
	out := make([]item.Digest, 0, len(m))
	for d := range m {
		out = append(out, d)
	}
	slices.Sort(out)
	return out
}

func (v *verifier) fromKits() error {
	var rows []KitVersion
	if err := v.s.conn(v.ctx).Where("file <> ''").Find(&rows).Error; err != nil {
		return err
	}
	for _, r := range rows {
		var list kit.PackingList
		if json.Unmarshal([]byte(r.List), &list) != nil {
			continue
		}
		if !slices.ContainsFunc(list.Items, func(e kit.Entry) bool { return v.bad[e.SHA256] != "" }) {
			continue
		}
		f, err := v.s.Blobs.File(r.File)
		if IsDamaged(err) {
			continue // it is named itself
		}
		if err != nil {
			return err
		}
		err = v.fromKit(f, r.FileBytes, &list)
		f.Close()
		if err != nil {
			return err
		}
	}
	return nil
}

func (v *verifier) fromKit(f io.ReaderAt, size int64, list *kit.PackingList) error {
	k, err := kit.Open(f, size)
	if err != nil {
		return nil //nolint:nilerr // an older format may be refused by now
	}
	for _, e := range list.Items {
		if v.bad[e.SHA256] == "" {
			continue
		}
		b, err := item.Read(k, e.Head())
		if err != nil || item.DigestOf(b) != e.SHA256 {
			continue
		}
		if _, err := v.s.PutContent(v.ctx, e.Kind, b, time.Now().UTC()); err != nil {
			return err
		}
		v.found(true, "content "+e.SHA256.Short(), "%s; it is in the kit %s@%s and was restored from there",
			v.bad[e.SHA256], list.Kit, list.Version)
		delete(v.bad, e.SHA256)
	}
	return nil
}

// references finds what names content that is not there or damaged.
func (v *verifier) references() error {
	for _, q := range []struct{ what, sql string }{
		{"item", `SELECT CONCAT(c.kind, ' ', c.name, ' ', i.kind, '/', i.item_key, IF(i.to_rev = ` +
			`9223372036854775807, '', ' (of before)')) AS name, i.doc AS doc, i.kind AS kind, i.bytes AS bytes
			FROM items i JOIN collections c ON c.id = i.collection_id`},
		{"draft", `SELECT CONCAT('draft ', x.draft_id, ' ', x.kind, '/', x.item_key) AS name, x.doc AS doc, ` +
			`x.kind AS kind, x.bytes AS bytes FROM draft_items x JOIN drafts d ON d.id = x.draft_id WHERE x.op = ` +
			`'put' AND d.state = 'open'`},
		{"origin", `SELECT CONCAT('as ', kit, ' delivered ', kit_kind, '/', kit_key) AS name, doc, kit_kind AS ` +
			`kind, bytes FROM origins WHERE doc <> ''`},
		{"kit", `SELECT CONCAT('the file of ', k.name, '@', v.version) AS name, v.file AS doc, 'media' AS kind, ` +
			`v.file_bytes AS bytes FROM kit_versions v JOIN kits k ON k.id = v.kit_id WHERE v.file <> ''`},
	} {
		q := v.s.conn(v.ctx).Raw(q.sql)
		type ref struct {
			name, kind string
			doc        item.Digest
			bytes      int64
		}
		var refs []ref
		if err := each(q, func(rows *sql.Rows) error {
			var r ref
			err := rows.Scan(&r.name, &r.doc, &r.kind, &r.bytes)
			refs = append(refs, r)
			return err
		}); err != nil {
			return err
		}
		have, err := v.have()
		if err != nil {
			return err
		}
		for _, r := range refs {
			if why := v.bad[r.doc]; why != "" {
				v.found(false, r.name, "its content is damaged: %s", why)
			} else if !have[r.doc] {
				v.found(false, r.name, "its content %s is missing", r.doc.Short())
			}
		}
	}
	return nil
}

// have lists all contents.
func (v *verifier) have() (map[item.Digest]bool, error) {
	out := map[item.Digest]bool{}
	for _, table := range []string{"docs", "blobs"} {
		var list []item.Digest
		if err := v.s.conn(v.ctx).Table(table).Pluck("digest", &list).Error; err != nil {
			return nil, err
		}
		for _, d := range list {
			out[d] = true
		}
	}
	return out, nil
}

// collections holds the states of items, the digests of collections and what is remembered
// of where things are used against what they are made of.
func (v *verifier) collections() error {
	var all []Collection
	if err := v.s.conn(v.ctx).Order("id").Find(&all).Error; err != nil {
		return err
	}
	for _, c := range all {
		v.out.Collections++
		if err := v.collection(&c); err != nil {
			return err
		}
	}
	return nil
}

// collection looks at one moment of a collection; what is to be put right is held meanwhile.
func (v *verifier) collection(c *Collection) error {
	within, read := v.s.snapshot, func(tx *gorm.DB) (*Collection, error) {
		var now Collection
		return &now, tx.Where("id = ?", c.ID).Take(&now).Error
	}
	if v.mend {
		within, read = v.s.tx, func(tx *gorm.DB) (*Collection, error) { return lockRow[Collection](tx, c.ID) }
	}
	return within(v.ctx, func(tx *gorm.DB) error {
		c, err := read(tx)
		if err != nil {
			return err
		}
		name := string(c.Kind) + " " + c.Name
		var rows []Item
		if err := tx.Where("collection_id = ? AND to_rev = ?", c.ID, Forever).Find(&rows).Error; err != nil {
			return err
		}
		states := make(map[item.Address]item.Digest, len(rows))
		slugs := map[string]item.Address{}
		var heads []item.Head
		for _, r := range rows {
			v.out.Items++
			h := r.Head()
			heads = append(heads, h)
			states[h.Address] = h.State()
			if h.State() != r.State {
				if v.mend {
					if err := tx.Model(&Item{}).Where("id = ?", r.ID).Update("state", h.State()).Error; err != nil {
						return err
					}
				}
				v.found(v.mend, name+" "+h.Address.String(),
					"its state's digest does not match its content and metadata")
			}
			if c.Kind == Site && h.Address.Kind == item.Page {
				if other, twice := slugs[h.Meta.Slug]; twice {
					v.found(false, name+" "+h.Address.String(), "it is at %s, as %s is; visitors see one of them",
						h.Meta.Slug, other)
				}
				slugs[h.Meta.Slug] = h.Address
			}
		}
		var sum item.CollectionSum
		for a, state := range states {
			sum.Add(a, state)
		}
		if d := sum.Digest(); d != c.Digest || !bytes.Equal(c.Sum, sum.Bytes()) {
			if v.mend {
				if err := tx.Model(&Collection{}).
					Where("id = ?", c.ID).
					Updates(map[string]any{"digest": d, "sum": sum.Bytes()}).
					Error; err != nil {
					return err
				}
				if err := tx.Model(&Revision{}).
					Where("collection_id = ? AND rev = ?", c.ID, c.Revision).
					Update("digest", d).
					Error; err != nil {
					return err
				}
			}
			v.found(v.mend, name, "its digest does not match its items")
		}
		return v.whereUsed(tx, c, name, heads)
	})
}

// whereUsed holds the tables of uses and of search words against the items.
func (v *verifier) whereUsed(tx *gorm.DB, c *Collection, name string, heads []item.Head) error {
	got := map[string]map[string]bool{}
	for table, column := range map[string]string{"item_refs": "to_name", "item_terms": "term"} {
		q := tx.Table(table).Select("item_id, "+column).Where("collection_id = ?", c.ID)
		if err := each(q, func(rows *sql.Rows) error {
			var id, word string
			err := rows.Scan(&id, &word)
			if got[id] == nil {
				got[id] = map[string]bool{}
			}
			got[id][table+" "+word] = true
			return err
		}); err != nil {
			return err
		}
	}
	var wrong []item.Head
	for _, h := range heads {
		want, err := v.uses(tx, c, h)
		if err != nil {
			return err
		}
		if want != nil && !sameWords(want, got[h.ID]) {
			wrong = append(wrong, h)
			v.found(v.mend, name+" "+h.Address.String(),
				"what is recorded of what it uses differs from its source")
		}
		delete(got, h.ID)
	}
	if len(got) > 0 {
		v.found(v.mend, name, "uses are recorded of %d items that do not exist", len(got))
	}
	if !v.mend || len(wrong)+len(got) == 0 {
		return nil
	}
	for id := range got {
		wrong = append(wrong, item.Head{ID: id})
	}
	fresh := slices.DeleteFunc(slices.Clone(wrong), func(h item.Head) bool { return h.Address.IsZero() })
	return v.s.index(tx, c, wrong, fresh)
}

func sameWords(a, b map[string]bool) bool {
	if len(a) != len(b) {
		return false
	}
	for w := range a {
		if !b[w] {
			return false
		}
	}
	return true
}

// uses gives what an item's source says it uses, read anew; nil when its content is damaged.
func (v *verifier) uses(tx *gorm.DB, c *Collection, h item.Head) (map[string]bool, error) {
	if v.bad[h.Doc] != "" {
		return nil, nil
	}
	f := &facts.Facts{}
	if names(h) && h.Bytes <= MaxRead {
		r, err := v.s.Content(tx.Statement.Context, h)
		if IsDamaged(err) {
			return nil, nil // it is named already
		}
		if err != nil {
			return nil, err
		}
		b, err := io.ReadAll(r)
		r.Close()
		if err != nil {
			return nil, err
		}
		f = facts.Extract(h.Address.Kind, h.Meta.Context, b)
		if v.mend { // in the place of what may be damaged
			if _, err := v.s.KeepFacts(tx.Statement.Context, h, b); err != nil {
				return nil, err
			}
		}
	}
	out := map[string]bool{}
	for _, n := range append(namedBy(h, &facts.Facts{}), namedBy(item.Head{Address: h.Address}, f)...) {
		out["item_refs "+n] = true
	}
	if c.Kind == Library {
		for _, w := range append(append([]string{}, f.Terms...), Words(h)...) {
			out["item_terms "+strings.ToValidUTF8(w, "")] = true
		}
	}
	return out, nil
}

// AllBlobs lists the files that records know of.
func (s *Store) AllBlobs(ctx context.Context) ([]Blob, error) {
	var out []Blob
	err := s.conn(ctx).Order("digest").Find(&out).Error
	return out, err
}

// CollectionDigests gives the digest of every collection, by kind/name.
func (s *Store) CollectionDigests(ctx context.Context) (map[string]item.Digest, error) {
	var all []Collection
	if err := s.conn(ctx).Find(&all).Error; err != nil {
		return nil, err
	}
	out := make(map[string]item.Digest, len(all))
	for _, c := range all {
		out[string(c.Kind)+"/"+c.Name] = c.Digest
	}
	return out, nil
}

// each goes through the rows of a query.
func each(q *gorm.DB, f func(rows *sql.Rows) error) error {
	rows, err := q.Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		if err := f(rows); err != nil {
			return err
		}
	}
	return rows.Err()
}
