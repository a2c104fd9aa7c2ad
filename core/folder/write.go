package folder

import (
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/render"
)

// Out takes the files of a published site, each once, paths relative with "/".
type Out func(path string, content []byte) error

// Publish writes a collection as a complete static site: each page at
// SLUG/index.html, its assets under their digests, 404.html for the not-found
// part. It gives the number of files written.
func Publish(c item.Collection, out Out) (int, error) {
	r := render.New(c)
	n := 0
	write := func(p string, b []byte) error {
		n++
		return out(p, b)
	}
	slugs := make([]string, 0, len(r.Pages()))
	for s := range r.Pages() {
		slugs = append(slugs, s)
	}
	for _, m := range r.Made() {
		if m.Slug != render.NotFoundSlug {
			slugs = append(slugs, m.Slug)
		}
	}
	sort.Strings(slugs)
	type file struct {
		path string
		body []byte
	}
	var pages []file
	for _, s := range slugs {
		o, err := r.Page(render.Ask{Slug: s})
		if err != nil {
			return n, err
		}
		pages = append(pages, file{item.SlugFile(s), o.Body})
	}
	o, err := r.Page(render.Ask{Slug: render.NotFoundSlug})
	if err != nil {
		return n, err
	}
	pages = append(pages, file{strings.TrimPrefix(render.NotFoundSlug, "/"), o.Body})
	// Assets first, so that no page is ever there before what it names.
	for _, a := range r.Assets() {
		b, err := r.Content(a)
		if err != nil {
			return n, err
		}
		if err := write(strings.TrimPrefix(a.Path, "/"), b); err != nil {
			return n, fmt.Errorf("writing %s: %w", a.Path, err)
		}
	}
	for _, p := range pages {
		if err := write(p.path, p.body); err != nil {
			return n, fmt.Errorf("writing %s: %w", p.path, err)
		}
	}
	return n, nil
}
