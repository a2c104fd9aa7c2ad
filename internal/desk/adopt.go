package desk

import (
	"archive/zip"
	"context"
	"fmt"
	"io"
	"io/fs"
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/repeat"
	"compactparcel/core/says"
	"compactparcel/core/workers"
	"compactparcel/internal/memory"
	"compactparcel/internal/store"
)

// MaxSiteName is the longest name of a site: it is part of its previews' host.
const MaxSiteName = 32

// MaxAdoptBytes is the most that an adopted zip may unpack to.
const MaxAdoptBytes = 4 << 30

// ZipFolder opens an uploaded zip as a folder, checked for what an adopted folder
// may hold. A single outer folder is looked into,
// unless the zip says that it is its root.
func ZipFolder(r io.ReaderAt, size int64) (fs.FS, error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return nil, problem(Refused, "the file", To(PackFolder), "it cannot be read as a zip (%v)", err)
	}
	var total uint64
	for _, f := range z.File {
		if total += f.UncompressedSize64; total > MaxAdoptBytes {
			return nil, problem(TooLarge, "the file", To(SplitUpload), "it would unpack to more than %d GB",
				MaxAdoptBytes>>30)
		}
		if !fs.ValidPath(strings.TrimSuffix(f.Name, "/")) {
			return nil, problem(Refused, "the file", To(PackFolder), "it holds the path %q", f.Name)
		}
	}
	entries, err := fs.ReadDir(z, ".")
	if err != nil {
		return nil, problem(Refused, "the file", To(PackFolder), "%v", err)
	}
	var tops []fs.DirEntry
	for _, e := range entries { // without what some machines put beside it
		if !strings.HasPrefix(e.Name(), ".") && e.Name() != "__MACOSX" {
			tops = append(tops, e)
		}
	}
	if len(tops) == 1 && tops[0].IsDir() && z.Comment != folder.ZipAsItIs {
		return fs.Sub(z, tops[0].Name())
	}
	return z, nil
}

// Parts says what is done with what repeats in an adopted folder.
type Parts string

// What can be done with what repeats.
const (
	PartsNone Parts = "none" // nothing is looked for
	PartsAsk  Parts = "ask"  // it is proposed, and nothing is taken
	PartsAuto Parts = "auto" // what is sure is taken, the rest proposed
)

// Adopted is what adopting made and found.
type Adopted struct {
	Site      *SiteInfo
	Report    *folder.Report
	Took      []item.Address    // proposals that were taken
	Proposals []repeat.Proposal // what is left to decide
	Notes     []repeat.Note
}

// Adopt makes a new site from a folder.
func (d *Desk) Adopt(ctx context.Context, p Person, name string, fsys fs.FS, parts Parts) (*Adopted, error) {
	what := "site " + name
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	if err := d.checkSiteName(ctx, name); err != nil {
		return nil, err
	}
	defer memory.Work()()
	batch := d.Store.NewBatch(ctx, d.Now())
	set, report, err := folder.ReadInto(fsys, &keeper{d, ctx, batch})
	if err != nil {
		return nil, badFolder(what, err)
	}
	out := &Adopted{Report: report}
	if err := batch.Flush(); err != nil {
		return nil, explain(what, err)
	}
	bases := fresh(set)
	changes := bases
	if parts == PartsAuto {
		if changes, err = d.takeSure(ctx, set, bases, out); err != nil {
			return nil, explain(what, err)
		}
	}
	if parts == PartsAsk {
		if out.Proposals, err = repeat.Find(set); err != nil {
			return nil, explain(what, err)
		}
	}
	adopted := len(changes)
	if changes, err = d.speaking(ctx, set, changes); err != nil {
		return nil, explain(what, err)
	}
	title := name
	if h, ok := set.Find(item.Address{Kind: item.Setting, Key: "title"}); ok {
		b, err := item.Read(set, h)
		if err != nil {
			return nil, explain(what, err)
		}
		title = strings.Trim(string(b), `"`)
	}
	var c *store.Collection
	did, err := d.commit(ctx, func(tx *store.Tx) error {
		var err error
		if c, err = tx.Collections().Create(store.Site, name, title, d.Now()); err != nil {
			return err
		}
		note := store.Note{
			By:      p.Name,
			Act:     "adopt",
			Message: fmt.Sprintf("adopted %s from a folder", says.Count(adopted, "item")),
			At:      d.Now(),
		}
		if _, err := tx.Write(c, changes, note); err != nil {
			return err
		}
		if err := tx.SetFolderFiles(c.ID, folderFiles(c.ID, report, bases)); err != nil {
			return err
		}
		return d.audit(tx, p, "adopt", name, note.Message)
	})
	if store.IsDuplicate(err) {
		return nil, problem(Exists, what, To(ChooseOtherName), "there is already a site of this name")
	}
	if err != nil {
		return nil, explain(what, err)
	}
	return after(did, func() (*Adopted, error) {
		out.Site, err = d.siteInfo(ctx, c)
		return out, err
	})
}

func badFolder(what string, err error) error {
	return blame(&Problem{Type: BadInput, What: what, Message: err.Error(), Remedy: To(FixFolder), Err: err})
}

