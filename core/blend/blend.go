// Package blend brings the changes of two sides together: what a site made of an item
// since it was delivered, and what its kit made of it. HTML, CSS, JSON and plain text are
// read into nodes that keep their places; the result is put together from pieces of the
// sources, the site's wherever it can, so that what nobody changed stays byte for byte.
//
// The laws, for all texts: blend(b,b,x)=x, blend(b,x,b)=x, blend(b,x,x)=x; swapping the
// sides changes only which side is named in conflicts; without a conflict every change of
// either side is in the result exactly once; the result reads as it was put together.
package blend

import (
	"bytes"
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/item"
)

// ConflictKind says what both sides changed. The set is closed.
type ConflictKind string

// The kinds of conflict.
const (
	Text        ConflictKind = "text"        // one run of words reworded on both sides
	Structure   ConflictKind = "structure"   // one place changed on both sides in ways that exclude each other
	Attribute   ConflictKind = "attribute"   // one attribute with two values
	Declaration ConflictKind = "declaration" // one declaration with two values
	Selector    ConflictKind = "selector"    // one rule with two selectors
	Value       ConflictKind = "value"       // one value in JSON
	Whole       ConflictKind = "whole"       // two texts that can only be taken as they are
	Place       ConflictKind = "place"       // a node moved on one side, and moved elsewhere or removed on the other
)

// ConflictKinds lists all of them.
var ConflictKinds = []ConflictKind{Text, Structure, Attribute, Declaration, Selector, Value, Whole, Place}

// Decision says whose a conflict is resolved for; empty: for nobody yet. The set is closed.
type Decision string

// The decisions about a conflict.
const (
	ForSite Decision = "site"
	ForKit  Decision = "kit"
)

// Conflict is one thing that both sides changed in different ways.
type Conflict struct {
	// Key names it: the same for the same three texts at the same place.
	Key   string       `json:"key"`
	Kind  ConflictKind `json:"kind"`
	Where string       `json:"where"` // the way to the node, as in "main > section.hours > p"
	Line  int          `json:"line"`  // in the site's text
	Base  string       `json:"base"`
	Site  string       `json:"site"`
	Kit   string       `json:"kit"`
	// Decision is empty while nobody decided: then the site's stands in the result.
	Decision Decision `json:"decision,omitempty"`
}

// Result is what became of two sides.
type Result struct {
	Text []byte
	// Conflicts lists all, the decided as well.
	Conflicts []Conflict
}

// Open counts the conflicts that nobody decided.
func (r *Result) Open() int {
	n := 0
	for _, c := range r.Conflicts {
		if c.Decision == "" {
			n++
		}
	}
	return n
}

// Whole tells that the texts could only be taken as a whole, one or the other.
func (r *Result) Whole() bool { return len(r.Conflicts) == 1 && r.Conflicts[0].Kind == Whole }

// Resolve decides a conflict, or gives "" for not yet.
type Resolve func(*Conflict) Decision

// Merge blends an item's content. What can only be had whole, like a picture, is one conflict.
func Merge(kind item.Kind, base, site, kit []byte, choose Resolve) *Result {
	if choose == nil {
		choose = func(*Conflict) Decision { return "" }
	}
	switch {
	case bytes.Equal(base, site) || bytes.Equal(site, kit):
		return &Result{Text: kit}
	case bytes.Equal(base, kit):
		return &Result{Text: site}
	}
	read := readerOf(kind)
	if read != nil {
		b, s, k := read(base), read(site), read(kit)
		if b != nil && s != nil && k != nil {
			m := &merger{base: b, choose: choose}
			text := m.run(s, k)
			if sound(read(text), m) {
				return m.result(text)
			}
		}
	}
	m := &merger{choose: choose}
	c := &Conflict{Kind: Whole, Line: 1, Base: clip(base), Site: clip(site), Kit: clip(kit)}
	if m.add(c) == ForKit {
		return m.result(kit)
	}
	return m.result(site)
}

func (m *merger) result(text []byte) *Result {
	r := &Result{Text: text, Conflicts: []Conflict{}}
	for _, c := range m.conflicts {
		r.Conflicts = append(r.Conflicts, *c)
	}
	sort.SliceStable(r.Conflicts, func(i, j int) bool { return r.Conflicts[i].Line < r.Conflicts[j].Line })
	return r
}

// clip shortens a text that is shown whole.
func clip(b []byte) string {
	const most = 4000
	if bytes.IndexByte(b[:min(len(b), most)], 0) >= 0 {
		return fmt.Sprintf("%d bytes", len(b))
	}
	if len(b) > most {
		return string(b[:most]) + "…"
	}
	return string(b)
}

// Brief is a conflict's text on one line, for a message.
func Brief(s string) string {
	s = strings.Join(strings.Fields(s), " ")
	if r := []rune(s); len(r) > 60 {
		s = string(r[:59]) + "…"
	}
	if s == "" {
		return "nothing"
	}
	return "“" + s + "”"
}

func readerOf(kind item.Kind) func([]byte) *doc {
	switch {
	case kind.IsMarkup():
		return readMarkup
	case kind == item.Stylesheet:
		return readSheet
	case kind == item.Component:
		return readLines
	case kind == item.Media:
		return nil
	}
	return readJSON
}

// add keeps a conflict and gives its decision.
func (m *merger) add(c *Conflict) Decision { return m.addBy(c, m.choose) }

func (m *merger) addBy(c *Conflict, choose Resolve) Decision {
	key := item.DigestOf([]byte(string(c.Kind) + "\x00" + c.Where + "\x00" + c.Base + "\x00" + c.Site + "\x00" +
		c.Kit)).
		Short()
	c.Key = key
	for n := 2; ; n++ { // the same once more
		twice := false
		for _, x := range m.conflicts {
			twice = twice || x.Key == c.Key
		}
		if !twice {
			break
		}
		c.Key = fmt.Sprintf("%s-%d", key, n)
	}
	c.Decision = choose(c)
	m.conflicts = append(m.conflicts, c)
	return c.Decision
}

func (m *merger) ask(kind ConflictKind, n *node, name, base, site, kit string) Decision {
	where := n.path()
	if name != "" && kind == Attribute {
		where += " " + name
	}
	c := &Conflict{
		Kind:  kind,
		Where: m.under(where),
		Line:  1 + bytes.Count(m.site.src[:n.open.Start], []byte("\n")),
		Base:  base,
		Site:  site,
		Kit:   kit,
	}
	return m.add(c)
}
