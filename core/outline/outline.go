// Package outline lists the elements of a page for somebody who edits it by pointing: what each is, what it
// is called, whose it is, and whether it can be moved.
package outline

import (
	"regexp"
	"slices"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/faults"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/sourcemap"
)

// Kind says what an element is to somebody who edits a page. The set is closed.
type Kind string

// The kinds of elements.
const (
	Heading   Kind = "heading"
	Text      Kind = "text"
	Inline    Kind = "inline" // formats words within a text
	Link      Kind = "link"
	Button    Kind = "button"
	Picture   Kind = "picture"
	Video     Kind = "video"
	Frame     Kind = "frame" // shows a page of another host
	List      Kind = "list"
	Entry     Kind = "entry" // of a list
	Table     Kind = "table"
	Menu      Kind = "menu"
	Form      Kind = "form"
	Field     Kind = "field" // of a form
	Part      Kind = "part"  // the first element of a part
	Section   Kind = "section"
	Landmark  Kind = "landmark" // header, main and the like
	Line      Kind = "line"
	Component Kind = "component"
	Group     Kind = "group"
)

// Kinds lists all of them.
var Kinds = []Kind{Heading, Text, Inline, Link, Button, Picture, Video, Frame, List, Entry, Table, Menu, Form, Field,
	Part, Section, Landmark, Line, Component, Group}

// Element is one element of a page's body.
type Element struct {
	// Number names the element on this page alone: its place in document order. Parent is that of the
	// element around it; -1 where there is none.
	Number int `json:"number"`
	Parent int `json:"parent"`
	// Path is a CSS selector that names it, as operations take it.
	Path string `json:"path"`
	Tag  string `json:"tag"`
	Kind Kind   `json:"kind"`
	// Name is what it is called: by its heading, label, alternative text or first words.
	Name string `json:"name,omitempty"`
	// Item is the item that its start tag is of; of a menu or form, that item.
	Item item.Address `json:"item,omitzero"`
	// Offset is where its start tag begins in the item, in bytes; Line is that as a line, from 1, and 0 of what the
	// page engine wrote.
	Offset int `json:"-"`
	Line   int `json:"line,omitempty"`
	// Linked is the section or part that it is shown by, where it is not the page's own.
	Linked item.Address `json:"linked,omitzero"`
	// Words tells that it holds words of its own, which can be written where it stands.
	Words bool `json:"words,omitempty"`
	// Made tells that the page engine wrote it: it is changed by what it shows.
	Made bool `json:"made,omitempty"`
	// Whole tells that it can be moved, copied and taken out.
	Whole bool `json:"whole,omitempty"`
	// Sample is what was never meant to stay: the sample of a blank, or filler.
	Sample string `json:"sample,omitempty"`
	// Leads is where a link goes, as the page writes it; Source the media of a picture.
	Leads  string `json:"leads,omitempty"`
	Source string `json:"source,omitempty"`
	// Alternative is the alternative text of a picture.
	Alternative string `json:"alternative,omitempty"`
	// Anchor is its id, at which it can be linked to.
	Anchor string `json:"anchor,omitempty"`
	// Classes are those of the element.
	Classes []string `json:"classes,omitempty"`
	// Attributes are those of a component that can be set.
	Attributes []Attribute `json:"attributes,omitempty"`
}

// Attribute is one of a component's attributes; one that is not there has no value.
type Attribute struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// Page is a page's outline.
type Page struct {
	Digest   item.Digest // of the page as it is shown
	Elements []Element
}

// Of outlines a page that was rendered with its map. Samples are those of blanks.
func Of(out *render.Output, samples []string) *Page {
	o := &outliner{out: out, tree: markup.Parse(out.Body, ""), samples: samples, number: map[*markup.Node]int{}}
	o.paths = css.Paths(o.tree)
	p := &Page{Digest: item.DigestOf(out.Body), Elements: []Element{}}
	each(o.tree, func(n *markup.Node, number int) {
		o.number[n] = number
		p.Elements = append(p.Elements, o.element(n, number))
	})
	return p
}

// each gives the elements of a page that can be pointed at, with their numbers. What is in the
// page's head, in templates, in drawings and in scripts cannot.
func each(t *markup.Tree, use func(n *markup.Node, number int)) {
	for i, n := range t.All {
		if n.Own && n.Space == "" && !unseen[n.Tag] && inBody(n) {
			use(n, i)
		}
	}
}

var unseen = map[string]bool{"html": true, "head": true, "body": true, "script": true, "style": true, "template": true,
	"noscript": true, "meta": true, "link": true, "title": true, "base": true, "source": true, "track": true,
	"param": true, "wbr": true}

