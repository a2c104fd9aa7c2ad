package kit

import (
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/css"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// Finding is something about a kit that a person should know, with its place.
type Finding struct {
	Address item.Address `json:"address,omitzero"`
	Line    int          `json:"line,omitempty"`
	// Stops tells that the kit cannot be sealed with it.
	Stops  bool   `json:"stops"`
	Says   string `json:"says"`
	WayOut string `json:"wayOut,omitempty"`
}

// Check lists all that stops sealing and all that a receiver would trip over.
func Check(list *PackingList, c item.Collection) ([]Finding, error) {
	return CheckIn(list, closure.NewSmall(c))
}

// CheckIn is Check where some facts are known already, and what the sources say of
// themselves.
func CheckIn(list *PackingList, w *closure.Small, origins ...Origin) ([]Finding, error) {
	var out []Finding
	add := func(a item.Address, line int, stops bool, wayOut, format string, args ...any) {
		out = append(out, Finding{a, line, stops, fmt.Sprintf(format, args...), wayOut})
	}
	needed := map[string]bool{}
	for _, n := range list.Needs.Items {
		if n.Slug != "" {
			needed[n.Slug] = true
		} else {
			needed[n.Address] = true
		}
	}
	declared := map[string]bool{}
	for _, f := range list.Fillins {
		declared[f.Name] = false
	}
	tokens := hasTokens(list)
	w.Prime()
	for _, h := range w.Heads() {
		a := h.Address
		if a.Kind == item.Setting && !h.Meta.IsPortable(a.Key) {
			add(a, 0, true, "take it out of the kit", "the setting is site-only and may not travel")
		}
		f, err := w.Facts(h)
		if err != nil {
			return nil, err
		}
		if f.Broken != "" {
			add(a, 0, true, "mend it in its source", "%s", f.Broken)
		}
		if f.Opaque {
			add(a, 0, false, "make it smaller or flatter", "it is too deep or too long to be read rule by rule; of what it refers to only the addresses are known")
		}
		for _, u := range closure.Uses(w, h, f) {
			to := ""
			if !u.To.IsZero() {
				to = u.To.String()
			}
			if to == "" && u.Slug == "" {
				continue
			}
			if _, component := list.Needs.Components[u.To.Key]; u.Found || u.To.Kind == item.Component && component || needed[to] || needed[u.Slug] {
				continue
			}
			name := to
			if name == "" {
				name = u.Slug
			}
			add(a, u.Line, true, "put it into the kit, or declare it as a need", "it %s (%s), which is neither in the kit nor a declared need", u.Why, name)
		}
		for _, r := range f.Refs {
			switch {
			case r.Space == facts.Loose:
				add(a, r.Line, true, "write it from the root, as in /media/"+r.Name, "the relative address %q in %s means nothing in a kit", r.Name, r.Where)
			case r.Space == facts.ID && !r.Defines && strings.HasPrefix(r.Where, "href") && !defines(f, r.Name):
				add(a, r.Line, false, "give the target the id, or change the link", "the anchor #%s leads nowhere within the piece", r.Name)
			}
		}
		for _, p := range f.Fills {
			if _, ok := declared[p.Name]; !ok {
				add(a, p.Line, true, "declare it, or take the mark out", "the fill-in %q is not declared", p.Name)
			}
			declared[p.Name] = true
		}
		for _, s := range f.Scripts {
			add(a, 0, false, "the receiver must allow scripts", "it brings code: %s", s)
		}
		note := func(line int, wayOut, format string, args ...any) { add(a, line, false, wayOut, format, args...) }
		if a.Kind != item.Media {
			b, err := item.Read(w, h)
			if err != nil {
				return nil, err
			}
			checkOrigin(h, b, origins, note)
			switch {
			case a.Kind.IsMarkup():
				checkText(markup.Parse(b, h.Meta.Context), list.Fillins, note)
			case a.Kind == item.Stylesheet && tokens:
				checkColours(css.Parse(b), note)
			}
		}
		checkAnchors(w, h, f, note)
		if f.NoAlt > 0 {
			add(a, 0, false, "write an alternative text", "%d of its pictures have no alternative text", f.NoAlt)
		}
		if h.Address.Kind == item.Media && h.Bytes > 2<<20 {
			add(a, 0, false, "make it lighter", "the file weighs %.1f MB", float64(h.Bytes)/(1<<20))
		}
	}
	for _, f := range list.Fillins {
		if !declared[f.Name] {
			add(item.Address{}, 0, false, "mark its place, or take it out", "the fill-in %q has no place in any item", f.Name)
		}
	}
	if len(list.Items) == 0 {
		add(item.Address{}, 0, true, "put something in", "the kit is empty")
	}
	out = append(out, checkTerms(list)...)
	SortFindings(out)
	return out, nil
}

// SortFindings puts what stops first, then by address and place.
func SortFindings(out []Finding) {
	sort.SliceStable(out, func(i, j int) bool {
		a, b := out[i], out[j]
		if a.Stops != b.Stops {
			return a.Stops
		}
		if a.Address != b.Address {
			return a.Address.Less(b.Address)
		}
		return a.Line < b.Line
	})
}

func defines(f *facts.Facts, id string) bool {
	for _, n := range f.Defines(facts.ID) {
		if n == id {
			return true
		}
	}
	return false
}
