package capture

import (
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// heads takes the scripts of the site out of pages' heads: counters, consent and the
// like belong to the site and not to the page. What somebody called portable stays.
type heads struct {
	src      item.Collection
	portable map[string]bool
	pages    map[item.Address]bare
}

type bare struct {
	text    []byte
	without []string
}

func newHeads(src item.Collection) (*heads, error) {
	out := &heads{src: src, pages: map[item.Address]bare{}}
	h, ok := src.Find(facts.HeadScripts)
	if !ok {
		return out, nil
	}
	b, err := item.Read(src, h)
	out.portable = facts.PortableHeadScripts(b)
	return out, err
}

// without gives a page's text without its head's site-only scripts, and their names.
func (x *heads) without(h item.Head) ([]byte, []string, error) {
	if b, ok := x.pages[h.Address]; ok {
		return b.text, b.without, nil
	}
	src, err := item.Read(x.src, h)
	if err != nil {
		return nil, nil, err
	}
	var names []string
	var cuts []span.Edit
	for _, n := range markup.Parse(src, h.Meta.Context).ByTag("script") {
		if n.Parent == nil || n.Parent.Tag != "head" || !n.Own || !facts.Runs(n) {
			continue
		}
		if name := facts.HeadScriptName(n, src); !x.portable[name] {
			names = append(names, name)
			cuts = append(cuts, span.Edit{Span: n.Outer()})
		}
	}
	text, err := span.Apply(src, cuts)
	if err != nil {
		return nil, nil, err
	}
	x.pages[h.Address] = bare{text, names}
	return text, names, nil
}
