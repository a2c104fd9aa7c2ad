package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/item"

	"gorm.io/gorm"
)

// Change is one item put or deleted.
type Change struct {
	Delete bool
	Head   item.Head // with its permanent id
}

// Note says what made a revision.
type Note struct {
	By       string
	Act      string
	Message  string
	Delivery *int64
	At       time.Time
}

// Conflict is an item that is not in the state that a change was made for.
type Conflict struct {
	Address item.Address `json:"address"`
	Message string       `json:"message"`
}

// StaleError tells that the site has moved on since a draft was made.
type StaleError struct{ Conflicts []Conflict }

func (e *StaleError) Error() string {
	var parts []string
	for _, c := range e.Conflicts {
		parts = append(parts, c.Address.String()+" "+c.Message)
	}
	return "the site has changed in the meantime: " + strings.Join(parts, "; ")
}

// liveByID gives the open rows of some items by their permanent ids: what a change is about,
// and not the whole of a collection.
func liveByID(tx *gorm.DB, id int64, ids []string) (map[string]Item, error) {
	out := make(map[string]Item, len(ids))
	for part := range slices.Chunk(ids, 500) {
		var rows []Item
		if err := tx.Select("id, item_id, kind, item_key, state").
			Where("collection_id = ? AND to_rev = ? AND item_id IN ?", id, Forever, part).
			Find(&rows).
			Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			out[r.ItemID] = r
		}
	}
	return out, nil
}

// liveAt gives the states of the items that are at some addresses.
func liveAt(tx *gorm.DB, id int64, list []item.Address) (map[item.Address]item.Digest, error) {
	out := make(map[item.Address]item.Digest, len(list))
	for part := range slices.Chunk(list, 400) {
		pairs := make([][]any, len(part))
		for i, a := range part {
			pairs[i] = []any{string(a.Kind), a.Key}
		}
		var rows []Item
		if err := tx.Select("kind, item_key, state").
			Where("collection_id = ? AND to_rev = ? AND (kind, item_key) IN ?", id, Forever, pairs).
			Find(&rows).
			Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			out[r.Address()] = r.State
		}
	}
	return out, nil
}

// slugOf gives the address that no other page of a site may have; nil for all else. Pages
// of kits and of the library come from several sites, and can have one address.
func slugOf(c *Collection, h item.Head) *string {
	if c.Kind != Site || h.Address.Kind != item.Page || h.Meta.Slug == "" || len(h.Meta.Slug) > item.MaxSlug {
		return nil
	}
	return &h.Meta.Slug
}

// slugs adds to the conflicts the pages whose address another page has; their own former
// rows are closed already. The table's constraint holds the same.
func (e *StaleError) slugs(tx *gorm.DB, c *Collection, rows []Item) error {
	want := map[string]item.Address{}
	var list []string
	for _, r := range rows {
		if r.Slug == nil {
			continue
		}
		if other, twice := want[*r.Slug]; twice {
			e.Conflicts = append(e.Conflicts,
				Conflict{r.Address(), "wants the address " + *r.Slug + ", as " + other.String() + " does"})
		}
		want[*r.Slug] = r.Address()
		list = append(list, *r.Slug)
	}
	for len(list) > 0 {
		n := min(len(list), 500)
		var taken []Item
		if err := tx.Select("kind, item_key, slug").
			Where("collection_id = ? AND to_rev = ? AND slug IN ?", c.ID, Forever, list[:n]).
			Find(&taken).
			Error; err != nil {
			return err
		}
		for _, t := range taken {
			e.Conflicts = append(
				e.Conflicts,
				Conflict{
					want[*t.Slug],
					"wants the address " + *t.Slug + ", at which " + t.Address().String() + " is now",
				},
			)
		}
		list = list[n:]
	}
	return nil
}

