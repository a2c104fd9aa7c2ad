// Package render shows a collection's page as a complete document: its parts
// around it, its sections in place, menus, forms, records and settings written
// out, and its stylesheets in the collection's one order.
//
// It works by edits of the source text, like everything here: what is not a cp-
// element passes through untouched. Rendering reads only the collection, so one
// page and its assets always belong to one state of it.
//
// Only an item that the collection does not have is absent. Whatever else keeps a content
// from being read is an error of the whole document, and is not remembered.
package render

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
	"compactparcel/core/tokens"
)

// Engine is the version of the page engine: which cp- elements it understands.
const Engine = "1.2.0"

// AssetRoot is where rendered assets lie: AssetRoot + digest + "/" + name.
const AssetRoot = "/_cp/"

// Renderer shows the pages of one state of a collection. It is not safe for use
// by several goroutines at once.
type Renderer struct {
	c       item.Collection
	pages   map[string]item.Head // by slug; nil until all are asked for
	parts   []item.Head
	records []item.Head
	order   map[item.Address]int // nil until it is read
	assets  map[item.Address]Asset
	byPath  map[string]Asset
	links   Links
	engine  []Asset
	// Static tells that the pages are published: what a service would answer is left to
	// the engine's scripts.
	Static bool
	// Forms is where forms are sent, with {form} in the place of a form's name; empty: nowhere.
	Forms   string
	kept    map[string]item.Address // addresses that media had before they were adopted; nil until read
	content map[item.Address][]byte
	primed  []item.Address
	// home is the page that the setting home shows at /, homeSlug its own address, and homeErr why
	// that is not known: it is tried again.
	home     item.Head
	homeSlug string
	former   map[string]string // addresses that pages left, and theirs now; nil until it is read
	homeErr  error
}

// Asset is a file that a rendered page names.
type Asset struct {
	Path      string // root-relative, with the digest in it
	MediaType string
	Head      item.Head
	content   []byte // of rendered ones; nil means the item's own content
}

// Rendered gives the bytes of an asset that are not its item's own; ok is false where
// they are.
func (x Asset) Rendered() (b []byte, ok bool) { return x.content, x.content != nil }

// Output is one rendered document.
type Output struct {
	Status  int
	Body    []byte
	Page    item.Address
	Around  []PartAssignment
	Reached []item.Address // all items that had a part in it, each once
	Map     *sourcemap.Map // where it came from, if that was asked for
	// Unfilled are the open regions that the page fills and that no part on it has.
	Unfilled []string
}

// New prepares a collection for rendering.
func New(c item.Collection) *Renderer {
	r := &Renderer{c: c, assets: map[item.Address]Asset{}, byPath: map[string]Asset{},
		content: map[item.Address][]byte{}, parts: c.OfKind(item.Part), records: c.OfKind(item.Record)}
	r.findHome()
	return r
}

// findHome puts the page that the setting home names at /, or notes why it is not known.
func (r *Renderer) findHome() {
	home, set, err := HomeOf(r.c)
	if r.homeErr = err; set {
		r.home, r.homeSlug = home, home.Meta.Slug
	}
}

// Pages lists the pages' slugs with their heads.
func (r *Renderer) Pages() map[string]item.Head {
	if r.pages != nil {
		return r.pages
	}
	r.pages = map[string]item.Head{}
	for _, h := range r.c.OfKind(item.Page) {
		r.pages[h.Meta.Slug] = h
	}
	if r.homeSlug != "" {
		r.pages["/"] = r.home
	}
	return r.pages
}

// page gives the page that is shown at a slug.
func (r *Renderer) page(slug string) (item.Head, bool) {
	if slug == "/" && r.homeSlug != "" {
		return r.home, true
	}
	if r.pages != nil {
		h, ok := r.pages[slug]
		return h, ok
	}
	a, ok := r.c.PageAt(slug)
	if !ok {
		return item.Head{}, false
	}
	return r.c.Find(a)
}

// Prime gives texts that are about to be needed; those of earlier calls are forgotten.
func (r *Renderer) Prime(heads []item.Head, texts map[item.Digest][]byte) {
	for _, a := range r.primed {
		delete(r.content, a)
	}
	r.primed = r.primed[:0]
	for _, h := range heads {
		if b, ok := texts[h.Doc]; ok {
			r.content[h.Address] = b
			r.primed = append(r.primed, h.Address)
		}
	}
}

// PageAt gives the page with a slug.
func (r *Renderer) PageAt(slug string) (item.Address, bool) {
	h, ok := r.page(slug)
	return h.Address, ok
}

// Forget lets go of an item's text that is not needed again.
func (r *Renderer) Forget(a item.Address) { delete(r.content, a) }