// takeSure accepts the sure proposals of a set that is not a site yet: the set and
// the changes that make the site of it.
func (d *Desk) takeSure(
	ctx context.Context,
	set *item.Set,
	changes []store.Change,
	out *Adopted,
) ([]store.Change, error) {
	took, err := repeat.Accept(set, nil, true)
	if err != nil {
		return nil, err
	}
	out.Took, out.Notes, out.Proposals = took.Took, took.Notes, took.Left
	at := map[item.Address]int{}
	changes = append([]store.Change{}, changes...)
	for i, c := range changes {
		at[c.Head.Address] = i
	}
	heads, err := d.keepAll(ctx, took.Items)
	if err != nil {
		return nil, err
	}
	for _, h := range heads {
		if i, there := at[h.Address]; there {
			h.ID = changes[i].Head.ID
			changes[i].Head = h
			continue
		}
		h.ID = store.NewID()
		changes = append(changes, store.Change{Head: h})
	}
	return changes, nil
}

// keepAll stores the texts of accepted items, on all cores, and gives their heads.
func (d *Desk) keepAll(ctx context.Context, items []repeat.Item) ([]item.Head, error) {
	batch := d.Store.NewBatch(ctx, d.Now())
	heads := make([]item.Head, len(items))
	err := workers.Each(len(items), func(_, i int) (err error) {
		x := items[i]
		heads[i], err = batch.Text(x.Head, x.Content,
			facts.Extract(x.Head.Address.Kind, x.Head.Meta.Context, x.Content))
		return err
	})
	if err != nil {
		return nil, err
	}
	return heads, batch.Flush()
}

// folderFiles notes which file each item was read from, and as what.
func folderFiles(collection int64, r *folder.Report, changes []store.Change) []store.FolderFile {
	heads := map[item.Address]item.Head{}
	for _, c := range changes {
		heads[c.Head.Address] = c.Head
	}
	var out []store.FolderFile
	for p, f := range r.Files {
		if h, ok := heads[f.Item]; ok && len(p) <= 500 {
			out = append(out,
				store.FolderFile{CollectionID: collection, Path: p, Digest: f.Digest, ItemID: h.ID, Doc: h.Doc})
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Path < out[j].Path })
	return out
}

// keepOne stores one content and gives the head with its digests.
func (d *Desk) keepOne(ctx context.Context, h item.Head, b []byte) (item.Head, error) {
	doc, err := d.Store.PutContent(ctx, h.Address.Kind, b, d.Now())
	if err != nil {
		return h, err
	}
	h.Doc, h.Bytes = doc, int64(len(b))
	f, err := d.Store.KeepFacts(ctx, h, b)
	if err != nil {
		return h, err
	}
	h.NormalizedDigest = f.NormalizedDigest
	return h, nil
}

// keeper keeps what is read from a folder in a batch.
type keeper struct {
	d     *Desk
	ctx   context.Context
	batch *store.Batch
}

func (k *keeper) opener(h item.Head) func() (io.ReadCloser, error) {
	return func() (io.ReadCloser, error) { return k.d.Store.Content(k.ctx, h) }
}

// Text keeps a text with its facts.
func (k *keeper) Text(h item.Head, content []byte, f *facts.Facts) (func() (io.ReadCloser, error), error) {
	h, err := k.batch.Text(h, content, f)
	return k.opener(h), err
}

// File keeps a file.
func (k *keeper) File(h item.Head, r io.Reader) (item.Head, func() (io.ReadCloser, error), error) {
	h, err := k.batch.File(h, r)
	return h, k.opener(h), err
}

// fresh gives the changes that put the items of a set anew.
func fresh(set *item.Set) []store.Change {
	var changes []store.Change
	for _, h := range set.Heads() {
		h.ID = store.NewID()
		changes = append(changes, store.Change{Head: h})
	}
	return changes
}

// isFile tells whether an item is a file in which nothing is read.
func isFile(h item.Head) bool {
	return h.Address.Kind == item.Media && h.Meta.Context == "" && h.Meta.MediaType != "image/svg+xml"
}

// keep stores the contents of a set and gives the changes that put its items anew.
// What is not read as text goes from where it lies into the blob store.
func (d *Desk) keep(ctx context.Context, c item.Collection) ([]store.Change, error) {
	batch := d.Store.NewBatch(ctx, d.Now())
	var changes []store.Change
	for _, h := range c.Heads() {
		r, err := c.Open(h)
		if err != nil {
			return nil, err
		}
		if isFile(h) {
			h, err = batch.File(h, r)
		} else {
			var b []byte
			if b, err = io.ReadAll(r); err == nil {
				h, err = batch.Text(h, b, facts.Extract(h.Address.Kind, h.Meta.Context, b))
			}
		}
		r.Close()
		if err != nil {
			return nil, err
		}
		h.ID = store.NewID()
		changes = append(changes, store.Change{Head: h})
	}
	return changes, batch.Flush()
}

// keepFile stores a file as it streams; there are no facts in it.
func (d *Desk) keepFile(ctx context.Context, c item.Collection, h item.Head) (item.Head, error) {
	r, err := c.Open(h)
	if err != nil {
		return h, err
	}
	defer r.Close()
	doc, n, err := d.Store.PutBlob(ctx, r, d.Now())
	h.Doc, h.NormalizedDigest, h.Bytes = doc, doc, n
	return h, err
}
