package store

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/internal/blob"
)

// convertVersion is the version of the schema that convert makes.
const convertVersion = 7

// converter brings what people have kept to the names of schema 7: settings, elements and
// metadata of items, with all digests over them, and the texts of deliveries and kits that
// speak of them. It does all of it in one transaction, and nothing the second time.
//
// It reads and writes tables as schema 6 has them, whatever the models have become since.
type converter struct {
	ctx   context.Context
	tx    *sql.Tx
	blobs *blob.Store
	now   time.Time
	// digests maps digests of contents, items, collections and kits to what they became.
	digests map[string]string
	// taken are the new names that somebody uses for something else already, by scope.
	taken map[string]bool
}

// convert is the migration to schema 7.
func convert(blobs *blob.Store) func(context.Context, *sql.DB) error {
	return func(ctx context.Context, db *sql.DB) error {
		tx, err := db.BeginTx(ctx, nil)
		if err != nil {
			return err
		}
		defer tx.Rollback() //nolint:errcheck // after a commit there is nothing to roll back
		c := &converter{ctx: ctx, tx: tx, blobs: blobs, now: time.Now().UTC(), digests: map[string]string{},
			taken: map[string]bool{}}
		for _, step := range []func() error{
			func() error {
				return c.items("items", "id, to_rev, CONCAT(collection_id, ' ', to_rev)")
			},
			func() error {
				return c.items("draft_items", fmt.Sprintf("draft_id, item_id, CONCAT((SELECT collection_id FROM "+
					"drafts WHERE drafts.id = draft_id), ' ', %d)", Forever))
			},
			func() error {
				return c.items("origins", "id, 0, CONCAT('from ', collection_id, ' ', kit, ' ', copy)")
			},
			c.states, c.collections, c.whereUsed, c.kits, c.deliveries, c.outlets,
		} {
			if err := step(); err != nil {
				return err
			}
		}
		return tx.Commit()
	}
}

// renamedSettings are the settings that have another name.
var renamedSettings = map[string]string{"tagline": "strapline", "search-visibility": "robots", "home-page": "home"}

// itemRow is what items, draft_items and origins have of an item.
type itemRow struct {
	id1, id2, scope       string
	kind                  item.Kind
	key, doc, normal, old string
	meta                  string
	bytes                 int64
}

// items converts the rows of one table.
func (c *converter) items(table, ids string) error {
	key, state := "item_key", "state"
	switch table {
	case "origins":
		key, state = "kit_key", "''"
	case "draft_items":
		state = "base_state"
	}
	kind := strings.TrimSuffix(key, "key") + "kind"
	if table != "origins" {
		kind = "kind"
	}
	rows, err := query(c, "SELECT "+ids+", "+kind+", "+key+", doc, normalized_digest, "+state+", meta, bytes FROM "+
		table, func(rows *sql.Rows) (r itemRow, err error) {
		err = rows.Scan(&r.id1, &r.id2, &r.scope, &r.kind, &r.key, &r.doc, &r.normal, &r.old, &r.meta, &r.bytes)
		return r, err
	})
	if err != nil {
		return err
	}
	for _, r := range rows {
		if r.kind == item.Setting {
			c.taken[r.scope+" "+r.key] = true
		}
	}
	for _, r := range rows {
		n, changed, err := c.item(r)
		if err != nil {
			return err
		}
		if !changed && (table != "items" || stateOf(n) == r.old) {
			continue
		}
		set := "UPDATE " + table + " SET " + key + " = ?, doc = ?, normalized_digest = ?, bytes = ?, meta = ?"
		args := []any{n.key, n.doc, n.normal, n.bytes, n.meta}
		switch table {
		case "items":
			now := stateOf(n)
			c.digests[r.old] = now
			err = c.exec(set+", state = ? WHERE id = ?", append(args, now, r.id1)...)
		case "draft_items":
			err = c.exec(set+" WHERE draft_id = ? AND item_id = ?", append(args, r.id1, r.id2)...)
		default:
			err = c.exec(set+" WHERE id = ?", append(args, r.id1)...)
		}
		if err != nil {
			return fmt.Errorf("converting %s/%s: %w", r.kind, r.key, err)
		}
	}
	return nil
}

