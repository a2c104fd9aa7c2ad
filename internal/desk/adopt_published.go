package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"sort"
	"strings"

	"compactparcel/core/blend"
	"compactparcel/core/facts"
	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/outside"
	"compactparcel/core/render"
	"compactparcel/internal/store"
)

// published brings the edits of a published folder home: what differs from the release is carried
// to the sources of its revision by position, and from there to what is live.
func (g *again) published(c *store.Collection, fsys fs.FS) error {
	what := "site " + c.Name
	b, err := fs.ReadFile(fsys, folder.ReleaseFile)
	if err != nil {
		return err
	}
	rel := &folder.Release{}
	if err := json.Unmarshal(b, rel); err != nil {
		return badFolder(what, fmt.Errorf("%s is damaged: %w", folder.ReleaseFile, err))
	}
	if rel.Site != c.Name {
		return problem(Refused, what, To(NameOriginSite, "site", rel.Site), "the folder was published from %s",
			rel.Site)
	}
	then, err := g.d.releasedState(g.ctx, c, rel)
	if err != nil {
		return err
	}
	if then == nil {
		return problem(Refused, what, To(PublishLiveSite), "the folder was published from a draft, which is not kept")
	}
	p := &publishedFolder{again: g, fsys: fsys, rel: rel, then: then, heads: map[item.Address]item.Head{},
		texts: map[item.Address][]byte{}}
	if err := p.compare(); err != nil {
		return err
	}
	if err := p.files(); err != nil {
		return err
	}
	if err := p.edits(); err != nil {
		return err
	}
	return p.settle()
}

// releasedState finds the state that a release shows: its revision; or of a draft the revision that
// it became, or the draft itself while it is open. It is nil when none is known any more.
func (d *Desk) releasedState(ctx context.Context, c *store.Collection, rel *folder.Release) (*store.View, error) {
	at, err := d.Store.At(ctx, c, rel.Revision)
	if err != nil || rel.Digest.IsDigestOf(at.Heads()) {
		return at, err
	}
	rev, err := d.Store.Read(ctx).Collections().RevisionWith(c.ID, rel.Digest)
	switch {
	case err == nil:
		return d.Store.At(ctx, c, rev.Rev)
	case !errors.Is(err, store.ErrNotFound):
		return nil, err
	}
	drafts, err := d.Store.Read(ctx).Collections().OpenDrafts(c.ID)
	if err != nil {
		return nil, err
	}
	for i := range drafts {
		v, err := d.Store.Over(ctx, c, &drafts[i])
		if err != nil {
			return nil, err
		}
		if rel.Digest.IsDigestOf(v.Heads()) {
			return v, nil
		}
	}
	return nil, nil
}

// publishedFolder is a published folder as it is now.
type publishedFolder struct {
	*again
	fsys                 fs.FS
	rel                  *folder.Release
	then                 *store.View
	changed, gone, added []string
	moved                map[string]string
	pages                *render.Renderer // as they were published
	// heads and texts are what becomes of items of the live site; a file is kept already, and has no text.
	heads map[item.Address]item.Head
	texts map[item.Address][]byte
}

// text reads a file of the folder that is a text; nil where it is too large for one.
func (p *publishedFolder) text(name string) ([]byte, error) {
	info, err := fs.Stat(p.fsys, name)
	if err != nil || info.Size() > folder.MaxTextBytes {
		return nil, err
	}
	return fs.ReadFile(p.fsys, name)
}

// stream keeps a file of the folder as it streams.
func (p *publishedFolder) stream(name string, h item.Head) (item.Head, error) {
	f, err := p.fsys.Open(name)
	if err != nil {
		return h, err
	}
	defer f.Close()
	doc, n, err := p.d.Store.PutBlob(p.ctx, f, p.d.Now())
	h.Doc, h.NormalizedDigest, h.Bytes = doc, doc, n
	return h, err
}

// tooLarge tells, and says, that a file of the folder is larger than what is taken of its sort.
func (p *publishedFolder) tooLarge(name string, a item.Address, most int64) (bool, error) {
	info, err := fs.Stat(p.fsys, name)
	if err != nil || info.Size() <= most {
		return false, err
	}
	p.say(name, a, FileConflict, "it is larger than %d MB; it was not taken", most>>20)
	return true, nil
}

