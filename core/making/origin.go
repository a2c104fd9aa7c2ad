package making

import (
	"encoding/json"
	"net/url"
	"sync"

	"compactparcel/core/item"
	"compactparcel/core/kit"
)

// originOf gathers what a site says of itself.
func originOf(name string, src *Source) kit.Origin {
	o := kit.Origin{Site: name, Hosts: []string{name + ".localhost"}}
	setting := func(key string) (text string) {
		if h, ok := src.Items.Find(item.Address{Kind: item.Setting, Key: key}); ok {
			if b, err := item.Read(src.Items, h); err == nil && json.Unmarshal(b, &text) != nil {
				return ""
			}
		}
		return text
	}
	for _, key := range []string{"title", "tagline"} {
		if w := setting(key); w != "" {
			o.Words = append(o.Words, w)
		}
	}
	if u, err := url.Parse(setting("address")); err == nil && u.Hostname() != "" {
		o.Hosts = append(o.Hosts, u.Hostname())
	}
	ids := sync.OnceValue(func() map[string]bool {
		out := map[string]bool{}
		for _, h := range src.Items.Heads() {
			out[h.ID] = true
		}
		return out
	})
	o.HasItem = func(id string) bool { return ids()[id] }
	return o
}