// stateOf is item.Head.State over a row as it is.
func stateOf(r itemRow) string {
	return string(item.DigestOf([]byte(string(r.kind) + "/" + r.key + "\x00" + r.doc + "\x00" + r.meta)))
}

// item converts one item.
func (c *converter) item(r itemRow) (itemRow, bool, error) {
	n := r
	if to := renamedSettings[r.key]; r.kind == item.Setting && to != "" && !c.taken[r.scope+" "+to] {
		n.key = to
	}
	if r.meta != "" {
		var meta map[string]any
		if err := unmarshal(r.meta, &meta); err != nil {
			return n, false, fmt.Errorf("the metadata of %s/%s: %w", r.kind, r.key, err)
		}
		b, err := json.Marshal(renamed(meta))
		if err != nil {
			return n, false, err
		}
		var typed item.Meta // in the order in which it is kept
		if err := json.Unmarshal(b, &typed); err != nil {
			return n, false, fmt.Errorf("the metadata of %s/%s: %w", r.kind, r.key, err)
		}
		n.meta = metaText(typed)
	}
	if r.doc != "" && (r.kind.IsMarkup() || n.key == "robots" && r.key != n.key) {
		if err := c.content(&n, n.key == "robots" && r.kind == item.Setting); err != nil {
			return n, false, err
		}
	}
	return n, n != r, nil
}

// content converts what an item contains.
func (c *converter) content(n *itemRow, robots bool) error {
	b, err := c.read(n.kind, n.doc, n.bytes)
	if errors.Is(err, ErrMissing) || IsDamaged(err) {
		return nil // `cparceld verify` tells of it
	}
	if err != nil {
		return err
	}
	was := b
	if robots {
		b = robotsOf(b)
	} else {
		b = bytes.ReplaceAll(b, []byte("cp-tagline"), []byte("cp-strapline"))
	}
	var meta item.Meta
	_ = json.Unmarshal([]byte(n.meta), &meta) // it was just written, or is empty
	if bytes.Equal(was, b) {
		return nil
	}
	from := n.doc
	n.bytes = int64(len(b))
	if n.doc, err = c.keep(n.kind, b); err != nil {
		return err
	}
	normal := string(facts.Extract(n.kind, meta.Context, b).NormalizedDigest)
	if !robots { // what stands in a setting, such as true, stands in others, too
		c.digests[from], c.digests[n.normal] = n.doc, normal
	}
	n.normal = normal
	return nil
}

// robotsOf gives the value of the setting robots for one of search-visibility.
func robotsOf(old []byte) []byte {
	switch strings.TrimSpace(string(old)) {
	case "false", `"hidden"`, `"none"`, `"noindex"`:
		return []byte(`"noindex"`)
	default:
		return []byte(`"index"`)
	}
}

// read gives a content; ErrMissing where it is not there.
func (c *converter) read(kind item.Kind, doc string, size int64) ([]byte, error) {
	if inBlobs(kind, size) {
		f, err := c.blobs.Open(item.Digest(doc))
		if err != nil {
			return nil, err
		}
		defer f.Close()
		return io.ReadAll(f)
	}
	d := Doc{Digest: item.Digest(doc)}
	err := c.tx.QueryRowContext(c.ctx, "SELECT bytes, coding, body FROM docs WHERE digest = ?", doc).
		Scan(&d.Bytes, &d.Coding, &d.Body)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, ErrMissing
	}
	if err != nil {
		return nil, err
	}
	return d.text()
}

// keep keeps a content, and gives its digest.
func (c *converter) keep(kind item.Kind, b []byte) (string, error) {
	if inBlobs(kind, int64(len(b))) {
		return c.keepFile(bytes.NewReader(b))
	}
	d := newDoc(item.DigestOf(b), b, c.now)
	err := c.exec("INSERT IGNORE INTO docs (digest, bytes, coding, body, created_at) "+
		"VALUES (?, ?, ?, ?, ?)", d.Digest, d.Bytes, d.Coding, d.Body, d.CreatedAt)
	return string(d.Digest), err
}

func (c *converter) keepFile(r io.Reader) (string, error) {
	d, n, err := c.blobs.Put(r)
	if err != nil {
		return "", err
	}
	err = c.exec("INSERT IGNORE INTO blobs (digest, bytes, created_at) VALUES (?, ?, ?)", d, n, c.now)
	return string(d), err
}

