// Package render shows a collection's page as a complete document: its parts
// around it, its sections in place, menus, forms, records and settings written
// out, and its stylesheets in the collection's one order.
//
// It works by edits of the source text, like everything here: what is not a cp-
// element passes through untouched. Rendering reads only the collection, so one
// page and its assets always belong to one state of it.
package render

import (
	"encoding/json"
	"fmt"
	"path"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/tokens"
)

// Engine is the version of the page engine: which cp- elements it understands.
const Engine = "1.1.0"

// AssetRoot is where rendered assets lie: AssetRoot + digest + "/" + name.
const AssetRoot = "/_cp/"

// Renderer shows the pages of one state of a collection. It is not safe for use
// by several goroutines at once.
type Renderer struct {
	c       item.Collection
	heads   []item.Head
	pages   map[string]item.Head // by slug
	parts   []item.Head
	records []item.Head
	order   map[item.Address]int
	assets  map[item.Address]Asset
	byPath  map[string]Asset
	links   Links
	engine  []Asset
	// Static tells that the pages are published: what a service would answer is left to
	// the engine's scripts.
	Static  bool
	kept    map[string]item.Address // addresses that media had before they were adopted
	content map[item.Address][]byte
	primed  []item.Address
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
	Around  []Standing
	Reached []item.Address // all items that had a part in it, each once
}

// New prepares a collection for rendering.
func New(c item.Collection) *Renderer {
	r := &Renderer{c: c, heads: c.Heads(), pages: map[string]item.Head{}, order: map[item.Address]int{}, assets: map[item.Address]Asset{},
		byPath: map[string]Asset{}, kept: map[string]item.Address{}, content: map[item.Address][]byte{}}
	for _, h := range r.heads {
		switch h.Address.Kind {
		case item.Page:
			r.pages[h.Meta.Slug] = h
		case item.Part:
			r.parts = append(r.parts, h)
		case item.Record:
			r.records = append(r.records, h)
		case item.Media:
			for _, p := range h.Meta.Kept {
				if !strings.HasPrefix(p, AssetRoot) { // the engine's own place
					r.kept[p] = h.Address
				}
			}
		}
	}
	for i, a := range StyleOrder(c) {
		r.order[a] = i
	}
	return r
}

// Pages lists the pages' slugs with their heads.
func (r *Renderer) Pages() map[string]item.Head { return r.pages }

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
	h, ok := r.pages[slug]
	return h.Address, ok
}

// Forget lets go of an item's text that is not needed again.
func (r *Renderer) Forget(a item.Address) { delete(r.content, a) }

func (r *Renderer) read(a item.Address) ([]byte, bool) {
	if b, ok := r.content[a]; ok {
		return b, b != nil
	}
	h, ok := r.c.Find(a)
	if !ok {
		r.content[a] = nil
		return nil, false
	}
	b, err := item.Read(r.c, h)
	if err != nil {
		b = nil
	}
	r.content[a] = b
	return b, b != nil
}

// setting reads a setting's value into v; v keeps its value when there is none.
func (r *Renderer) setting(key string, v any) bool {
	b, ok := r.read(item.Address{Kind: item.Setting, Key: key})
	return ok && json.Unmarshal(b, v) == nil
}

// Title gives the site's title, or "".
func (r *Renderer) Title() string {
	var s string
	r.setting("title", &s)
	return s
}

func (r *Renderer) isHome(h item.Head) bool {
	var home string
	if r.setting("home-page", &home) {
		return h.Address.String() == home
	}
	return h.Meta.Slug == "/"
}

