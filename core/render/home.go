package render

import (
	"encoding/json"

	"compactparcel/core/item"
)

// homeSetting names the page that is shown at /.
var homeSetting = item.Address{Kind: item.Setting, Key: "home"}

// HomeOf gives the page that a collection's setting home names; false when it names none that is
// there, so that the page whose own address is / is the home page.
func HomeOf(c item.Collection) (page item.Head, set bool, err error) {
	h, ok := c.Find(homeSetting)
	if !ok {
		return page, false, nil
	}
	b, err := item.Read(c, h)
	if err != nil {
		return page, false, err
	}
	var name string
	if json.Unmarshal(b, &name) == nil {
		if a, err := item.ParseAddress(name); err == nil && a.Kind == item.Page {
			page, set = c.Find(a)
		}
	}
	return page, set, nil
}

// Canonical gives the one address of a page that is meant by others: / for the home page.
func (r *Renderer) Canonical(slug string) string {
	if r.homeSlug != "" && slug == r.homeSlug {
		return "/"
	}
	return slug
}
