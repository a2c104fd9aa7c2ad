package item

import (
	"fmt"
	"path"
	"strings"
)

// CheckSlug holds a page's address on its site against the rules: it begins with a
// slash, ends with one or with a file's name such as about.html, and has neither
// empty nor dotted parts, nor a query or a fragment.
func CheckSlug(slug string) error {
	if slug == "/" {
		return nil
	}
	if !strings.HasPrefix(slug, "/") {
		return fmt.Errorf("the address %q must begin with a slash", slug)
	}
	last := slug[strings.LastIndexByte(slug, '/')+1:]
	if last != "" && path.Ext(last) == "" {
		return fmt.Errorf("the address %q must end with a slash, or with a file's name such as about.html", slug)
	}
	for _, part := range strings.Split(strings.Trim(slug, "/"), "/") {
		if part == "" || part == "." || part == ".." {
			return fmt.Errorf("the address %q has an empty or dotted part", slug)
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
