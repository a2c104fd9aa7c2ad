// Package facts says what one document defines and uses.
//
// Facts are a pure function of an item's kind, context and bytes, so they are
// worked out once per digest and kept. Everything above (closure, planning,
// search, where-used) reads facts and not documents. Rewrite changes names at
// the places that the facts name, and not one byte else.
package facts

import (
	"net/url"
	"sort"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// Space says what sort of thing a name names.
type Space string

// The name spaces.
const (
	Address    Space = "address"  // a root-relative address: /media/ridge.jpg, /contact/
	External   Space = "external" // an address with a scheme or a host
	Loose      Space = "loose"    // a relative address, which an item should not hold
	Class      Space = "class"
	ID         Space = "id"
	Property   Space = "property" // a custom property
	Animation  Space = "animation"
	Layer      Space = "layer"
	Container  Space = "container"
	Font       Space = "font"
	Counter    Space = "counter"
	Component  Space = "component"
	Menu       Space = "menu"
	Section    Space = "section"
	Form       Space = "form"
	RecordType Space = "record-type"
	PartRole   Space = "part-role"
	Overlay    Space = "overlay" // a part that opens over the page
	Setting    Space = "setting"
	Fill       Space = "fill"
	Field      Space = "field"
	Item       Space = "item"    // an item's address in JSON
	Mention    Space = "mention" // a string literal of a script, which may name anything
)

// Ref is one name that a document defines or uses, with its place.
type Ref struct {
	Space    Space  `json:"space"`
	Name     string `json:"name"`
	Fragment string `json:"fragment,omitempty"`
	Defines  bool   `json:"defines,omitempty"`
	// Where says what holds the name.
	Where Where `json:"where"`
	// Loads is what a browser loads from an external address by itself; "" where it only leads there.
	Loads LoadKind  `json:"loads,omitempty"`
	Line  int       `json:"line"`
	At    span.Span `json:"at"`

	write writer
}

// FillPlace is one place that takes a fill-in.
type FillPlace struct {
	Name   string `json:"name"`
	Target string `json:"target"`
	// Pattern is the whole value with the name in braces; empty when it stands alone.
	Pattern string `json:"pattern,omitempty"`
	Sample  string `json:"sample,omitempty"`
	Line    int    `json:"line"`
}

// Facts of one document.
type Facts struct {
	NormalizedDigest item.Digest `json:"normalizedDigest"`
	Title            string      `json:"title,omitempty"`
	Refs             []Ref       `json:"refs,omitempty"`
	Fills            []FillPlace `json:"fills,omitempty"`
	Headings         []string    `json:"headings,omitempty"`
	// Terms are the words of its text for search, each once, sorted.
	Terms []string `json:"terms,omitempty"`
	// Scripts says in words what would run: inline scripts, handlers, sources.
	Scripts []string `json:"scripts,omitempty"`
	// Mentions are the string literals of scripts: names that must not be renamed.
	Mentions []string `json:"mentions,omitempty"`
	// Joins are the literals to which something is joined when a script runs.
	Joins []Join `json:"joins,omitempty"`
	// Unread tells that the scripts mention more than is kept: they may name anything.
	Unread bool `json:"unread,omitempty"`
	// Landmarks are the roles that a page's own body has: header for a banner, footer for a
	// contentinfo.
	Landmarks []item.Role `json:"landmarks,omitempty"`
	// NoAlt counts pictures without an alternative text.
	NoAlt int `json:"noAlt,omitempty"`
	// Opaque tells that it is nested too deeply, or has too many rules, to be read:
	// only its addresses are known.
	Opaque bool `json:"opaque,omitempty"`
	// Broken says why the document could not be read in its own language.
	Broken string `json:"broken,omitempty"`
}

// Extract works out the facts of a document. It never fails: what cannot be read is
// told in Broken or Opaque.
func Extract(kind item.Kind, context string, src []byte) *Facts {
	return of(kind, context, src, false)
}

// Read is Extract that gives the tree of markup as well, for who reads more of it, and leaves the
// normalized digest of markup to Rewritten: who adopts a document writes it anew.
func Read(kind item.Kind, context string, src []byte) (*Facts, *markup.Tree) {
	c := &collector{src: src, facts: &Facts{}, undigested: kind.IsMarkup()}
	return c.read(kind, context), c.tree
}

// NormalizedDigestOf is the normalized digest of a document: Extract's, without the rest.
func NormalizedDigestOf(kind item.Kind, context string, src []byte) item.Digest {
	switch {
	case kind.IsMarkup():
		return item.DigestOf(markup.Parse(src, context).Normalize())
	case kind == item.Stylesheet:
		return item.DigestOf(css.Normalize(src))
	}
	return Brief(kind, context, src).NormalizedDigest
}

// Brief is Extract without the words for search: for what is only packed.
func Brief(kind item.Kind, context string, src []byte) *Facts {
	return of(kind, context, src, true)
}

func of(kind item.Kind, context string, src []byte, brief bool) *Facts {
	c := &collector{src: src, facts: &Facts{}, brief: brief}
	return c.read(kind, context)
}

func (c *collector) read(kind item.Kind, context string) *Facts {
	f, src := c.facts, c.src
	switch {
	case kind.IsMarkup():
		c.markup(kind, context)
	case kind == item.Stylesheet:
		f.NormalizedDigest = item.DigestOf(css.Normalize(src))
		sheet := css.Parse(src)
		f.Opaque = sheet.Opaque
		c.stylesheet(sheet, func(s span.Span) span.Span { return s }, false)
	case kind == item.Media:
		switch {
		case context == ScriptType:
			c.script(src, func(from, to int) span.Span { return span.Span{Start: from, End: to} })
			f.Scripts = []string{"a script"}
		case context == manifestType:
			c.manifest()
		case looksLikeSVG(src):
			c.markup(kind, "body")
		}
	case kind == item.Component:
		c.script(src, func(from, to int) span.Span { return span.Span{Start: from, End: to} })
		f.Scripts = []string{"the component's script"}
	default:
		c.json(kind)
	}
	if f.NormalizedDigest == "" && !c.undigested {
		f.NormalizedDigest = item.DigestOf(src)
	}
	sort.SliceStable(f.Refs, func(i, j int) bool { return f.Refs[i].At.Start < f.Refs[j].At.Start })
	line, at := 1, 0
	for i := range f.Refs { // refs are in order: one pass for all lines
		for at < f.Refs[i].At.Start {
			if src[at] == '\n' {
				line++
			}
			at++
		}
		f.Refs[i].Line = line
	}
	return f
}

func looksLikeSVG(src []byte) bool {
	head := strings.ToLower(string(src[:min(len(src), 512)]))
	return strings.Contains(head, "<svg")
}

type collector struct {
	src       []byte
	facts     *Facts
	mentioned map[string]bool
	joined    map[Join]bool
	brief     bool
	tree      *markup.Tree // of markup
	// undigested tells that nobody asks for the normalized digest.
	undigested bool
}

func (c *collector) add(r Ref) { c.facts.Refs = append(c.facts.Refs, r) }

// address adds what a URL value names. at gives the source place of value[from:to].
func (c *collector) address(value string, where Where, at func(from, to int) span.Span, w writer) {
	lead := len(value) - len(strings.TrimLeft(value, " \t\r\n"))
	v := strings.TrimSpace(value)
	if v == "" {
		return
	}
	if strings.HasPrefix(v, "#") {
		if len(v) > 1 {
			name := v[1:]
			if u, err := url.PathUnescape(name); err == nil {
				name = u
			}
			c.add(Ref{Space: ID, Name: name, Where: where, At: at(lead+1, lead+len(v)), write: w})
		}
		return
	}
	path, fragment, _ := strings.Cut(v, "#")
	path, _, _ = strings.Cut(path, "?")
	r := Ref{Name: path, Fragment: fragment, Where: where, At: at(lead, lead+len(path)), write: w}
	if u, err := url.PathUnescape(path); err == nil {
		r.Name = u
	}
	switch {
	case markup.RunsScript(v):
		c.facts.Scripts = append(c.facts.Scripts, where.String()+" holds a javascript: address")
		return
	case strings.HasPrefix(v, "//") || hasScheme(v):
		if strings.HasPrefix(strings.ToLower(v), "data:") {
			return
		}
		r.Space, r.Name, r.Fragment, r.Loads = External, v, "", loadFrom(where.In)
	case strings.HasPrefix(v, "/"):
		r.Space = Address
	case strings.HasPrefix(v, "?"):
		return
	default:
		r.Space = Loose
	}
	c.add(r)
}

func hasScheme(v string) bool {
	for i, r := range v {
		switch {
		case r == ':':
			return i > 0
		case r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z':
		case i > 0 && (r >= '0' && r <= '9' || r == '+' || r == '-' || r == '.'):
		default:
			return false
		}
	}
	return false
}

// Uses gives the refs that use, not define, names of a space.
func (f *Facts) Uses(s Space) []Ref {
	var out []Ref
	for _, r := range f.Refs {
		if r.Space == s && !r.Defines {
			out = append(out, r)
		}
	}
	return out
}

// Defines gives the names of a space that the document defines, each once.
func (f *Facts) Defines(s Space) []string { return f.names(s, true) }

// Names gives the names of a space that the document defines or uses, each once.
func (f *Facts) Names(s Space) []string { return f.names(s, false) }

func (f *Facts) names(s Space, defined bool) []string {
	seen := map[string]bool{}
	var out []string
	for _, r := range f.Refs {
		if r.Space == s && (r.Defines || !defined) && !seen[r.Name] {
			seen[r.Name] = true
			out = append(out, r.Name)
		}
	}
	sort.Strings(out)
	return out
}

// endsName tells whether a letter ends a name in a selector.
func endsName(r rune) bool { return strings.ContainsRune(" .#,>+~[]\"'=:()*^$|", r) }

// IsMentioned tells whether a script holds the name in one of its literals, or may.
func (f *Facts) IsMentioned(name string) bool {
	if f.Unread {
		return true
	}
	for _, m := range f.Mentions {
		if m == name || strings.HasPrefix(name, "/") && len(name) > 1 && strings.Contains(m, name) {
			return true
		}
		for _, w := range strings.FieldsFunc(m, endsName) {
			if w == name {
				return true
			}
		}
	}
	return false
}
