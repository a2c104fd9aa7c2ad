package making

import (
	"encoding/json"
	"net/url"
	"sync"

	"compactparcel/core/item"
	"compactparcel/core/kit"
)

// originOf gathers what a site says of itself.
func originOf(name string, src *Source) (kit.Origin, error) {
	o := kit.Origin{Site: name, Hosts: []string{name + ".localhost"}}
	setting := func(key string) (text string, err error) {
		h, ok := src.Items.Find(item.Address{Kind: item.Setting, Key: key})
		if !ok {
			return "", nil
		}
		b, err := item.Read(src.Items, h)
		if err != nil || json.Unmarshal(b, &text) != nil {
			return "", err
		}
		return text, nil
	}
	for _, key := range []string{"title", "strapline"} {
		w, err := setting(key)
		if err != nil {
			return o, err
		}
		if w != "" {
			o.Names = append(o.Names, w)
		}
	}
	address, err := setting("address")
	if err != nil {
		return o, err
	}
	if u, err := url.Parse(address); err == nil && u.Hostname() != "" {
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
	return o, nil
}
