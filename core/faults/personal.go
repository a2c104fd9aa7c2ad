package faults

import (
	"bytes"
	"maps"
	"regexp"
	"slices"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// Report takes what is found in a text: its line, what can be done, and what it is.
type Report func(line int, remedy, format string, args ...any)

// BelongsToSomebody finds what belongs to somebody, or was never meant to stay, in a piece of
// markup (but for what cp- elements show meanwhile): filler, samples of fill-ins outside their
// places, by the names of these, mail addresses and phones.
func BelongsToSomebody(tree *markup.Tree, samples map[string]string, add Report) {
	lines := &lines{src: tree.Source, line: 1}
	for _, n := range tree.All {
		if !n.Own || n.Tag == "script" || n.Tag == "style" || strings.HasPrefix(n.Tag, "cp-") || blank(n) {
			continue
		}
		own := strings.Join(strings.Fields(strings.Join(n.Texts(), " ")), " ")
		line := lines.of(n.Start.Start)
		if m := FillerIn(own); m != "" {
			add(line, "write the real text, or mark a blank", "it holds filler: %q", m)
		}
		for _, name := range slices.Sorted(maps.Keys(samples)) {
			if s := strings.TrimSpace(samples[name]); len(s) > 3 && strings.Contains(own, s) {
				add(line, "mark it as the fill-in "+name+", or reword it",
					"the sample %q of the fill-in %s stands here as text", s, name)
			}
		}
		href := n.Value("href")
		for _, who := range []string{MailIn(own), PhoneIn(own)} {
			if who != "" {
				add(line, "mark a blank for it", "it names %s, which is personal", who)
			}
		}
		if rest, ok := strings.CutPrefix(href, "mailto:"); ok && !strings.Contains(own, rest) {
			add(line, "mark a blank for the link", "it links to the mail address %s, which is personal", rest)
		}
		if rest, ok := strings.CutPrefix(href, "tel:"); ok && !strings.Contains(own, rest) {
			add(line, "mark a blank for the link", "it links to the phone number %s, which is personal", rest)
		}
	}
}

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

// OfOrigin finds in an item's text what belongs to the site that it came from. tree is
// that of markup.
func OfOrigin(
	h item.Head,
	b []byte,
	tree *markup.Tree,
	origins []Origin,
	note Report,
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

// blank tells whether an element, or one around it, is a place of a fill-in.
func blank(n *markup.Node) bool {
	for up := n; up != nil; up = up.Parent {
		if _, ok := up.Attr("data-fill"); ok {
			return true
		}
		if _, ok := up.Attr("data-field"); ok {
			return true
		}
	}
	return false
}

// lines counts lines up to places that mostly rise.
type lines struct {
	src      []byte
	at, line int
}

func (l *lines) of(at int) int {
	if at < l.at {
		l.at, l.line = 0, 1
	}
	l.line += bytes.Count(l.src[l.at:at], []byte("\n"))
	l.at = at
	return l.line
}
