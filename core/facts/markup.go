package facts

import (
	"slices"
	"sort"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

var addressAttrs = set("href xlink:href src poster action formaction data manifest cite longdesc background")
var sourceSets = set("srcset imagesrcset")

var idLists = set(
	"for aria-labelledby aria-describedby aria-controls aria-owns aria-flowto aria-details aria-errormessage " +
		"aria-activedescendant headers list form popovertarget commandfor itemref",
)
var pictureMetas = set("og:image og:url og:video og:audio twitter:image msapplication-tileimage")

// paints are the attributes of SVG that can hold url(): presentation attributes.
var paints = set("fill stroke clip-path mask filter marker marker-start marker-mid marker-end cursor")

func set(s string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(s) {
		m[w] = true
	}
	return m
}

// namesOf says which cp- elements name what in their attribute "name" or "type".
var namesOf = map[string]struct {
	attr  string
	space Space
}{
	"cp-section": {"name", Section}, "cp-menu": {"name", Menu}, "cp-form": {"name", Form},
	"cp-records": {"type", RecordType}, "cp-part": {"role", PartRole},
}

var settingsShown = map[string]string{"cp-logo": "logo", "cp-title": "title", "cp-strapline": "strapline",
	"cp-profiles": "profiles"}

func (c *collector) markup(kind item.Kind, context string) {
	f := c.facts
	tree := markup.Parse(c.src, context)
	c.tree = tree
	if kind != item.Media && !c.undigested {
		f.NormalizedDigest = item.DigestOf(tree.Normalize())
	}
	if tree.Opaque {
		f.Opaque = true
		for n := range markup.Tags(c.src) { // what it names by address is known all the same
			c.addresses(n)
		}
		return
	}
	if kind == item.Page {
		if len(tree.Banners()) > 0 {
			f.Landmarks = append(f.Landmarks, item.Header)
		}
		if len(tree.Contentinfos()) > 0 {
			f.Landmarks = append(f.Landmarks, item.Footer)
		}
	}
	words := map[string]bool{}
	for _, n := range tree.All {
		if n.Own {
			c.element(n)
		}
		switch n.Tag {
		case "title":
			if f.Title == "" && n.Space == "" {
				f.Title = n.Text()
			}
		case "h1", "h2", "h3", "h4", "h5", "h6":
			f.Headings = append(f.Headings, n.Text())
		}
	}
	if f.Title == "" && len(f.Headings) > 0 {
		f.Title = f.Headings[0]
	}
	if c.brief {
		f.Headings = nil
		return
	}
	for _, n := range tree.Root.Children {
		termsOf(n, words)
	}
	for w := range words {
		f.Terms = append(f.Terms, w)
	}
	sort.Strings(f.Terms)
	if len(f.Terms) > 4000 {
		f.Terms = f.Terms[:4000]
	}
}

func termsOf(n *markup.Node, words map[string]bool) {
	if n.Tag == "script" || n.Tag == "style" || n.Tag == "template" {
		return
	}
	if n.Tag == "html" {
		for _, c := range n.Children {
			termsOf(c, words)
		}
		return
	}
	var text strings.Builder
	textOf(n, &text)
	for w := range strings.FieldsFuncSeq(strings.ToLower(text.String()), parts) {
		if indexed(w) {
			words[w] = true
		}
	}
}

// inline are elements that stand within a word; all others part words.
var inline = set(
	"a abbr b bdi bdo cite code data dfn em font i kbd mark q s samp small span strong sub sup time u var wbr",
)

func textOf(n *markup.Node, b *strings.Builder) {
	if n.Tag == "script" || n.Tag == "style" || n.Tag == "template" {
		return
	}
	for i, t := range n.Texts() {
		b.WriteString(t)
		if i < len(n.Children) {
			c := n.Children[i]
			if !inline[c.Tag] {
				b.WriteByte(' ')
			}
			textOf(c, b)
			if !inline[c.Tag] {
				b.WriteByte(' ')
			}
		}
	}
}

// Words cuts text into the lower-case search words of two to forty bytes that are indexed.
func Words(text string) []string {
	return slices.DeleteFunc(Split(text), func(w string) bool { return !indexed(w) })
}

func indexed(word string) bool { return len(word) >= 2 && len(word) <= MaxWord }

// MaxWord is the length in bytes of the longest word that is indexed.
const MaxWord = 40

// Split cuts text into its lower-case words, however long.
func Split(text string) []string {
	return strings.FieldsFunc(strings.ToLower(text), parts)
}

// parts tells whether a character of lower-case text parts words.
func parts(r rune) bool {
	return !(r >= 'a' && r <= 'z' || r >= '0' && r <= '9' || r > 0x7f && r != '\u2013' && r != '\u2014' &&
		r != '\u2019')
}

func (c *collector) element(n *markup.Node) {
	f := c.facts
	if n.Tag == "img" {
		if a, ok := n.Attr("alt"); !ok || a.At.Len() == 0 && a.Quote == 0 {
			f.NoAlt++
		}
	}
	if strings.Contains(n.Tag, "-") && n.Space == "" {
		c.custom(n)
	}
	for _, a := range n.Attrs {
		if !c.addressAttr(n, a) {
			c.attribute(n, a)
		}
	}
	switch n.Tag {
	case "cp-value": // a value of an attribute that holds an address
		text := string(n.Inner.Of(c.src))
		if len(n.Children) == 0 && strings.HasPrefix(text, "/") && !strings.ContainsAny(text, " \t\r\n&<") {
			c.address(
				text,
				Where{In: InValue, Tag: n.Tag},
				func(from, to int) span.Span {
					return span.Span{Start: n.Inner.Start + from,
						End: n.Inner.Start + to}
				},
				asURL,
			)
		}
	case "style":
		inner := n.Inner
		c.stylesheet(css.Parse(inner.Of(c.src)), func(s span.Span) span.Span { return s.Shift(inner.Start) }, false)
	case "script":
		if !Runs(n) {
			return
		}
		if src := n.Value("src"); src != "" {
			f.Scripts = append(f.Scripts, scriptFrom+src)
			return
		}
		f.Scripts = append(f.Scripts, "an inline script")
		c.script(
			n.Inner.Of(c.src),
			func(from, to int) span.Span { return span.Span{Start: n.Inner.Start + from, End: n.Inner.Start + to} },
		)
	}
}

// custom notes what an element of a custom kind stands for: one of our own, or a component.
func (c *collector) custom(n *markup.Node) {
	where := Where{In: InElement, Tag: n.Tag}
	if by, ok := namesOf[n.Tag]; ok {
		if a, ok := n.Attr(by.attr); ok && a.Value != "" {
			c.add(Ref{Space: by.space, Name: a.Value, Where: where, At: a.At, write: asAttr})
		}
	} else if s, ok := settingsShown[n.Tag]; ok {
		at := span.Span{Start: n.Start.Start, End: n.Start.Start}
		c.add(Ref{Space: Setting, Name: s, Where: where, At: at, write: fixed})
	} else if !strings.HasPrefix(n.Tag, "cp-") {
		at := span.Span{Start: n.Start.Start + 1, End: n.Start.Start + 1 + len(n.Tag)}
		c.add(Ref{Space: Component, Name: n.Tag, Where: where, At: at, write: fixed})
	}
}

// attribute notes what an attribute names that holds no address.
func (c *collector) attribute(n *markup.Node, a markup.Attr) {
	where := Where{In: InAttribute, Tag: n.Tag, Name: a.Name}
	at := func(from, to int) span.Span { return a.Offset(c.src, from, to) }
	switch {
	case a.Name == "class", idLists[a.Name]:
		space := ID
		if a.Name == "class" {
			space = Class
		}
		for _, w := range fields(a.Value) {
			c.add(Ref{Space: space, Name: a.Value[w.Start:w.End], Where: where, At: at(w.Start, w.End), write: asAttr})
		}
	case (a.Name == "id" || a.Name == "name" && (n.Tag == "a" || n.Tag == "map")) && a.Value != "":
		c.add(Ref{Space: ID, Name: a.Value, Defines: true, Where: where, At: at(0, len(a.Value)), write: asAttr})
	case a.Name == "data-opens" && a.Value != "":
		c.add(Ref{Space: Overlay, Name: a.Value, Where: where, At: at(0, len(a.Value)), write: asAttr})
	case a.Name == "data-field":
		for _, b := range markup.Bindings(c.src, n, a.Name) {
			c.add(Ref{Space: Field, Name: b.Name, Where: where, At: b.At, write: asAttr})
		}
	case a.Name == "data-fill":
		for _, b := range markup.Bindings(c.src, n, a.Name) {
			c.add(Ref{Space: Fill, Name: b.Name, Where: where, At: b.At, write: asAttr})
			sample := n.Value(b.Target)
			if b.Target == "text" || b.Target == "html" {
				sample = n.Text()
			}
			line, _ := span.Line(c.src, n.Start.Start)
			c.facts.Fills = append(c.facts.Fills, FillPlace{Name: b.Name, Target: b.Target, Pattern: b.Pattern,
				Sample: b.Within(sample), Line: line})
		}
	case strings.HasPrefix(a.Name, "data-") && len(a.Value) <= maxMention &&
		(strings.ContainsAny(a.Value, "/#") || strings.HasPrefix(a.Value, ".")):
		// Scripts read it: an address, or a selector of what they work on.
		c.mention(a.Value, where, at(0, len(a.Value)))
	case strings.HasPrefix(a.Name, "on") && len(a.Name) > 2:
		c.facts.Scripts = append(c.facts.Scripts, where.String())
		c.script([]byte(a.Value), at)
	}
}

// addresses adds only what the attributes and the styles of an element name by address.
func (c *collector) addresses(n *markup.Node) {
	for _, a := range n.Attrs {
		c.addressAttr(n, a)
	}
	if n.Tag == "style" && n.Inner.Len() > 0 {
		inner := n.Inner
		c.stylesheet(css.Parse(inner.Of(c.src)), func(s span.Span) span.Span { return s.Shift(inner.Start) }, false)
	}
}

// addressAttr adds what an attribute names by address; false means that it is none
// that can.
func (c *collector) addressAttr(n *markup.Node, a markup.Attr) bool {
	at := func(from, to int) span.Span { return a.Offset(c.src, from, to) }
	where := Where{In: InAttribute, Tag: n.Tag, Name: a.Name}
	part := func(from int) func(x, y int) span.Span {
		return func(x, y int) span.Span { return at(from+x, from+y) }
	}
	if kind := loads(n, a.Name); kind != "" {
		before := len(c.facts.Refs)
		defer func() {
			for i := before; i < len(c.facts.Refs); i++ {
				if c.facts.Refs[i].Space == External {
					c.facts.Refs[i].Loads = kind
				}
			}
		}()
	}
	switch {
	case a.Name == "style":
		if a.Value == "" {
			return true
		}
		sheet := css.ParseDeclarations([]byte(a.Value))
		c.stylesheet(sheet, func(s span.Span) span.Span { return at(s.Start, s.End) }, true)
	case addressAttrs[a.Name] && n.Tag != "base":
		c.address(a.Value, where, at, asURL)
	case sourceSets[a.Name]:
		for _, w := range candidates(a.Value) {
			c.address(a.Value[w.Start:w.End], where, part(w.Start), asURL)
		}
	case a.Name == "content" && n.Tag == "meta" && pictureMetas[strings.ToLower(n.Value("property")+n.Value("name"))]:
		c.address(a.Value, where, at, asURL)
	case a.Name == "content" && n.Tag == "meta" && strings.EqualFold(n.Value("http-equiv"), "refresh"):
		if from, to := refreshAddress(a.Value); to > from {
			c.address(a.Value[from:to], where, part(from), asURL)
		}
	case a.Name == "ping":
		for _, w := range fields(a.Value) {
			c.address(a.Value[w.Start:w.End], where, part(w.Start), asURL)
		}
	case a.Name == "usemap":
		c.address(a.Value, where, at, asURL)
	case n.Space == "svg" && paints[a.Name]:
		sheet := css.ParseDeclarations([]byte(a.Name + ":" + a.Value))
		ahead := len(a.Name) + 1
		c.stylesheet(sheet, func(s span.Span) span.Span { return at(s.Start-ahead, s.End-ahead) }, true)
	default:
		return false
	}
	return true
}

// refreshAddress finds the address in a refresh's "5; url=/there/" (HTML standard,
// section 4.2.5.3).
func refreshAddress(s string) (from, to int) {
	i := strings.IndexAny(s, ";,")
	if i < 0 {
		return 0, 0
	}
	from = i + 1 + len(s[i+1:]) - len(strings.TrimLeft(s[i+1:], " \t\r\n\f"))
	if low := strings.ToLower(s[from:]); strings.HasPrefix(low, "url") {
		rest := strings.TrimLeft(s[from+3:], " \t\r\n\f")
		if !strings.HasPrefix(rest, "=") {
			return 0, 0
		}
		rest = strings.TrimLeft(rest[1:], " \t\r\n\f")
		from = len(s) - len(rest)
	}
	to = len(strings.TrimRight(s, " \t\r\n\f"))
	if from < to && (s[from] == '\'' || s[from] == '"') {
		quote := s[from]
		from++
		if end := strings.IndexByte(s[from:], quote); end >= 0 {
			to = from + end
		}
	}
	return from, to
}

// fields gives the places of the words of s.
func fields(s string) []span.Span {
	var out []span.Span
	for i := 0; i < len(s); {
		for i < len(s) && strings.IndexByte(" \t\r\n\f", s[i]) >= 0 {
			i++
		}
		from := i
		for i < len(s) && strings.IndexByte(" \t\r\n\f", s[i]) < 0 {
			i++
		}
		if i > from {
			out = append(out, span.Span{Start: from, End: i})
		}
	}
	return out
}

// candidates gives the places of the addresses in a srcset value (HTML standard,
// section 4.8.4.2.2).
func candidates(s string) []span.Span {
	var out []span.Span
	i := 0
	for i < len(s) {
		for i < len(s) && strings.IndexByte(" \t\r\n\f,", s[i]) >= 0 {
			i++
		}
		from := i
		for i < len(s) && strings.IndexByte(" \t\r\n\f", s[i]) < 0 {
			i++
		}
		end := i
		for end > from && s[end-1] == ',' {
			end--
		}
		if end > from {
			out = append(out, span.Span{Start: from, End: end})
		}
		if end < i {
			continue
		}
		depth := 0
		for i < len(s) && !(s[i] == ',' && depth == 0) {
			switch s[i] {
			case '(':
				depth++
			case ')':
				depth--
			}
			i++
		}
	}
	return out
}

// stylesheet adds a sheet's names; place maps its offsets to the document's.
func (c *collector) stylesheet(sheet *css.Sheet, place func(span.Span) span.Span, inAttr bool) {
	spaces := map[css.Space]Space{
		css.Class:     Class,
		css.ID:        ID,
		css.Prop:      Property,
		css.Animation: Animation,
		css.Layer:     Layer,
		css.Container: Container,
		css.Counter:   Counter,
		css.Font:      Font,
		css.Element:   Component,
	}
	for _, r := range sheet.Refs() {
		w := asIdent
		if r.Quoted {
			w = asString
		}
		if inAttr {
			w = w.inAttr()
		}
		at := place(r.At)
		switch r.Space {
		case css.URL, css.Import:
			base := r.At
			where := Where{In: InURL}
			if r.Space == css.Import {
				where.In = InImport
			}
			c.address(r.Name, where, func(from, to int) span.Span {
				if base.Len() != len(r.Name) { // escapes: the whole value is replaced
					return place(base)
				}
				return place(span.Span{Start: base.Start + from, End: base.Start + to})
			}, w.asAddress())
		case css.Element:
			c.add(Ref{Space: Component, Name: r.Name, Where: Where{In: InSelector}, At: at, write: fixed})
		default:
			c.add(Ref{Space: spaces[r.Space], Name: r.Name, Defines: r.Defines, Where: Where{In: InStylesheet}, At: at,
				write: w})
		}
	}
}
