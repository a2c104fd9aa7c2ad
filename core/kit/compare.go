package kit

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"sort"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// ChangeKind is what became of an item from one version to another. The set is closed.
type ChangeKind string

// The kinds of changes.
const (
	ItemAdded       ChangeKind = "added"
	ItemRemoved     ChangeKind = "removed"
	ItemRenamed     ChangeKind = "renamed"
	ItemChanged     ChangeKind = "changed"
	ItemReformatted ChangeKind = "reformatted" // only its bytes changed, not what it says
)

// ChangeKinds lists all of them.
var ChangeKinds = []ChangeKind{ItemAdded, ItemRemoved, ItemRenamed, ItemChanged, ItemReformatted}

// Change is what became of one item from one version of a kit to another.
type Change struct {
	Address item.Address `json:"address"`
	What    ChangeKind   `json:"what"`
	// Was is the address that it had.
	Was item.Address `json:"was,omitzero"`
	// Details say what is other, down to the attribute, the rule and the member.
	Details []string `json:"details,omitempty"`
}

// Comparison is all that is other between two versions of a kit.
type Comparison struct {
	From string `json:"from"` // NAME@VERSION
	To   string `json:"to"`
	// Metadata are changes of titles, terms, needs and fill-ins.
	Metadata []string `json:"metadata"`
	Changes  []Change `json:"changes"`
	Same     int      `json:"same"` // items that are the same
}

// maxDetails bounds what is told of one item.
const maxDetails = 40

// Contents is one of two versions that are compared: a kit, or one in the making.
type Contents struct {
	List  *PackingList
	Items item.Collection
}

// Contents gives the kit for comparing.
func (k *Kit) Contents() Contents { return Contents{&k.List, k} }

// Compare says what changed between two versions, item by item.
func Compare(a, b Contents) (*Comparison, error) {
	c := &Comparison{
		From:     a.List.Kit + "@" + a.List.Version,
		To:       b.List.Kit + "@" + b.List.Version,
		Changes:  []Change{},
		Metadata: compareMetadata(a.List, b.List),
	}
	if c.Metadata == nil {
		c.Metadata = []string{}
	}
	old, gone := map[item.Address]Entry{}, map[item.Address]bool{}
	for _, e := range a.List.Items {
		old[e.Address()], gone[e.Address()] = e, true
	}
	for _, e := range b.List.Items {
		was, ok := old[e.Address()]
		ch := Change{Address: e.Address(), What: ItemChanged}
		if !ok {
			for _, w := range e.Was {
				if was, ok = old[w]; ok {
					ch.What, ch.Was = ItemRenamed, w
					break
				}
			}
		}
		if !ok {
			ch.What = ItemAdded
			c.Changes = append(c.Changes, ch)
			continue
		}
		delete(gone, was.Address())
		ch.Details = compareMeta(was.Meta, e.Meta)
		switch {
		case was.SHA256 == e.SHA256:
			if len(ch.Details) == 0 && ch.What == ItemChanged {
				c.Same++
				continue
			}
		case was.NormalizedDigest == e.NormalizedDigest:
			if len(ch.Details) == 0 && ch.What == ItemChanged {
				ch.What = ItemReformatted
			}
		default:
			x, err := item.Read(a.Items, was.Head())
			if err != nil {
				return nil, err
			}
			y, err := item.Read(b.Items, e.Head())
			if err != nil {
				return nil, err
			}
			ch.Details = append(ch.Details, compareContents(e.Kind, e.Context, x, y)...)
		}
		if len(ch.Details) > maxDetails {
			ch.Details = append(ch.Details[:maxDetails], fmt.Sprintf("and %d more", len(ch.Details)-maxDetails))
		}
		c.Changes = append(c.Changes, ch)
	}
	for w := range gone {
		c.Changes = append(c.Changes, Change{Address: w, What: ItemRemoved})
	}
	sort.Slice(c.Changes, func(i, j int) bool { return c.Changes[i].Address.Less(c.Changes[j].Address) })
	return c, nil
}

// asJSON gives a value's members.
func asJSON(v any) map[string]any {
	b, err := json.Marshal(v)
	if err != nil {
		return nil
	}
	var m map[string]any
	_ = json.Unmarshal(b, &m) // it was just written
	return m
}

func compareMeta(a, b item.Meta) []string { return compareJSON("", asJSON(a), asJSON(b)) }

