package repeat

import (
	"regexp"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// called is by what a block can be named. What people read comes first, then what it holds; how it
// is laid out says nothing of it.
type called struct {
	label   string // aria-label
	heading string // the words of its first heading
	above   string // the heading over it, for blocks in a row
	word    string // an id or class that is no word of layout
	content string // what it holds
}

// maxHeading bounds the words of a heading that make a name.
const maxHeading = 4

// calledBy reads by what a block can be named.
func calledBy(n *markup.Node) called {
	c := called{label: words(n.Value("aria-label")), content: contentOf(n)}
	for _, x := range elements(n) {
		if isHeading(x) {
			c.heading = words(x.Text())
			break
		}
	}
	for _, w := range append([]string{n.Value("id")}, n.Classes()...) {
		if w != "" && !isLayout(w) {
			c.word = w
			break
		}
	}
	return c
}

// name gives the key of what all occurrences are; "" where nothing names it.
func (c called) name() string {
	for _, s := range []string{c.label, c.heading, c.word, c.content} {
		if key := strings.ReplaceAll(item.MakeKey(s), "/", "-"); s != "" && item.CheckKey(key) == nil {
			return key
		}
	}
	return ""
}

// one gives the key of one of several blocks in a row: by the heading over them, in the singular.
func (c called) one() string {
	for _, s := range []string{singular(c.above), singular(c.word), c.content} {
		if key := strings.ReplaceAll(item.MakeKey(s), "/", "-"); s != "" && item.CheckKey(key) == nil {
			return key
		}
	}
	return "entry"
}

// shared keeps of two blocks' names what they have in common.
func (c called) shared(other called) called {
	if c.label != other.label {
		c.label = ""
	}
	if c.heading != other.heading {
		c.heading = ""
	}
	return c
}

// maxAbove bounds how many elements stand above blocks in a row as their heading.
const maxAbove = 8

// leading are words at the beginning of a heading that name nothing.
var leading = set("a an the our my your all from of in on at about some more what who why how is are we")

func isHeading(n *markup.Node) bool {
	return len(n.Tag) == 2 && n.Tag[0] == 'h' && n.Tag[1] >= '1' && n.Tag[1] <= '6' && n.Space == ""
}

// words gives the words of a heading, if they are few enough to be a name.
func words(text string) string {
	list := strings.Fields(text)
	for len(list) > 1 && leading[strings.ToLower(list[0])] {
		list = list[1:]
	}
	if len(list) == 0 || len(list) > maxHeading {
		return ""
	}
	return strings.Join(list, " ")
}

// singular takes the ending off the last word: "Latest posts" are each a latest post.
func singular(s string) string {
	switch {
	case strings.HasSuffix(s, "ies") && len(s) > 4:
		return strings.TrimSuffix(s, "ies") + "y"
	case strings.HasSuffix(s, "ss") || len(s) < 4:
		return s
	}
	return strings.TrimSuffix(s, "s")
}

// headingAbove gives the heading that blocks in a row stand under: the nearest before them, within
// the section around them.
func headingAbove(n *markup.Node) string {
	for up := n; up != nil && up.Parent != nil; up = up.Parent {
		siblings := up.Parent.Children
		for i := up.Index - 1; i >= 0 && i < len(siblings); i-- {
			inside := elements(siblings[i])
			if len(inside) > maxAbove || siblings[i].Tag == "section" || siblings[i].Tag == "article" {
				return "" // something of its own stands between
			}
			for _, x := range inside {
				if isHeading(x) && x.Tag != "h1" {
					return words(x.Text())
				}
			}
		}
		switch up.Parent.Tag {
		case "section", "article", "main", "body":
			return ""
		}
	}
	return ""
}

// contentOf says in a word what a block holds.
func contentOf(n *markup.Node) string {
	has := map[string]int{}
	for _, x := range elements(n) {
		tag := x.Tag
		if isHeading(x) {
			tag = "h"
		}
		has[tag]++
	}
	switch {
	case n.Tag == "nav" || has["nav"] > 0:
		return "navigation"
	case n.Tag == "form" || has["form"] > 0 || has["input"] > 1:
		return "form"
	case has["blockquote"] > 0 || has["q"] > 0:
		return "quote"
	case has["time"] > 0:
		return "post"
	case has["h"] > 1 && has["img"]+has["svg"]+has["i"] > 1:
		return "feature-cards"
	case has["h"] > 0 && has["img"]+has["svg"]+has["picture"]+has["i"] > 0:
		return "card"
	case has["img"]+has["picture"] > 1:
		return "pictures"
	case has["img"]+has["picture"] == 1 && has["p"] == 0:
		return "picture"
	case has["video"]+has["iframe"] > 0:
		return "video"
	case has["table"] > 0:
		return "table"
	case has["a"] > 1 && has["p"] == 0:
		return "links"
	case has["button"] > 0 || has["a"] == 1:
		return "call"
	case has["h"] > 0 || has["p"] > 0:
		return "text"
	}
	return ""
}

// layoutWords are words of which classes are made that say how something is laid out, and not what
// it is.
var layoutWords = set("col cols column columns row rows grid cell flex d m mt mb ml mr mx my ms me p pt pb " +
	"pl pr px py ps pe g gx gy gap w h mw mh vw vh min max bg text align justify content order offset float clear " +
	"clearfix container contained wrap wrapper inner outer box block band strip section page area region main " +
	"body left " +
	"right center centre middle top bottom start end item items entry list lead display fs fw font lh position " +
	"static " +
	"relative absolute fixed sticky rounded shadow border large big small medium wide narrow full half third " +
	"quarter auto " +
	"none no is has js u l o c x y xs sm md lg xl xxl first last odd even active show hidden visible invisible " +
	"fluid " +
	"light dark white black gray grey muted primary secondary tertiary success danger warning info bold italic " +
	"lower upper " +
	"fade animated animate wow aos delay img responsive between around evenly nowrap inline stretch self gutters " +
	"gutter " +
	"stack layer level size span one two three four five six div el element")

func set(list string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(list) {
		m[w] = true
	}
	return m
}

var layoutNumber = regexp.MustCompile(`^\d+$|^[a-z]?\d+$`)

// isLayout tells whether an id or class says nothing but how something is laid out.
func isLayout(name string) bool {
	for _, w := range strings.FieldsFunc(strings.ToLower(name),
		func(r rune) bool { return r == '-' || r == '_' || r == ':' }) {
		if !layoutWords[w] && !layoutNumber.MatchString(w) {
			return false
		}
	}
	return true
}
