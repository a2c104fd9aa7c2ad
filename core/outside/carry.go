package outside

import (
	"fmt"
	"maps"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// Shared says what is done with an edit at some of the places at which a source is shown. The set
// is closed.
type Shared string

// The ways of taking such edits.
const (
	Ask        Shared = "ask"        // it is reported, and not taken
	Everywhere Shared = "everywhere" // the source is edited, for all places
	Here       Shared = "here"       // the place gets a copy of its own
)

// SharedWays lists all of them, the usual one first.
var SharedWays = []Shared{Ask, Everywhere, Here}

// State says what became of an edit. The set is closed.
type State string

// The states of an edit.
const (
	Taken    State = "taken"
	NotTaken State = "not-taken"
	Told     State = "told" // something to know that nobody need decide
)

// States lists all of them.
var States = []State{Taken, NotTaken, Told}

// Line is one edit of a file and what became of it.
type Line struct {
	Path  string
	Line  int // of the edited file, from 1; 0: of the whole file
	End   int // the last line of what stands there now
	Item  item.Address
	State State
	// Before and After are the texts, shortened.
	Before, After string
	Why           string
}

// Folder is what came back: the release, the state of the site that it shows, and what the files
// are now.
type Folder struct {
	Release *folder.Release
	Then    item.Collection
	// Read gives a file as it is now.
	Read func(path string) ([]byte, error)
	// Changed are the paths of the release whose content is another now.
	Changed []string
	// Moved names files of the release that are at another path now.
	Moved  map[string]string
	Shared Shared
}

// Carried is what the edits make of the site as it was published.
type Carried struct {
	Texts  map[item.Address][]byte // contents
	Titles map[item.Address]string // metadata
	Slugs  map[item.Address]string
	Lines  []Line
}

// carrier brings the edits of one folder home.
type carrier struct {
	Folder
	r       *render.Renderer
	slugs   map[string]string // by file
	pages   []*page
	groups  []*group
	sources map[item.Address][]byte
	showing *showing
	out     *Carried
}

// page is a changed file.
type page struct {
	path string // in the release
	now  string // where it is
	slug string // of a page; empty for other files
	from *sourcemap.Map
	tree *markup.Tree
	text []byte // as it is now, in the release's form
	// edits are those that have a place in a source.
	edits []*edit
	// rest are the hunks that are not taken.
	rest    []Hunk
	hunks   []Hunk // all, in their order
	derived []derived
	// refs are the edits that write the references of the text as sources do, once resolved.
	refs     []span.Edit
	resolved bool
	breaks   []int // the offsets of line ends
}

// line gives the line of an offset in the file as it is now, from 1.
func (p *page) line(offset int) int {
	if p.breaks == nil {
		p.breaks = []int{}
		for i, b := range p.text {
			if b == '\n' {
				p.breaks = append(p.breaks, i)
			}
		}
	}
	return 1 + sort.SearchInts(p.breaks, offset)
}

// InSources writes a page that is new in a folder as sources have it: its references by the
// addresses of the site, resolved through the release's list.
func InSources(rel *folder.Release, then item.Collection, name string, text []byte) ([]byte, error) {
	c := newCarrier(Folder{Release: rel, Then: then})
	p := &page{path: name, now: name, slug: "/" + name, text: text}
	return c.inSources(p, span.Span{End: len(text)})
}

// Carry brings the edits home.
func Carry(f Folder) (*Carried, error) {
	c := newCarrier(f)
	for _, name := range f.Changed {
		if err := c.changed(name, name); err != nil {
			return nil, err
		}
	}
	for _, name := range slices.Sorted(maps.Keys(f.Moved)) {
		if err := c.moved(name, f.Moved[name]); err != nil {
			return nil, err
		}
	}
	if err := c.settle(); err != nil {
		return nil, err
	}
	if err := c.prove(); err != nil {
		return nil, err
	}
	c.report()
	return c.out, nil
}

func newCarrier(f Folder) *carrier {
	c := &carrier{
		Folder:  f,
		r:       folder.Renderer(f.Then, f.Release.Base, f.Release.Links, f.Release.Forms),
		slugs:   map[string]string{},
		sources: map[item.Address][]byte{},
		out: &Carried{Texts: map[item.Address][]byte{}, Titles: map[item.Address]string{},
			Slugs: map[item.Address]string{}},
	}
	for name, x := range f.Release.Files {
		if slug, ok := c.slugOf(name, x); ok {
			c.slugs[name] = slug
		}
	}
	return c
}

func (c *carrier) say(l Line) { c.out.Lines = append(c.out.Lines, l) }

// slugOf gives the slug of a page's file.
func (c *carrier) slugOf(name string, x folder.Published) (string, bool) {
	switch {
	case "/"+name == render.NotFoundSlug:
		return render.NotFoundSlug, true
	case !strings.HasSuffix(name, ".html") && !strings.HasSuffix(name, ".htm") || strings.HasPrefix(name, "_cp/"):
		return "", false
	case x.Item.Kind == item.Page:
		h, ok := c.Then.Find(x.Item)
		if name != item.SlugFile(h.Meta.Slug) { // the home page, at / too
			return strings.TrimSuffix("/"+name, "index.html"), ok
		}
		return h.Meta.Slug, ok
	case x.Item.Kind == item.Part || x.Item.Kind == item.Record:
		return strings.TrimSuffix("/"+name, "index.html"), true
	}
	return "", false
}

// changed compares one file with what was published at its path.
func (c *carrier) changed(name, now string) error {
	x := c.Release.Files[name]
	text, err := c.Read(now)
	if err != nil {
		return err
	}
	p := &page{path: name, now: now, slug: c.slugs[name]}
	if p.from, err = c.base(p, x); err != nil {
		return err
	}
	if p.from == nil || item.DigestOf(p.from.Body) != x.Digest {
		c.say(Line{Path: now, Item: x.Item, State: NotTaken,
			Why: fmt.Sprintf("it was published by page engine %s, and "+
				"this one is %s, which writes it otherwise: nothing can be told of its lines. Publish anew, and "+
				"edit that",
				c.Release.Engine, render.Engine)})
		return nil
	}
	p.text = c.inReleaseForm(p, x, text)
	p.hunks = p.widened(p.phrases(p.slid(align(p.from.Body, p.text))))
	for _, h := range p.hunks {
		c.place(p, h)
	}
	c.pages = append(c.pages, p)
	return nil
}

// base gives what was published at a file, with its origins; nil when nothing is known of it.
func (c *carrier) base(p *page, x folder.Published) (*sourcemap.Map, error) {
	if p.slug != "" {
		o, err := c.r.Page(render.PageRequest{Slug: p.slug, Mapped: true})
		if err != nil {
			return nil, err
		}
		return o.Map, nil
	}
	h, ok := c.Then.Find(x.Item)
	if !ok || x.Item.Kind == item.Tokens {
		return nil, nil
	}
	return c.r.FileMap(h, "/"+p.path)
}

// source gives the content of an item as it was published.
func (c *carrier) source(a item.Address) ([]byte, error) {
	if b, ok := c.sources[a]; ok {
		return b, nil
	}
	h, ok := c.Then.Find(a)
	if !ok {
		return nil, nil
	}
	b, err := item.Read(c.Then, h)
	if err == nil {
		c.sources[a] = b
	}
	return b, err
}

// report puts the lines in order: file by file, from the top.
func (c *carrier) report() {
	sort.SliceStable(c.out.Lines, func(i, j int) bool {
		a, b := c.out.Lines[i], c.out.Lines[j]
		if a.Path != b.Path {
			return a.Path < b.Path
		}
		return a.Line < b.Line
	})
}
