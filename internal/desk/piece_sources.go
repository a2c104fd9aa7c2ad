package desk

import (
	"context"
	"sort"
	"strconv"
	"strings"

	"compactparcel/core/item"
	"compactparcel/internal/store"
)

// SourceState says how the source of an item stands to what came from it.
type SourceState string

// The states of sources.
const (
	SourceSame    SourceState = "same"
	SourceChanged SourceState = "changed" // there is a newer one
	SourceGone    SourceState = "gone"
)

// SourceStates lists all of them.
var SourceStates = []SourceState{SourceSame, SourceChanged, SourceGone}

// PieceSource is where an item of a site came from.
type PieceSource struct {
	Item   item.Address
	From   string // "library", a site's name, or "kit NAME@VERSION"
	Source item.Address
	State  SourceState
	// Now is what is to be used for the newer one, where it is not From: a newer version of the kit.
	Now string
}

// PieceSources lists where the items of a site came from, those whose source has changed first.
func (d *Desk) PieceSources(ctx context.Context, p Person, site string, draft int64) ([]PieceSource, error) {
	what := "site " + site
	v, err := d.Look(ctx, p, site, draft)
	if err != nil {
		return nil, err
	}
	origins, err := v.OriginsOf()
	if err != nil {
		return nil, explain(what, err)
	}
	newest, err := d.newestKits(ctx)
	if err != nil {
		return nil, explain(what, err)
	}
	views := map[string][2]*store.View{} // by origin and version: then and now
	out := []PieceSource{}
	for id, o := range origins {
		h, there := v.ByID(id)
		if !there {
			continue
		}
		x := PieceSource{Item: h.Address, Source: o.Address(), State: SourceSame}
		of, name, held := strings.Cut(o.Kit, ":")
		switch {
		case held && (of == "site" || of == "library") && !strings.Contains(name, ":"):
			x.From = name
			if x.State, err = d.sourceState(ctx, o, name, views); err != nil {
				return nil, explain(what, err)
			}
		case held:
			continue // a kit's element, which is not found again
		default:
			x.From = fromKit + o.Kit + "@" + o.Version
			if n := newest[o.Kit]; n != "" && newer(n, o.Version) {
				x.State, x.Now = SourceChanged, fromKit+o.Kit+"@"+n
			}
		}
		out = append(out, x)
	}
	rank := map[SourceState]int{SourceChanged: 0, SourceGone: 1, SourceSame: 2}
	sort.Slice(out, func(i, j int) bool {
		if a, b := rank[out[i].State], rank[out[j].State]; a != b {
			return a < b
		}
		return out[i].Item.Less(out[j].Item)
	})
	return out, nil
}

// newestKits gives the newest sealed version of each kit.
func (d *Desk) newestKits(ctx context.Context) (map[string]string, error) {
	rows, err := d.Store.Read(ctx).Kits().List()
	if err != nil {
		return nil, err
	}
	out := map[string]string{}
	for _, r := range rows {
		if r.State == Sealed && (out[r.Name] == "" || newer(r.Version, out[r.Name])) {
			out[r.Name] = r.Version
		}
	}
	return out, nil
}

// sourceState holds an item of the library or a site as it is against what it was when it was used.
func (d *Desk) sourceState(
	ctx context.Context, o store.Origin, name string, views map[string][2]*store.View,
) (SourceState, error) {
	key := name + " " + o.Version
	if _, known := views[key]; !known {
		c, err := d.collection(ctx, name)
		if isNotFound(err) {
			return SourceGone, nil
		}
		if err != nil {
			return "", err
		}
		rev, known := revisionOf(o.Version)
		if !known {
			return SourceSame, nil
		}
		then, err := d.Store.At(ctx, c, rev)
		if err != nil {
			return "", err
		}
		now, err := d.Store.Live(ctx, c)
		if err != nil {
			return "", err
		}
		views[key] = [2]*store.View{then, now}
	}
	pair := views[key]
	was, _ := pair[0].Find(o.Address())
	is, there := pair[1].Find(o.Address())
	switch {
	case !there && was.ID == "":
		return SourceSame, nil // it was cut out of another item
	case !there:
		return SourceGone, nil
	case is.State() != was.State():
		return SourceChanged, nil
	}
	return SourceSame, nil
}

// revisionOf gives the revision that a piece of the library or a site came from; false when nobody knows.
func revisionOf(version string) (int64, bool) {
	rev, err := strconv.ParseInt(strings.TrimPrefix(version, "0.0."), 10, 64)
	return rev, err == nil
}
