package item

import (
	"fmt"
	"path"
	"strings"
)

// Address names an item within its collection: kind and key, written kind/key.
type Address struct {
	Kind Kind
	Key  string
}

// MaxKey is the longest key, in bytes.
const MaxKey = 160

// String writes the address as kind/key.
func (a Address) String() string { return string(a.Kind) + "/" + a.Key }

// IsZero tells that no item is named.
func (a Address) IsZero() bool { return a == Address{} }

// MarshalText and UnmarshalText write an address as text in JSON and YAML.
func (a Address) MarshalText() ([]byte, error) {
	if a.IsZero() {
		return nil, nil
	}
	return []byte(a.String()), nil
}

// UnmarshalText reads what MarshalText wrote; empty text is the zero address.
func (a *Address) UnmarshalText(b []byte) error {
	if len(b) == 0 {
		*a = Address{}
		return nil
	}
	v, err := ParseAddress(string(b))
	if err == nil {
		*a = v
	}
	return err
}

// Less orders addresses by kind as declared, then by key.
func (a Address) Less(b Address) bool {
	if a.Kind != b.Kind {
		return kindRank(a.Kind) < kindRank(b.Kind)
	}
	return a.Key < b.Key
}

func kindRank(k Kind) int {
	for i, x := range Kinds {
		if x.Kind == k {
			return i
		}
	}
	return len(Kinds)
}

// ParseAddress reads kind/key and checks both.
func ParseAddress(s string) (Address, error) {
	if len(s) > MaxKey+40 {
		return Address{}, fmt.Errorf("%.40q… is not an address: a key can have at most %d bytes", s, MaxKey)
	}
	kind, key, ok := strings.Cut(s, "/")
	if !ok {
		return Address{}, fmt.Errorf("%q is not an address: write kind/key, for example part/site-header", s)
	}
	if _, ok := Kind(kind).Info(); !ok {
		return Address{}, fmt.Errorf("%q is not an address: there is no kind %q (kinds: %s)", s, kind, kindWords())
	}
	if err := CheckKey(key); err != nil {
		return Address{}, fmt.Errorf("%q is not an address: %w", s, err)
	}
	return Address{Kind(kind), key}, nil
}

// MustAddress is ParseAddress for addresses written in code; it panics on a slip.
func MustAddress(s string) Address {
	a, err := ParseAddress(s)
	if err != nil {
		panic(err)
	}
	return a
}

func kindWords() string {
	var w []string
	for _, k := range Kinds {
		w = append(w, string(k.Kind))
	}
	return strings.Join(w, ", ")
}

// CheckKey holds a key against the grammar: lower-case letters, digits, "-", "_"
// and ".", with "/" between parts that are neither empty, "." nor "..".
func CheckKey(key string) error {
	if key == "" || len(key) > MaxKey {
		return fmt.Errorf("a key needs 1 to %d characters", MaxKey)
	}
	for _, part := range strings.Split(key, "/") {
		if part == "" || part == "." || part == ".." {
			return fmt.Errorf("key %q has an empty or dotted part", key)
		}
		for _, r := range part {
			if !(r >= 'a' && r <= 'z' || r >= '0' && r <= '9' || r == '-' || r == '_' || r == '.') {
				return fmt.Errorf("key %q holds %q; lower-case letters, digits, - _ . and / between parts are allowed",
					key, r)
			}
		}
	}
	return nil
}

// MakeKey turns any name into a key that the grammar allows; it never fails.
func MakeKey(name string) string {
	var parts []string
	for _, part := range strings.Split(strings.ToLower(name), "/") {
		var b strings.Builder
		dash := false
		for _, r := range part {
			switch {
			case r >= 'a' && r <= 'z' || r >= '0' && r <= '9' || r == '_' || r == '.':
				b.WriteRune(r)
				dash = false
			case folded[r] != "":
				b.WriteString(folded[r])
				dash = false
			default:
				if !dash && b.Len() > 0 {
					b.WriteByte('-')
				}
				dash = true
			}
		}
		p := strings.Trim(b.String(), "-")
		if strings.Trim(p, ".") == "" {
			p = strings.Repeat("x", 1)
		}
		parts = append(parts, p)
	}
	key := strings.Join(parts, "/")
	if len(key) > MaxKey {
		key = strings.TrimRight(key[:MaxKey], "-/.")
	}
	return key
}

var folded = map[rune]string{
	'ä': "a",
	'à': "a",
	'á': "a",
	'â': "a",
	'å': "a",
	'ã': "a",
	'æ': "ae",
	'ç': "c",
	'è': "e",
	'é': "e",
	'ê': "e",
	'ë': "e",
	'ì': "i",
	'í': "i",
	'î': "i",
	'ï': "i",
	'ñ': "n",
	'ò': "o",
	'ó': "o",
	'ô': "o",
	'ö': "o",
	'õ': "o",
	'ø': "o",
	'ß': "ss",
	'ù': "u",
	'ú': "u",
	'û': "u",
	'ü': "u",
	'ý': "y",
	'ÿ': "y",
}

// Path is where the item lies in a folder or a kit, with / between parts.
func (a Address) Path() string {
	i := kindIndex[a.Kind]
	if a.Kind == Component {
		return path.Join(i.Folder, a.Key, path.Base(a.Key)+i.Ext)
	}
	return i.Folder + "/" + a.Key + i.Ext
}

// AddressOfPath is the inverse of Path; ok is false for a path that names no item.
func AddressOfPath(p string) (Address, bool) {
	p = strings.TrimPrefix(p, "/")
	folder, rest, ok := strings.Cut(p, "/")
	if !ok {
		return Address{}, false
	}
	for _, i := range Kinds {
		if i.Folder != folder || !strings.HasSuffix(rest, i.Ext) {
			continue
		}
		key := strings.TrimSuffix(rest, i.Ext)
		if i.Kind == Component {
			key = path.Dir(rest)
		}
		a := Address{i.Kind, key}
		if CheckKey(key) == nil && a.Path() == p {
			return a, true
		}
	}
	return Address{}, false
}

// AssetOfPath gives the item that a reference in a text means by its path: a file, a stylesheet, tokens or a component.
// No other item is meant by its path: a page is meant by its address, and somebody's folder may be called as ours
// are.
func AssetOfPath(p string) (Address, bool) {
	a, ok := AddressOfPath(p)
	switch a.Kind {
	case Media, Stylesheet, Tokens, Component:
		return a, ok
	default:
		return Address{}, false
	}
}