// lookUp gives an item's content; found is false when there is no such item.
func (r *Renderer) lookUp(a item.Address) (b []byte, found bool, err error) {
	if b, ok := r.content[a]; ok {
		return b, true, nil
	}
	h, ok := r.c.Find(a)
	if !ok {
		return nil, false, nil
	}
	if b, err = item.Read(r.c, h); err != nil {
		return nil, false, err
	}
	r.content[a] = b
	return b, true, nil
}

// read gives the content of an item; nothing when there is no such item.
func (r *Renderer) read(a item.Address) ([]byte, error) {
	b, _, err := r.lookUp(a)
	return b, err
}

// setting reads a setting's value into v; found is false, and v keeps its value, when
// there is none that can be understood.
func (r *Renderer) setting(key string, v any) (found bool, err error) {
	b, ok, err := r.lookUp(item.Address{Kind: item.Setting, Key: key})
	return ok && json.Unmarshal(b, v) == nil, err
}

// Title gives the site's title, or "".
func (r *Renderer) Title() (string, error) {
	var s string
	_, err := r.setting("title", &s)
	return s, err
}

// styleOrder gives the place of each stylesheet that the collection's order names.
func (r *Renderer) styleOrder() (map[item.Address]int, error) {
	if r.order != nil {
		return r.order, nil
	}
	list, err := StyleOrder(r.c)
	if err != nil {
		return nil, err
	}
	r.order = make(map[item.Address]int, len(list))
	for i, a := range list {
		r.order[a] = i
	}
	return r.order, nil
}

// ErrNoItem tells that a collection has no item of an address.
var ErrNoItem = errors.New("there is no such item")

// asset gives the address under which an item's rendered content is served. Its error is
// ErrNoItem when there is no such item.
func (r *Renderer) asset(a item.Address) (x Asset, err error) {
	if x, ok := r.assets[a]; ok {
		return x, nil
	}
	h, ok := r.c.Find(a)
	if !ok {
		return Asset{}, fmt.Errorf("%s: %w", a, ErrNoItem)
	}
	defer func() {
		if err != nil {
			delete(r.assets, a)
		}
	}()
	x = Asset{Head: h, MediaType: h.Meta.MediaType}
	name, digest := path.Base(a.Path()), h.Doc
	switch a.Kind {
	case item.Stylesheet:
		r.assets[a] = Asset{Path: "/" + a.Path()} // a circle of imports ends at the plain name
		out, err := r.rewritten(h, assetDepth)
		if err != nil {
			return x, err
		}
		x.content, x.MediaType, digest = out, "text/css; charset=utf-8", item.DigestOf(out)
	case item.Tokens:
		src, err := r.read(a)
		if err != nil {
			return x, err
		}
		set, err := tokens.Parse(src)
		if err != nil {
			return x, fmt.Errorf("rendering %s: %w", a, err)
		}
		x.content = set.Sheet()
		x.MediaType, digest, name = "text/css; charset=utf-8", item.DigestOf(x.content), path.Base(a.Key)+".css"
	case item.Component:
		x.MediaType = "text/javascript; charset=utf-8"
	case item.Media:
		if readsMedia(h) {
			r.assets[a] = Asset{Path: "/" + a.Path()}
			out, err := r.rewritten(h, assetDepth)
			var failed *item.ReadError
			if errors.As(err, &failed) {
				return x, err
			}
			if err == nil { // what cannot be understood is served as it is
				x.content, digest = out, item.DigestOf(out)
			}
			if strings.HasSuffix(a.Key, ".svg") {
				x.MediaType = "image/svg+xml"
			}
		}
	default:
	}
	x.Path = AssetRoot + digest.Short() + "/" + name
	r.assets[a] = x
	r.byPath[x.Path] = x
	return x, nil
}

// rewritten gives a file with its references as they are served at an address.
func (r *Renderer) rewritten(h item.Head, at string) ([]byte, error) {
	t, err := r.file(nil, h, at)
	return t.Bytes, err
}

// file gives a file as it is served at an address.
func (r *Renderer) file(rec *sourcemap.Recorder, h item.Head, at string) (sourcemap.Text, error) {
	src, err := r.read(h.Address)
	if err != nil {
		return none, err
	}
	l := &linker{r: r}
	text := rec.Source(src, rec.Enter(h.Address, -1, span.Span{}, 0))
	var edits []sourcemap.Edit
	for _, e := range facts.Extract(h.Address.Kind, h.Meta.Context, src).Edits(l.inAsset(at)) {
		edits = append(edits, sourcemap.Edit{Span: e.Span, New: text.Referring(rec, e)})
	}
	out, err := text.Apply(edits)
	if err = errors.Join(l.err, err); err != nil {
		return none, fmt.Errorf("rendering %s: %w", h.Address, err)
	}
	return out, nil
}

