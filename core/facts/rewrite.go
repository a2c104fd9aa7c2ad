package facts

import (
	"encoding/json"
	"fmt"
	"net/url"
	"slices"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// Name is a name within its space.
type Name struct {
	Space Space
	Name  string
}

// Renames says which names become which.
type Renames map[Name]string

// writer says how a name is written at its place.
type writer byte

const (
	fixed writer = iota // cannot be renamed here
	asAttr
	asURL
	asIdent
	asString
	asJSON
	asJSONURL
	asIdentInAttr
	asStringInAttr
	asCSSURL
	asCSSURLInAttr
)

func (w writer) inAttr() writer {
	switch w {
	case asIdent:
		return asIdentInAttr
	case asString:
		return asStringInAttr
	default:
	}
	return w
}

func (w writer) asAddress() writer {
	if w == asIdentInAttr || w == asStringInAttr {
		return asCSSURLInAttr
	}
	return asCSSURL
}

func (w writer) text(name string) string {
	switch w {
	case asAttr:
		return markup.EscapeAttr(name)
	case asURL:
		return markup.EscapeAttr(escapePath(name))
	case asIdent:
		return css.EscapeIdent(name)
	case asString:
		return escapeString(name)
	case asIdentInAttr:
		return markup.EscapeAttr(css.EscapeIdent(name))
	case asStringInAttr:
		return markup.EscapeAttr(escapeString(name))
	case asCSSURL:
		return escapePath(name)
	case asCSSURLInAttr:
		return markup.EscapeAttr(escapePath(name))
	case asJSONURL:
		name = escapePath(name)
		fallthrough
	case asJSON:
		b, _ := json.Marshal(name)
		return string(b[1 : len(b)-1])
	default:
	}
	return name
}

// escapePath writes an address so that it can stand bare in HTML, CSS and JSON.
func escapePath(p string) string {
	s := (&url.URL{Path: p}).EscapedPath()
	return strings.NewReplacer("(", "%28", ")", "%29", "'", "%27", ",", "%2C", ";", "%3B").Replace(s)
}

func escapeString(s string) string {
	return strings.NewReplacer(`\`, `\\`, `"`, `\"`, `'`, `\'`, "\n", `\a `).Replace(s)
}

// Rewrite gives the document with all names of the map changed at their places,
// and nothing else. A name that a script mentions, or that stands where it
// cannot be changed, is an error: a rename is total or not at all.
func Rewrite(kind item.Kind, context string, src []byte, renames Renames) ([]byte, error) {
	if len(renames) == 0 {
		return src, nil
	}
	f := Extract(kind, context, src)
	for _, r := range f.Refs {
		if to, ok := renames[Name{r.Space, r.Name}]; ok && to != r.Name && r.write == fixed {
			return nil, fmt.Errorf("line %d: %s %q cannot be renamed where it stands (%s)", r.Line, r.Space, r.Name,
				r.Where)
		}
	}
	for n := range renames {
		if (n.Space == Class || n.Space == ID || n.Space == Address) && f.IsMentioned(n.Name) {
			return nil, fmt.Errorf("a script mentions the %s %q, so it cannot be renamed", n.Space, n.Name)
		}
	}
	return f.Replace(src, func(r Ref) (string, bool) { to, ok := renames[Name{r.Space, r.Name}]; return to, ok })
}

// Replace gives the document with each reference changed that the function names a
// new name for. Unlike Rewrite it promises nothing about scripts and passes over
// what cannot be changed: it is for writing out, where the old names go on working.
func Replace(kind item.Kind, context string, src []byte, to func(Ref) (string, bool)) ([]byte, error) {
	return Extract(kind, context, src).Replace(src, to)
}

// Replace is the function of that name for a document whose facts are at hand.
// Facts that were stored and read again do not know how names are written.
func (f *Facts) Replace(src []byte, to func(Ref) (string, bool)) ([]byte, error) {
	return span.Apply(src, f.Edits(to))
}

// Edits are what Replace does.
func (f *Facts) Edits(to func(Ref) (string, bool)) []span.Edit {
	var edits []span.Edit
	for _, r := range f.Refs {
		if name, ok := to(r); ok && name != r.Name && r.write != fixed {
			edits = append(edits, span.Edit{Span: r.At, New: []byte(r.write.text(name))})
		}
	}
	return edits
}

// RenamesFor gives the renames that follow from items and pages moving.
func RenamesFor(moved map[item.Address]item.Address, slugs map[string]string) Renames {
	out := Renames{}
	spaces := map[item.Kind]Space{
		item.Menu:       Menu,
		item.Part:       Overlay,
		item.Section:    Section,
		item.Form:       Form,
		item.RecordType: RecordType,
		item.Setting:    Setting,
	}
	for from, to := range moved {
		if s, ok := spaces[from.Kind]; ok {
			out[Name{s, from.Key}] = to.Key
		}
		out[Name{Item, from.String()}] = to.String()
		if from.Kind == item.Media || from.Kind == item.Stylesheet || from.Kind == item.Component {
			out[Name{Address, "/" + from.Path()}] = "/" + to.Path()
		}
	}
	for from, to := range slugs {
		out[Name{Address, from}] = to
	}
	return out
}

// Relink gives the document with its addresses changed as the function says. It reads
// only the places that can hold one, so it is much quicker than Replace.
func Relink(kind item.Kind, context string, src []byte, to func(Ref) (string, bool)) ([]byte, error) {
	return span.Apply(src, RelinkEdits(kind, context, src, to))
}

// RelinkEdits are what Relink does.
func RelinkEdits(kind item.Kind, context string, src []byte, to func(Ref) (string, bool)) []span.Edit {
	if !kind.IsMarkup() {
		return Extract(kind, context, src).Edits(to)
	}
	f := &Facts{}
	c := &collector{src: src, facts: f}
	for n := range markup.Tags(src) {
		c.addresses(n)
	}
	return f.Edits(to)
}

// Rewritten is Replace that gives the new document's facts, too: the same as Of would,
// without reading the document again where only addresses changed.
func (f *Facts) Rewritten(
	kind item.Kind,
	context string,
	src []byte,
	to func(Ref) (string, bool),
) (out []byte, g *Facts, err error) {
	var edits []span.Edit
	moved := *f
	moved.Refs = make([]Ref, len(f.Refs))
	delta := 0
	moved.Scripts = slices.Clone(f.Scripts)
	simple := (kind.IsMarkup() || kind == item.Stylesheet) && !f.Opaque && len(f.Fills) == 0
	for i, r := range f.Refs { // in the order of their places
		name, ok := to(r)
		old := r.At
		r.At = r.At.Shift(delta)
		if ok && name != r.Name && r.write != fixed {
			text := r.write.text(name)
			edits = append(edits, span.Edit{Span: old, New: []byte(text)})
			delta += len(text) - old.Len()
			if r.Where.IsAttribute("src", "script") {
				simple = simple && !strings.Contains(text, "&") && moved.scriptFrom(string(old.Of(src)), text)
			}
			r.Name, r.At.End = name, r.At.Start+len(text)
			simple = simple && (r.Space == Address || r.Space == Loose) && strings.HasPrefix(name, "/")
			r.Space = Address
		}
		moved.Refs[i] = r
	}
	if len(edits) == 0 {
		if f.NormalizedDigest == "" {
			f.NormalizedDigest = item.DigestOf(markup.Normalize(src))
		}
		return src, f, nil
	}
	if out, err = span.Apply(src, edits); err != nil {
		return nil, nil, err
	}
	if !simple {
		return out, Extract(kind, context, out), nil
	}
	if kind == item.Stylesheet {
		moved.NormalizedDigest = item.DigestOf(css.Normalize(out))
	} else {
		moved.NormalizedDigest = item.DigestOf(markup.Normalize(out))
	}
	return out, &moved, nil
}

// scriptFrom changes the address of a script in what would run; false when it is not there as it
// is written.
func (f *Facts) scriptFrom(old, now string) bool {
	for i, s := range f.Scripts {
		if rest, ok := strings.CutPrefix(s, scriptFrom+old); ok && (rest == "" || rest[0] == '?' || rest[0] == '#') {
			f.Scripts[i] = scriptFrom + now + rest
			return true
		}
	}
	return false
}

// scriptFrom begins what is told of a script by its address.
const scriptFrom = "a script from "
