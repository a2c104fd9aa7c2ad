package desk

import (
	"context"
	"fmt"
	"strings"

	"compactparcel/core/capture"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/internal/store"

	"gorm.io/gorm"
)

// LibraryName is the library's name wherever a site's name can stand.
const LibraryName = "library"

// library gives the library's collection; it is made when it is first asked for.
func (d *Desk) library(ctx context.Context) (*store.Collection, error) {
	c, err := d.Store.FindCollection(ctx, store.Library, LibraryName)
	if err == nil {
		return c, nil
	}
	err = d.Store.Tx(ctx, func(tx *gorm.DB) error {
		_, err := d.Store.NewCollection(tx, store.Library, LibraryName, "Library", d.Now())
		return err
	})
	if err != nil && !store.IsDuplicate(err) {
		return nil, explain("library", err)
	}
	c, err = d.Store.FindCollection(ctx, store.Library, LibraryName)
	return c, explain("library", err)
}

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
	if strings.TrimSpace(q.Words) != "" {
		if found, err = d.Store.Search(ctx, v.Collection, q.Words); err != nil {
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
	taken, err := capture.Take(src, capture.Order{Chosen: addresses})
	if err != nil {
		return nil, &Problem{Type: NotFound, What: what, Says: err.Error(), WayOut: "look at the site's items: cparcel site show " + from, Err: err}
	}
	lib, err := d.library(ctx)
	if err != nil {
		return nil, err
	}
	out := &Saved{Moved: map[item.Address]item.Address{}}
	err = d.Store.Tx(ctx, func(tx *gorm.DB) error {
		*out = Saved{Moved: map[item.Address]item.Address{}}
		locked, err := store.Lock(tx, lib.ID)
		if err != nil {
			return err
		}
		have, err := d.Store.Live(ctx, locked)
		if err != nil {
			return err
		}
		heads := taken.Items.Heads()
		for _, h := range heads {
			if old, ok := have.Find(h.Address); ok && !same(old, h) {
				out.Moved[h.Address] = item.Address{Kind: h.Address.Kind, Key: from + "-" + strings.ReplaceAll(h.Address.Key, "/", "-")}
			}
		}
		renames := facts.RenamesFor(out.Moved, nil)
		var changes []store.Change
		for _, h := range heads {
			b, err := item.Read(taken.Items, h)
			if err != nil {
				return err
			}
			if b, err = facts.Rewrite(h.Address.Kind, h.Meta.Context, b, renames); err != nil {
				return err
			}
			if to, ok := out.Moved[h.Address]; ok {
				h.Address = to
			}
			h.Meta = h.Meta.Renamed(out.Moved)
			h.Meta.Tags = append([]string{from}, h.Meta.Tags...)
			if h.Doc, err = d.Store.PutContent(ctx, h.Address.Kind, b, d.Now()); err != nil {
				return err
			}
			h.Bytes = int64(len(b))
			f, err := d.Store.KeepFacts(ctx, h, b)
			if err != nil {
				return err
			}
			h.Sense = f.Sense
			if old, ok := have.Find(h.Address); ok {
				if old.Sense == h.Sense {
					out.Had = append(out.Had, h.Address)
					continue
				}
				h.ID = old.ID // the same piece, saved again after an edit
			} else {
				h.ID = store.NewID()
			}
			out.Added = append(out.Added, h.Address)
			changes = append(changes, store.Change{Head: h})
		}
		says := fmt.Sprintf("saved %d items from %s", len(changes), from)
		if _, err := d.Store.Write(tx, locked, changes, store.Note{By: p.Name, Act: "save", Says: says, At: d.Now()}); err != nil {
			return err
		}
		return d.audit(tx, p, "save", from, says)
	})
	return out, explain(what, err)
}

// same tells whether a library item and a captured one are one piece: the same
// content, or the same source.
func same(lib, captured item.Head) bool {
	return lib.Sense == captured.Sense
}