// FileMap gives a file of text with its origins, as it is served at an address.
func (r *Renderer) FileMap(h item.Head, at string) (*sourcemap.Map, error) {
	rec := &sourcemap.Recorder{}
	if strings.HasPrefix(at, AssetRoot) {
		at = assetDepth
	}
	if h.Address.Kind == item.Stylesheet || readsMedia(h) {
		t, err := r.file(rec, h, at)
		return rec.Map(t), err
	}
	src, err := r.read(h.Address)
	return rec.Map(rec.Source(src, rec.Enter(h.Address, -1, span.Span{}, 0))), err
}

// assetDepth is a place as deep as every asset's: from there their references lead.
const assetDepth = AssetRoot + "digest/name"

// readsMedia tells whether references are written anew in a file of the media.
func readsMedia(h item.Head) bool {
	return strings.HasSuffix(h.Address.Key, ".svg") || h.Meta.Context == "application/manifest+json"
}

// AssetAt gives the asset at a path: one with a digest that a page of this
// state names, or an item by its own root-relative address. found is false when there is
// none, or none that can be shown.
func (r *Renderer) AssetAt(p string) (x Asset, found bool, err error) {
	if x, ok := r.byPath[p]; ok {
		return x, true, nil
	}
	if a, ok := r.Kept()[p]; ok {
		return r.assetIfAny(a)
	}
	if a, ok := item.AssetOfPath(p); ok && a.Kind != item.Tokens {
		return r.assetIfAny(a)
	}
	if !strings.HasPrefix(p, AssetRoot) {
		return Asset{}, false, nil
	}
	if strings.HasPrefix(p, EngineRoot) {
		x, found = r.engineAsset(p)
		return x, found, nil
	}
	for _, kind := range assetKinds { // asked for before any page of this state was
		for _, h := range r.c.OfKind(kind) {
			if x, found, err = r.assetIfAny(h.Address); err != nil || found && x.Path == p {
				return x, found, err
			}
		}
	}
	return Asset{}, false, nil
}

// assetIfAny is asset for what need not be there; its errors are failed reads alone.
func (r *Renderer) assetIfAny(a item.Address) (x Asset, found bool, err error) {
	x, err = r.asset(a)
	var failed *item.ReadError
	if err != nil && !errors.As(err, &failed) {
		return Asset{}, false, nil
	}
	return x, err == nil, err
}

// Assets lists all assets that pages rendered so far name.
func (r *Renderer) Assets() []Asset {
	var out []Asset
	for _, x := range r.assets {
		if _, there := r.c.Find(x.Head.Address); there && r.byPath[x.Path].Path != "" {
			out = append(out, x)
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Head.Address.Less(out[j].Head.Address) })
	return append(out, r.engine...)
}

// assetKinds are the kinds that are served as files.
var assetKinds = []item.Kind{item.Media, item.Stylesheet, item.Tokens, item.Component}

// Kept gives the files and stylesheets that are served at addresses of their own, too.
func (r *Renderer) Kept() map[string]item.Address {
	if r.kept != nil {
		return r.kept
	}
	r.kept = map[string]item.Address{}
	for _, h := range r.c.OfKind(item.Media, item.Stylesheet) {
		for _, p := range h.Meta.Kept {
			if !strings.HasPrefix(p, AssetRoot) { // the engine's own place
				r.kept[p] = h.Address
			}
		}
	}
	return r.kept
}

// KeptContent gives the bytes of a file at an address that it kept, where they are
// other than its own; nil otherwise.
func (r *Renderer) KeptContent(at string) ([]byte, error) {
	h, ok := r.c.Find(r.Kept()[at])
	if !ok || h.Address.Kind != item.Stylesheet && !readsMedia(h) {
		return nil, nil
	}
	return r.rewritten(h, at)
}

// Open opens an asset's content.
func (r *Renderer) Open(x Asset) (io.ReadCloser, error) {
	if x.content != nil {
		return io.NopCloser(bytes.NewReader(x.content)), nil
	}
	f, err := r.c.Open(x.Head)
	if err != nil {
		return nil, &item.ReadError{Address: x.Head.Address, Err: err}
	}
	return f, nil
}

// StyleOrder gives a collection's stylesheet order; none when it has none that can be
// understood.
func StyleOrder(c item.Collection) ([]item.Address, error) {
	h, ok := c.Find(item.StyleOrder)
	if !ok {
		return nil, nil
	}
	b, err := item.Read(c, h)
	if err != nil {
		return nil, err
	}
	var order []item.Address
	if json.Unmarshal(b, &order) != nil {
		order = nil // what is no order orders nothing
	}
	return order, nil
}

// SourceOf gives the text of an item that pages showed.
func (r *Renderer) SourceOf(a item.Address) ([]byte, error) { return r.read(a) }