// Write makes one new revision of a locked collection from changes. Rows that a
// change leaves as they are stay; a change that changes nothing makes no row.
// It gives the revision, which is the old one when nothing changed at all. Its cost follows
// the changes, not the collection.
func (t *Tx) Write(c *Collection, changes []Change, n Note) (int64, error) {
	ids := make([]string, len(changes))
	for i, ch := range changes {
		ids[i] = ch.Head.ID
	}
	byID, err := liveByID(t.db, c.ID, ids)
	if err != nil {
		return 0, err
	}
	sum, ok := item.CollectionSumOf(c.Sum)
	if !ok {
		return 0, fmt.Errorf("the sum of the items of %s: %w", c.Name, ErrDamaged)
	}
	rev := c.Revision + 1
	var closing []int64
	var rows []Item
	var gone, fresh []item.Head
	for _, ch := range changes {
		old, exists := byID[ch.Head.ID]
		state := ch.Head.State()
		if ch.Delete && !exists || !ch.Delete && exists && old.State == state {
			continue
		}
		if exists {
			closing = append(closing, old.ID)
			sum.Remove(old.Address(), old.State)
			gone = append(gone, ch.Head)
		}
		if !ch.Delete {
			h := ch.Head
			rows = append(rows, Item{CollectionID: c.ID, ItemID: h.ID, Kind: h.Address.Kind, Key: h.Address.Key,
				Slug: slugOf(c, h), Doc: h.Doc, NormalizedDigest: h.NormalizedDigest, Bytes: h.Bytes,
				Meta:  Metadata(h.Meta),
				State: state, FromRev: rev, ToRev: Forever})
			fresh = append(fresh, h)
		}
	}
	if len(closing) == 0 && len(rows) == 0 {
		return c.Revision, nil
	}
	for part := range slices.Chunk(closing, 500) {
		if err := t.db.Model(&Item{}).Where("id IN ?", part).Update("to_rev", rev).Error; err != nil {
			return 0, err
		}
	}
	if err := t.free(c, rows); err != nil {
		return 0, err
	}
	for _, r := range rows {
		sum.Add(r.Address(), r.State)
	}
	if len(rows) > 0 {
		if err := t.db.CreateInBatches(rows, 500).Error; err != nil {
			return 0, err
		}
	}
	if err := t.queueRebases(c, ids, n.At); err != nil {
		return 0, err
	}
	if err := t.tellOf(c); err != nil {
		return 0, err
	}
	c.Revision, c.Digest, c.Sum = rev, sum.Digest(), sum.Bytes()
	if c.Title, err = t.titled(c, fresh); err != nil {
		return 0, err
	}
	if err := t.db.Model(&Collection{}).
		Where("id = ?", c.ID).
		Updates(map[string]any{"revision": rev, "digest": c.Digest, "sum": c.Sum, "title": c.Title}).
		Error; err != nil {
		return 0, err
	}
	if err := t.note(c, len(changes), n); err != nil {
		return 0, err
	}
	return rev, t.s.index(t.db, c, gone, fresh)
}

// maxTitle is how many characters of a title the table of collections holds.
const maxTitle = 255

// titled gives the title of a collection: of a site what it calls itself, once that is said anew.
func (t *Tx) titled(c *Collection, fresh []item.Head) (string, error) {
	for _, h := range fresh {
		if c.Kind != Site || h.Address != (item.Address{Kind: item.Setting, Key: "title"}) {
			continue
		}
		r, err := t.s.Content(t.Context(), h)
		if err != nil {
			return "", err
		}
		b, err := io.ReadAll(r)
		if err = errors.Join(err, r.Close()); err != nil {
			return "", err
		}
		var title string
		if json.Unmarshal(b, &title) == nil && title != "" { // what is no text names nothing
			return string([]rune(title)[:min(len([]rune(title)), maxTitle)]), nil
		}
	}
	return c.Title, nil
}

// free tells with a StaleError whose names or addresses others have; the rows that a change
// replaces are closed already.
func (t *Tx) free(c *Collection, rows []Item) error {
	var stale StaleError
	at := make([]item.Address, len(rows))
	for i, r := range rows {
		at[i] = r.Address()
	}
	taken, err := liveAt(t.db, c.ID, at)
	if err != nil {
		return err
	}
	for _, r := range rows {
		if _, there := taken[r.Address()]; there {
			stale.Conflicts = append(stale.Conflicts, Conflict{r.Address(), "has been added since"})
		}
		taken[r.Address()] = r.State
	}
	if err := stale.slugs(t.db, c, rows); err != nil {
		return err
	}
	if len(stale.Conflicts) > 0 {
		return &stale
	}
	return nil
}

// note writes down a collection's newest revision.
func (t *Tx) note(c *Collection, changed int, n Note) error {
	if len(n.Message) > 500 {
		n.Message = strings.ToValidUTF8(n.Message[:497], "") + "…"
	}
	return t.db.Create(&Revision{CollectionID: c.ID, Rev: c.Revision, At: n.At, ByUser: n.By, Act: n.Act,
		Message: n.Message,
		Digest:  c.Digest, Changed: changed, DeliveryID: n.Delivery}).Error
}