// compare finds the paths that are not as they were published.
func (p *publishedFolder) compare() error {
	seen := map[string]bool{}
	err := fs.WalkDir(p.fsys, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || name == folder.ReleaseFile {
			return err
		}
		hidden := name != "." && folder.IsHidden(path.Base(name)) && !p.published(name)
		switch {
		case hidden && d.IsDir():
			p.say(name+"/", item.Address{}, FileConflict, "a hidden folder; it was not taken")
			return fs.SkipDir
		case hidden:
			p.say(name, item.Address{}, FileConflict, "a hidden file; it was not taken")
			return nil
		case d.IsDir():
			return nil
		}
		seen[name] = true
		x, known := p.rel.Files[name]
		if !d.Type().IsRegular() {
			if known {
				p.say(name, x.Item, FileConflict, "it is a link now, and links are not followed; the site's own stays")
			}
			return nil
		}
		f, err := p.fsys.Open(name)
		if err != nil {
			return err
		}
		defer f.Close()
		got, err := digestOfFile(f)
		switch {
		case err != nil || got == x.Digest:
		case known:
			p.changed = append(p.changed, name)
		default:
			p.added = append(p.added, name)
		}
		return err
	})
	for name := range p.rel.Files {
		if !seen[name] {
			p.gone = append(p.gone, name)
		}
	}
	sort.Strings(p.gone)
	if err != nil {
		return err
	}
	p.moved, err = outside.Moves(p.rel, p.gone, p.added, p.page, p.text)
	return err
}

// published tells that a path is of the release, or a folder of it.
func (p *publishedFolder) published(name string) bool {
	if _, ok := p.rel.Files[name]; ok {
		return true
	}
	for file := range p.rel.Files {
		if strings.HasPrefix(file, name+"/") {
			return true
		}
	}
	return false
}

// page gives a page as it was published.
func (p *publishedFolder) page(name string) ([]byte, error) {
	h, ok := p.then.Find(p.rel.Files[name].Item)
	if !ok {
		return nil, nil
	}
	if p.pages == nil {
		p.pages = folder.Renderer(p.then, p.rel.Base, p.rel.Links, p.rel.Forms)
	}
	o, err := p.pages.Page(render.PageRequest{Slug: h.Meta.Slug})
	if err != nil {
		return nil, err
	}
	return o.Body, nil
}

// files takes what came, went and was replaced as a whole.
func (p *publishedFolder) files() error {
	arrived := map[string]bool{}
	for _, to := range p.moved {
		arrived[to] = true
	}
	standing := p.standing()
	for _, name := range p.gone {
		x := p.rel.Files[name]
		h, ok := p.live.Find(x.Item)
		switch _, moved := p.moved[name]; {
		case moved, !ok:
		case x.Item.Kind == item.Page && standing[x.Item]:
			p.say(name, x.Item, FileConflict, "it was deleted outside at one of its addresses; the page stays")
		case x.Item.Kind == item.Page && p.editedHere(h):
			p.say(name, x.Item, FileConflict, "it was deleted outside and edited here; it stays")
		case x.Item.Kind == item.Page:
			p.changes = append(p.changes, store.Change{Delete: true, Head: h})
			p.say(name, x.Item, FileRemoved, "")
		default:
			p.say(name, x.Item, FileConflict, "it was deleted outside; the site's own stays, since pages may use it")
		}
	}
	for _, name := range p.added {
		if arrived[name] {
			continue
		}
		if err := p.addedFile(name); err != nil {
			return err
		}
	}
	var texts []string
	for _, name := range p.changed {
		x := p.rel.Files[name]
		switch {
		case x.Item.IsZero() && "/"+name != render.NotFoundSlug:
			p.say(name, x.Item, FileConflict, "publishing writes it, so that edits to it are not taken")
		case x.Item.Kind == item.Tokens:
			p.say(name, x.Item, FileConflict,
				"publishing writes it from the site's colours, type and spacing: change "+
					"those there")
		case x.Item.Kind == item.Media && !strings.HasSuffix(name, ".svg"):
			if err := p.replaced(name, x); err != nil {
				return err
			}
		default:
			tooLarge, err := p.tooLarge(name, x.Item, folder.MaxTextBytes)
			if err != nil {
				return err
			}
			if !tooLarge {
				texts = append(texts, name)
			}
		}
	}
	p.changed = texts
	return nil
}

// standing are the items that a file of the release still shows.
func (p *publishedFolder) standing() map[item.Address]bool {
	gone, out := map[string]bool{}, map[item.Address]bool{}
	for _, name := range p.gone {
		gone[name] = true
	}
	for name, x := range p.rel.Files {
		if !gone[name] {
			out[x.Item] = true
		}
	}
	return out
}

// editedHere tells that an item is not as it was published.
func (p *publishedFolder) editedHere(h item.Head) bool {
	then, ok := p.then.Find(h.Address)
	return !ok || then.State() != h.State()
}

