package desk

import (
	"context"
	"fmt"
	"io/fs"
	"slices"
	"sort"

	"compactparcel/core/blend"
	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/outside"
	"compactparcel/core/repeat"
	"compactparcel/internal/store"
)

// What happened to a file of a folder outside.
const (
	FileChanged  = "changed"
	FileAdded    = "added"
	FileRemoved  = "removed"
	FileConflict = "conflict" // it was edited here, too, at the same place
)

// FolderChange is one file that is not as it was when the folder was adopted or
// published last.
type FolderChange struct {
	Path    string
	Address item.Address
	What    string
	Says    string
}

// AdoptedAgain is what comparing a folder with its site found.
type AdoptedAgain struct {
	// Draft holds the outside edits; nil when there are none to make.
	Draft   *store.Draft
	Changes []FolderChange
	// Edits are those within the files of a published folder, each with what became of it.
	Edits  []outside.Line
	Report *folder.Report
}

// AdoptAgain compares a folder with what was adopted from it, or published into it,
// last, and puts what somebody changed there since into a draft. What was edited on
// both sides at one place stays as the site has it, and is told. shared says what is done with an
// edit at some of the places that show a source.
func (d *Desk) AdoptAgain(
	ctx context.Context, p Person, name string, fsys fs.FS, shared outside.Shared,
) (*AdoptedAgain, error) {
	what := "site " + name
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	if shared != "" && !slices.Contains(outside.SharedWays, shared) {
		return nil, problem(BadInput, what, To(CheckOptions),
			"what is shared is taken as ask, everywhere or here, not %q",
			shared)
	}
	c, err := d.site(ctx, name)
	if err != nil {
		return nil, err
	}
	live, err := d.Store.Live(ctx, c)
	if err != nil {
		return nil, explain(what, err)
	}
	g := &again{
		d:      d,
		ctx:    ctx,
		live:   live,
		out:    &AdoptedAgain{Changes: []FolderChange{}},
		taken:  map[item.Address]bool{},
		shared: shared,
	}
	if _, err := fs.Stat(fsys, folder.ReleaseFile); err == nil {
		err = g.published(c, fsys)
		if err != nil {
			return nil, explain(what, err)
		}
	} else if err := g.adopted(c, fsys); err != nil {
		return nil, err
	}
	if len(g.changes) > 0 {
		if g.out.Draft, err = d.intoDraft(ctx, p, live, "edits made outside", g.changes); err != nil {
			return nil, explain(what, err)
		}
	}
	if len(g.settled) > 0 {
		err = d.Store.Tx(ctx, func(tx *store.Tx) error {
			for _, row := range g.settled {
				if err := tx.SaveFolderFile(&row); err != nil {
					return err
				}
			}
			return nil
		})
	}
	return g.out, explain(what, err)
}

// again compares one folder with a site.
type again struct {
	d       *Desk
	ctx     context.Context
	live    *store.View
	pieces  []repeat.Shape
	tokens  bool
	changes []store.Change
	settled []store.FolderFile // files that the site is level with
	taken   map[item.Address]bool
	shared  outside.Shared
	out     *AdoptedAgain
}

func (g *again) say(path string, a item.Address, what, format string, args ...any) {
	g.out.Changes = append(g.out.Changes, FolderChange{path, a, what, fmt.Sprintf(format, args...)})
}

// adopted compares with the folder that the site was adopted from.
func (g *again) adopted(c *store.Collection, fsys fs.FS) error {
	known, err := g.d.Store.Read(g.ctx).FolderFiles(c.ID)
	if err != nil {
		return explain("site "+c.Name, err)
	}
	if len(known) == 0 {
		return problem(Refused, "site "+c.Name, To(AdoptAsNew),
			"it was not made from a folder, so there is nothing to compare")
	}
	set, report, err := folder.Read(fsys)
	if err != nil {
		return badFolder("site "+c.Name, err)
	}
	g.out.Report = report
	if g.pieces, err = repeat.Shapes(g.live); err != nil {
		return explain("site "+c.Name, err)
	}
	_, g.tokens = g.live.Find(item.Address{Kind: item.Tokens, Key: "site"})
	paths := map[string]bool{}
	for p := range known {
		paths[p] = true
	}
	for p := range report.Files {
		paths[p] = true
	}
	list := make([]string, 0, len(paths))
	for p := range paths {
		list = append(list, p)
	}
	sort.Strings(list)
	for _, path := range list {
		k, had := known[path]
		f, has := report.Files[path]
		switch {
		case had && has && k.Digest == f.Digest:
			continue
		case had && has:
			err = g.changed(path, k, f, set)
		case has:
			err = g.added(c, path, f, set)
		default:
			err = g.removed(path, k)
		}
		if err != nil {
			return explain("site "+c.Name+" "+path, err)
		}
	}
	return nil
}

// text tells whether an item's edits can be carried over word by word.
func text(a item.Address) bool { return a.Kind != item.Media }

// asUsed gives a page's source with the site's pieces in the place of their copies.
func (g *again) asUsed(h item.Head, b []byte) ([]byte, error) {
	if h.Address.Kind != item.Page && h.Meta.Role != item.NotFound {
		return b, nil
	}
	return repeat.Recognise(b, "", g.pieces, g.tokens)
}

