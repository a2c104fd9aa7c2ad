package folder

import (
	"bytes"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"io"
	"net/url"
	"path"
	"runtime"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/core/workers"
)

// ReleaseFile lies in every published folder and says what was published: by it
// edits made in the folder since are found.
const ReleaseFile = "_cp/release.json"

// Release is what one publication of a site holds.
type Release struct {
	Format int    `json:"format"`
	Site   string `json:"site"`
	// Revision and Digest name the state of the site; the revision of a draft is that
	// which it was laid over.
	Revision int64       `json:"revision"`
	Digest   item.Digest `json:"digest"`
	Engine   string      `json:"engine"`
	Base     string      `json:"base"`
	Links    string      `json:"links"`
	Forms    string      `json:"forms,omitempty"`
	// Files are all files but this one, by path.
	Files map[string]Published `json:"files"`
}

// Published is one file of a release.
type Published struct {
	Digest item.Digest `json:"sha256"`
	Bytes  int64       `json:"bytes"`
	// Item is the item that the file shows.
	Item item.Address `json:"item,omitzero"`
}

// The ways of writing links.
const (
	RootedLinks   = "rooted"
	RelativeLinks = "relative"
	FileLinks     = "file" // for a folder that is opened from disk
)

// LinkForms lists all of them.
var LinkForms = []string{RootedLinks, RelativeLinks, FileLinks}

// Options say how a site is published.
type Options struct {
	Site     string
	Revision int64
	Digest   item.Digest
	// Base is the path below which the site will stand, with a slash at both ends.
	Base  string
	Links string
	// Forms is where forms are sent: an address with {form} in the place of a form's name. Empty:
	// nowhere.
	Forms string
	// Facts gives the facts of an item, from where they are kept; nil works them out.
	Facts func(item.Head) (*facts.Facts, error)
}

// Check holds the options against the rules and fills in what is not given.
func (o *Options) Check() error {
	if o.Base == "" {
		o.Base = "/"
	}
	if o.Links == "" {
		o.Links = RootedLinks
	}
	if !slices.Contains(LinkForms, o.Links) {
		return fmt.Errorf("links are %s, not %q", strings.Join(LinkForms, ", "), o.Links)
	}
	if o.Base != "/" && (item.CheckSlug(o.Base) != nil || !strings.HasSuffix(o.Base, "/")) {
		return fmt.Errorf("the base %q is not a path with a slash at both ends, as /huts/", o.Base)
	}
	if u, err := url.Parse(o.Forms); o.Forms != "" && (err != nil || u.Host == "" ||
		u.Scheme != "https" && u.Scheme != "http") {
		return fmt.Errorf("forms cannot be sent to %q: write an address, as https://forms.hut.example/{form}", o.Forms)
	}
	return nil
}

// Out takes the files of a published site, each once, paths relative with "/". The
// digest is known before open is called, so that a file that is there is not read.
type Out func(path string, f Published, open func() (io.ReadCloser, error)) error

// Publish writes a collection as a complete static site: each page in its file,
// 404.html for the not-found part, assets under their digests, the files that kept
// their own addresses, site map, robots and search index, and last the list of all
// these. Who takes them shows them to visitors when the list has come, in one act.
// Notes say what a visitor may miss.
func Publish(c item.Collection, o Options, out Out) (*Release, []Left, error) {
	if err := o.Check(); err != nil {
		return nil, nil, err
	}
	p := &publisher{
		c:   c,
		o:   o,
		out: out,
		release: &Release{
			Format:   1,
			Site:     o.Site,
			Revision: o.Revision,
			Digest:   o.Digest,
			Engine:   render.Engine,
			Base:     o.Base,
			Links:    o.Links,
			Forms:    o.Forms,
			Files:    map[string]Published{},
		},
	}
	for range runtime.GOMAXPROCS(0) {
		p.rs = append(p.rs, Renderer(c, o.Base, o.Links, o.Forms))
	}
	p.r = p.rs[0]
	for _, step := range []func() error{p.pages, p.redirects, p.assets, p.kept, p.search, p.engines} {
		if err := step(); err != nil {
			return nil, nil, err
		}
	}
	list, err := json.MarshalIndent(p.release, "", " ")
	if err != nil {
		return nil, nil, err
	}
	return p.release, p.notes, out(ReleaseFile, Published{Digest: item.DigestOf(list), Bytes: int64(len(list))},
		held(list))
}

// Renderer shows a collection's pages as they are published.
func Renderer(c item.Collection, base, links, forms string) *render.Renderer {
	r := render.New(c)
	r.Forms = forms
	r.Static = true
	r.SetLinks(render.Links{Base: base, Relative: links == RelativeLinks, File: links == FileLinks})
	return r
}

