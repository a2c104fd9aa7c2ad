package render

import (
	"errors"
	"path"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/sourcemap"
)

// Links says how a published site's links are written.
type Links struct {
	// Base is the path below which the site stands: "/" or "/huts/".
	Base string
	// Relative writes links from page to page and to assets relative to the page, so
	// that the site can be moved to any path. The answer to unknown addresses, which
	// is shown at any depth, keeps rooted ones.
	Relative bool
	// File writes relative links for a folder that is opened from disk, where nothing answers for
	// a folder: index.html stands in them, and scripts are no modules, which browsers do not load
	// from there.
	File bool
}

// SetLinks lets pages be rendered for a place other than the root of an origin.
func (r *Renderer) SetLinks(l Links) { r.links = l }

// href writes a root-relative address as a page at a slug links to it.
func (r *Renderer) href(from, to string) string {
	if r.links.File {
		out := relative("/"+item.SlugFile(from), to)
		if strings.HasSuffix(to, "/") {
			out = strings.TrimPrefix(out, "./") + "index.html"
		}
		return out
	}
	if r.links.Relative && from != NotFoundSlug {
		return relative("/"+item.SlugFile(from), to)
	}
	if r.links.Base != "" && r.links.Base != "/" {
		return r.links.Base + strings.TrimPrefix(to, "/")
	}
	return to
}

// relative gives the way from a file to an address; both are root-relative.
func relative(file, to string) string {
	dir := strings.Split(strings.Trim(path.Dir(file), "/"), "/")
	if dir[0] == "" {
		dir = nil
	}
	parts := strings.Split(strings.TrimPrefix(to, "/"), "/")
	last := len(parts) - 1
	n := 0
	for n < len(dir) && n < last && dir[n] == parts[n] {
		n++
	}
	out := strings.Repeat("../", len(dir)-n) + strings.Join(parts[n:], "/")
	first, _, _ := strings.Cut(out, "/")
	if out == "" || strings.Contains(first, ":") {
		out = "./" + out
	}
	return out
}

// linker writes the references of one file for visitors, and keeps the first failure to
// read what they name.
type linker struct {
	r   *Renderer
	err error
}

// served gives the address at which an asset is served; any other address stays.
func (l *linker) served(to string) string {
	a, ok := item.FileAt(l.r.c, to)
	if !ok {
		return to
	}
	x, found, err := l.r.assetIfAny(a)
	if err != nil && l.err == nil {
		l.err = err
	}
	if found {
		return x.Path
	}
	return to
}

// outLink gives the function that writes the references of a page: its media,
// stylesheets and components under their digests, links as Links says.
func (l *linker) outLink(from string) func(facts.Ref) (string, bool) {
	return func(ref facts.Ref) (string, bool) {
		if ref.Space != facts.Address {
			return "", false
		}
		to := l.r.href(from, l.r.Canonical(l.served(ref.Name)))
		return to, to != ref.Name
	}
}

// relinked gives a page's document with its references as visitors get them.
func (s *stage) relinked(body sourcemap.Text) (sourcemap.Text, error) {
	l := &linker{r: s.r}
	var edits []sourcemap.Edit
	for _, e := range facts.RelinkEdits(item.Page, "", body.Bytes, l.outLink(s.spot.Slug)) {
		edits = append(edits, sourcemap.Edit{Span: e.Span, New: body.Referring(s.rec, e)})
	}
	out, err := body.Apply(edits)
	return out, errors.Join(l.err, err)
}

// inAsset gives the function that writes the references of a file served at an
// address: relative where the site's links are, so that all can be moved together.
func (l *linker) inAsset(at string) func(facts.Ref) (string, bool) {
	return func(ref facts.Ref) (string, bool) {
		if ref.Space != facts.Address {
			return "", false
		}
		to := l.served(ref.Name)
		if l.r.links.Relative || l.r.links.File {
			return relative(at, to), true
		}
		to = l.r.href("", to)
		return to, to != ref.Name
	}
}
