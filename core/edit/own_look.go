package edit

import (
	"encoding/json"
	"regexp"
	"slices"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/sourcemap"
)

// lookName is the custom property by which a rule of the sheet of appearances says which look it is of.
const lookName = "--look"

// ownLook lets an element, or all that a part or section begins with, wear a look of its own; without a
// value it wears the site's again.
func (e *editor) ownLook(op Operation) (string, error) {
	var values []declaration
	if op.Value != "" {
		var err error
		if values, err = e.lookValues(op.Value); err != nil {
			return "", err
		}
	}
	if op.Op == OwnLook {
		p, err := e.point(op.Page, op.Element)
		if err == nil && op.Place != "" {
			err = e.beside(p, op.Place)
		}
		if err != nil {
			return "", err
		}
		return lookSays("an element of "+p.head.Address.String(), op.Value), e.wearLook(p, op.Value, values)
	}
	slug, err := e.shownOn(op)
	if err != nil {
		return "", err
	}
	roots := 1
	for n := 0; n < roots; n++ { // each change moves what comes behind it
		p, all, err := e.root(slug, op.Item, n)
		if err != nil {
			return "", err
		}
		roots = all
		if err := e.wearLook(p, op.Value, values); err != nil {
			return "", err
		}
	}
	return lookSays(op.Item.String(), op.Value), nil
}

func lookSays(what, name string) string {
	if name == "" {
		return what + " wears the site's look again"
	}
	return what + " wears the look “" + name + "”"
}

// lookValues gives what a look says of the custom properties of the site's tokens, those that follow others
// too, since a custom property is computed where it is declared.
func (e *editor) lookValues(name string) ([]declaration, error) {
	looks, err := e.looks()
	if err != nil {
		return nil, err
	}
	l, ok := looks[name]
	if !ok {
		return nil, refuse("there is no look %q (looks: %s)", name, namesOf(looks))
	}
	sheet, err := l.Whole(e.over)
	if err != nil {
		return nil, err
	}
	quoted, err := json.Marshal(name)
	if err != nil {
		return nil, err
	}
	out := []declaration{{lookName, string(quoted)}}
	css.Parse(sheet).Walk(func(r *css.Rule, _ []*css.Rule) {
		for _, d := range r.Decls {
			out = append(out, declaration{d.Name, strings.TrimSpace(string(d.Value.Of(sheet)))})
		}
	})
	return out, nil
}

// shownOn gives the address of a page that shows an item: the one that is named, or the first.
func (e *editor) shownOn(op Operation) (string, error) {
	if _, there := e.over.Find(op.Item); !there || op.Item.Kind != item.Part && op.Item.Kind != item.Section {
		return "", refuse("there is no part or section %s", op.Item)
	}
	if op.Page != "" {
		return op.Page, nil
	}
	r := render.New(e.over)
	for _, h := range e.over.OfKind(item.Page) {
		out, err := r.Page(render.PageRequest{Slug: h.Meta.Slug, Mapped: true})
		if err != nil {
			return "", err
		}
		if out.Status == 200 && slices.Contains(out.Reached, op.Item) {
			return h.Meta.Slug, nil
		}
	}
	return "", refuse("no page shows %s", op.Item)
}

// root finds the n-th of the elements that an item begins with on a page, and tells how many there are.
func (e *editor) root(slug string, of item.Address, n int) (*pointed, int, error) {
	p, err := e.shown(slug, "body")
	if err != nil {
		return nil, 0, err
	}
	home := func(x *markup.Node) (item.Address, int) {
		if x == nil || !x.Own {
			return item.Address{}, 0
		}
		seg, ok := p.page.Map.At(x.Start.Start)
		a, known := p.page.Map.Item(seg)
		if !ok || !known || seg.Kind != sourcemap.Copied {
			return item.Address{}, 0
		}
		return a, seg.Place.Occurrence
	}
	var found []*markup.Node
	first := 0
	tree := p.tree()
	for _, x := range tree.All {
		a, at := home(x)
		up, _ := home(x.Parent)
		if a != of || up == of || slices.Contains([]string{"style", "script", "link", "template", "meta"}, x.Tag) {
			continue
		}
		if len(found) == 0 {
			first = at
		}
		if at == first {
			found = append(found, x)
		}
	}
	if n >= len(found) {
		return nil, 0, refuse("%s shows no element of %s", slug, of)
	}
	p.shown = found[n]
	return p, len(found), e.source(p)
}

// beside goes from an element to the one before or after it, or to the last within it.
func (e *editor) beside(p *pointed, place Place) error {
	var list []*markup.Node
	in := p.shown.Parent
	if place == Inside {
		in = p.shown
	}
	for _, x := range p.tree().All {
		if x.Parent == in {
			list = append(list, x)
		}
	}
	i := slices.Index(list, p.shown)
	switch place {
	case Before:
		i--
	case Inside:
		i = len(list) - 1
	default:
		i++
	}
	if i < 0 || i >= len(list) {
		return refuse("nothing stands there")
	}
	p.shown = list[i]
	return e.source(p)
}

