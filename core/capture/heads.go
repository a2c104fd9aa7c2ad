package capture

import (
	"slices"
	"strings"

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
	without []leftScript
}

// leftScript is a script that stays behind, with the names of the page that it knows.
type leftScript struct{ script, names string }

// maxNames bounds how many names of a page are told of one script.
const maxNames = 8

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

// of goes on with another source.
func (x *heads) of(src item.Collection) { x.src, x.pages = src, map[item.Address]bare{} }

// without gives a page's text without its head's site-only scripts, and these.
func (x *heads) without(h item.Head) ([]byte, []leftScript, error) {
	if b, ok := x.pages[h.Address]; ok {
		return b.text, b.without, nil
	}
	src, err := item.Read(x.src, h)
	if err != nil {
		return nil, nil, err
	}
	var left []leftScript
	var cuts []span.Edit
	tree := markup.Parse(src, h.Meta.Context)
	for _, n := range tree.ByTag("script") {
		if n.Parent == nil || n.Parent.Tag != "head" || !n.Own || !facts.Runs(n) {
			continue
		}
		if name := facts.HeadScriptName(n, src); !x.portable[name] {
			known, err := x.names(n, tree)
			if err != nil {
				return nil, nil, err
			}
			left = append(left, leftScript{name, known})
			cuts = append(cuts, span.Edit{Span: n.Outer()})
		}
	}
	text, err := span.Apply(src, cuts)
	if err != nil {
		return nil, nil, err
	}
	x.pages[h.Address] = bare{text, left}
	return text, left, nil
}

// names gives the classes and ids of a page that a script names; "*" when the script cannot be read
// here, so that it may name any.
func (x *heads) names(script *markup.Node, page *markup.Tree) (string, error) {
	text := script.Inner.Of(page.Source)
	if from := script.Value("src"); from != "" {
		a, ok := item.FileAt(x.src, from)
		h, found := x.src.Find(a)
		if !ok || !found {
			return "*", nil
		}
		var err error
		if text, err = item.Read(x.src, h); err != nil {
			return "", err
		}
	}
	f := facts.Extract(item.Media, facts.ScriptType, text)
	if f.Unread {
		return "*", nil
	}
	var out []string
	add := func(mark, name string) {
		if name != "" && f.IsMentioned(name) && !slices.Contains(out, mark+name) && len(out) < maxNames {
			out = append(out, mark+name)
		}
	}
	for _, n := range page.All {
		add("#", n.Value("id"))
		for _, c := range n.Classes() {
			add(".", c)
		}
	}
	return strings.Join(out, " "), nil
}
