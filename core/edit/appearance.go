package edit

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/says"
)

// State says when an appearance holds. The set is closed; empty: always.
type State string

// The states.
const (
	Pointed State = "pointed" // the pointer is over it
	Focused State = "focused"
	Pressed State = "pressed"
	Current State = "current" // it leads to the page at hand
)

// States lists all of them.
var States = []State{Pointed, Focused, Pressed, Current}

var pseudo = map[State]string{Pointed: ":hover", Focused: ":focus-visible", Pressed: ":active",
	Current: `[aria-current="page"]`}

// AppearanceSheet holds what single elements look like: one rule for each, by a class of its own.
var AppearanceSheet = item.Address{Kind: item.Stylesheet, Key: "appearance"}

// declaration is one property and its value.
type declaration struct{ name, value string }

// properties are those of an appearance, and the declarations that they are written as (CSS).
var properties = map[string]func(value string) []declaration{
	"background":       plain("background"),
	"picture":          pictureBehind,
	"picture-position": plain("object-position"),
	"tint": func(v string) []declaration {
		return []declaration{{"background-color", v}, {"background-blend-mode", "multiply"}}
	},
	"colour":       plain("color"),
	"space-around": plain("margin"),
	"space-within": plain("padding"),
	"columns":      columns,
	"gap":          plain("gap"),
	"order":        plain("order"),
	"width":        plain("max-width"),
	"height":       plain("min-height"),
	"align":        plain("text-align"),
	"font":         plain("font-family"),
	"text-size":    plain("font-size"),
	"border":       plain("border"),
	"corners":      plain("border-radius"),
	"shadow":       plain("box-shadow"),
	"jump-margin":  plain("scroll-margin-top"), // what a link to it leaves free above, as for a fixed bar
	"shown": func(v string) []declaration {
		return []declaration{{"display", map[string]string{"no": "none", "yes": "revert"}[v]}}
	},
}

