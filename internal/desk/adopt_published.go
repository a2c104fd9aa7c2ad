package desk

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"regexp"
	"sort"
	"strings"

	"compactparcel/core/blend"
	"compactparcel/core/facts"
	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/internal/store"
)

// published compares with what was published into the folder: the release is written
// out again from its revision, and what differs is carried back into the sources.
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
	then, err := g.d.Store.At(g.ctx, c, rel.Revision)
	if err != nil {
		return err
	}
	if !rel.Digest.IsDigestOf(then.Heads()) {
		return problem(Refused, what, To(PublishLiveSite), "the folder was published from a draft, which is not kept")
	}
	p := &publishedFolder{
		again:   g,
		fsys:    fsys,
		rel:     rel,
		then:    then,
		sources: map[item.Address][]byte{},
		was:     map[string][]byte{},
	}
	changed, err := p.compare()
	if err != nil || len(changed) == 0 {
		return err
	}
	if err := p.writeAgain(changed); err != nil {
		return err
	}
	for _, x := range changed {
		if err := p.carry(x); err != nil {
			return err
		}
	}
	return p.settle()
}

type publishedFolder struct {
	*again
	fsys    fs.FS
	rel     *folder.Release
	then    *store.View
	render  *render.Renderer
	was     map[string][]byte       // what was published at the changed paths
	sources map[item.Address][]byte // sources that edits were carried into
}

// compare lists the paths that are not as they were published.
func (p *publishedFolder) compare() ([]string, error) {
	var out []string
	seen := map[string]bool{}
	err := fs.WalkDir(p.fsys, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !d.Type().IsRegular() || name == folder.ReleaseFile {
			return err
		}
		seen[name] = true
		f, err := p.fsys.Open(name)
		if err != nil {
			return err
		}
		defer f.Close()
		got, err := digestOfFile(f)
		if err == nil && got != p.rel.Files[name].Digest {
			out = append(out, name)
		}
		return err
	})
	for name := range p.rel.Files {
		if !seen[name] {
			out = append(out, name)
		}
	}
	sort.Strings(out)
	return out, err
}

// writeAgain writes the release out again, and keeps what was at the changed paths.
func (p *publishedFolder) writeAgain(changed []string) error {
	wanted := map[string]bool{}
	for _, x := range changed {
		wanted[x] = true
	}
	o := folder.Options{
		Site:     p.rel.Site,
		Revision: p.rel.Revision,
		Digest:   p.rel.Digest,
		Base:     p.rel.Base,
		Links:    p.rel.Links,
		Facts:    p.then.Facts,
	}
	_, _, err := folder.Publish(
		p.then,
		o,
		func(name string, f folder.Published, open func() (io.ReadCloser, error)) error {
			if !wanted[name] || f.Item.Kind == item.Media {
				return nil
			}
			r, err := open()
			if err != nil {
				return err
			}
			defer r.Close()
			p.was[name], err = io.ReadAll(r)
			return err
		},
	)
	p.render = render.New(p.then)
	return err
}

// source gives an item's text as it is here now, with the edits carried so far.
func (p *publishedFolder) source(a item.Address) (b []byte, found bool, err error) {
	if b, ok := p.sources[a]; ok {
		return b, true, nil
	}
	h, ok := p.live.Find(a)
	if !ok {
		return nil, false, nil
	}
	b, err = item.Read(p.live, h)
	return b, err == nil, err
}

// carry brings one changed file back.
func (p *publishedFolder) carry(name string) error {
	f, known := p.rel.Files[name]
	now, err := fs.ReadFile(p.fsys, name)
	removed := errors.Is(err, fs.ErrNotExist)
	if err != nil && !removed {
		return badFolder(name, err)
	}
	switch {
	case !known:
		return p.addedFile(name, now)
	case f.Item.IsZero():
		p.say(name, f.Item, FileConflict, "it is made by publishing, so edits to it are not taken")
		return nil
	case removed && f.Item.Kind == item.Page:
		if h, ok := p.live.Find(f.Item); ok {
			p.changes = append(p.changes, store.Change{Delete: true, Head: h})
			p.say(name, f.Item, FileRemoved, "")
		}
		return nil
	case removed:
		p.say(name, f.Item, FileConflict, "it was deleted outside; the site's own stays, since pages may use it")
		return nil
	case f.Item.Kind == item.Media:
		h, ok := p.live.Find(f.Item)
		if !ok || h.Doc != f.Digest {
			p.say(name, f.Item, FileConflict, "another file took this place in the meantime; it stays")
			return nil
		}
		return p.replace(name, h, now)
	}
	hunks, ok := blend.Hunks(p.was[name], now)
	if !ok {
		p.say(name, f.Item, FileConflict, "nearly all of it is different, so nothing was taken")
		return nil
	}
	for _, h := range hunks {
		h.New = p.inside(h.New)
		h.Old = p.inside(h.Old)
		if err := p.carryHunk(name, f.Item, h); err != nil {
			return err
		}
	}
	return nil
}

