package desk

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"compactparcel/core/capture"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/says"
	"compactparcel/internal/store"
)

// LibraryName is the library's name wherever a site's name can stand.
const LibraryName = "library"

// library gives the library's collection; it is made when it is first asked for.
func (d *Desk) library(ctx context.Context) (*store.Collection, error) {
	c, err := d.Store.Read(ctx).Collections().ByName(store.Library, LibraryName)
	if err == nil {
		return c, nil
	}
	if !errors.Is(err, store.ErrNotFound) {
		return nil, explain("library", err)
	}
	err = d.Store.Tx(ctx, func(tx *store.Tx) error {
		_, err := tx.Collections().Create(store.Library, LibraryName, "Library", d.Now())
		return err
	})
	if err != nil && !store.IsDuplicate(err) {
		return nil, explain("library", err)
	}
	c, err = d.Store.Read(ctx).Collections().ByName(store.Library, LibraryName)
	return c, explain("library", err)
}

// maxSearch is the longest search, in bytes.
const maxSearch = 500

// LibraryQuery narrows the library down.
type LibraryQuery struct {
	Words string
	Kind  string
}

// Library lists the library's items that fit, and the state they belong to.
func (d *Desk) Library(ctx context.Context, p Person, q LibraryQuery) ([]item.Head, *store.View, error) {
	if err := p.may(Viewer, "library"); err != nil {
		return nil, nil, err
	}
	v, err := d.Look(ctx, p, LibraryName, 0)
	if err != nil {
		return nil, nil, err
	}
	var found map[string]bool
	if len(q.Words) > maxSearch {
		return nil, nil, problem(BadInput, "library", To(Shorten), "a search can have at most %d bytes", maxSearch)
	}
	if strings.TrimSpace(q.Words) != "" {
		if found, err = d.Store.Search(ctx, v.Collection, q.Words); err != nil {
			if errors.Is(err, store.ErrTooManyWords) {
				return nil, nil, problem(BadInput, "library", To(Shorten), "%s", err)
			}
			return nil, nil, explain("library", err)
		}
	}
	out := []item.Head{}
	for _, h := range v.Heads() {
		if (q.Kind == "" || string(h.Address.Kind) == q.Kind) && (found == nil || found[h.ID]) {
			out = append(out, h)
		}
	}
	return out, v, nil
}

// Saved says what saving into the library did.
type Saved struct {
	Added []item.Address                // new in the library
	Had   []item.Address                // there already, the same
	Moved map[item.Address]item.Address // renamed, since the name was taken by something else
}

// LibraryAdd saves items of a site with all they need into the library, in one act.
func (d *Desk) LibraryAdd(ctx context.Context, p Person, from string, addresses []item.Address) (*Saved, error) {
	what := fmt.Sprintf("saving from %s into the library", from)
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	src, err := d.Look(ctx, p, from, 0)
	if err != nil {
		return nil, err
	}
	taken, err := capture.Take(src, capture.Order{Chosen: addresses, WholeSheets: true})
	if err != nil {
		return nil, blame(&Problem{Type: NotFound, What: what, Message: err.Error(),
			Remedy: To(ShowItems, "site", from), Err: err})
	}
	lib, err := d.library(ctx)
	if err != nil {
		return nil, err
	}
	out := &Saved{}
	err = d.Store.Tx(ctx, func(tx *store.Tx) error {
		*out = Saved{Moved: map[item.Address]item.Address{}}
		locked, err := tx.Collections().Lock(lib.ID)
		if err != nil {
			return err
		}
		have, err := d.Store.Live(ctx, locked)
		if err != nil {
			return err
		}
		origins, err := d.libraryOrigins(tx, lib.ID, from)
		if err != nil {
			return err
		}
		heads := taken.Items.Heads()
		shared := map[item.Address]bool{}
		for _, h := range heads {
			to, share := libraryPlace(have, origins, from, h, len(taken.Uses[h.Address]) == 0)
			shared[h.Address] = share
			if to != h.Address {
				out.Moved[h.Address] = to
			}
		}
		renames := facts.RenamesFor(out.Moved, nil)
		var changes []store.Change
		for _, h := range heads {
			source := h.Address
			if shared[source] {
				out.Had = append(out.Had, moved(out.Moved, source))
				continue
			}
			h.Address = moved(out.Moved, source)
			h.Meta = h.Meta.Renamed(out.Moved)
			h.Meta.Tags = append([]string{from}, h.Meta.Tags...)
			if h, err = d.libraryContent(ctx, taken.Items, source, h, renames); err != nil {
				return err
			}
			h.ID = store.NewID()
			if old, ok := have.Find(h.Address); ok {
				h.ID = old.ID // the same piece, saved again
				if old.State() == h.State() {
					out.Had = append(out.Had, h.Address)
					continue
				}
			}
			origin := store.Origin{CollectionID: lib.ID, Kit: "site:" + from, KitKind: source.Kind, KitKey: source.Key,
				Copy: 1, ItemID: h.ID, NormalizedDigest: h.NormalizedDigest}
			if err := tx.Origins().PutBare(&origin); err != nil {
				return err
			}
			out.Added = append(out.Added, h.Address)
			changes = append(changes, store.Change{Head: h})
		}
		done := fmt.Sprintf("saved %s from %s", says.Count(len(changes), "item"), from)
		if _, err := tx.Write(locked, changes,
			store.Note{By: p.Name, Act: "save", Message: done, At: d.Now()}); err != nil {
			return err
		}
		return d.audit(tx, p, "save", from, done)
	})
	return out, explain(what, err)
}

