package render

import (
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// stage is the rendering of one document.
type stage struct {
	r        *Renderer
	spot     PageContext
	ask      PageRequest
	record   item.Head
	reached  map[item.Address]bool
	styled   map[item.Address]bool
	scripts  []item.Address
	placed   map[item.Role]bool
	standing map[item.Role]item.Head
	variant  map[item.Role]string
	stack    []item.Address // sections and parts being written out
	overlays []item.Head
	searches bool     // a search's results are shown
	css      []string // rules of the engine's own
	page     int      // of a listing with several, from 1
	pages    int      // how many it has
}

// contentMark stands in a wrapper's text where the page's content goes.
const contentMark = "<!--cp-content-->"

func (s *stage) reach(h item.Head) {
	s.reached[h.Address] = true
	if s.styled == nil {
		s.styled = map[item.Address]bool{}
	}
	for _, a := range h.Meta.Styles {
		s.styled[a] = true
	}
}

func (s *stage) reachSetting(key string) {
	a := item.Address{Kind: item.Setting, Key: key}
	if _, ok := s.r.c.Find(a); ok {
		s.reached[a] = true
	}
}

// expand writes the cp- elements of a source text out.
func (s *stage) expand(src []byte, context string) ([]byte, error) {
	if !markup.HasCustomTags(src) {
		return src, nil
	}
	tree := markup.Parse(src, context)
	if tree.Opaque {
		return src, nil
	}
	var edits []span.Edit
	for i := 0; i < len(tree.All); i++ {
		n := tree.All[i]
		if !n.Own || !strings.Contains(n.Tag, "-") || n.Space != "" {
			continue
		}
		if !strings.HasPrefix(n.Tag, "cp-") {
			s.component(n.Tag)
			continue
		}
		text, ok, err := s.element(src, tree, n)
		if err != nil {
			return nil, err
		}
		if !ok {
			continue
		}
		edits = append(edits, span.Edit{Span: n.Outer(), New: []byte(text)})
		for i+1 < len(tree.All) && tree.All[i+1].Own && tree.All[i+1].Start.Start < n.End.End {
			i++ // what stands within was the element's own business
		}
	}
	return span.Apply(src, edits)
}

// component notes that a custom element is used.
func (s *stage) component(tag string) {
	a := item.Address{Kind: item.Component, Key: tag}
	if h, ok := s.r.c.Find(a); ok && !s.reached[a] {
		s.reach(h)
		s.scripts = append(s.scripts, a)
	}
}

func (s *stage) element(src []byte, tree *markup.Tree, n *markup.Node) (string, bool, error) {
	switch n.Tag {
	case "cp-section":
		t, err := s.section(src, n)
		return t, true, err
	case "cp-part":
		role := item.Role(n.Value("role"))
		s.placed[role] = true
		part, ok := s.standing[role]
		if !ok {
			return "", true, nil
		}
		t, err := s.part(part, ownValues(src, n))
		return t, true, err
	case "cp-menu":
		t, err := s.menu(n)
		return t, true, err
	case "cp-form":
		t, err := s.form(n.Value("name"))
		return t, true, err
	case "cp-title", "cp-strapline":
		key := strings.TrimPrefix(n.Tag, "cp-")
		s.reachSetting(key)
		var v string
		if _, err := s.r.setting(key, &v); err != nil {
			return "", true, err
		}
		if v != "" {
			return markup.EscapeText(v), true, nil
		}
		return string(n.Inner.Of(src)), true, nil
	case "cp-logo":
		t, err := s.logo(n.Inner.Of(src))
		return t, true, err
	case "cp-content":
		if !s.record.Address.IsZero() {
			b, err := s.r.read(s.record.Address)
			s.reach(s.record)
			return string(b), true, err
		}
		return contentMark, true, nil
	case "cp-records":
		t, err := s.records(src, n)
		return t, true, err
	case "cp-pages":
		return s.listingPages(n.Value("label")), true, nil
	case "cp-search":
		return s.search(n.Value("label")), true, nil
	case "cp-results":
		t, err := s.results(src, n)
		return t, true, err
	}
	return "", false, nil
}

// CircleError tells of pieces that stand within each other, so that none can be shown.
type CircleError struct{ Chain []item.Address }

func (e *CircleError) Error() string {
	var chain []string
	for _, a := range e.Chain {
		chain = append(chain, a.String())
	}
	return "pieces stand within each other in a circle: " + strings.Join(chain, " → ")
}

func (s *stage) enter(a item.Address) error {
	for _, x := range s.stack {
		if x == a {
			return &CircleError{append(s.stack[:len(s.stack):len(s.stack)], a)}
		}
	}
	s.stack = append(s.stack, a)
	return nil
}

func (s *stage) section(src []byte, n *markup.Node) (string, error) {
	a := item.Address{Kind: item.Section, Key: n.Value("name")}
	h, ok := s.r.c.Find(a)
	if !ok { // what the page shows meanwhile
		text := string(n.Inner.Of(src))
		for _, c := range n.Children {
			if c.Tag == "cp-value" {
				text = strings.Replace(text, string(c.Outer().Of(src)), "", 1)
			}
		}
		return strings.TrimSpace(text), nil
	}
	if err := s.enter(a); err != nil {
		return "", err
	}
	defer func() { s.stack = s.stack[:len(s.stack)-1] }()
	s.reach(h)
	body, err := s.r.read(a)
	if err != nil {
		return "", err
	}
	body, err = s.valued(h, body, ownValues(src, n))
	if err != nil {
		return "", err
	}
	out, err := s.expand(body, h.Meta.Context)
	return s.marked(a, strings.TrimRight(string(out), "\n")), err
}

// marked puts the marks around a piece when they are asked for.
func (s *stage) marked(a item.Address, text string) string {
	if !s.ask.Marked {
		return text
	}
	before, behind := Marks(a)
	return before + text + behind
}

func (s *stage) part(h item.Head, values map[string]string) (string, error) {
	if err := s.enter(h.Address); err != nil {
		return "", err
	}
	defer func() { s.stack = s.stack[:len(s.stack)-1] }()
	s.reach(h)
	src, err := s.r.read(h.Address)
	if err != nil {
		return "", err
	}
	src, err = s.valued(h, src, values)
	if err != nil {
		return "", err
	}
	if v := s.variant[h.Meta.Role]; v != "" {
		if src, err = varied(src, h.Meta.Context, v); err != nil {
			return "", err
		}
	}
	out, err := s.expand(src, h.Meta.Context)
	return s.marked(h.Address, strings.TrimRight(string(out), "\n")), err
}

// varied marks a piece's first element with a variant.
func varied(src []byte, context, variant string) ([]byte, error) {
	tree := markup.Parse(src, context)
	if len(tree.Root.Children) == 0 || !tree.Root.Children[0].Own {
		return src, nil
	}
	return span.Apply(src, []span.Edit{markup.SetAttr(tree.Root.Children[0], "data-variant", variant)})
}
