package kit

import (
	"encoding/json"
	"strings"

	"compactparcel/core/item"
)

// AsSite shows the kit's items as a site of their own would have them: in the kit's
// order of stylesheets, and with the settings that it proposes.
func (l *PackingList) AsSite(items item.Collection) item.Collection {
	o := item.NewOver(items)
	for _, h := range items.Heads() { // whatever the list says of it
		if h.Address.Kind == item.Setting && item.SiteOnly(h.Address.Key) && h.Address != item.StyleOrder {
			o.Drop(h.Address)
		}
	}
	set := func(a item.Address, v any) {
		if b, err := json.Marshal(v); err == nil {
			o.Set(item.Head{Address: a}, b)
		}
	}
	if len(l.StyleOrder) > 0 {
		set(item.StyleOrder, l.StyleOrder)
	}
	for key, v := range l.Proposes {
		a, err := item.ParseAddress(key)
		if _, own := items.Find(a); err == nil && a.Kind == item.Setting && !own && !item.SiteOnly(a.Key) {
			set(a, v)
		}
	}
	if _, has := o.Find(homePage); !has { // a kit of one home page opens at it
		for _, h := range items.Heads() {
			if h.Address.Kind == item.Page && strings.Trim(h.Meta.Slug, "/") == "" {
				set(homePage, h.Address.String())
			}
		}
	}
	return o
}

var homePage = item.MustAddress("setting/home")