// replaced takes another file in the place of a media item's.
func (p *publishedFolder) replaced(name string, x folder.Published) error {
	h, ok := p.live.Find(x.Item)
	before, twice := p.heads[x.Item]
	if then, _ := p.then.Find(x.Item); !twice && (!ok || h.Doc != then.Doc) {
		p.say(name, x.Item, FileConflict, "another file took this place in the meantime; it stays")
		return nil
	}
	h, err := p.keepFrom(name, h)
	if err != nil || h.Doc == "" {
		return err
	}
	if twice {
		if before.Doc != h.Doc {
			p.say(name, x.Item, FileConflict,
				"it was replaced by another file at another of its paths; that one is taken")
		}
		return nil
	}
	p.heads[x.Item] = h
	p.say(name, x.Item, FileChanged, "")
	return nil
}

// edits carries what was edited within files to the sources, and merges it with what is live.
func (p *publishedFolder) edits() error {
	got, err := outside.Carry(outside.Folder{
		Release: p.rel,
		Then:    p.then,
		Read:    p.text,
		Changed: p.changed,
		Moved:   p.moved,
		Shared:  p.shared,
	})
	if err != nil {
		return err
	}
	p.out.Edits = got.Lines
	from := map[item.Address]string{} // a file that an item was edited in
	for name, to := range p.moved {
		from[p.rel.Files[name].Item] = to
	}
	for _, l := range got.Lines {
		if _, known := from[l.Item]; !known && l.State == outside.Taken {
			from[l.Item] = l.Path
		}
	}
	var list []item.Address
	for a := range got.Texts {
		list = append(list, a)
	}
	for _, more := range []map[item.Address]string{got.Titles, got.Slugs} {
		for a := range more {
			if _, known := got.Texts[a]; !known {
				list = append(list, a)
			}
		}
	}
	sort.Slice(list, func(i, j int) bool { return list[i].Less(list[j]) })
	for _, a := range list {
		if _, done := p.heads[a]; done {
			continue
		}
		if err := p.merge(a, from[a], got); err != nil {
			return err
		}
	}
	for _, a := range list { // links follow in texts with their edits
		if slug, moved := got.Slugs[a]; moved {
			if err := p.readdress(a, slug, from[a]); err != nil {
				return err
			}
		}
	}
	return nil
}

// merge brings the edits of one item to what is live.
func (p *publishedFolder) merge(a item.Address, file string, got *outside.Carried) error {
	h, ok := p.live.Find(a)
	if !ok && p.then.Draft != nil {
		p.say(file, a, FileConflict, "it stands in draft %d alone: put that live first", p.then.Draft.ID)
		return nil
	}
	if !ok {
		p.say(file, a, FileConflict, "it was changed outside, and deleted here in the meantime; it stays deleted")
		return nil
	}
	then, _ := p.then.Find(a)
	ours, err := item.Read(p.live, h)
	if err != nil {
		return err
	}
	text := ours
	if theirs, edited := got.Texts[a]; edited {
		if text = theirs; h.Doc != then.Doc {
			base, err := item.Read(p.then, then)
			if err != nil {
				return err
			}
			merged := blend.Merge(a.Kind, base, ours, theirs, nil)
			for _, x := range merged.Conflicts {
				p.say(file, a, FileConflict,
					"line %d, %s: %s became %s in the file; it was also edited here, and the edit here stays", x.Line,
					x.Where, blend.Brief(x.Base), blend.Brief(x.Kit))
			}
			text = merged.Text
		}
	}
	if title, edited := got.Titles[a]; edited {
		if h.Meta.Title == then.Meta.Title {
			h.Meta.Title = title
		} else if h.Meta.Title != title {
			p.say(file, a, FileConflict, "its title became “%s” in the file and “%s” here, which stays", title,
				h.Meta.Title)
		}
	}
	if was, _ := p.live.Find(a); string(text) == string(ours) && h.State() == was.State() {
		return nil // the site has it already
	}
	p.heads[a], p.texts[a] = h, text
	p.say(file, a, FileChanged, "")
	return nil
}

