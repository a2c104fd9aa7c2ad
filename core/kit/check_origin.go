package kit

import (
	"bytes"
	"fmt"
	"regexp"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// Origin is what a source site says of itself: none of it should be left in a kit.
type Origin struct {
	Site string
	// Names are its title and strapline.
	Names []string
	// Hosts are the names of its addresses on the web.
	Hosts []string
	// HasItem tells whether one of its items has an id.
	HasItem func(id string) bool
}

var (
	uuid     = regexp.MustCompile(`[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}`)
	rendered = regexp.MustCompile(`/_cp/[0-9a-f]{12}/`)
)

// checkOrigin finds in an item's text what belongs to the site that it came from. tree is
// that of markup.
func checkOrigin(
	h item.Head,
	b []byte,
	tree *markup.Tree,
	origins []Origin,
	note func(line int, remedy, format string, args ...any),
) {
	line := func(at int) int { n, _ := span.Line(b, at); return n }
	if at := rendered.FindIndex(b); at != nil {
		note(line(at[0]), "name the item itself, as in /media/NAME",
			"the address %s… is one that only a shown page has", b[at[0]:at[1]])
	}
	for _, o := range origins {
		for _, host := range o.Hosts {
			if at := bytes.Index(bytes.ToLower(b), []byte(strings.ToLower(host))); at >= 0 {
				note(line(at), "link from the root, as in /contact/, or mark a blank",
					"it names %s, an address of %s itself", host, o.Site)
			}
		}
		if o.HasItem != nil {
			for _, at := range uuid.FindAllIndex(b, 200) {
				if id := string(b[at[0]:at[1]]); o.HasItem(id) {
					note(line(at[0]), "name the item by its kind and key", "the id %s is that of an item of %s", id,
						o.Site)
				}
			}
		}
	}
	words := func(line int, text string) {
		for _, o := range origins {
			for _, w := range o.Names {
				if len(w) > 3 && strings.Contains(text, w) {
					note(line, "mark a blank for it, or reword it", "“%s” is what %s calls itself", w, o.Site)
				}
			}
		}
	}
	switch {
	case len(origins) == 0:
	case tree != nil:
		for _, n := range tree.All {
			if n.Own && n.Tag != "script" && n.Tag != "style" && !strings.HasPrefix(n.Tag, "cp-") && !blank(n) {
				text := strings.Join(strings.Fields(strings.Join(n.Texts(), " ")), " ")
				for _, name := range []string{"alt", "title", "aria-label", "content"} {
					text += "\n" + n.Value(name)
				}
				words(line(n.Start.Start), text)
			}
		}
	case h.Address.Kind == item.Menu || h.Address.Kind == item.Form || h.Address.Kind == item.Setting:
		for i, l := range strings.Split(string(b), "\n") {
			words(i+1, l)
		}
	}
}

// checkAnchors finds links to places in pages of the kit that no piece of them has.
func checkAnchors(
	w *closure.Small,
	h item.Head,
	f *facts.Facts,
	note func(line int, remedy, format string, args ...any),
) {
	for _, u := range closure.Uses(w, h, f) {
		if !u.Found || u.Fragment == "" || u.To.Kind != item.Page {
			continue
		}
		if !hasAnchor(w, u.To, u.Fragment, map[item.Address]bool{}) {
			note(u.Line, "give the target the id, or change the link", "the link to %s leads to no place of that page",
				u.Slug+"#"+u.Fragment)
		}
	}
}

// hasAnchor tells whether an item, or a piece in it, defines an id. Parts that stand
// around pages count as pieces of all.
func hasAnchor(w *closure.Small, a item.Address, id string, seen map[item.Address]bool) bool {
	h, ok := w.Find(a)
	if seen[a] || !ok {
		return false
	}
	seen[a] = true
	f, err := w.Facts(h)
	if err != nil || defines(f, id) || a.Kind == item.Form && id == a.Key {
		return true
	}
	for _, u := range closure.Uses(w, h, f) {
		if u.Found && !u.Soft && (u.To.Kind.IsMarkup() || u.To.Kind == item.Form) && hasAnchor(w, u.To, id, seen) {
			return true
		}
	}
	for _, x := range w.Heads() {
		if a.Kind == item.Page && x.Address.Kind == item.Part && hasAnchor(w, x.Address, id, seen) {
			return true
		}
	}
	return false
}

// checkTerms finds what the terms leave open.
func checkTerms(list *PackingList) []Finding {
	var out []Finding
	if list.Terms.License == "" {
		out = append(
			out,
			Finding{
				Message: "it has no licence, so nobody knows what it may be used for",
				Remedy:  "name a licence (an SPDX expression)",
			},
		)
	}
	if strings.Contains(list.Terms.License, "-BY") && list.Terms.Credit == "" {
		out = append(
			out,
			Finding{
				Message: fmt.Sprintf("%s asks for credit, and the kit does not say to whom", list.Terms.License),
				Remedy:  "say who must be credited",
			},
		)
	}
	return out
}
