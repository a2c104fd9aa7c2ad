package css

import (
	"fmt"
	"strings"

	"compactparcel/core/markup"
	"compactparcel/core/says"
)

// Query gives the elements of a tree that a selector names, in document order
// (Selectors Level 4, section 3). States count as possible. ":scope > …" begins at the
// top of a document or fragment, as in the paths that PathTo writes.
func Query(t *markup.Tree, selector string) ([]*markup.Node, error) {
	if rest, ok := strings.CutPrefix(strings.TrimSpace(selector), ":scope"); ok {
		return scoped(t, selector, rest)
	}
	list, err := selectors(selector)
	if err != nil {
		return nil, err
	}
	var out []*markup.Node
	steps := 0
	for _, n := range t.All {
		for _, s := range list {
			m := &matcher{}
			fits := n.Own && m.from(s.Parts, len(s.Parts)-1, n)
			if steps += m.steps; steps > maxQuerySteps {
				return nil, says.Errorf("%q takes too long to be looked for: name the element by a path",
					says.Selector(shortText(selector)))
			}
			if fits {
				out = append(out, n)
				break
			}
		}
	}
	return out, nil
}

// maxQuerySteps bounds the work for one selector over a whole document.
const maxQuerySteps = 20_000_000

// shortText gives a selector for people.
func shortText(s string) string { return short([]byte(s)) }

// QueryOne gives the one element that a selector names; that it names none or several
// is an error.
func QueryOne(t *markup.Tree, selector string) (*markup.Node, error) {
	found, err := Query(t, selector)
	if err != nil {
		return nil, err
	}
	switch len(found) {
	case 0:
		return nil, says.Errorf("%q names no element of it", says.Selector(shortText(selector)))
	case 1:
		return found[0], nil
	}
	return nil, says.Errorf("%q names %d elements of it; the first are %s and %s", says.Selector(shortText(selector)),
		len(found), says.Selector(PathTo(found[0])), says.Selector(PathTo(found[1])))
}

func selectors(text string) ([]Selector, error) {
	src := []byte(text)
	list := parseSelectors(src, Lex(src))
	if len(list) == 0 {
		return nil, says.Errorf("%q is no selector", says.Selector(shortText(text)))
	}
	for _, s := range list {
		if s.Unknown || len(s.Parts) == 0 {
			return nil, says.Errorf("%q is no selector that is understood here", says.Selector(shortText(text)))
		}
	}
	return list, nil
}

// scoped follows steps from the top, each to children.
func scoped(t *markup.Tree, whole, rest string) ([]*markup.Node, error) {
	at := []*markup.Node{t.Root}
	steps := strings.Split(rest, ">")
	if strings.TrimSpace(steps[0]) != "" || len(steps) < 2 {
		return nil, says.Errorf("%q is no path: write :scope > main > h2", says.Selector(whole))
	}
	for _, step := range steps[1:] {
		list, err := selectors(strings.TrimSpace(step))
		if err != nil {
			return nil, err
		}
		if len(list) != 1 || len(list[0].Parts) != 1 {
			return nil, says.Errorf("%q is no path: after :scope each step is one element", says.Selector(whole))
		}
		var next []*markup.Node
		for _, n := range at {
			for _, c := range n.Children {
				if list[0].Fits(c, nil) {
					next = append(next, c)
				}
			}
		}
		at = next
	}
	return at, nil
}

// PathTo writes the path to an element from the top of its document or fragment:
// ":scope > main > section:nth-of-type(2)".
func PathTo(n *markup.Node) string {
	path := ""
	for ; n != nil && n.Tag != ""; n = n.Parent {
		same, before := 0, 0
		if n.Parent != nil {
			for _, c := range n.Parent.Children {
				if c.Tag == n.Tag {
					same++
					if c.Index < n.Index {
						before++
					}
				}
			}
		}
		path = " > " + stepTo(n.Tag, before+1, same) + path
	}
	return ":scope" + path
}

// Paths gives the paths of all elements of a tree, as PathTo does for one: each parent's children are counted once.
func Paths(t *markup.Tree) map[*markup.Node]string {
	out := make(map[*markup.Node]string, len(t.All))
	var below func(n *markup.Node, path string)
	below = func(n *markup.Node, path string) {
		same, seen := map[string]int{}, map[string]int{}
		for _, c := range n.Children {
			same[c.Tag]++
		}
		for _, c := range n.Children {
			seen[c.Tag]++
			out[c] = path + " > " + stepTo(c.Tag, seen[c.Tag], same[c.Tag])
			below(c, out[c])
		}
	}
	below(t.Root, ":scope")
	return out
}

// stepTo names the element that is the nth of same ones with its tag.
func stepTo(tag string, nth, same int) string {
	if same > 1 {
		return fmt.Sprintf("%s:nth-of-type(%d)", EscapeIdent(tag), nth)
	}
	return EscapeIdent(tag)
}
