package faults

import (
	"io"
	"maps"
	"regexp"
	"slices"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/markup"
	"compactparcel/core/tokens"
)

// What WCAG 2.2 asks of texts (1.4.3, level AA).
const (
	enoughContrast = 4.5
	enoughForLarge = 3.0
)

var variable = regexp.MustCompile(`var\(\s*(--[^\s,)]+)\s*(?:,\s*([^()]*))?\)`)

// worn is what a page's rules say of an element, as far as it decides how a text reads.
type worn struct {
	text   string        // its colour
	ground tokens.Colour // what lies behind it, opaque
	sure   bool          // the ground is known
	vars   *scope        // custom properties
	large  bool
	hidden bool
}

// scope is the custom properties of an element, within those of the elements around it.
type scope struct {
	own map[string]string
	up  *scope
}

func (s *scope) find(name string) (string, bool) {
	for ; s != nil; s = s.up {
		if v, ok := s.own[name]; ok {
			return v, true
		}
	}
	return "", false
}

// moments are the states that are looked at beside rest, and how they are called.
var moments = []struct {
	says   string
	states []string
}{
	{" when it is pointed at", []string{"hover"}},
	{" when it is focused", []string{"focus", "focus-visible", "focus-within"}},
	{" when it is pressed", []string{"hover", "active"}},
}

// contrasts holds every text against the ground that it stands on, as the page's own rules have it:
// at rest and in the states of a pointer and of the keyboard, without rules that hold for some screens only,
// and only where no picture and no element out of the flow lies between.
func (l *pageLook) contrasts() error {
	cascade, err := l.cascade()
	if err != nil {
		return err
	}
	foreign := func(n *markup.Node) bool { return n.Space != "" }
	best := declared{}
	cascade.Apply(l.tree, foreign, best.take)
	seen := []map[*markup.Node]worn{l.readable(best, nil, "")}
	for _, m := range moments {
		in := declared{}
		cascade.ApplyIn(m.states, l.tree, foreign, func(n *markup.Node, x css.Applied) {
			if !settled(x) {
				return
			}
			if in[n] == nil {
				in[n] = maps.Clone(best[n])
			}
			in.take(n, x)
		})
		if len(in) == 0 {
			continue
		}
		for n, said := range best {
			if in[n] == nil {
				in[n] = said
			}
		}
		seen = append(seen, l.readable(in, seen, m.says))
	}
	return nil
}

// declared is what decides how each element's text reads, by longhand property.
type declared map[*markup.Node]map[string]css.Applied

// settled tells whether a declaration decides how a text reads, whatever the screen.
func settled(x css.Applied) bool {
	return !strings.Contains(x.When, "@media") && !strings.Contains(x.When, "@container") && decides(x.Name)
}

func (d declared) take(n *markup.Node, x css.Applied) {
	if !settled(x) {
		return
	}
	if d[n] == nil {
		d[n] = map[string]css.Applied{}
	}
	for _, name := range css.Longhands(x.Name, x.Value) {
		if had, ok := d[n][name]; !ok || x.Priority.Outranks(had.Priority) {
			d[n][name] = x
		}
	}
}

// readable tells which texts cannot be read well, and gives what each element wears. What was seen so before is
// not told again.
func (l *pageLook) readable(best declared, seen []map[*markup.Node]worn, when string) map[*markup.Node]worn {
	known := ""
	if l.remote {
		known = ", as far as the sheets here tell"
	}
	of := map[*markup.Node]worn{nil: {text: "#000", ground: tokens.Colour{R: 1, G: 1, B: 1, A: 1}, sure: true}}
	told := map[string]bool{}
	for _, n := range l.tree.All {
		up, ok := of[n.Parent]
		if !ok {
			up = of[nil]
		}
		w := up.below(n, best[n])
		of[n] = w
		if !n.HasText || n.Space != "" || !n.Own || w.hidden || !w.sure || !shows(n) {
			continue
		}
		value := w.value(w.text)
		text, ok := tokens.ReadColour(value)
		if !ok || slices.ContainsFunc(seen, func(before map[*markup.Node]worn) bool {
			was := before[n]
			return was.sure && was.ground == w.ground && was.value(was.text) == value
		}) {
			continue
		}
		enough := enoughContrast
		if w.large {
			enough = enoughForLarge
		}
		ratio := tokens.Contrast(text.Over(w.ground), w.ground)
		if key := w.text + "\n" + classOf(n.Parent) + n.Tag + n.Value("class"); ratio < enough && !told[key] {
			told[key] = true
			remedy := "choose a darker or lighter colour"
			if near, ok := tokens.Nearest(text.Over(w.ground), w.ground, enough); ok {
				remedy += ": " + near.Hex() + " is the nearest that is read well"
			}
			l.tell(Contrast, n, remedy,
				"a text has a contrast of %.1f to its ground%s, and needs %.1f%s", ratio, when, enough, known)
		}
	}
	return of
}

