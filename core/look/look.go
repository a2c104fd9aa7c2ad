// Package look keeps looks: named sets of values for a site's tokens (W3C Design Tokens), which can be tried
// and worn.
package look

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/tokens"
)

// Setting holds a site's looks, by name.
var Setting = item.Address{Kind: item.Setting, Key: "looks"}

// Look is a set of token values: each is named by the item that holds the token and the token's path, as
// in tokens/brand#color.ink, and is the $value as its source has it.
type Look map[string]json.RawMessage

// ErrBroken tells that a site's looks cannot be read.
var ErrBroken = errors.New("setting/looks cannot be read")

// Of reads the looks of a site; none where it keeps none.
func Of(c item.Collection) (map[string]Look, error) {
	out := map[string]Look{}
	h, ok := c.Find(Setting)
	if !ok {
		return out, nil
	}
	b, err := item.Read(c, h)
	if err != nil {
		return nil, err
	}
	if err := json.Unmarshal(b, &out); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrBroken, err)
	}
	return out, nil
}

// Now gives the look that a site wears: the values of all its tokens that are no aliases. Tokens that
// cannot be read have none.
func Now(c item.Collection) (Look, error) {
	out := Look{}
	err := eachToken(c, func(h item.Head, b []byte, _ *tokens.Set, t tokens.Token) error {
		if t.Alias != "" {
			return nil
		}
		v, err := tokens.ValueOf(b, t.Path)
		out[h.Address.String()+"#"+t.Path] = v
		return err
	})
	return out, err
}

// Worn gives the token documents of a site as they are with a look, those alone that change. Values of
// tokens that the site does not have are passed over, and told.
func (l Look) Worn(c item.Collection) (docs map[item.Address][]byte, missing []string, err error) {
	docs = map[item.Address][]byte{}
	for name, value := range l {
		doc, path, _ := strings.Cut(name, "#")
		a, err := item.ParseAddress(doc)
		h, there := c.Find(a)
		if err != nil || a.Kind != item.Tokens || !there {
			missing = append(missing, name)
			continue
		}
		b, read := docs[a]
		if !read {
			if b, err = item.Read(c, h); err != nil {
				return nil, nil, err
			}
		}
		if now, err := tokens.ValueOf(b, path); err == nil && same(now, value) {
			continue // it stands there, written in whatever way
		}
		next, err := tokens.SetValue(b, path, compact(value))
		if err != nil {
			missing = append(missing, name)
			continue
		}
		docs[a] = next
	}
	for a, b := range docs {
		h, _ := c.Find(a)
		if h.Doc == item.DigestOf(b) {
			delete(docs, a)
		}
	}
	return docs, missing, nil
}

// Whole gives the custom properties of all the token documents that a look names a value of, as they are
// with it.
func (l Look) Whole(c item.Collection) ([]byte, error) {
	docs, _, err := l.Worn(c)
	if err != nil {
		return nil, err
	}
	var out []byte
	for _, h := range c.OfKind(item.Tokens) {
		if !slices.ContainsFunc(slices.Collect(maps.Keys(l)), func(name string) bool {
			return strings.HasPrefix(name, h.Address.String()+"#")
		}) {
			continue
		}
		b, changes := docs[h.Address]
		if !changes {
			if b, err = item.Read(c, h); err != nil {
				return nil, err
			}
		}
		set, err := tokens.Parse(b)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", h.Address, err)
		}
		out = append(out, set.Sheet()...)
	}
	return out, nil
}

// From gives what a look of a site would be in which its tokens have the values that another
// collection has by the same custom property; empty where none is another.
func From(other, site item.Collection) (Look, error) {
	theirs := map[string]json.RawMessage{}
	shown := map[string]string{}
	err := eachToken(other, func(_ item.Head, _ []byte, set *tokens.Set, t tokens.Token) error {
		raw, err := json.Marshal(t.Value)
		theirs[t.Property()], shown[t.Property()] = raw, set.CSS(t)
		return err
	})
	if err != nil {
		return nil, err
	}
	out := Look{}
	differs := false
	err = eachToken(site, func(h item.Head, b []byte, set *tokens.Set, t tokens.Token) error {
		name := h.Address.String() + "#" + t.Path
		v, there := theirs[t.Property()]
		if !there || shown[t.Property()] == set.CSS(t) {
			if t.Alias != "" {
				return nil
			}
			own, err := tokens.ValueOf(b, t.Path)
			out[name] = own
			return err
		}
		differs = true
		out[name] = v
		return nil
	})
	if !differs {
		return Look{}, err
	}
	return out, err
}

// eachToken visits the tokens of a collection that can be read.
func eachToken(c item.Collection, visit func(item.Head, []byte, *tokens.Set, tokens.Token) error) error {
	for _, h := range c.OfKind(item.Tokens) {
		b, err := item.Read(c, h)
		if err != nil {
			return err
		}
		set, err := tokens.Parse(b)
		if err != nil {
			continue // the check of the site tells it
		}
		for _, t := range set.List {
			if err := visit(h, b, set, t); err != nil {
				return err
			}
		}
	}
	return nil
}

// compact writes a value on one line.
func compact(v json.RawMessage) string {
	var b bytes.Buffer
	if json.Compact(&b, v) != nil {
		return string(v)
	}
	return b.String()
}

// same tells whether two values are the same, however they are written.
func same(a, b json.RawMessage) bool { return compact(a) == compact(b) }

// Sheet gives the style rules by which a page is shown in a look.
func (l Look) Sheet(c item.Collection) ([]byte, error) {
	docs, _, err := l.Worn(c)
	if err != nil {
		return nil, err
	}
	var out []byte
	for _, h := range c.OfKind(item.Tokens) {
		b, changes := docs[h.Address]
		if !changes {
			continue
		}
		set, err := tokens.Parse(b)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", h.Address, err)
		}
		out = append(out, set.Sheet()...)
	}
	return out, nil
}
