// Package closure finds, from chosen items, all that they need, each with the
// reason; and what of it is not there. It works over facts and small look-ups,
// so it can be asked about a site, a library, a kit or a folder alike.
package closure

import (
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// World is all that the closure knows of a collection.
type World interface {
	Find(item.Address) (item.Head, bool)
	Facts(item.Head) (*facts.Facts, error)
	// PageAt gives the page with a slug.
	PageAt(slug string) (item.Address, bool)
	// KeptAt gives the item that kept an address from before it was adopted.
	KeptAt(at string) (item.Address, bool)
}

// Use is one item leaning on another.
type Use struct {
	From item.Address `json:"from"`
	To   item.Address `json:"to"`
	// Slug is the address a link names when no page has it.
	Slug string `json:"slug,omitempty"`
	// Found tells whether To is in the collection.
	Found bool `json:"found"`
	// Soft marks what the item does without: links to pages, settings it shows.
	Soft     bool     `json:"soft,omitempty"`
	Relation Relation `json:"relation"`
	// Where is the place in From's source that names To; nil where its metadata do.
	Where *facts.Where `json:"where,omitempty"`
	Line  int          `json:"line,omitempty"`
	// Fragment is the anchor that a link names.
	Fragment string `json:"fragment,omitempty"`
}

// Uses gives what one item leans on directly, in the order of its source.
func Uses(w World, h item.Head, f *facts.Facts) []Use {
	var out []Use
	add := func(to item.Address, r facts.Ref, soft bool, relation Relation) {
		_, found := w.Find(to)
		out = append(out, Use{
			From: h.Address, To: to, Found: found, Soft: soft, Relation: relation, Where: placeOf(r), Line: r.Line,
			Fragment: r.Fragment,
		})
	}
	for _, s := range h.Meta.Styles {
		add(s, facts.Ref{}, false, StyledBy)
	}
	if h.Meta.Type != "" {
		add(item.Address{Kind: item.RecordType, Key: h.Meta.Type}, facts.Ref{}, false, RecordOf)
	}
	if up := parentSlug(h); up != "" {
		if a, ok := w.PageAt(up); ok && a != h.Address {
			out = append(out, Use{From: h.Address, To: a, Slug: up, Found: true, Soft: true, Relation: StandsBelow})
		}
	}
	for _, r := range f.Refs {
		if r.Defines {
			continue
		}
		switch r.Space {
		case facts.Address:
			slug := r.Name
			if a, ok := item.FileAt(w, r.Name); ok {
				_, there := w.Find(a)
				// A page may stand at such an address, in a folder that somebody called as ours are.
				if _, page := w.PageAt(slug); there || !page {
					add(a, r, false, Names)
					continue
				}
			}
			if !strings.HasSuffix(slug, "/") && !strings.Contains(slug[strings.LastIndexByte(slug, '/')+1:], ".") {
				slug += "/"
			}
			a, found := w.PageAt(slug)
			out = append(out, Use{
				From: h.Address, To: a, Slug: slug, Found: found, Soft: true, Relation: LinksTo, Where: placeOf(r),
				Line: r.Line, Fragment: r.Fragment,
			})
		case facts.Menu:
			add(item.Address{Kind: item.Menu, Key: r.Name}, r, false, ShowsMenu)
		case facts.Section:
			add(item.Address{Kind: item.Section, Key: r.Name}, r, false, HoldsSection)
		case facts.Form:
			add(item.Address{Kind: item.Form, Key: r.Name}, r, false, ShowsForm)
		case facts.RecordType:
			add(item.Address{Kind: item.RecordType, Key: r.Name}, r, false, ListsRecords)
		case facts.Component:
			if r.Where.In != facts.InSelector {
				add(item.Address{Kind: item.Component, Key: r.Name}, r, false, UsesComponent)
			}
		case facts.Overlay:
			add(item.Address{Kind: item.Part, Key: r.Name}, r, false, OpensOverlay)
		case facts.Setting:
			add(item.Address{Kind: item.Setting, Key: r.Name}, r, true, ShowsSetting)
		case facts.Item:
			if a, err := item.ParseAddress(r.Name); err == nil {
				add(a, r, false, Names)
			}
		default:
		}
	}
	return out
}

// parentSlug is the address of the page above a page; "" at the top.
func parentSlug(h item.Head) string {
	slug := strings.TrimSuffix(h.Meta.Slug, "/")
	at := strings.LastIndexByte(slug, '/')
	if h.Address.Kind != item.Page || at <= 0 {
		return ""
	}
	return slug[:at+1]
}

// Reason says why an item comes along.
type Reason struct {
	From     item.Address `json:"from"`
	Relation Relation     `json:"relation"`
	// Where is the place in From's source; nil where its metadata name it.
	Where *facts.Where `json:"where,omitempty"`
	Line  int          `json:"line,omitempty"`
}

// String writes it for people: "page/home: uses it in <img src>".
func (r Reason) String() string { return r.From.String() + " " + r.Relation.Sentence("it", r.Where) }

// Entry is one item of a closure; a chosen one has no reasons.
type Entry struct {
	Address item.Address `json:"address"`
	Chosen  bool         `json:"chosen"`
	Reasons []Reason     `json:"reasons,omitempty"`
}

// Need is something that is not among the items and that they lean on.
type Need struct {
	Address item.Address `json:"address,omitzero"`
	Slug    string       `json:"slug,omitempty"`
	// Optional marks links and settings: without them the items still stand.
	Optional bool `json:"optional"`
	// Known tells that the source has it and it was left out by choice.
	Known   bool     `json:"known"`
	Reasons []Reason `json:"reasons"`
}

// Result is a closure: the items, sorted by address, and what is lacking.
type Result struct {
	Items []Entry `json:"items"`
	Needs []Need  `json:"needs"`
}

// Compute gives the closure of the chosen items. What leave says true of is not taken
// and becomes a need. A chosen item that is not there is an error.
func Compute(w World, chosen []item.Address, leave func(item.Address) bool) (*Result, error) {
	reasons := map[item.Address][]Reason{}
	isChosen := map[item.Address]bool{}
	needs := map[string]*Need{}
	var queue []item.Address
	for _, a := range chosen {
		if _, ok := w.Find(a); !ok {
			return nil, fmt.Errorf("there is no %s here", a)
		}
		if !isChosen[a] {
			isChosen[a] = true
			reasons[a] = nil
			queue = append(queue, a)
		}
	}
	for len(queue) > 0 {
		a := queue[0]
		queue = queue[1:]
		h, _ := w.Find(a)
		f, err := w.Facts(h)
		if err != nil {
			return nil, fmt.Errorf("reading what %s needs: %w", a, err)
		}
		for _, u := range Uses(w, h, f) {
			why := Reason{u.From, u.Relation, u.Where, u.Line}
			if u.Found && !u.Soft && !leave(u.To) {
				if _, have := reasons[u.To]; !have {
					queue = append(queue, u.To)
				}
				if u.To != a {
					reasons[u.To] = append(reasons[u.To], why)
				}
				continue
			}
			key := u.To.String() + " " + u.Slug
			if needs[key] == nil {
				needs[key] = &Need{Address: u.To, Slug: u.Slug, Optional: u.Soft, Known: u.Found}
			}
			needs[key].Optional = needs[key].Optional && u.Soft
			needs[key].Reasons = append(needs[key].Reasons, why)
		}
	}
	out := &Result{Items: []Entry{}, Needs: []Need{}}
	for a, r := range reasons {
		out.Items = append(out.Items, Entry{a, isChosen[a], r})
	}
	sort.Slice(out.Items, func(i, j int) bool { return out.Items[i].Address.Less(out.Items[j].Address) })
	for _, n := range needs {
		if _, have := reasons[n.Address]; !have || n.Address.IsZero() {
			out.Needs = append(out.Needs, *n)
		}
	}
	sort.Slice(out.Needs, func(i, j int) bool {
		if out.Needs[i].Address != out.Needs[j].Address {
			return out.Needs[i].Address.Less(out.Needs[j].Address)
		}
		return out.Needs[i].Slug < out.Needs[j].Slug
	})
	return out, nil
}