func classOf(n *markup.Node) string {
	if n == nil {
		return ""
	}
	return n.Value("class")
}

// decides tells whether a property decides how a text reads.
func decides(name string) bool {
	switch name {
	case "color", "background", "background-color", "background-image", "display", "visibility", "opacity",
		"position", "font-size", "font", "filter", "mix-blend-mode", "clip", "clip-path", "text-indent", "all":
		return true
	}
	return strings.HasPrefix(name, "--")
}

// shows tells whether an element's text is shown at all, by what it is.
func shows(n *markup.Node) bool {
	switch n.Tag {
	case "script", "style", "title", "template", "noscript", "option", "textarea", "html", "head":
		return false
	}
	return !unseen(n)
}

// below gives what an element wears in its parent.
func (w worn) below(n *markup.Node, own map[string]css.Applied) worn {
	out := w
	if len(n.Tag) == 2 && (n.Tag == "h1" || n.Tag == "h2") {
		out.large = true // as browsers show them
	}
	for name, x := range own {
		if strings.HasPrefix(name, "--") {
			if out.vars == w.vars {
				out.vars = &scope{own: map[string]string{}, up: w.vars}
			}
			out.vars.own[name] = strings.TrimSpace(x.Value)
		}
	}
	if n.Tag == "a" && n.Value("href") != "" {
		out.text = "" // rules for :link are not read: it is known only where another rule says it
	}
	if n.Tag == "button" || n.Tag == "input" || n.Tag == "select" || n.Tag == "mark" {
		out.sure = false // browsers give them a ground of their own
	}
	said := func(name string) string { return strings.ToLower(out.value(own[name].Value)) }
	if v := said("color"); v != "" && v != "inherit" && v != "currentcolor" {
		out.text = own["color"].Value
	}
	if v := said("color"); v == "inherit" {
		out.text = w.text
	}
	switch v := said("background-color"); {
	case own["background-color"].Name == "background":
		out.lay(v, w)
	case v != "" && v != "inherit":
		out.lay(v, w)
	}
	if v := said("background-image"); v != "" && v != "none" {
		out.sure = false
	}
	if v := said("position"); v == "absolute" || v == "fixed" || v == "sticky" {
		out.sure = false
	}
	for _, name := range []string{"opacity", "filter", "mix-blend-mode", "clip", "clip-path", "text-indent", "all"} {
		if _, ok := own[name]; ok {
			out.sure = false
		}
	}
	if said("display") == "none" || said("visibility") == "hidden" {
		out.hidden = true
	}
	if _, ok := own["font-size"]; ok {
		out.large = false
	}
	return out
}

// lay puts a ground behind an element.
func (w *worn) lay(value string, on worn) {
	value = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(value), "!important"))
	switch value {
	case "", "none", "initial", "unset", "0", "0 0":
		return
	}
	c, ok := tokens.ReadColour(value)
	switch {
	case !ok:
		w.sure = false
	case c.A == 1:
		w.ground, w.sure = c, true
	default:
		w.ground = c.Over(on.ground)
	}
}

// value follows custom properties in a value.
func (w worn) value(v string) string {
	for range 20 {
		at := variable.FindStringSubmatchIndex(v)
		if at == nil {
			break
		}
		with, ok := w.vars.find(v[at[2]:at[3]])
		if !ok && at[4] >= 0 {
			with = v[at[4]:at[5]]
		}
		v = v[:at[0]] + with + v[at[1]:]
	}
	return strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(v), "!important"))
}

// cascade reads the page's sheets in the order of its document, and notes whether one is not here.
func (l *pageLook) cascade() (*css.Cascade, error) {
	var sheets [][]byte
	var key strings.Builder
	for _, s := range css.LoadedSheets(l.tree) {
		switch {
		case !s.OnScreen():
		case s.Own():
			b := s.Node.Inner.Of(l.tree.Source)
			sheets = append(sheets, b)
			key.Write(b)
		default:
			x, found, err := l.r.AssetAt(s.Path)
			if err != nil {
				return nil, err
			}
			if !found {
				l.remote = true
				continue
			}
			f, err := l.r.Open(x)
			if err != nil {
				return nil, err
			}
			b, err := io.ReadAll(f)
			f.Close()
			if err != nil {
				return nil, err
			}
			sheets = append(sheets, b)
			key.WriteString(x.Path)
		}
		key.WriteByte('\n')
	}
	c, known := l.cascades[key.String()]
	if !known {
		if len(l.cascades) > maxCascades {
			clear(l.cascades)
		}
		c = css.NewCascade(sheets...)
		l.cascades[key.String()] = c
	}
	return c, nil
}

// maxCascades bounds how many sets of sheets one worker keeps ready.
const maxCascades = 8
