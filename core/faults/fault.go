// Package faults finds what visitors of a site would trip over, without a browser: links that lead
// nowhere, texts that nobody can read, headings out of order, samples that were left. Pages are
// looked at as they are shown, and each fault is told where it can be mended: by the map of the
// page, in an item and a line of its source.
package faults

import (
	"sort"
	"strconv"

	"compactparcel/core/item"
)

// Kind says what is wrong. The set is closed.
type Kind string

// The kinds of faults.
const (
	Link        Kind = "link"        // it leads to no page
	Anchor      Kind = "anchor"      // it leads to no place of the page
	Missing     Kind = "missing"     // something is used that is not there
	DoubledID   Kind = "doubled-id"  // two elements of a page have one id
	Landmark    Kind = "landmark"    // a page without a main part, or with two banners
	Heading     Kind = "heading"     // no main heading, or a level left out
	Title       Kind = "title"       // a page without a title or a language
	Alternative Kind = "alternative" // a picture without an alternative text
	Name        Kind = "name"        // a link, button or field that says nothing
	Contrast    Kind = "contrast"    // a text that is hard to read on its ground
	Filler      Kind = "filler"      // filler, or the sample of a blank
	Personal    Kind = "personal"    // what belongs to somebody else
	Unused      Kind = "unused"      // a file that nothing uses
	Heavy       Kind = "heavy"       // a file that is slow to load
	Outside     Kind = "outside"     // something is loaded from another host
	Form        Kind = "form"        // what is sent with it reaches nobody
	Hidden      Kind = "hidden"      // a page or part that nobody gets to see
	Overflow    Kind = "overflow"    // at some width, a page is wider than its window
	CutOff      Kind = "cut-off"     // at some width, a text is not seen whole
	Covered     Kind = "covered"     // a fixed bar covers what a link leads to
	Unreadable  Kind = "unreadable"  // a source that cannot be read in its language
)

// KindInfo is the one declaration of a kind of faults.
type KindInfo struct {
	Kind Kind
	// Grave tells that visitors are kept from something; else it is worth a look.
	Grave bool
}

// Kinds lists all of them, the gravest first.
var Kinds = []KindInfo{
	{Unreadable, true}, {Missing, true}, {Link, true}, {Anchor, true}, {Form, true}, {Hidden, true}, {Filler, true},
	{Alternative, true}, {Name, true}, {DoubledID, true}, {Contrast, true}, {Title, true}, {Landmark, true},
	{Overflow, true}, {CutOff, true}, {Covered, false},
	{Heading, false}, {Personal, false}, {Heavy, false}, {Outside, false}, {Unused, false},
}

// KindList lists the kinds alone.
func KindList() []Kind {
	out := make([]Kind, len(Kinds))
	for i, k := range Kinds {
		out[i] = k.Kind
	}
	return out
}

func (k Kind) rank() int {
	for i, x := range Kinds {
		if x.Kind == k {
			return i
		}
	}
	return len(Kinds)
}

// Fault is one thing that is wrong, where it can be mended.
type Fault struct {
	Kind  Kind `json:"kind"`
	Grave bool `json:"grave"`
	// Address and Line are its place in a source; the line is 0 where it has none.
	Address item.Address `json:"address,omitzero"`
	Line    int          `json:"line"`
	// Pages are the slugs of pages that show it, at most MaxPages; Count is how many do.
	Pages   []string `json:"pages"`
	Count   int      `json:"count"`
	Message string   `json:"message"`
	Remedy  string   `json:"remedy"`
	// New tells that what it is compared with does not have it.
	New bool `json:"new"`
}

// MaxPages bounds how many pages are named of one fault.
const MaxPages = 20

// key tells two faults apart: by what they say, and not by the line, which moves with every edit.
func (f Fault) key() string {
	return string(f.Kind) + "\n" + f.Address.String() + "\n" + f.Message
}

// MarkNew marks the faults that others do not have, and puts them first.
func MarkNew(list, others []Fault) {
	had := map[string]int{}
	for _, f := range others {
		had[f.key()]++
	}
	for i := range list {
		if k := list[i].key(); had[k] > 0 {
			had[k]--
		} else {
			list[i].New = true
		}
	}
	sort.SliceStable(list, func(i, j int) bool { return list[i].New && !list[j].New })
}

// gather brings together what pages told: a fault that stands on many pages is one.
type gather struct {
	byPlace map[string]*Fault
	pages   map[string]map[string]bool
}

func newGather() *gather {
	return &gather{byPlace: map[string]*Fault{}, pages: map[string]map[string]bool{}}
}

func (g *gather) add(f Fault, pages ...string) {
	key := f.key() + "\n" + strconv.Itoa(f.Line)
	if g.byPlace[key] == nil {
		for _, k := range Kinds {
			f.Grave = f.Grave || k.Kind == f.Kind && k.Grave
		}
		g.byPlace[key], g.pages[key] = &f, map[string]bool{}
	}
	for _, p := range pages {
		g.pages[key][p] = true
	}
}

// list gives the faults, the gravest kinds first, then by place.
func (g *gather) list() []Fault {
	out := make([]Fault, 0, len(g.byPlace))
	for key, f := range g.byPlace {
		f.Pages = make([]string, 0, len(g.pages[key]))
		for p := range g.pages[key] {
			f.Pages = append(f.Pages, p)
		}
		sort.Strings(f.Pages)
		f.Count = len(f.Pages)
		f.Pages = f.Pages[:min(len(f.Pages), MaxPages)]
		out = append(out, *f)
	}
	sort.Slice(out, func(i, j int) bool {
		a, b := out[i], out[j]
		switch {
		case a.Kind != b.Kind:
			return a.Kind.rank() < b.Kind.rank()
		case a.Address != b.Address:
			return a.Address.Less(b.Address)
		case a.Line != b.Line:
			return a.Line < b.Line
		}
		return a.Message < b.Message
	})
	return out
}