func compareMetadata(a, b *PackingList) []string {
	words := func(l *PackingList) map[string]any {
		m := asJSON(l)
		for _, k := range []string{"items", "generated", "version", "changes", "format", "kit"} {
			delete(m, k)
		}
		byName := map[string]any{}
		for _, f := range l.Fillins {
			byName[f.Name] = asJSON(f)
		}
		delete(m, "fillins")
		left := map[string]any{}
		for _, x := range l.LeavesOut {
			left[x.Address+" ("+x.Why+")"] = "left out"
		}
		delete(m, "leaves-out")
		m["leaves-out"] = left
		m["fill-in"] = byName
		return m
	}
	return compareJSON("", words(a), words(b))
}

// compareJSON names the members in which two JSON values differ.
func compareJSON(at string, a, b any) []string {
	if reflect.DeepEqual(a, b) {
		return nil
	}
	x, okX := a.(map[string]any)
	y, okY := b.(map[string]any)
	if okX && okY {
		names := map[string]bool{}
		for k := range x {
			names[k] = true
		}
		for k := range y {
			names[k] = true
		}
		var out []string
		sorted := make([]string, 0, len(names))
		for k := range names {
			sorted = append(sorted, k)
		}
		sort.Strings(sorted)
		for _, k := range sorted {
			name := strings.TrimPrefix(at+"."+k, ".")
			u, inX := x[k]
			v, inY := y[k]
			switch {
			case !inX:
				out = append(out, fmt.Sprintf("%s: %s added", name, brief(v)))
			case !inY:
				out = append(out, fmt.Sprintf("%s: %s removed", name, brief(u)))
			default:
				out = append(out, compareJSON(name, u, v)...)
			}
		}
		return out
	}
	p, okP := a.([]any)
	q, okQ := b.([]any)
	if okP && okQ && len(p) == len(q) {
		var out []string
		for i := range p {
			out = append(out, compareJSON(fmt.Sprintf("%s[%d]", at, i+1), p[i], q[i])...)
		}
		return out
	}
	return []string{fmt.Sprintf("%s: %s → %s", at, brief(a), brief(b))}
}

func brief(v any) string {
	var b strings.Builder
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	if enc.Encode(v) != nil {
		return "?"
	}
	return cut(b.String())
}

func cut(s string) string {
	s = strings.Join(strings.Fields(s), " ")
	if r := []rune(s); len(r) > 80 {
		return string(r[:77]) + "…"
	}
	return s
}

func compareContents(kind item.Kind, context string, a, b []byte) []string {
	switch {
	case kind.IsMarkup():
		return compareMarkup(markup.Parse(a, context), markup.Parse(b, context))
	case kind == item.Stylesheet:
		return compareRules(css.Parse(a), css.Parse(b))
	case kind == item.Media || kind == item.Component:
		return []string{fmt.Sprintf("%d bytes → %d bytes", len(a), len(b))}
	}
	var x, y any
	if json.Unmarshal(a, &x) == nil && json.Unmarshal(b, &y) == nil {
		return compareJSON("", x, y)
	}
	return []string{fmt.Sprintf("%d bytes → %d bytes", len(a), len(b))}
}

// maxAlign bounds the work of aligning two documents, in pairs of elements.
const maxAlign = 4 << 20

