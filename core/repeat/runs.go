package repeat

import (
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// run is a static run of similar blocks under one parent: cards, notices, rooms.
type run struct {
	doc     int
	at      span.Span // from the first block's white space to the last block's end
	blocks  []span.Span
	shape   shape
	line    int
	name    string
	likes   float64
	differs []Difference
	address item.Address // of the record type
}

const (
	minRun       = 3   // blocks
	minBlockSize = 3   // elements of a block
	maxRuns      = 20  // proposals of records
	maxRunBlocks = 500 // blocks of one run
)

// noRun are elements within which a run is something else: a menu, a table, a form.
var noRun = map[string]bool{
	"nav":      true,
	"header":   true,
	"footer":   true,
	"table":    true,
	"form":     true,
	"select":   true,
	"svg":      true,
	"head":     true,
	"template": true,
}

// findRuns gives the runs of one document, the outermost only.
func findRuns(d *document, index int, sizes map[*markup.Node]sized) []*run {
	var out []*run
	var walk func(n *markup.Node)
	walk = func(n *markup.Node) {
		if noRun[n.Tag] || strings.HasPrefix(n.Tag, "cp-") || n.Value("role") == "navigation" {
			return
		}
		for i := 0; i < len(n.Children); {
			k := i + 1
			for k < len(n.Children) && sizes[n.Children[k]].shape == sizes[n.Children[i]].shape {
				k++
			}
			if r := asRun(d, n.Children[i:k], sizes); r != nil {
				r.doc = index
				out = append(out, r)
			} else {
				for _, c := range n.Children[i:k] {
					walk(c)
				}
			}
			i = k
		}
	}
	for _, top := range d.tree.Root.Children {
		walk(top)
	}
	return out
}

func asRun(d *document, blocks []*markup.Node, sizes map[*markup.Node]sized) *run {
	if len(blocks) < minRun || len(blocks) > maxRunBlocks || sizes[blocks[0]].size < minBlockSize ||
		blocks[0].Space != "" {
		return nil
	}
	telling := false // a heading, a picture or a date, not mere links
	for _, n := range elements(blocks[0]) {
		telling = telling || n.Tag == "img" || n.Tag == "picture" || n.Tag == "time" ||
			len(n.Tag) == 2 && n.Tag[0] == 'h' && n.Tag[1] >= '1' && n.Tag[1] <= '6'
	}
	if !telling {
		return nil
	}
	r := &run{shape: sizes[blocks[0]].shape}
	at := blocks[0].Start.Start
	for at > 0 && strings.IndexByte(" \t\r\n\f", d.src[at-1]) >= 0 {
		at--
	}
	r.at = span.Span{Start: at, End: blocks[len(blocks)-1].End.End}
	first := slots(d.src, blocks[0])
	equal := 0
	values := make([]map[string]bool, len(first))
	for i, n := range blocks {
		if !n.Own || !n.Closed || i > 0 && strings.TrimSpace(string(d.src[r.blocks[i-1].End:n.Start.Start])) != "" {
			return nil // text or comments between the blocks would be lost
		}
		list := slots(d.src, n)
		if len(list) != len(first) {
			return nil
		}
		for k, s := range list {
			if isMark(s.node, s.attr) && (s.value != first[k].value || s.has != first[k].has) {
				return nil
			}
			if values[k] == nil {
				values[k] = map[string]bool{}
			}
			values[k][s.value] = true
			if s.value == first[k].value {
				equal++
			}
		}
		r.blocks = append(r.blocks, n.Outer())
	}
	for k, v := range values {
		if len(v) > 1 {
			r.differs = addDifference(r.differs, Difference{first[k].describe(), len(v)})
		}
	}
	if len(r.differs) == 0 {
		return nil
	}
	r.likes = float64(equal) / float64(len(first)*len(blocks))
	r.line, _ = span.Line(d.src, blocks[0].Start.Start)
	named := calledBy(blocks[0])
	named.above = headingAbove(blocks[0])
	if up := blocks[0].Parent; up != nil && named.word == "" {
		named.word = calledBy(up).word
	}
	r.name = named.one()
	return r
}

// mergeRuns names the runs, the longest first, and drops those beyond the limit.
func mergeRuns(runs []*run, taken map[item.Address]bool) []*run {
	sort.SliceStable(runs, func(i, j int) bool { return len(runs[i].blocks) > len(runs[j].blocks) })
	runs = runs[:min(len(runs), maxRuns)]
	for _, r := range runs {
		r.address = free(item.Address{Kind: item.RecordType, Key: r.name}, taken)
	}
	return runs
}

func (r *run) proposal(f *finder) Proposal {
	h := f.heads[r.doc]
	return Proposal{
		Address:  r.address,
		Likeness: r.likes,
		Message:  fmt.Sprintf("%d similar blocks in a row, as records and a list of them", len(r.blocks)),
		Stands:   []Stand{{h.Address, h.Meta.Slug, r.line}},
		Differs:  r.differs,
	}
}

// records turns a run into a record type, its records, and the list that shows them
// in their order.
func (r *run) records(d *document, taken map[item.Address]bool) (items []Item, list string, err error) {
	first := nodeAt(d.tree, r.blocks[0])
	if first == nil {
		return nil, "", errTooDifferent
	}
	base, elems := slots(d.src, first), elements(first)
	differ := map[int]bool{}
	for _, at := range r.blocks {
		n := nodeAt(d.tree, at)
		for k, s := range slots(d.src, n) {
			if s.value != base[k].value {
				differ[k] = true
			}
		}
	}
	fields, err := r.fields(base, elems, differ)
	if err != nil {
		return nil, "", err
	}
	typ := map[string]any{}
	for _, f := range fields {
		typ[f.name] = map[string]string{"type": f.typ(), "label": label(f.name)}
	}
	items = append(
		items,
		Item{
			Head:    item.Head{Address: r.address, Meta: item.Meta{Title: label(r.address.Key)}},
			Content: jsonText(map[string]any{"title": label(r.address.Key), "fields": typ}),
		},
	)
	for i, at := range r.blocks {
		items = append(items, r.record(d, at, i, fields, taken))
	}
	edits := r.bind(elems, fields)
	block, err := span.Apply(r.blocks[0].Of(d.src), edits)
	if err != nil {
		return nil, "", err
	}
	lead := string(d.src[r.at.Start:r.blocks[0].Start])
	return items, lead + `<cp-records type="` + r.address.Key + `" sort="order" order="rising">` + lead + string(
		block,
	) + lead + "</cp-records>", nil
}

// record makes one block of a run a record.
func (r *run) record(d *document, at span.Span, i int, fields []field, taken map[item.Address]bool) Item {
	n := elements(nodeAt(d.tree, at))
	title := ""
	var b strings.Builder
	fmt.Fprintf(&b, "<article>\n  <data data-value=\"value:order\" value=\"%04d\"></data>\n", i+1)
	for _, f := range fields {
		e := n[f.element]
		if f.name == "title" {
			title = e.Text()
		}
		b.WriteString("  " + f.value(d.src, e) + "\n")
	}
	b.WriteString("</article>\n")
	if title == "" {
		title = fmt.Sprintf("%s %d", label(r.address.Key), i+1)
	}
	key := r.address.Key + "/" + strings.ReplaceAll(item.MakeKey(title), "/", "-")
	if len(key) > 100 {
		key = key[:100]
	}
	a := free(item.Address{Kind: item.Record, Key: strings.Trim(key, "-.")}, taken)
	return Item{
		Head:    item.Head{Address: a, Meta: item.Meta{Type: r.address.Key, Title: title}},
		Content: []byte(b.String()),
	}
}

// bind marks in the first block which element shows which field.
func (r *run) bind(elems []*markup.Node, fields []field) (edits []span.Edit) {
	for e, n := range elems {
		var binds []string
		for _, f := range fields {
			if f.element == e {
				binds = append(binds, f.target+":"+f.name)
			}
		}
		if len(binds) > 0 {
			at := n.Start.Start + 1 + len(n.Tag) - r.blocks[0].Start
			edits = append(edits, span.Edit{Span: span.Span{Start: at, End: at},
				New: []byte(` data-field="` + markup.EscapeAttr(strings.Join(binds, "; ")) + `"`)})
		}
	}
	return edits
}

// field is one place of a block that differs.
type field struct {
	element int
	target  string // text, html or an attribute
	name    string
}

func (r *run) fields(base []slot, elems []*markup.Node, differ map[int]bool) ([]field, error) {
	var out []field
	number := map[*markup.Node]int{}
	for i, n := range elems {
		number[n] = i
	}
	whole := map[*markup.Node]bool{}
	for k, s := range base {
		if differ[k] && s.mixed {
			whole[s.node] = true
		}
	}
	names, done := map[string]int{}, map[string]bool{}
	for k, s := range base {
		if !differ[k] {
			continue
		}
		covered := false
		for up := s.node.Parent; up != nil && up != elems[0].Parent; up = up.Parent {
			covered = covered || whole[up]
		}
		if covered {
			continue
		}
		f := field{element: number[s.node], target: s.attr, name: valueName(s)}
		switch {
		case s.attr == "" && whole[s.node]:
			f.target = "html"
		case s.attr == "":
			f.target = "text"
		}
		if f.name == "heading" {
			f.name = "title"
		}
		if id := fmt.Sprint(f.element, f.target); done[id] {
			continue
		} else {
			done[id] = true
		}
		if names[f.name]++; names[f.name] > 1 {
			f.name = fmt.Sprintf("%s-%d", f.name, names[f.name])
		}
		out = append(out, f)
	}
	if whole[elems[0]] {
		return nil, errTooDifferent
	}
	return out, nil
}

func (f field) typ() string {
	switch {
	case f.target == "html":
		return "rich-text"
	case f.target == "src":
		return "image"
	case f.target == "href":
		return "url"
	case strings.HasPrefix(f.name, "date"):
		return "date"
	}
	return "text"
}

// value writes a field of a record: where it is an address, in an attribute that is
// read as one.
func (f field) value(src []byte, n *markup.Node) string {
	bind := fmt.Sprintf(` data-value="%s:%s"`, f.target, f.name)
	switch f.target {
	case "text":
		return "<p" + bind + ">" + markup.EscapeText(n.Text()) + "</p>"
	case "html":
		return "<div" + bind + ">" + string(n.Inner.Of(src)) + "</div>"
	case "href":
		return "<a" + bind + ` href="` + markup.EscapeAttr(n.Value("href")) + `"></a>`
	case "src", "srcset", "alt":
		return "<img" + bind + " " + f.target + `="` + markup.EscapeAttr(n.Value(f.target)) + `">`
	}
	return fmt.Sprintf(`<data data-value="value:%s" value="%s"></data>`, f.name, markup.EscapeAttr(n.Value(f.target)))
}

func label(key string) string {
	s := strings.NewReplacer("-", " ", "_", " ", "/", " ").Replace(key)
	return strings.ToUpper(s[:1]) + s[1:]
}
