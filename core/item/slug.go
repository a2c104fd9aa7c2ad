package item

import (
	"fmt"
	"path"
	"strings"
	"unicode"
	"unicode/utf8"
)

// The longest address of a page, and the longest part of one, in bytes: a published page
// is a file, and file systems allow names of 255.
const (
	MaxSlug     = 500
	maxSlugPart = 240
)

// enginesOwn are the addresses at which the engine publishes something itself.
var enginesOwn = map[string]bool{"/404.html": true, "/_cp/": true}

// CheckSlug holds a page's address on its site against the rules: it begins with a
// slash, ends with one or with a file's name such as about.html, has neither empty nor
// dotted parts, nor a query, a fragment or a control character, can be a file, and is none
// of the engine's own.
func CheckSlug(slug string) error {
	if slug == "/" {
		return nil
	}
	if len(slug) > MaxSlug {
		return fmt.Errorf("the address %.40q… is longer than %d bytes", slug, MaxSlug)
	}
	if enginesOwn[slug] || strings.HasPrefix(slug, "/_cp/") {
		return fmt.Errorf("the address %q is the engine's own", slug)
	}
	if !utf8.ValidString(slug) || strings.ContainsFunc(slug, unicode.IsControl) {
		return fmt.Errorf("the address %q holds a character that no address has", slug)
	}
	if !strings.HasPrefix(slug, "/") {
		return fmt.Errorf("the address %q must begin with a slash", slug)
	}
	last := slug[strings.LastIndexByte(slug, '/')+1:]
	if last != "" && path.Ext(last) == "" {
		return fmt.Errorf("the address %q must end with a slash, or with a file's name such as about.html", slug)
	}
	for _, part := range strings.Split(strings.TrimSuffix(slug[1:], "/"), "/") {
		if part == "" || part == "." || part == ".." {
			return fmt.Errorf("the address %q has an empty or dotted part", slug)
		}
		if len(part) > maxSlugPart {
			return fmt.Errorf("the address %.40q… has a part of more than %d bytes", slug, maxSlugPart)
		}
	}
	if strings.ContainsAny(slug, "?#\\") {
		return fmt.Errorf("the address %q holds a character that no path of a page has", slug)
	}
	return nil
}

// SlugFile is the file, relative to the site's root, in which a page is published.
func SlugFile(slug string) string {
	if strings.HasSuffix(slug, "/") {
		return strings.TrimPrefix(slug, "/") + "index.html"
	}
	return strings.TrimPrefix(slug, "/")
}