// states brings up what drafts hold their items against, and folders their files.
func (c *converter) states() error {
	for _, x := range []struct{ table, column string }{
		{"draft_items", "base_state"}, {"draft_preconditions", "state"}, {"folder_files", "doc"},
	} {
		had, err := query(c, "SELECT DISTINCT "+x.column+" FROM "+x.table, single[string])
		if err != nil {
			return err
		}
		for _, old := range had {
			if now := c.digests[old]; now != "" && now != old {
				if err := c.exec("UPDATE "+x.table+" SET "+x.column+" = ? WHERE "+x.column+" = ?",
					now, old); err != nil {
					return err
				}
			}
		}
	}
	for old, now := range renamedSettings {
		if err := c.exec("UPDATE IGNORE draft_preconditions SET item_key = ? WHERE kind = 'setting' "+
			"AND item_key = ?", now, old); err != nil {
			return err
		}
	}
	return nil
}

// collections works out the digest of every revision anew, where it is another.
func (c *converter) collections() error {
	ids, err := query(c, "SELECT id FROM collections ORDER BY id", single[int64])
	if err != nil {
		return err
	}
	for _, id := range ids {
		if err := c.collection(id); err != nil {
			return err
		}
	}
	return nil
}

func (c *converter) collection(id int64) error {
	type row struct {
		a        item.Address
		state    item.Digest
		from, to int64
	}
	rows, err := query(c, fmt.Sprintf("SELECT kind, item_key, state, from_rev, to_rev FROM items WHERE "+
		"collection_id = %d",
		id), func(rows *sql.Rows) (r row, err error) {
		err = rows.Scan(&r.a.Kind, &r.a.Key, &r.state, &r.from, &r.to)
		return r, err
	})
	if err != nil {
		return err
	}
	type revision struct {
		rev    int64
		digest string
	}
	revs, err := query(c, fmt.Sprintf("SELECT rev, digest FROM revisions WHERE collection_id = %d ORDER BY rev", id),
		func(rows *sql.Rows) (r revision, err error) { err = rows.Scan(&r.rev, &r.digest); return r, err })
	if err != nil {
		return err
	}
	begins, ends := map[int64][]row{}, map[int64][]row{}
	for _, x := range rows {
		begins[x.from], ends[x.to] = append(begins[x.from], x), append(ends[x.to], x)
	}
	states := map[item.Address]item.Digest{}
	for _, r := range revs {
		for _, x := range ends[r.rev] {
			delete(states, x.a)
		}
		for _, x := range begins[r.rev] {
			states[x.a] = x.state
		}
		now := string(item.DigestOfStates(states)) // as schema 7 has it
		if now == r.digest {
			continue
		}
		c.digests[r.digest] = now
		if err := c.exec("UPDATE revisions SET digest = ? WHERE collection_id = ? AND rev = ?", now, id,
			r.rev); err != nil {
			return err
		}
		if err := c.exec("UPDATE collections SET digest = ? WHERE id = ? AND revision = ?", now, id,
			r.rev); err != nil {
			return err
		}
	}
	return nil
}

// whereUsed brings up the index of what names a setting.
func (c *converter) whereUsed() error {
	for old, now := range renamedSettings {
		if err := c.exec("UPDATE item_refs SET to_name = ? WHERE to_name = ?", "setting/"+now,
			"setting/"+old); err != nil {
			return err
		}
	}
	return nil
}

// query gives the rows of an answer.
func query[T any](c *converter, text string, scan func(*sql.Rows) (T, error)) ([]T, error) {
	rows, err := c.tx.QueryContext(c.ctx, text)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []T
	for rows.Next() {
		x, err := scan(rows)
		if err != nil {
			return nil, err
		}
		out = append(out, x)
	}
	return out, rows.Err()
}

func (c *converter) exec(text string, args ...any) error {
	_, err := c.tx.ExecContext(c.ctx, text, args...)
	return err
}

func single[T any](rows *sql.Rows) (x T, err error) { return x, rows.Scan(&x) }

func unmarshal(s string, to any) error {
	dec := json.NewDecoder(strings.NewReader(s))
	dec.UseNumber() // a number stays as it was written
	return dec.Decode(to)
}
