package item

import (
	"encoding/json"
	"fmt"
	"unicode/utf8"
)

// What can be said of an item.
const (
	MaxTitle = 300      // characters
	MaxMeta  = 32 << 10 // bytes of all metadata as JSON
)

// ShortTitle cuts a title that a document gives itself to what can be said of an item; the
// document keeps its own.
func ShortTitle(s string) string {
	r := []rune(s)
	if len(r) <= MaxTitle {
		return s
	}
	return string(r[:MaxTitle-1]) + "…"
}

// CheckHead holds an item's metadata against the rules that every home of items keeps: its
// length, and where it stands, if it stands anywhere. The content is not looked at.
func CheckHead(h Head) error {
	if n := utf8.RuneCountInString(h.Meta.Title); n > MaxTitle {
		return fmt.Errorf("%s has a title of %d characters; it can have %d", h.Address, n, MaxTitle)
	}
	b, err := json.Marshal(h.Meta)
	if err != nil {
		return err
	}
	if len(b) > MaxMeta {
		return fmt.Errorf("%s has %d bytes of metadata; it can have %d", h.Address, len(b), MaxMeta)
	}
	if err := h.Meta.Width.Check(); err != nil {
		return fmt.Errorf("%s: %w", h.Address, err)
	}
	if h.Meta.Trigger != nil {
		if err := h.Meta.Trigger.Check(); err != nil {
			return fmt.Errorf("%s: %w", h.Address, err)
		}
	}
	if k := h.Address.Kind; (k == Page || k == Record) && h.Meta.Slug != "" {
		if err := CheckSlug(h.Meta.Slug); err != nil {
			return fmt.Errorf("%s: %w", h.Address, err)
		}
	}
	return nil
}