// compareMarkup aligns the elements of two documents and names what is other in those
// that correspond, and those that are in one alone.
func compareMarkup(a, b *markup.Tree) []string {
	if len(a.All)*len(b.All) > maxAlign {
		return []string{fmt.Sprintf("%d elements → %d elements", len(a.All), len(b.All))}
	}
	key := func(n *markup.Node) string {
		path := n.Tag
		if n.Parent != nil {
			path = n.Parent.Tag + " > " + path
		}
		return path + "#" + n.Value("id")
	}
	pairs := align(len(a.All), len(b.All), func(i, j int) bool { return key(a.All[i]) == key(b.All[j]) })
	var out []string
	name := func(t *markup.Tree, n *markup.Node) string {
		line, _ := span.Line(t.Source, n.Start.Start)
		s := n.Tag
		if id := n.Value("id"); id != "" {
			s += "#" + id
		} else if c := n.Classes(); len(c) > 0 {
			s += "." + c[0]
		}
		return fmt.Sprintf("line %d <%s>", line, s)
	}
	for _, p := range pairs {
		switch {
		case p[0] < 0:
			out = append(out, name(b, b.All[p[1]])+": added"+quoted(b.All[p[1]].Text()))
		case p[1] < 0:
			out = append(out, name(a, a.All[p[0]])+": removed"+quoted(a.All[p[0]].Text()))
		default:
			x, y := a.All[p[0]], b.All[p[1]]
			at := name(b, y)
			for _, attr := range append(append([]markup.Attr{}, x.Attrs...), y.Attrs...) {
				u, inX := x.Attr(attr.Name)
				v, inY := y.Attr(attr.Name)
				said := ""
				switch {
				case !inX:
					said = fmt.Sprintf("%s: %s=%q added", at, attr.Name, cut(v.Value))
				case !inY:
					said = fmt.Sprintf("%s: %s=%q removed", at, attr.Name, cut(u.Value))
				case u.Value != v.Value:
					said = fmt.Sprintf("%s: %s %q → %q", at, attr.Name, cut(u.Value), cut(v.Value))
				}
				if said != "" && (len(out) == 0 || !has(out, said)) {
					out = append(out, said)
				}
			}
			own := func(n *markup.Node) string {
				return strings.TrimSpace(strings.Join(strings.Fields(strings.Join(n.Texts(), " ")), " "))
			}
			if u, v := own(x), own(y); u != v {
				out = append(out, fmt.Sprintf("%s: the text %q → %q", at, cut(u), cut(v)))
			}
		}
	}
	return out
}

func has(list []string, s string) bool {
	for _, x := range list {
		if x == s {
			return true
		}
	}
	return false
}

func quoted(text string) string {
	if text == "" {
		return ""
	}
	return fmt.Sprintf(" %q", cut(text))
}

// align pairs two sequences by their longest common subsequence; -1 stands for none.
func align(n, m int, same func(i, j int) bool) [][2]int {
	table := make([][]int32, n+1)
	for i := range table {
		table[i] = make([]int32, m+1)
	}
	for i := n - 1; i >= 0; i-- {
		for j := m - 1; j >= 0; j-- {
			if same(i, j) {
				table[i][j] = table[i+1][j+1] + 1
			} else {
				table[i][j] = max(table[i+1][j], table[i][j+1])
			}
		}
	}
	var out [][2]int
	i, j := 0, 0
	for i < n || j < m {
		switch {
		case i < n && j < m && same(i, j):
			out = append(out, [2]int{i, j})
			i, j = i+1, j+1
		case j >= m || i < n && table[i+1][j] >= table[i][j+1]:
			out = append(out, [2]int{i, -1})
			i++
		default:
			out = append(out, [2]int{-1, j})
			j++
		}
	}
	return out
}

// compareRules names the rules and declarations in which two stylesheets differ.
func compareRules(a, b *css.Sheet) []string {
	type rule struct {
		order int
		decls map[string]string
	}
	rules := func(s *css.Sheet) (map[string]rule, []string) {
		out, names := map[string]rule{}, []string{}
		s.Walk(func(r *css.Rule, around []*css.Rule) {
			if !r.HasBody || len(r.Decls) == 0 && len(r.Rules) > 0 {
				return
			}
			name := ""
			for _, g := range append(append([]*css.Rule{}, around...), r) {
				text := string(bytes.TrimSpace(g.Prelude.Of(s.Source)))
				if g.At != "" {
					text = strings.TrimSpace("@" + g.At + " " + text)
				}
				name += " " + cut(text)
			}
			name = strings.TrimSpace(name)
			x, ok := out[name]
			if !ok {
				x = rule{len(names), map[string]string{}}
				names = append(names, name)
			}
			for _, d := range r.Decls {
				x.decls[d.Name] = cut(string(d.Value.Of(s.Source)))
			}
			out[name] = x
		})
		return out, names
	}
	x, namesX := rules(a)
	y, namesY := rules(b)
	var out []string
	for _, n := range namesX {
		if _, ok := y[n]; !ok {
			out = append(out, "the rule "+n+": removed")
		}
	}
	for _, n := range namesY {
		old, ok := x[n]
		if !ok {
			out = append(out, "the rule "+n+": added")
			continue
		}
		props := map[string]any{}
		for p, v := range old.decls {
			props[p] = v
		}
		news := map[string]any{}
		for p, v := range y[n].decls {
			news[p] = v
		}
		for _, d := range compareJSON("", props, news) {
			out = append(out, "the rule "+n+": "+strings.ReplaceAll(d, `"`, ""))
		}
	}
	if len(out) == 0 {
		out = append(out, "its rules stand in another order")
	}
	return out
}
