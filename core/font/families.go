package font

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/tokens"
)

// Family is a family of fonts that stylesheets define.
type Family struct {
	Name  string
	Faces []Face
}

// Face is one of its faces: an @font-face rule (CSS Fonts Level 4, section 4).
type Face struct {
	// Weight is a number, or two for a range, as 100 900.
	Weight string
	Italic bool
	// Files are the media that it is loaded from, the first that a browser reads; none where these are other
	// addresses, or the visitor's own.
	Files []item.Address
	// Rule is the whole rule, as its stylesheet has it.
	Rule string
}

// With gives the face's rule with its files at other addresses.
func (f Face) With(at map[item.Address]item.Address) (string, error) {
	out, err := facts.Rewrite(item.Stylesheet, "", []byte(f.Rule), facts.RenamesFor(at, nil))
	return string(out), err
}

// Families lists the families that the stylesheets of a collection define, by name.
func Families(c item.Collection) ([]Family, error) {
	var out []Family
	for _, h := range c.OfKind(item.Stylesheet) {
		b, err := item.Read(c, h)
		if err != nil {
			return nil, err
		}
		css.Parse(b).Walk(func(r *css.Rule, _ []*css.Rule) {
			name, ok := r.FontFamily(b)
			if !ok {
				return
			}
			f := faceOf(c, b, r)
			same := func(o Face) bool { return o.Rule == f.Rule }
			if i := slices.IndexFunc(out, func(o Family) bool { return o.Name == name }); i >= 0 {
				if !slices.ContainsFunc(out[i].Faces, same) {
					out[i].Faces = append(out[i].Faces, f)
				}
				return
			}
			out = append(out, Family{Name: name, Faces: []Face{f}})
		})
	}
	for _, f := range out {
		slices.SortStableFunc(f.Faces, func(a, b Face) int {
			return cmp.Or(cmp.Compare(first(a.Weight), first(b.Weight)), strings.Compare(a.Weight, b.Weight))
		})
	}
	slices.SortFunc(out, func(a, b Family) int { return strings.Compare(a.Name, b.Name) })
	return out, nil
}

func first(weight string) int {
	n, _ := strconv.Atoi(strings.Fields(weight + " 0")[0])
	return n
}

func faceOf(c item.Files, src []byte, r *css.Rule) Face {
	f := Face{Weight: "400", Rule: string(r.Of(src))}
	for _, d := range r.Decls {
		v := strings.TrimSpace(string(d.Value.Of(src)))
		switch d.Name {
		case "font-weight":
			f.Weight = strings.Join(strings.Fields(strings.NewReplacer("normal", "400", "bold", "700").Replace(v)), " ")
		case "font-style":
			f.Italic = strings.HasPrefix(v, "italic") || strings.HasPrefix(v, "oblique")
		}
	}
	for _, ref := range facts.Extract(item.Stylesheet, "", []byte(f.Rule)).Uses(facts.Address) {
		if a, ok := item.FileAt(c, ref.Name); ok && !slices.Contains(f.Files, a) {
			f.Files = append(f.Files, a)
		}
	}
	return f
}

// RuleFor writes the @font-face rule of a font file.
func RuleFor(f File, at item.Address) string {
	weight, style := strconv.Itoa(f.Least), "normal"
	if f.Most > f.Least {
		weight = fmt.Sprintf("%d %d", f.Least, f.Most)
	}
	if f.Italic {
		style = "italic"
	}
	return fmt.Sprintf("@font-face {\n  font-family: %s;\n  font-weight: %s;\n  font-style: %s;\n"+
		"  font-display: swap;\n  src: url(\"/%s\") format(%q);\n}\n",
		Quoted(f.Family), weight, style, at.Path(), f.Format)
}

// Quoted writes a family's name as a CSS string.
func Quoted(family string) string {
	return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(family) + `"`
}

// SheetFor finds the stylesheet that a site's new faces belong into: of those that say a font by a token, else of
// all, the one that most items wear, or load themselves. users says how many load each.
func SheetFor(c item.Collection, users map[item.Address]int) (item.Head, bool, error) {
	worn := maps.Clone(users)
	if worn == nil {
		worn = map[item.Address]int{}
	}
	all := len(c.Heads()) // each wears a sheet once, and loads it once, at the most
	for _, h := range c.Heads() {
		for _, a := range h.Meta.Styles {
			worn[a]++
		}
	}
	byToken, err := familyTokens(c)
	if err != nil {
		return item.Head{}, false, err
	}
	var best item.Head
	most := -1
	for _, h := range c.OfKind(item.Stylesheet) {
		b, err := item.Read(c, h)
		if err != nil {
			return item.Head{}, false, err
		}
		n := worn[h.Address]
		if slices.ContainsFunc(css.Parse(b).Refs(), func(r css.Ref) bool {
			return r.Space == css.Prop && !r.Defines && byToken[r.Name]
		}) {
			n += 2*all + 1 // before all that say none
		}
		if n > most {
			best, most = h, n
		}
	}
	return best, most >= 0, nil
}

// familyTokens gives the custom properties of the tokens that are font families.
func familyTokens(c item.Collection) (map[string]bool, error) {
	list, err := Chosen(c)
	out := map[string]bool{}
	for _, t := range list {
		out[t.Property] = true
	}
	return out, err
}

// Choice is a token that says a font family, as a JSON value.
type Choice struct {
	Path, Property string
	Value          json.RawMessage
	CSS            string
}

// Chosen lists the tokens of a collection that say a font family, and stand for themselves.
func Chosen(c item.Collection) ([]Choice, error) {
	var out []Choice
	for _, h := range c.OfKind(item.Tokens) {
		b, err := item.Read(c, h)
		if err != nil {
			return nil, err
		}
		set, err := tokens.Parse(b)
		if err != nil {
			continue // the check of the site tells it
		}
		for _, t := range set.List {
			if t.Type != "fontFamily" || t.Alias != "" {
				continue
			}
			v, err := tokens.ValueOf(b, t.Path)
			if err != nil {
				return nil, err
			}
			out = append(out, Choice{Path: t.Path, Property: t.Property(), Value: v, CSS: set.CSS(t)})
		}
	}
	return out, nil
}

// Before gives the value of a token with a family before those that it had.
func Before(family string, value json.RawMessage) (json.RawMessage, error) {
	var list []string
	var one string
	if json.Unmarshal(value, &one) == nil {
		list = []string{one}
	} else if err := json.Unmarshal(value, &list); err != nil {
		return nil, err
	}
	list = slices.DeleteFunc(list, func(f string) bool { return f == family })
	return json.Marshal(append([]string{family}, list...))
}

// Names gives the families of a font-family value, in their order.
func Names(value string) []string {
	list := strings.Split(value, ",")
	for i, n := range list {
		list[i] = strings.Trim(strings.TrimSpace(n), `"'`)
	}
	return list
}