// asset gives the address under which an item's rendered content is served.
func (r *Renderer) asset(a item.Address) (Asset, error) {
	if x, ok := r.assets[a]; ok {
		return x, nil
	}
	h, ok := r.c.Find(a)
	if !ok {
		return Asset{}, fmt.Errorf("there is no %s", a)
	}
	x := Asset{Head: h, MediaType: h.Meta.MediaType}
	name, digest := path.Base(a.Path()), h.Doc
	switch a.Kind {
	case item.Stylesheet:
		r.assets[a] = Asset{Path: "/" + a.Path()} // a circle of imports ends at the plain name
		src, _ := r.read(a)
		out, err := facts.Replace(item.Stylesheet, "", src, r.inAsset(assetDepth))
		if err != nil {
			return x, fmt.Errorf("rendering %s: %w", a, err)
		}
		x.content, x.MediaType, digest = out, "text/css; charset=utf-8", item.DigestOf(out)
	case item.Tokens:
		src, _ := r.read(a)
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
			src, _ := r.read(a)
			if out, err := facts.Replace(item.Media, h.Meta.Context, src, r.inAsset(assetDepth)); err == nil {
				x.content, digest = out, item.DigestOf(out)
			}
			if strings.HasSuffix(a.Key, ".svg") {
				x.MediaType = "image/svg+xml"
			}
		}
	}
	x.Path = AssetRoot + digest.Short() + "/" + name
	r.assets[a] = x
	r.byPath[x.Path] = x
	return x, nil
}

// assetDepth is a place as deep as every asset's: from there their references lead.
const assetDepth = AssetRoot + "digest/name"

// readsMedia tells whether references are written anew in a file of the media.
func readsMedia(h item.Head) bool {
	return strings.HasSuffix(h.Address.Key, ".svg") || h.Meta.Context == "application/manifest+json"
}

// AssetAt gives the asset at a path: one with a digest that a page of this
// state names, or an item by its own root-relative address.
func (r *Renderer) AssetAt(p string) (Asset, bool) {
	if x, ok := r.byPath[p]; ok {
		return x, true
	}
	if a, ok := r.kept[p]; ok {
		x, err := r.asset(a)
		return x, err == nil
	}
	if a, ok := item.AddressOfPath(p); ok && (a.Kind == item.Media || a.Kind == item.Stylesheet || a.Kind == item.Component) {
		x, err := r.asset(a)
		return x, err == nil
	}
	if !strings.HasPrefix(p, AssetRoot) {
		return Asset{}, false
	}
	if strings.HasPrefix(p, EngineRoot) {
		return r.engineAsset(p)
	}
	for _, h := range r.heads { // asked for before any page of this state was
		switch h.Address.Kind {
		case item.Media, item.Stylesheet, item.Tokens, item.Component:
			if x, err := r.asset(h.Address); err == nil && x.Path == p {
				return x, true
			}
		}
	}
	return Asset{}, false
}

// Assets lists all assets that pages rendered so far name.
func (r *Renderer) Assets() []Asset {
	var out []Asset
	for _, h := range r.heads {
		if x, ok := r.assets[h.Address]; ok && r.byPath[x.Path].Path != "" {
			out = append(out, x)
		}
	}
	return append(out, r.engine...)
}

// Kept gives the media that are served at addresses of their own, too.
func (r *Renderer) Kept() map[string]item.Address { return r.kept }

// KeptContent gives the bytes of a file at an address that it kept, where they are
// other than its own; nil otherwise.
func (r *Renderer) KeptContent(at string) ([]byte, error) {
	h, ok := r.c.Find(r.kept[at])
	if !ok || !readsMedia(h) {
		return nil, nil
	}
	src, _ := r.read(h.Address)
	return facts.Replace(item.Media, h.Meta.Context, src, r.inAsset(at))
}

// Content gives an asset's bytes.
func (r *Renderer) Content(x Asset) ([]byte, error) {
	if x.content != nil {
		return x.content, nil
	}
	return item.Read(r.c, x.Head)
}

// StyleOrder gives a collection's stylesheet order.
func StyleOrder(c item.Collection) []item.Address {
	h, ok := c.Find(item.StyleOrder)
	if !ok {
		return nil
	}
	b, err := item.Read(c, h)
	if err != nil {
		return nil
	}
	var order []item.Address
	if json.Unmarshal(b, &order) != nil {
		return nil
	}
	return order
}