// libraryContent keeps what a piece is in the library, where others may have other names.
func (d *Desk) libraryContent(
	ctx context.Context, from item.Collection, source item.Address, h item.Head, renames facts.Renames,
) (item.Head, error) {
	at, _ := from.Find(source)
	b, err := item.Read(from, at)
	if err != nil {
		return h, err
	}
	if b, err = facts.Rewrite(h.Address.Kind, h.Meta.Context, b, renames); err != nil {
		return h, err
	}
	if h.Doc, err = d.Store.PutContent(ctx, h.Address.Kind, b, d.Now()); err != nil {
		return h, err
	}
	h.Bytes = int64(len(b))
	f, err := d.Store.KeepFacts(ctx, h, b)
	if err != nil {
		return h, err
	}
	h.NormalizedDigest = f.NormalizedDigest
	return h, nil
}

func moved(m map[item.Address]item.Address, a item.Address) item.Address {
	if to, ok := m[a]; ok {
		return to
	}
	return a
}

// libraryOrigins gives which library items came from a site, by their address there.
func (d *Desk) libraryOrigins(tx *store.Tx, library int64, from string) (map[item.Address]string, error) {
	rows, err := tx.Origins().OfKit(library, "site:"+from)
	if err != nil {
		return nil, err
	}
	out := map[item.Address]string{}
	for _, r := range rows {
		out[item.Address{Kind: r.KitKind, Key: r.KitKey}] = r.ItemID
	}
	return out, nil
}

// libraryPlace says where a captured item goes: where it went the last time; under
// its own name when that is free; beside, named after its site, when the name
// belongs to another site's. share tells that another site's item is the very same
// and leans on nothing, so that one serves both.
func libraryPlace(
	have *store.View,
	origins map[item.Address]string,
	from string,
	h item.Head,
	leansOnNothing bool,
) (to item.Address, share bool) {
	if id, ok := origins[h.Address]; ok {
		if old, ok := have.ByID(id); ok {
			return old.Address, false
		}
	}
	if h.Address.Kind == item.Media {
		if a, ok := have.MediaWith(h.Doc); ok {
			return a, true
		}
	}
	old, taken := have.Find(h.Address)
	if !taken {
		return h.Address, false
	}
	if leansOnNothing && old.NormalizedDigest == h.NormalizedDigest {
		return h.Address, true
	}
	to = item.Address{Kind: h.Address.Kind, Key: from + "-" + strings.ReplaceAll(h.Address.Key, "/", "-")}
	for n := 2; ; n++ {
		if _, taken := have.Find(to); !taken {
			return to, false
		}
		to.Key = fmt.Sprintf("%s-%d", to.Key, n)
	}
}
