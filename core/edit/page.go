package edit

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/says"
	"compactparcel/core/span"
)

// pageAt gives the page item that is shown at an address.
func (e *editor) pageAt(slug string) (item.Head, error) {
	if a, ok := render.New(e.over).PageAt(slug); ok {
		h, _ := e.over.Find(a)
		return h, nil
	}
	return item.Head{}, refuse("no page is at %s", says.Slug(slug))
}

// page makes a page, changes what is known of one, or takes it out.
func (e *editor) page(op Operation) (string, error) {
	if op.Op == PageNew {
		return e.newPage(op)
	}
	h, err := e.pageAt(op.Page)
	if err != nil {
		return "", err
	}
	name := h.Address.String()
	switch op.Op {
	case PageTitle:
		h.Meta.Title = op.Value
		return "gave " + name + " the title " + op.Value, e.putHead(h)
	case PageAddress:
		return e.movePage(h, op.Value)
	case PageWithout:
		h.Meta.Without = nil
		for _, w := range strings.Fields(op.Value) {
			role := item.Role(w)
			if !slices.Contains(item.RoleNames(), w) {
				return "", refuse("there is no role %s", w)
			}
			h.Meta.Without = append(h.Meta.Without, role)
		}
		return "chose what does not stand around " + name, e.putHead(h)
	case PageVariant:
		return "chose a variant on " + name, e.choose(h, op)
	case PageWidth:
		if h.Meta.Width = item.Width(op.Value); h.Meta.Width.Check() != nil {
			return "", refuse("the width is %s or %s", item.WidthText, item.WidthEdge)
		}
		return "chose the width of " + name, e.putHead(h)
	case PageHidden:
		return e.hide(h, op.Value)
	case PageHome:
		return e.home(h, op.Value)
	default:
		return e.removePage(h)
	}
}

// newPage makes a page: empty, or as a copy of another.
func (e *editor) newPage(op Operation) (string, error) {
	if err := e.freeSlug(op.Page); err != nil {
		return "", err
	}
	h := item.Head{Address: e.freeKey(item.Page, op.Page)}
	src := []byte("<!doctype html>\n<html>\n<head>\n<meta charset=\"utf-8\">\n" +
		"<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n<title>" +
		markup.EscapeText(op.Value) + "</title>\n</head>\n<body>\n<main>\n<h1>" + markup.EscapeText(op.Value) +
		"</h1>\n</main>\n</body>\n</html>\n")
	if !op.Item.IsZero() {
		of, ok := e.over.Find(op.Item)
		if !ok || op.Item.Kind != item.Page {
			return "", refuse("there is no page %s", op.Item)
		}
		var err error
		if src, err = item.Read(e.over, of); err != nil {
			return "", err
		}
		h.Meta = of.Meta
	} else {
		h.Meta.Styles = e.siteLook()
	}
	h.Meta.Title, h.Meta.Slug = op.Value, op.Page
	return "made the page " + op.Page, e.put(h, src)
}

// siteLook gives the sheets that the home page wears, or, where there is none, another page.
func (e *editor) siteLook() []item.Address {
	if home, err := e.pageAt("/"); err == nil {
		return slices.Clone(home.Meta.Styles)
	}
	for _, h := range e.over.OfKind(item.Page) {
		return slices.Clone(h.Meta.Styles)
	}
	return nil
}

// freeSlug tells why no page can be put at an address; nil when one can.
func (e *editor) freeSlug(slug string) error {
	if err := item.CheckSlug(slug); err != nil {
		return refuse("%v", err)
	}
	there, err := e.leads(slug)
	if err == nil && there {
		err = refuse("something is at %s already", says.Slug(slug))
	}
	return err
}

// freeKey makes a key of a name that no item of the kind has.
func (e *editor) freeKey(kind item.Kind, name string) item.Address {
	key := item.MakeKey(strings.Trim(name, "/"))
	for n, a := 2, (item.Address{Kind: kind, Key: key}); ; n++ {
		if _, taken := e.over.Find(a); !taken {
			return a
		}
		a.Key = fmt.Sprintf("%s-%d", key, n)
	}
}

// movePage gives a page another address; those below it, links, menus and placements follow.
func (e *editor) movePage(h item.Head, to string) (string, error) {
	if err := item.CheckSlug(to); err != nil {
		return "", refuse("%v", err)
	}
	from := h.Meta.Slug
	m, err := Move(state{e.over, e}, h.Address, to)
	var taken *TakenError
	if errors.As(err, &taken) {
		return "", refuse("%s is already at %s", taken.By, taken.Slug)
	}
	if err != nil {
		return "", err
	}
	for _, c := range m.Changes {
		if c.Content == nil {
			err = e.putHead(c.Head)
		} else {
			err = e.put(c.Head, c.Content)
		}
		if err != nil {
			return "", err
		}
	}
	says := fmt.Sprintf("moved %s from %s to %s", h.Address, from, to)
	if len(m.Behind) > 0 {
		says += fmt.Sprintf("; a script of %s may go on naming the old address, which leads to the new one",
			m.Behind[0])
	}
	return says, nil
}

// choose gives a page another variant of the part in a role; none goes back to the part's own.
func (e *editor) choose(h item.Head, op Operation) error {
	role := item.Role(op.Property)
	known := false
	for _, p := range e.over.OfKind(item.Part) {
		known = known || p.Meta.Role == role && slices.Contains(p.Meta.Variants, op.Value)
	}
	if !known && op.Value != "" {
		return refuse("no %s has a variant %q", role, op.Value)
	}
	chosen := map[item.Role]string{}
	for r, v := range h.Meta.Variant {
		chosen[r] = v
	}
	if chosen[role] = op.Value; op.Value == "" {
		delete(chosen, role)
	}
	h.Meta.Variant = chosen
	return e.putHead(h)
}

