package desk

import (
	"context"
	"encoding/json"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/internal/store"
)

var languageSetting = item.Address{Kind: item.Setting, Key: "language"}

// speaking adds to what is adopted the language that all its pages say, where the site says none: what is made here
// later, as a page for unknown addresses, says it, too.
func (d *Desk) speaking(ctx context.Context, set *item.Set, changes []store.Change) ([]store.Change, error) {
	if _, there := set.Find(languageSetting); there {
		return changes, nil
	}
	said := ""
	for _, h := range set.OfKind(item.Page) {
		b, err := item.Read(set, h)
		if err != nil {
			return nil, err
		}
		now := languageOf(b)
		if now == "" || said != "" && now != said {
			return changes, nil
		}
		said = now
	}
	if said == "" {
		return changes, nil
	}
	text, err := json.Marshal(said)
	if err != nil {
		return nil, err
	}
	h, err := d.keepOne(ctx, item.Head{ID: store.NewID(), Address: languageSetting}, text)
	return append(changes, store.Change{Head: h}), err
}

// languageOf gives the language of a page as its root element says it; "" where it does not.
func languageOf(page []byte) string {
	for n := range markup.Tags(page) {
		if n.Tag == "html" {
			return strings.TrimSpace(n.Value("lang"))
		}
		if n.Tag == "body" {
			break
		}
	}
	return ""
}