// follows are the properties of a page's body that its parts inherit, or stand on, by the values of tokens:
// what has a look of its own says them again.
var follows = []string{"color", "background", "background-color", "font-family", "font", "line-height",
	"letter-spacing"}

// wearLook writes the values of a look for one element, or takes them back.
func (e *editor) wearLook(p *pointed, name string, values []declaration) error {
	sheet, err := e.appearances()
	if err != nil {
		return err
	}
	around, own, err := e.said(p)
	if err != nil {
		return err
	}
	class := ownClass(p.own)
	if class == "" {
		if name == "" {
			return nil
		}
		class = sheet.free()
	}
	of := appearanceRule{class: class}
	was, _ := sheet.find(of)
	for _, d := range was.list {
		if strings.HasPrefix(d.name, "--") || around[d.name] == d.value && around[d.name] != "" {
			if err := sheet.unset(of, d.name); err != nil {
				return err
			}
		}
	}
	kept, _ := sheet.find(of)
	if name != "" {
		for _, d := range values {
			if err := e.setProperty(p, sheet, of, d); err != nil {
				return err
			}
		}
		for _, property := range following(around, values) {
			chosen := slices.ContainsFunc(kept.list, func(d declaration) bool { return d.name == property })
			valued := slices.ContainsFunc(values, func(d declaration) bool { return d.name == property })
			if chosen || valued || own[property] {
				continue
			}
			if err := e.setProperty(p, sheet, of, declaration{property, around[property]}); err != nil {
				return err
			}
		}
	}
	return e.wear(p, sheet, class)
}

// said gives what the page says of its root and body by the values of custom properties, and which of these
// properties the element says by itself.
func (e *editor) said(p *pointed) (around map[string]string, own map[string]bool, err error) {
	cascade, err := e.cascade(p)
	if err != nil {
		return nil, nil, err
	}
	around, own = map[string]string{}, map[string]bool{}
	best := map[string]map[string]css.Applied{"html": {}, "body": {}}
	tree := p.tree()
	at := tree.Find(func(x *markup.Node) bool { return x.Own && x.Start == p.shown.Start })
	skip := func(n *markup.Node) bool { return n != at && n.Tag != "html" && n.Tag != "body" }
	cascade.Apply(tree, skip, func(n *markup.Node, x css.Applied) {
		if !strings.HasPrefix(x.Name, "--") && !slices.Contains(follows, x.Name) || x.When != "" {
			return
		}
		if n == at {
			for _, name := range append(css.Longhands(x.Name, x.Value), x.Name) {
				own[name] = true
			}
			return
		}
		if had, ok := best[n.Tag][x.Name]; !ok || x.Priority.Outranks(had.Priority) {
			best[n.Tag][x.Name] = x
		}
	})
	for _, tag := range []string{"html", "body"} { // the body has the last word
		for short, long := range map[string]string{"font": "font-family", "background": "background-color"} {
			s, both := best[tag][short]
			if both {
				delete(around, long)
			}
			if l, too := best[tag][long]; both && too && s.Priority.Outranks(l.Priority) {
				delete(best[tag], long)
			}
		}
		for name, x := range best[tag] {
			delete(around, name)
			if strings.Contains(x.Value, "var(") {
				around[name] = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(x.Value), "!important"))
			}
		}
	}
	for short, long := range map[string]string{"font": "font-family", "background": "background-color"} {
		if own[short] || own[long] {
			own[short], own[long] = true, true
		}
	}
	return around, own, nil
}

var propertyUsed = regexp.MustCompile(`var\(\s*(--[^\s,)]+)`)

// following lists the properties whose values follow those of a look, by way of others too.
func following(around map[string]string, values []declaration) (out []string) {
	changed := map[string]bool{}
	for _, d := range values {
		changed[d.name] = true
	}
	for more := true; more; {
		more = false
		for property, value := range around {
			if changed[property] {
				continue
			}
			for _, m := range propertyUsed.FindAllStringSubmatch(value, -1) {
				if changed[m[1]] {
					changed[property], more = true, true
					out = append(out, property)
					break
				}
			}
		}
	}
	slices.Sort(out)
	return out
}

// renewLook gives what wears a look its values anew.
func (e *editor) renewLook(name string) error {
	if _, there := e.over.Find(AppearanceSheet); !there {
		return nil
	}
	sheet, err := e.appearances()
	if err != nil {
		return err
	}
	values, err := e.lookValues(name)
	if err != nil {
		return err
	}
	changed := false
	for _, r := range sheet.rules() {
		if !slices.Contains(r.list, values[0]) {
			continue
		}
		changed = true
		for _, d := range values {
			now, _ := sheet.find(r)
			if err := sheet.set(r, d, now.weight(sheet.src)); err != nil {
				return err
			}
		}
	}
	if !changed {
		return nil
	}
	return sheet.write(e)
}
