package making

import (
	"fmt"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// BlankMark is a blank marked on a piece of the kit; its source stays as it is.
type BlankMark struct {
	In item.Address `json:"in"`
	// Element is a selector that names one element of the item.
	Element string `json:"element"`
	// Bind is a clause as in data-fill: "text:hut-name", "src:hero" or "href:tel:{phone}".
	Bind string `json:"bind"`
}

// Check holds a mark against the grammar and gives the names of its fill-ins.
func (m BlankMark) Check() ([]string, error) {
	if !m.In.Kind.IsMarkup() {
		return nil, fmt.Errorf("a blank is marked in markup, and %s is not markup", m.In)
	}
	if strings.TrimSpace(m.Element) == "" {
		return nil, fmt.Errorf("it names no element: give a selector")
	}
	tree := markup.Parse([]byte(`<p data-fill="`+markup.EscapeAttr(m.Bind)+`">`), "")
	found := markup.Bindings(tree.Source, tree.All[0], "data-fill")
	if len(found) == 0 || strings.Contains(m.Bind, ";") {
		return nil, fmt.Errorf("%q does not name the place of a blank: write text:NAME, src:NAME or href:tel:{NAME}",
			m.Bind)
	}
	var names []string
	for _, b := range found {
		if kit.RunsWhatIsFilled(b.Target, b.Pattern) {
			return nil, fmt.Errorf("%q would run what somebody fills in", m.Bind)
		}
		if err := item.CheckKey(b.Name); err != nil || strings.Contains(b.Name, "/") {
			return nil, fmt.Errorf("%q cannot be a fill-in's name: lower-case letters, digits, - and _", b.Name)
		}
		names = append(names, b.Name)
	}
	return names, nil
}

// mark lays the marks of a source's items over it.
func (a *assembly) mark(o *item.Over) {
	for i, m := range a.m.Marks {
		h, ok := o.Find(m.In)
		if !ok || a.marked[i] {
			continue
		}
		if err := layMark(o, h, m); err != nil {
			a.find(
				kit.Finding{
					Address: m.In,
					Stops:   true,
					Message: fmt.Sprintf("the blank %s has no place: %v", m.Bind, err),
					Remedy:  "mark its place again",
				},
			)
		}
		a.marked[i] = true
	}
}

func layMark(o *item.Over, h item.Head, m BlankMark) error {
	src, err := item.Read(o, h)
	if err != nil {
		return err
	}
	out, err := Marked(src, h.Meta.Context, m)
	if err == nil {
		o.Set(h, out)
	}
	return err
}

// Marked writes a mark into a text.
func Marked(src []byte, context string, m BlankMark) ([]byte, error) {
	if _, err := m.Check(); err != nil {
		return nil, err
	}
	tree := markup.Parse(src, context)
	n, err := css.QueryOne(tree, m.Element)
	if err != nil {
		return nil, err
	}
	if !n.Own {
		return nil, fmt.Errorf("<%s> does not stand in the text itself", n.Tag)
	}
	target, _, _ := strings.Cut(m.Bind, ":")
	if (target == "text" || target == "html") &&
		(len(n.Children) > 0 && target == "text" || n.Inner.Start >= n.Inner.End && !n.Closed) {
		return nil, fmt.Errorf(
			"<%s> holds other elements or nothing: mark the innermost element for a text, or use html", n.Tag)
	}
	bind := m.Bind
	for _, b := range markup.Bindings(src, n, "data-fill") {
		if b.Target == target {
			return nil, fmt.Errorf("its %s is already the fill-in %s", target, b.Name)
		}
	}
	if had := n.Value("data-fill"); had != "" {
		bind = strings.TrimRight(strings.TrimSpace(had), ";") + "; " + bind
	}
	return span.Apply(src, []span.Edit{markup.SetAttr(n, "data-fill", bind)})
}