func inBody(n *markup.Node) bool {
	for up := n.Parent; up != nil; up = up.Parent {
		switch up.Tag {
		case "head", "template", "noscript", "svg", "math":
			return false
		case "body":
			return true
		}
	}
	return true
}

type outliner struct {
	out     *render.Output
	tree    *markup.Tree
	samples []string
	number  map[*markup.Node]int
	paths   map[*markup.Node]string
}

func (o *outliner) element(n *markup.Node, number int) Element {
	e := Element{Number: number, Parent: -1, Path: o.paths[n], Tag: n.Tag, Kind: kindOf(n), Classes: n.Classes(),
		Anchor: n.Value("id"),
		Words:  n.HasText && !markup.IsVoid(n.Tag)}
	for up := n.Parent; up != nil; up = up.Parent {
		if at, ok := o.number[up]; ok {
			e.Parent = at
			break
		}
	}
	o.origin(n, &e)
	e.Name = nameOf(n, e.Kind)
	e.Sample = o.sample(n)
	switch e.Kind {
	case Link, Button:
		e.Leads = n.Value("href")
	case Picture:
		e.Source, e.Alternative = n.Value("src"), n.Value("alt")
	case Component:
		for _, a := range n.Attrs {
			if !slices.Contains(general, a.Name) {
				e.Attributes = append(e.Attributes, Attribute{a.Name, n.Value(a.Name)})
			}
		}
	default:
	}
	return e
}

// general are attributes that any element can have, which are set otherwise.
var general = []string{"class", "id", "style", "hidden", "slot"}

// origin says whose an element is.
func (o *outliner) origin(n *markup.Node, e *Element) {
	m := o.out.Map
	seg, ok := m.At(n.Start.Start)
	if !ok {
		return
	}
	if seg.Kind != sourcemap.Copied {
		e.Made = true
		if e.Kind == Menu || e.Kind == Form || e.Kind == Field || e.Kind == Link {
			e.Item = o.shows(n, seg)
		}
		return
	}
	e.Item, _ = m.Item(seg)
	e.Offset = seg.Place.Span.Start + n.Start.Start - seg.Start
	chain := m.Chain(seg.Place.Occurrence)
	for _, c := range chain {
		if c.Item.Kind == item.Section || c.Item.Kind == item.Part {
			e.Linked = c.Item
		}
	}
	if o.first(n, seg.Place.Occurrence) {
		switch e.Item.Kind {
		case item.Part:
			e.Kind = Part
		case item.Section:
			e.Kind = Section
		default:
		}
	}
	e.Whole = markup.IsVoid(n.Tag)
	if end, ok := m.At(n.End.Start); n.Closed && ok {
		e.Whole = end.Kind == sourcemap.Copied && end.Place.Occurrence == seg.Place.Occurrence
	}
}

// first tells whether the element around one is of another occurrence.
func (o *outliner) first(n *markup.Node, occurrence int) bool {
	for up := n.Parent; up != nil; up = up.Parent {
		if up.Own && up.Start.Len() > 0 {
			seg, ok := o.out.Map.At(up.Start.Start)
			return !ok || seg.Kind != sourcemap.Copied || seg.Place.Occurrence != occurrence
		}
	}
	return true
}

// shows gives the menu, form or record that what the engine wrote shows.
func (o *outliner) shows(n *markup.Node, seg sourcemap.Segment) item.Address {
	known := func(a item.Address) bool { return a.Kind == item.Menu || a.Kind == item.Form || a.Kind == item.Record }
	if i := slices.IndexFunc(seg.Inputs, known); i >= 0 {
		return seg.Inputs[i]
	}
	for at := n.Start.Start; at < n.Outer().End; {
		s, ok := o.out.Map.At(at)
		if !ok {
			break
		}
		if a, of := o.out.Map.Item(s); of && known(a) {
			return a
		}
		at = s.End
	}
	return item.Address{}
}

// sample gives what stands in an element that was never meant to stay.
func (o *outliner) sample(n *markup.Node) string {
	if !n.HasText {
		return ""
	}
	own := strings.Join(strings.Fields(strings.Join(n.Texts(), " ")), " ")
	for _, s := range o.samples {
		if s = strings.TrimSpace(s); len(s) > 3 && strings.Contains(own, s) {
			return s
		}
	}
	return faults.FillerIn(own)
}