func (g *again) changed(path string, k store.FolderFile, f folder.File, set *item.Set) error {
	h, ok := g.live.ByID(k.ItemID)
	if !ok {
		g.say(path, item.Address{}, FileConflict,
			"it was changed outside, but its item was deleted here; it stays deleted")
		return nil
	}
	fresh, _ := set.Find(f.Item)
	level := k
	level.Digest, level.Doc = f.Digest, fresh.Doc
	if !text(h.Address) {
		switch h.Doc {
		case fresh.Doc:
			g.settled = append(g.settled, level)
		case k.Doc:
			return g.put(path, h, fresh, set)
		default:
			g.say(path, h.Address, FileConflict, "another file took this place in the meantime; it stays")
		}
		return nil
	}
	theirs, err := item.Read(set, fresh)
	if err != nil {
		return err
	}
	// What was read is kept: the next comparison may start from it.
	if _, err := g.d.Store.PutContent(g.ctx, h.Address.Kind, theirs, g.d.Now()); err != nil {
		return err
	}
	base, err := item.Read(g.live, item.Head{Address: h.Address, Doc: k.Doc, Bytes: h.Bytes})
	if err != nil {
		return err
	}
	ours, err := item.Read(g.live, h)
	if err != nil {
		return err
	}
	if base, err = g.asUsed(h, base); err != nil {
		return err
	}
	if theirs, err = g.asUsed(h, theirs); err != nil {
		return err
	}
	// The file's side takes the kit's part: what was edited here stays where both changed.
	got := blend.Merge(h.Address.Kind, base, ours, theirs, nil)
	for _, x := range got.Conflicts {
		g.say(path, h.Address, FileConflict,
			"line %d, %s: %s became %s in the file; it was also edited here, and the edit here stays", x.Line, x.Where,
			blend.Brief(x.Base), blend.Brief(x.Kit))
	}
	out := got.Text
	if string(out) == string(ours) {
		if len(got.Conflicts) == 0 {
			g.settled = append(g.settled, level)
		}
		return nil
	}
	return g.replace(path, h, out)
}

// replace lays a text into the draft.
func (g *again) replace(path string, h item.Head, content []byte) error {
	h, err := g.d.keepOne(g.ctx, h, content)
	if err != nil {
		return err
	}
	g.changes = append(g.changes, store.Change{Head: h})
	g.say(path, h.Address, FileChanged, "")
	return nil
}

// put lays a file into the draft.
func (g *again) put(path string, h, fresh item.Head, set item.Collection) error {
	kept, err := g.d.keepFile(g.ctx, set, fresh)
	if err != nil {
		return err
	}
	h.Doc, h.NormalizedDigest, h.Bytes = kept.Doc, kept.NormalizedDigest, kept.Bytes
	g.changes = append(g.changes, store.Change{Head: h})
	g.say(path, h.Address, FileChanged, "")
	return nil
}

func (g *again) added(c *store.Collection, path string, f folder.File, set *item.Set) error {
	h, _ := set.Find(f.Item)
	kept, read, err := g.keepAdded(h, set)
	if err != nil {
		return err
	}
	free, same := g.freeAddress(h.Address, kept.Doc)
	if same {
		there, _ := g.live.Find(free)
		g.settled = append(g.settled,
			store.FolderFile{CollectionID: c.ID, Path: path, Digest: f.Digest, ItemID: there.ID, Doc: read})
		return nil
	}
	h = kept
	h.Address = free
	if other, ok := g.live.PageAt(h.Meta.Slug); ok && h.Address.Kind == item.Page {
		g.say(path, other, FileConflict, "%s is already at %s; the file was not taken", other, h.Meta.Slug)
		return nil
	}
	h.ID = store.NewID()
	g.changes = append(g.changes, store.Change{Head: h})
	g.say(path, h.Address, FileAdded, "")
	return nil
}

// keepAdded keeps what came: a file as it streams, a text as the site has it with its own pieces in it. It also gives
// the digest of what was read, from which the next comparison starts.
func (g *again) keepAdded(h item.Head, set *item.Set) (kept item.Head, read item.Digest, err error) {
	if isFile(h) {
		kept, err = g.d.keepFile(g.ctx, set, h)
		return kept, kept.Doc, err
	}
	was, err := item.Read(set, h)
	if err != nil {
		return h, "", err
	}
	if read, err = g.d.Store.PutContent(g.ctx, h.Address.Kind, was, g.d.Now()); err != nil {
		return h, "", err
	}
	b, err := g.asUsed(h, was)
	if err != nil {
		return h, "", err
	}
	kept, err = g.d.keepOne(g.ctx, h, b)
	return kept, read, err
}

// freeAddress finds an address for what came, at which neither the site nor another file that came has something;
// same tells that the site has the very same there.
func (g *again) freeAddress(a item.Address, doc item.Digest) (free item.Address, same bool) {
	free = a
	for n := 2; ; n++ {
		there, ok := g.live.Find(free)
		if ok && there.Doc == doc {
			return free, true
		}
		if !ok && !g.taken[free] {
			g.taken[free] = true
			return free, false
		}
		free.Key = fmt.Sprintf("%s-%d", a.Key, n)
	}
}

func (g *again) removed(path string, k store.FolderFile) error {
	h, ok := g.live.ByID(k.ItemID)
	if !ok {
		return nil
	}
	same := h.Doc == k.Doc
	if !same && text(h.Address) {
		base, err := item.Read(g.live, item.Head{Address: h.Address, Doc: k.Doc, Bytes: h.Bytes})
		if err != nil {
			return err
		}
		if base, err = g.asUsed(h, base); err != nil {
			return err
		}
		same = item.DigestOf(base) == h.Doc
	}
	if !same {
		g.say(path, h.Address, FileConflict, "it was deleted outside and edited here; it stays")
		return nil
	}
	g.changes = append(g.changes, store.Change{Delete: true, Head: h})
	g.say(path, h.Address, FileRemoved, "")
	return nil
}