type publisher struct {
	c       item.Collection
	o       Options
	out     Out
	rs      []*render.Renderer // one for each core
	r       *render.Renderer   // the first of them
	release *Release
	folders map[string]bool // that hold published files
	slugs   []string        // of what a site map lists
	notes   []Left
}

// held opens content that is in memory.
func held(b []byte) func() (io.ReadCloser, error) {
	return func() (io.ReadCloser, error) { return io.NopCloser(bytes.NewReader(b)), nil }
}

func (p *publisher) write(path string, f Published, open func() (io.ReadCloser, error)) error {
	if why := p.stands(path); why != "" {
		p.notes = append(p.notes, Left{path, why})
		return nil
	}
	if had, twice := p.release.Files[path]; twice {
		if had.Digest != f.Digest {
			p.notes = append(p.notes,
				Left{path, fmt.Sprintf("both %s and %s would be published here; the first is", had.Item, f.Item)})
		}
		return nil
	}
	p.release.Files[path] = f
	if err := p.out(path, f, open); err != nil {
		return fmt.Errorf("writing %s: %w", path, err)
	}
	return nil
}

// stands tells why a file cannot stand beside those that are published already: one of them
// is a folder to the other. So one page never stops all others.
func (p *publisher) stands(name string) string {
	if p.folders == nil {
		p.folders = map[string]bool{}
	}
	if p.folders[name] {
		return "it is not published: other files lie in a folder of this name"
	}
	var above []string
	for dir := path.Dir(name); dir != "."; dir = path.Dir(dir) {
		if _, isFile := p.release.Files[dir]; isFile {
			return "it is not published: " + dir + " is a file"
		}
		above = append(above, dir)
	}
	for _, dir := range above {
		p.folders[dir] = true
	}
	return ""
}

func (p *publisher) text(path string, a item.Address, b []byte) error {
	return p.write(path, Published{item.DigestOf(b), int64(len(b)), a}, held(b))
}

// Bulk is a collection that can give many texts at once, quicker than one by one.
type Bulk interface {
	ReadMany(heads []item.Head) (map[item.Digest][]byte, error)
}

// pages renders all documents, several at once, and writes them as they come; by that
// the assets that they name become known.
func (p *publisher) pages() error {
	var slugs []string
	for s := range p.r.Pages() {
		slugs = append(slugs, s)
	}
	made, err := p.r.GeneratedPages()
	if err != nil {
		return err
	}
	for _, m := range made {
		slugs = append(slugs, m.Slug)
	}
	sort.Strings(slugs)
	slugs = slices.Compact(slugs)
	for len(slugs) > 0 {
		n := min(len(slugs), atOnce)
		if err := p.prime(slugs[:n]); err != nil {
			return err
		}
		outs, failed := make([]*render.Output, n), make([]error, n)
		err := workers.Some(len(p.rs), n, func(worker, i int) (err error) {
			if outs[i], err = p.rs[worker].Page(render.PageRequest{Slug: slugs[i]}); render.IsUnshowable(err) {
				failed[i], err = err, nil
			}
			return err
		})
		if err != nil {
			return err
		}
		for i, o := range outs {
			if failed[i] != nil { // one page keeps no other from being published
				p.notes = append(p.notes, Left{item.SlugFile(slugs[i]), "it cannot be shown: " + failed[i].Error()})
				continue
			}
			if err := p.page(slugs[i], o); err != nil {
				return err
			}
		}
		slugs = slugs[n:]
	}
	return nil
}

// prime gives the renderers the sources of the next pages, where that is quicker.
func (p *publisher) prime(slugs []string) error {
	bulk, ok := p.c.(Bulk)
	if !ok {
		return nil
	}
	var heads []item.Head
	for _, s := range slugs {
		if h, ok := p.r.Pages()[s]; ok {
			heads = append(heads, h)
		}
	}
	texts, err := bulk.ReadMany(heads)
	if err != nil {
		return err
	}
	for _, r := range p.rs {
		r.Prime(heads, texts)
	}
	return nil
}

