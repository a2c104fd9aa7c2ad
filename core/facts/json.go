package facts

import (
	"bytes"
	"encoding/json"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/span"
	"compactparcel/core/tokens"
)

func (c *collector) json(kind item.Kind) {
	f := c.facts
	var value any
	dec := json.NewDecoder(bytes.NewReader(c.src))
	dec.UseNumber()
	if err := dec.Decode(&value); err != nil {
		f.Broken = "not readable as JSON: " + err.Error()
		return
	}
	if plain, err := json.Marshal(value); err == nil {
		f.NormalizedDigest = item.DigestOf(plain)
	}
	if kind == item.Tokens {
		set, err := tokens.Parse(c.src)
		if err != nil {
			f.Broken = err.Error()
			return
		}
		for _, t := range set.List {
			c.add(Ref{Space: Property, Name: t.Property(), Defines: true, Where: Where{In: InToken, Name: t.Path},
				write: fixed})
		}
	}
	if m, ok := value.(map[string]any); ok {
		if t, ok := m["title"].(string); ok {
			f.Title = t
		}
	}
	for _, s := range jsonStrings(c.src) {
		at := func(from, to int) span.Span { return span.Span{Start: s.at.Start + from, End: s.at.Start + to} }
		if s.at.Len() != len(s.value) {
			at = func(int, int) span.Span { return s.at }
		}
		switch kind {
		case item.Menu:
			switch s.name {
			case "to":
				c.address(s.value, Where{In: InMenuEntry}, at, asJSONURL)
			case "label":
				f.Terms = append(f.Terms, Words(s.value)...)
			}
		case item.Form:
			if s.name == "page" {
				c.address(s.value, Where{In: InConfirmation}, at, asJSONURL)
			}
		case item.Setting:
			if strings.HasPrefix(s.value, "/") && !strings.HasPrefix(s.value, "//") {
				c.address(s.value, Where{In: InSetting}, at, asJSONURL)
			} else if _, err := item.ParseAddress(s.value); err == nil {
				c.add(Ref{Space: Item, Name: s.value, Where: Where{In: InSetting}, At: s.at, write: asJSON})
			}
		case item.Tokens:
			if strings.HasPrefix(s.value, "/media/") {
				c.address(s.value, Where{In: InToken}, at, asJSONURL)
			}
		default:
		}
	}
}

type jsonString struct {
	name  string // the member's name, or that of the list around it
	value string
	at    span.Span
}

// jsonStrings gives all string values of a valid document with their places.
func jsonStrings(src []byte) []jsonString {
	dec := json.NewDecoder(bytes.NewReader(src))
	type frame struct {
		object bool
		key    bool // the next string is a member's name
		name   string
	}
	var stack []frame
	var out []jsonString
	for {
		from := int(dec.InputOffset())
		tok, err := dec.Token()
		if err != nil {
			return out
		}
		to := int(dec.InputOffset())
		top := func() *frame {
			if len(stack) == 0 {
				return &frame{}
			}
			return &stack[len(stack)-1]
		}
		switch v := tok.(type) {
		case json.Delim:
			switch v {
			case '{', '[':
				stack = append(stack, frame{object: v == '{', key: v == '{', name: top().name})
				continue
			}
			stack = stack[:len(stack)-1]
		case string:
			t := top()
			if t.object && t.key {
				t.name, t.key = v, false
				continue
			}
			if i := bytes.IndexByte(src[from:to], '"'); i >= 0 {
				out = append(out, jsonString{t.name, v, span.Span{Start: from + i + 1, End: to - 1}})
			}
		}
		if t := top(); t.object {
			t.key = true
		}
	}
}