var kinds = map[string]Kind{"p": Text, "blockquote": Text, "dt": Text, "dd": Text, "figcaption": Text, "address": Text,
	"td": Text, "th": Text, "caption": Text, "summary": Text, "pre": Text, "legend": Text, "label": Text, "time": Text,
	"b": Inline, "strong": Inline, "i": Inline, "em": Inline, "br": Inline, "span": Inline, "small": Inline,
	"code": Inline, "sup": Inline, "sub": Inline, "mark": Inline, "abbr": Inline, "u": Inline, "s": Inline,
	"q": Inline, "cite": Inline, "a": Link, "button": Button, "img": Picture, "picture": Group, "video": Video,
	"iframe": Frame, "ul": List, "ol": List, "dl": List, "li": Entry, "table": Table, "form": Form, "input": Field,
	"select": Field, "textarea": Field, "hr": Line, "header": Landmark, "main": Landmark, "footer": Landmark,
	"aside": Landmark, "nav": Landmark, "h1": Heading, "h2": Heading, "h3": Heading, "h4": Heading, "h5": Heading,
	"h6": Heading}

func kindOf(n *markup.Node) Kind {
	k, ok := kinds[n.Tag]
	switch {
	case n.Tag == "nav" && slices.Contains(n.Classes(), "cp-menu"):
		return Menu
	case n.Tag == "a" && (n.Value("role") == "button" || looksAsButton(n)):
		return Button
	case ok:
		return k
	case strings.Contains(n.Tag, "-"):
		return Component
	case n.HasText:
		return Text
	}
	return Group
}

func looksAsButton(n *markup.Node) bool {
	return slices.ContainsFunc(n.Classes(), func(c string) bool {
		return c == "btn" || c == "button" || strings.HasPrefix(c, "btn-") || strings.HasPrefix(c, "button-")
	})
}

// nameLength is the longest name, in characters.
const nameLength = 48

// nameOf calls an element by its label, its heading, an alternative text, or its first words.
func nameOf(n *markup.Node, k Kind) string {
	if v := strings.TrimSpace(n.Value("aria-label")); v != "" {
		return shortened(v)
	}
	switch k {
	case Picture:
		if v := strings.TrimSpace(n.Value("alt")); v != "" {
			return shortened(v)
		}
		src := n.Value("src")
		return shortened(src[strings.LastIndexByte(src, '/')+1:])
	case Heading, Text, Inline, Link, Button, Entry:
		if v := words(n); v != "" {
			return v
		}
	case Field:
		return shortened(n.Value("name"))
	default:
	}
	if h := within(n, func(c *markup.Node) bool { return kinds[c.Tag] == Heading }); h != nil {
		return words(h)
	}
	if p := within(n, func(c *markup.Node) bool { return c.Tag == "img" && c.Value("alt") != "" }); p != nil {
		return shortened(p.Value("alt"))
	}
	return words(n)
}

func within(n *markup.Node, fits func(*markup.Node) bool) *markup.Node {
	for _, c := range n.Children {
		if fits(c) {
			return c
		}
		if found := within(c, fits); found != nil {
			return found
		}
	}
	return nil
}

// words gives the first words that an element holds.
func words(n *markup.Node) string {
	if n.Tag == "script" || n.Tag == "style" {
		return ""
	}
	var b strings.Builder
	gather(n, &b)
	return shortened(b.String())
}

// enoughWords is how many bytes of an element's words are looked at for its name.
const enoughWords = 16 * nameLength

// folded gives a text with each run of white space as one space.
func folded(s string) string {
	if len(s) > enoughWords {
		s = strings.ToValidUTF8(s[:enoughWords], "")
	}
	return spaces.ReplaceAllString(s, " ")
}

var spaces = regexp.MustCompile(`\s+`)

// gather writes the words of an element, those of blocks apart.
func gather(n *markup.Node, b *strings.Builder) {
	for i, t := range n.Texts() {
		if b.Len() > enoughWords {
			return
		}
		b.WriteString(folded(t))
		if i < len(n.Children) {
			c := n.Children[i]
			apart := kinds[c.Tag] != Inline && kinds[c.Tag] != Link || c.Tag == "br"
			if apart {
				b.WriteByte(' ')
			}
			if c.Tag != "script" && c.Tag != "style" {
				gather(c, b)
			}
			if apart {
				b.WriteByte(' ')
			}
		}
	}
}

func shortened(s string) string {
	s = strings.Join(strings.Fields(s), " ")
	if r := []rune(s); len(r) > nameLength {
		return strings.TrimSpace(string(r[:nameLength-1])) + "…"
	}
	return s
}