func (p *publisher) page(slug string, o *render.Output) error {
	file := item.SlugFile(slug)
	if err := item.CheckSlug(slug); err != nil && slug != render.NotFoundSlug { // of before the rules
		p.notes = append(p.notes, Left{file, "it is not published: " + err.Error()})
		return nil
	}
	if slug == render.NotFoundSlug {
		file = strings.TrimPrefix(slug, "/")
	} else if slug != render.SearchSlug {
		p.slugs = append(p.slugs, slug)
	}
	if bytes.Contains(o.Body, []byte(`action="`+render.AssetRoot+`form/`)) {
		p.notes = append(
			p.notes,
			Left{
				file,
				"its form is sent to " + render.AssetRoot + "form/, where a published folder answers nothing; " +
					"let your server take it there",
			},
		)
	}
	return p.text(file, o.Page, o.Body)
}

// assets writes what the pages name, under digests.
func (p *publisher) assets() error {
	for _, r := range p.rs {
		for _, a := range r.Assets() {
			if err := p.asset(strings.TrimPrefix(a.Path, "/"), a); err != nil {
				return err
			}
		}
	}
	return nil
}

func (p *publisher) asset(path string, a render.Asset) error {
	if b, own := a.Rendered(); own {
		return p.text(path, a.Head.Address, b)
	}
	return p.write(
		path,
		Published{a.Head.Doc, a.Head.Bytes, a.Head.Address},
		func() (io.ReadCloser, error) { return p.c.Open(a.Head) },
	)
}

// kept writes the files that are served at addresses of their own, too.
func (p *publisher) kept() error {
	var paths []string
	for at := range p.r.Kept() {
		paths = append(paths, at)
	}
	sort.Strings(paths)
	hidden, err := p.r.Hidden()
	if err != nil {
		return err
	}
	for _, at := range paths {
		file := strings.TrimPrefix(path.Clean(at), "/")
		if file == "robots.txt" && hidden {
			continue
		}
		h, ok := p.c.Find(p.r.Kept()[at])
		if !ok {
			continue
		}
		b, err := p.r.KeptContent(at)
		switch {
		case err != nil:
			return err
		case b != nil:
			err = p.text(file, h.Address, b)
		default:
			err = p.write(
				file,
				Published{h.Doc, h.Bytes, h.Address},
				func() (io.ReadCloser, error) { return p.c.Open(h) },
			)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// search writes the index that the engine's script answers from.
func (p *publisher) search() error {
	if !p.r.Searchable() {
		return nil
	}
	of := p.o.Facts
	if of == nil {
		of = func(h item.Head) (*facts.Facts, error) {
			b, err := item.Read(p.c, h)
			if err != nil {
				return nil, err
			}
			return facts.Extract(h.Address.Kind, h.Meta.Context, b), nil
		}
	}
	x, err := p.r.SearchIndex(of)
	if err != nil {
		return err
	}
	return p.text("_cp/search.json", item.Address{}, jsonText(x))
}

// urls is a site map (sitemaps.org, protocol 0.9).
type urls struct {
	XMLName xml.Name `xml:"http://www.sitemaps.org/schemas/sitemap/0.9 urlset"`
	Locs    []urlLoc `xml:"url"`
}

type urlLoc struct {
	Loc string `xml:"loc"`
}

// engines writes what search engines read, unless the site brings its own.
func (p *publisher) engines() error {
	var address string
	if h, ok := p.c.Find(item.Address{Kind: item.Setting, Key: "address"}); ok {
		b, err := item.Read(p.c, h)
		if err != nil {
			return err
		}
		if json.Unmarshal(b, &address) != nil {
			address = ""
		}
	}
	robots := "User-agent: *\nDisallow: /\n"
	hidden, err := p.r.Hidden()
	if err != nil {
		return err
	}
	if !hidden {
		robots = "User-agent: *\nAllow: /\n"
		_, own := p.release.Files["sitemap.xml"]
		switch {
		case own:
		case address == "":
			p.notes = append(
				p.notes,
				Left{
					"sitemap.xml",
					"it is not written: set the site's setting “address” to where it is served, as " +
						"https://hut.example",
				},
			)
		default:
			root := strings.TrimSuffix(address, "/")
			var m urls
			for _, s := range p.slugs {
				m.Locs = append(m.Locs,
					urlLoc{root + (&url.URL{Path: p.o.Base + strings.TrimPrefix(s, "/")}).EscapedPath()})
			}
			b, err := xml.MarshalIndent(m, "", " ")
			if err != nil {
				return err
			}
			if err := p.text("sitemap.xml", item.Address{},
				append([]byte(xml.Header), append(b, '\n')...)); err != nil {
				return err
			}
			robots += "Sitemap: " + root + p.o.Base + "sitemap.xml\n"
		}
	}
	if _, own := p.release.Files["robots.txt"]; own {
		return nil
	}
	return p.text("robots.txt", item.Address{}, []byte(robots))
}