// Properties lists the properties of an appearance.
func Properties() []string {
	out := make([]string, 0, len(properties))
	for k := range properties {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

func plain(name string) func(string) []declaration {
	return func(v string) []declaration { return []declaration{{name, v}} }
}

func pictureBehind(v string) []declaration {
	return []declaration{{"background-image", `url("/` + strings.TrimPrefix(v, "/") + `")`},
		{"background-size", "cover"}, {"background-position", "center"}}
}

// columns takes a number, or the shares of each as 1fr 2fr.
func columns(v string) []declaration {
	if n, err := strconv.Atoi(v); err == nil && n > 0 && n <= 12 {
		v = fmt.Sprintf("repeat(%d, minmax(0, 1fr))", n)
	}
	return []declaration{{"display", "grid"}, {"grid-template-columns", v}}
}

// appearance changes what one element looks like.
func (e *editor) appearance(op Operation) (string, error) {
	p, err := e.point(op.Page, op.Element)
	if err != nil {
		return "", err
	}
	if op.Op == SameAppearance {
		return e.sameAppearance(p, op)
	}
	rule, err := e.ruleFor(op)
	if err != nil {
		return "", err
	}
	sheet, err := e.appearances()
	if err != nil {
		return "", err
	}
	class := ownClass(p.own)
	if class == "" {
		if op.Value == "" {
			return "it is as it came", nil
		}
		class = sheet.free()
	}
	rule.class = class
	for _, d := range rule.list {
		if op.Value == "" {
			d.value = ""
		}
		if err := e.setProperty(p, sheet, rule, d); err != nil {
			return "", err
		}
	}
	if op.Property == "columns" && op.Value != "" && op.Width == 0 {
		sheet.stack(rule) // side by side they would be too narrow on a phone
	}
	says := fmt.Sprintf("chose %s of an element of %s", op.Property, p.head.Address)
	if op.Value == "" {
		says = fmt.Sprintf("took %s of an element of %s back", op.Property, p.head.Address)
	}
	return says, e.wear(p, sheet, class)
}

// ruleFor reads what is wanted into a rule, and holds its value against what can be.
func (e *editor) ruleFor(op Operation) (appearanceRule, error) {
	of, ok := properties[op.Property]
	rule := appearanceRule{state: op.State, width: op.Width}
	switch {
	case !ok:
		return rule, refuse("there is no property %q (properties: %s)", op.Property, strings.Join(Properties(), ", "))
	case op.State != "" && !slices.Contains(States, op.State):
		return rule, refuse("there is no state %q (states: pointed, focused, pressed, current)", op.State)
	case op.Width < 0 || op.Width > 5000:
		return rule, refuse("a width is a number of px, as 390 or 768")
	case op.Property == "shown" && op.Value != "" && op.Value != "yes" && op.Value != "no":
		return rule, refuse("write yes or no")
	}
	rule.list = of(op.Value)
	if op.Value == "" {
		return rule, nil
	}
	for _, d := range rule.list {
		if err := e.canBe(d); err != nil {
			return rule, err
		}
	}
	return rule, nil
}

// canBe tells why a declaration cannot be written; nil when it can: it must be one, and name only
// what is there.
func (e *editor) canBe(d declaration) error {
	text := []byte("x{" + d.name + ":" + d.value + "}")
	s := css.Parse(text)
	if len(s.Rules) != 1 || len(s.Rules[0].Decls) != 1 || len(s.Rules[0].Rules) > 0 || s.Rules[0].End != len(text) ||
		string(s.Rules[0].Decls[0].Value.Of(text)) != d.value || strings.Contains(d.value, "!") {
		return refuse("%q is no value of %s", d.value, d.name)
	}
	for _, r := range s.Refs() {
		switch r.Space {
		case css.URL:
			a, ok := item.FileAt(e.over, r.Name)
			if _, there := e.over.Find(a); !ok || !there || a.Kind != item.Media {
				return refuse("there are no media %s", r.Name)
			}
		case css.Prop:
			if known, err := e.knowsProperty(r.Name); err != nil || !known {
				if err == nil {
					err = refuse("no stylesheet says what %s is", r.Name)
				}
				return err
			}
		default:
		}
	}
	return nil
}

// knowsProperty tells whether a sheet or the tokens of the site define a custom property.
func (e *editor) knowsProperty(name string) (bool, error) {
	for _, kind := range []item.Kind{item.Stylesheet, item.Tokens} {
		for _, h := range e.over.OfKind(kind) {
			b, err := item.Read(e.over, h)
			if err != nil {
				return false, err
			}
			if kind == item.Tokens {
				if b, err = tokenSheet(b); err != nil {
					continue // it defines nothing that can be read
				}
			}
			for _, r := range css.Parse(b).Refs() {
				if r.Space == css.Prop && r.Defines && r.Name == name {
					return true, nil
				}
			}
		}
	}
	return false, nil
}

// setProperty writes a declaration as heavily as it must be to hold on the element.
func (e *editor) setProperty(p *pointed, sheet *appearanceSheet, rule appearanceRule, d declaration) error {
	if d.value == "" {
		return sheet.unset(rule, d.name)
	}
	cascade, err := e.cascade(p)
	if err != nil {
		return err
	}
	w := cascade.Heaviest(p.shown, d.name)
	if w.Layered {
		return refuse("a rule in a layer decides %s with !important: edit the stylesheet", d.name)
	}
	if w.Important || w.Inline {
		d.value += " !important"
	}
	return sheet.set(rule, d, w.Specificity)
}

// cascade reads the stylesheets of the page that an element stands on, but for the sheet of appearances.
func (e *editor) cascade(p *pointed) (*css.Cascade, error) {
	if p.cascade != nil {
		return p.cascade, nil
	}
	var sources [][]byte
	for _, a := range p.page.Reached {
		if a.Kind != item.Stylesheet || a == AppearanceSheet {
			continue
		}
		h, ok := e.over.Find(a)
		if !ok {
			continue
		}
		b, err := item.Read(e.over, h)
		if err != nil {
			return nil, err
		}
		sources = append(sources, b)
	}
	// The page's own style elements count, too.
	for _, n := range p.tree().All {
		if n.Tag == "style" && n.Own {
			sources = append(sources, n.Inner.Of(p.page.Body))
		}
	}
	p.cascade = css.NewCascade(sources...)
	return p.cascade, nil
}

// sameAppearance gives an element the appearance that another has.
func (e *editor) sameAppearance(p *pointed, op Operation) (string, error) {
	from, err := e.point(op.Page, op.Beside)
	if err != nil {
		return "", err
	}
	of := ownClass(from.own)
	if of == "" {
		return "", refuse("<%s> looks as it came: there is nothing to take over", says.TagName(from.own.Tag))
	}
	sheet, err := e.appearances()
	if err != nil {
		return "", err
	}
	class := ownClass(p.own)
	if class == "" {
		class = sheet.free()
	}
	for _, r := range sheet.rules() {
		if r.class != of {
			continue
		}
		r.class = class
		for _, d := range r.list {
			d.value = strings.TrimSpace(strings.TrimSuffix(d.value, "!important"))
			if err := e.setProperty(p, sheet, r, d); err != nil {
				return "", err
			}
		}
	}
	return "gave an element of " + p.head.Address.String() + " the look of another", e.wear(p, sheet, class)
}

// ownClass is the class by which the sheet of appearances names an element; "" where it has none.
func ownClass(n *markup.Node) string {
	for _, c := range n.Classes() {
		if isOwnClass(c) {
			return c
		}
	}
	return ""
}

func isOwnClass(c string) bool {
	n, ok := strings.CutPrefix(c, "own-")
	_, err := strconv.Atoi(n)
	return ok && err == nil
}

// wear writes the sheet, lets the element have its class, or not, and its item wear the sheet.
func (e *editor) wear(p *pointed, sheet *appearanceSheet, class string) error {
	if err := sheet.write(e); err != nil {
		return err
	}
	list := slices.DeleteFunc(p.own.Classes(), func(c string) bool { return c == class })
	if sheet.has(class) {
		list = append(list, class)
		p.head.Meta.Styles = withStyles(p.head.Meta.Styles, AppearanceSheet)
	}
	if slices.Equal(list, p.own.Classes()) {
		return e.putHead(p.head)
	}
	return e.change(p, markup.SetAttr(p.own, "class", strings.Join(list, " ")))
}