// readdress gives a page the address that its file has now; links to it follow.
func (p *publishedFolder) readdress(a item.Address, slug, file string) error {
	h, err := p.becomes(a)
	if err != nil || h == nil {
		return err
	}
	then, _ := p.then.Find(a)
	if other, taken := p.live.PageAt(slug); taken && other != a {
		p.say(file, a, FileConflict, "%s is already at %s; the page stays at %s", other, slug, h.Meta.Slug)
		return nil
	}
	if h.Meta.Slug != then.Meta.Slug {
		p.say(file, a, FileConflict, "it was moved here, too, to %s, where it stays", h.Meta.Slug)
		return nil
	}
	old := h.Meta.Slug
	users, err := p.live.LinkedFrom(old)
	if err != nil {
		return err
	}
	for _, user := range users {
		u, err := p.becomes(user)
		if err != nil {
			return err
		}
		if u == nil {
			continue
		}
		renames := facts.Renames{{Space: facts.Address, Name: old}: slug}
		text, err := facts.Rewrite(user.Kind, u.Meta.Context, p.texts[user], renames)
		if err != nil {
			p.say(file, user, FileConflict, "its links to %s do not follow: %v", old, err)
			continue
		}
		p.texts[user] = text
	}
	moved := p.heads[a]
	moved.Meta.Slug = slug
	p.heads[a] = moved
	p.say(file, a, FileChanged, "it moved from %s to %s", old, slug)
	return nil
}

// becomes gives what becomes of a live item so far, to be changed further; nil when it is gone.
func (p *publishedFolder) becomes(a item.Address) (*item.Head, error) {
	h, changed := p.heads[a]
	if _, known := p.texts[a]; known && changed {
		return &h, nil
	}
	if there, ok := p.live.Find(a); !changed && ok {
		h = there
	} else if !changed {
		return nil, nil
	}
	b, err := item.Read(p.live, h)
	if err != nil {
		return nil, err
	}
	p.heads[a], p.texts[a] = h, b
	return &h, nil
}

// addedFile takes a page, a stylesheet or another file that somebody put there.
func (p *publishedFolder) addedFile(name string) error {
	h := item.Head{
		Address: item.Address{Kind: item.Media, Key: item.MakeKey(name)},
		Meta:    item.Meta{MediaType: folder.MediaTypeOf(name), Kept: []string{"/" + name}},
	}
	h.Meta.Context = facts.ReadsAs(h.Meta.MediaType)
	if ext := strings.ToLower(path.Ext(name)); ext == ".html" || ext == ".htm" {
		h = item.Head{
			Address: item.Address{
				Kind: item.Page,
				Key:  item.MakeKey(strings.TrimSuffix(strings.TrimSuffix(name, "/index.html"), ext)),
			},
			Meta: item.Meta{Slug: strings.TrimSuffix("/"+name, "index.html")},
		}
		if other, ok := p.live.PageAt(h.Meta.Slug); ok {
			p.say(name, other, FileConflict, "%s is already at %s; the file was not taken", other, h.Meta.Slug)
			return nil
		}
	}
	h, err := p.keepFrom(name, h)
	if err != nil || h.Doc == "" {
		return err
	}
	free, same := p.freeAddress(h.Address, h.Doc)
	if same {
		p.say(name, h.Address, FileConflict, "the very same is already an item of this name; the file was not taken")
		return nil
	}
	h.Address, h.ID = free, store.NewID()
	p.changes = append(p.changes, store.Change{Head: h})
	p.say(name, h.Address, FileAdded, "")
	return nil
}

// keepFrom keeps a file of the folder as an item's; the head has no digest where it was not taken, and that was said.
func (p *publishedFolder) keepFrom(name string, h item.Head) (item.Head, error) {
	h.Doc = ""
	most := int64(folder.MaxTextBytes)
	if isFile(h) {
		most = folder.MaxFileBytes
	}
	if tooLarge, err := p.tooLarge(name, h.Address, most); err != nil || tooLarge {
		return h, err
	}
	if isFile(h) {
		return p.stream(name, h)
	}
	content, err := p.text(name)
	if err == nil && h.Address.Kind == item.Page {
		content, err = outside.InSources(p.rel, p.then, name, content)
	}
	if err != nil {
		return h, err
	}
	return p.d.keepOne(p.ctx, h, content)
}

// settle lays what became of items in the draft.
func (p *publishedFolder) settle() error {
	list := make([]item.Address, 0, len(p.heads))
	for a := range p.heads {
		list = append(list, a)
	}
	sort.Slice(list, func(i, j int) bool { return list[i].Less(list[j]) })
	for _, a := range list {
		h, err := p.heads[a], error(nil)
		if text, edited := p.texts[a]; edited {
			h, err = p.d.keepOne(p.ctx, h, text)
		}
		var refused *Problem
		if errors.As(err, &refused) {
			p.say(a.Path(), a, FileConflict, "%s", refused.Message)
			continue
		}
		if err != nil {
			return err
		}
		if was, ok := p.live.Find(a); ok && was.State() == h.State() {
			continue
		}
		p.changes = append(p.changes, store.Change{Head: h})
	}
	return nil
}