// hide asks search engines to leave a page out, by the robots meta element (HTML, 4.2.5), or not to.
func (e *editor) hide(h item.Head, value string) (string, error) {
	if value != "yes" && value != "no" {
		return "", refuse("write yes or no")
	}
	src, err := item.Read(e.over, h)
	if err != nil {
		return "", err
	}
	tree := markup.Parse(src, "")
	head := tree.Find(func(n *markup.Node) bool { return n.Tag == "head" })
	meta := tree.Find(func(n *markup.Node) bool {
		return n.Own && n.Tag == "meta" && strings.EqualFold(n.Value("name"), "robots")
	})
	var edit span.Edit
	switch {
	case meta != nil && value == "yes":
		edit = markup.SetAttr(meta, "content", "noindex")
	case meta != nil:
		edit = span.Edit{Span: meta.Outer()}
	case value == "no":
		return "search engines may list " + h.Address.String(), nil
	case head == nil || !head.Own:
		return "", refuse("%s has no head of its own: edit its source", h.Address)
	default:
		edit = span.Edit{Span: span.Span{Start: head.Start.End, End: head.Start.End},
			New: []byte("\n<meta name=\"robots\" content=\"noindex\">")}
	}
	out, err := span.Apply(src, []span.Edit{edit})
	if err != nil {
		return "", err
	}
	says := "asked search engines to leave " + h.Address.String() + " out"
	if value == "no" {
		says = "let search engines list " + h.Address.String()
	}
	return says, e.put(h, out)
}

// home makes a page the home page. What becomes of the former one is said in the same act: an address
// of its own, or "removed".
func (e *editor) home(h item.Head, former string) (string, error) {
	at, err := e.pageAt("/")
	none := err != nil
	if !none && at.Address == h.Address {
		return "", refuse("%s is the home page already", h.Address)
	}
	says := h.Address.String() + " is the home page"
	switch {
	case none || former == "" && at.Meta.Slug != "/": // it has an address of its own
	case former == "":
		return "", refuse("say what becomes of %s: the address that it gets, or removed", at.Address)
	case former == "removed":
		e.drop(at.Address)
		says += ", the former one is removed"
	default: // links to / mean the home page, and go on meaning it
		if err := e.freeSlug(former); err != nil {
			return "", err
		}
		at.Meta.Slug = former
		if err := e.putHead(at); err != nil {
			return "", err
		}
		says += ", the former one is at " + former
	}
	setting := item.Address{Kind: item.Setting, Key: "home"}
	sh, ok := e.over.Find(setting)
	if !ok {
		sh = item.Head{Address: setting}
	}
	return says, e.put(sh, []byte(`"`+h.Address.String()+`"`))
}

// removePage takes a page out, and the entries that menus have for it.
func (e *editor) removePage(h item.Head) (string, error) {
	r := render.New(e.over)
	if a, ok := r.PageAt("/"); ok && a == h.Address {
		return "", refuse("it is the home page: make another page that first")
	}
	left, err := e.linking(h.Meta.Slug)
	if err != nil {
		return "", err
	}
	e.drop(h.Address)
	says := "removed " + h.Address.String()
	var broken []string
	for _, a := range left {
		if a == h.Address {
			continue
		}
		if a.Kind == item.Menu {
			if err := e.withoutEntries(a, h.Meta.Slug); err != nil {
				return "", err
			}
			continue
		}
		broken = append(broken, a.String())
	}
	if len(broken) > 0 {
		says += fmt.Sprintf("; links to it stay in %s", strings.Join(broken, ", "))
	}
	return says, nil
}

// linking gives the items whose source links to an address as it is by now.
func (e *editor) linking(slug string) ([]item.Address, error) {
	list, err := state{e.over, e}.LinkedFrom(slug)
	if err != nil {
		return nil, err
	}
	var out []item.Address
	for _, a := range list {
		h, ok := e.over.Find(a)
		if !ok {
			continue
		}
		src, err := item.Read(e.over, h)
		if err != nil {
			return nil, err
		}
		f := facts.Extract(a.Kind, h.Meta.Context, src)
		if slices.ContainsFunc(f.Refs, func(r facts.Ref) bool { return r.Space == facts.Address && r.Name == slug }) {
			out = append(out, a)
		}
	}
	return out, nil
}

// withoutEntries takes the entries that lead to an address out of a menu; what stands below them goes
// up. A menu that holds more than entries stays.
func (e *editor) withoutEntries(menu item.Address, slug string) error {
	h, m, err := e.readMenu(menu)
	var no refusal
	if errors.As(err, &no) {
		return nil
	}
	if err != nil {
		return err
	}
	var kept func(list []render.MenuEntry) []render.MenuEntry
	kept = func(list []render.MenuEntry) (out []render.MenuEntry) {
		for _, x := range list {
			x.Entries = kept(x.Entries)
			if x.To == slug {
				out = append(out, x.Entries...)
				continue
			}
			out = append(out, x)
		}
		return out
	}
	m.Entries = kept(m.Entries)
	b, err := m.Text()
	if err != nil {
		return err
	}
	return e.put(h, b)
}