// carryHunk makes an edit in the page's source or, where it stands there not, in that
// of a part or section that the page shows.
func (p *publishedFolder) carryHunk(name string, a item.Address, h blend.Hunk) error {
	tried := []item.Address{a}
	if a.Kind == item.Page || a.Kind == item.Part {
		slug := render.NotFoundSlug
		if head, ok := p.then.Find(a); ok && a.Kind == item.Page {
			slug = head.Meta.Slug
		}
		o, err := p.render.Page(render.PageRequest{Slug: slug})
		var failed *item.ReadError
		if errors.As(err, &failed) {
			return err
		}
		if err == nil {
			for _, x := range o.Reached {
				if (x.Kind == item.Part || x.Kind == item.Section || x.Kind == item.Record) && x != a {
					tried = append(tried, x)
				}
			}
		}
	}
	for _, x := range tried {
		src, ok, err := p.source(x)
		if err != nil {
			return err
		}
		if !ok {
			continue
		}
		if h.Done(src) {
			return nil
		}
		if out, ok := h.Apply(src); ok {
			p.sources[x] = out
			return nil
		}
	}
	p.say(name, a, FileConflict, "line %d: %s; it has no single place in the site's sources", h.Line, h.Description())
	return nil
}

// assetPath is an asset's address as pages of any depth and any base write it.
var assetPath = regexp.MustCompile(`(?:(?:\.\./)+|\./|/[^"'()\s]*?)?_cp/[0-9a-f]{12}/[^"'()\s?#,]+`)

// inside writes the addresses of published assets as the sources do.
func (p *publishedFolder) inside(text string) string {
	return assetPath.ReplaceAllStringFunc(text, func(s string) string {
		at := strings.Index(s, "_cp/")
		if f, ok := p.rel.Files[s[at:]]; ok && !f.Item.IsZero() {
			return "/" + f.Item.Path()
		}
		return s
	})
}

// addedFile takes a page, a stylesheet or another file that somebody put there.
func (p *publishedFolder) addedFile(name string, content []byte) error {
	h := item.Head{
		Address: item.Address{Kind: item.Media, Key: item.MakeKey(name)},
		Meta:    item.Meta{MediaType: folder.MediaTypeOf(name), Kept: []string{"/" + name}},
	}
	h.Meta.Context = facts.ReadsAs(h.Meta.MediaType)
	if ext := strings.ToLower(path.Ext(name)); ext == ".html" || ext == ".htm" {
		slug := strings.TrimSuffix("/"+name, "index.html")
		h = item.Head{
			Address: item.Address{
				Kind: item.Page,
				Key:  item.MakeKey(strings.TrimSuffix(strings.TrimSuffix(name, "/index.html"), ext)),
			},
			Meta: item.Meta{Slug: slug},
		}
		content = []byte(p.inside(string(content)))
		if other, ok := p.live.PageAt(slug); ok {
			p.say(name, other, FileConflict, "%s is already at %s; the file was not taken", other, slug)
			return nil
		}
	}
	if _, ok := p.live.Find(h.Address); ok {
		p.say(name, h.Address, FileConflict, "there is already an item of this name; the file was not taken")
		return nil
	}
	h, err := p.d.keepOne(p.ctx, h, content)
	if err != nil {
		return err
	}
	h.ID = store.NewID()
	p.changes = append(p.changes, store.Change{Head: h})
	p.say(name, h.Address, FileAdded, "")
	return nil
}

// settle lays the sources that edits were carried into in the draft.
func (p *publishedFolder) settle() error {
	list := make([]item.Address, 0, len(p.sources))
	for a := range p.sources {
		list = append(list, a)
	}
	sort.Slice(list, func(i, j int) bool { return list[i].Less(list[j]) })
	for _, a := range list {
		h, ok := p.live.Find(a)
		if !ok {
			continue
		}
		if err := p.replace(a.Path(), h, p.sources[a]); err != nil {
			return err
		}
	}
	return nil
}