// index renews where-used and search for the items that changed.
func (s *Store) index(tx *gorm.DB, c *Collection, gone, fresh []item.Head) error {
	for _, list := range [][]item.Head{gone, fresh} {
		for len(list) > 0 {
			n := min(len(list), 500)
			ids := make([]string, n)
			for i := range ids {
				ids[i] = list[i].ID
			}
			for _, table := range []string{"item_refs", "item_terms"} {
				if err := tx.Exec("DELETE FROM "+table+" WHERE collection_id = ? AND item_id IN ?", c.ID,
					ids).Error; err != nil {
					return err
				}
			}
			list = list[n:]
		}
	}
	refs := batch{tx: tx, sql: "INSERT IGNORE INTO item_refs (collection_id, item_id, to_name) VALUES "}
	terms := batch{tx: tx, sql: "INSERT IGNORE INTO item_terms (collection_id, item_id, term) VALUES "}
	for _, h := range fresh {
		named, err := s.leansOn(tx.Statement.Context, h)
		if err != nil {
			return err
		}
		for _, name := range named {
			refs.add(c.ID, h.ID, name)
		}
		if c.Kind != Library {
			continue // only the library is searched by words
		}
		f, err := s.Facts(tx.Statement.Context, h)
		if err != nil {
			return err
		}
		words := append(append([]string{}, f.Terms...), Words(h)...)
		for _, w := range words {
			terms.add(c.ID, h.ID, w)
		}
	}
	if refs.flush(); refs.err != nil {
		return refs.err
	}
	terms.flush()
	return terms.err
}

// namedBy gives the names of what an item leans on, by its metadata and by facts.
func namedBy(h item.Head, f *facts.Facts) []string {
	var out []string
	for _, u := range closure.Uses(nowhere{}, h, f) {
		name := u.To.String()
		if u.To.IsZero() {
			name = linkPrefix + u.Slug
		}
		if len(name) <= 200 {
			out = append(out, name)
		}
	}
	return out
}

// names tells whether an item's content can name anything: a picture cannot.
func names(h item.Head) bool {
	return h.Address.Kind != item.Media || h.Meta.Context != "" || h.Meta.MediaType == "" ||
		h.Meta.MediaType == "image/svg+xml"
}

// namedIn gives the names of what an item's content leans on.
func (s *Store) namedIn(ctx context.Context, h item.Head) ([]string, error) {
	if !names(h) {
		return nil, nil
	}
	s.mu.Lock()
	named, ok := s.named[factsKey{h.Doc, h.Address.Kind, h.Meta.Context}]
	s.mu.Unlock()
	if ok {
		return named, nil
	}
	f, err := s.Facts(ctx, h)
	if err != nil {
		return nil, err
	}
	return namedBy(item.Head{Address: h.Address}, f), nil
}

// leansOn gives the names of all that an item leans on: its content, and what it wears.
func (s *Store) leansOn(ctx context.Context, h item.Head) ([]string, error) {
	named, err := s.namedIn(ctx, h)
	return unique(append(namedBy(h, &facts.Facts{}), named...)), err
}

// maxNamed bounds how many names are remembered between reading and writing.
const maxNamed = 100_000

// rememberNamed keeps what a new content names until its item is written.
func (s *Store) rememberNamed(key factsKey, names []string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.namedCount += len(names); s.namedCount > maxNamed {
		clear(s.named)
		s.namedCount = len(names)
	}
	s.named[key] = names
}

func unique(in []string) []string {
	seen := make(map[string]bool, len(in))
	out := in[:0]
	for _, s := range in {
		if !seen[s] {
			seen[s] = true
			out = append(out, s)
		}
	}
	return out
}

// Names tells whether an item's source names an address.
func (s *Store) Names(ctx context.Context, h item.Head, a item.Address) (bool, error) {
	f, err := s.Facts(ctx, h)
	if err != nil {
		return false, err
	}
	for _, u := range closure.Uses(nowhere{}, h, f) {
		if u.To == a {
			return true, nil
		}
	}
	return false, nil
}

// nowhere is a World without pages, so that links stay links.
type nowhere struct{ closure.World }

func (nowhere) Find(item.Address) (item.Head, bool) { return item.Head{}, false }
func (nowhere) PageAt(string) (item.Address, bool)  { return item.Address{}, false }
func (nowhere) KeptAt(string) (item.Address, bool)  { return item.Address{}, false }

// batch collects rows of three columns for one statement.
type batch struct {
	tx   *gorm.DB
	sql  string
	args []any
	err  error
}

func (b *batch) add(args ...any) {
	b.args = append(b.args, args...)
	if len(b.args) >= 3*1000 {
		b.flush()
	}
}

func (b *batch) flush() {
	if len(b.args) == 0 || b.err != nil {
		return
	}
	b.err = b.tx.Exec(b.sql+strings.TrimSuffix(strings.Repeat("(?,?,?),", len(b.args)/3), ","), b.args...).Error
	b.args = b.args[:0]
}
