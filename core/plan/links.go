package plan

import (
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// LinkState says what is wrong with a link. The set is closed.
type LinkState string

// The states of a link after the delivery.
const (
	Broken  LinkState = "broken"  // it leads nowhere
	Doubled LinkState = "doubled" // its anchor stands twice on the page
	Swapped LinkState = "swapped" // it leads to the site's page, and led to the kit's own
)

// LinkStates lists all of them.
var LinkStates = []LinkState{Broken, Doubled, Swapped}

// LinkRow is a link that does not lead where it did in the kit.
type LinkRow struct {
	From    item.Address `json:"from"`
	Slug    string       `json:"slug"` // with its anchor
	Line    int          `json:"line"`
	State   LinkState    `json:"state"`
	Message string       `json:"message"`
}

// findLinks holds every link, anchor and reference of what comes in against the site as it
// will be.
func findLinks(in *inputs, rows rowList, t *transform, writes []PlannedWrite, deletions []item.Head) (links []LinkRow,
	scripts []string, err error) {
	w := &afterwards{inputs: in, rowList: rows, moved: t.slugs, writes: writes, deletions: deletions,
		written: map[item.Address]int{}, slugs: map[string]item.Address{}}
	for i, p := range writes {
		w.written[p.Head.Address] = i
		if p.Head.Address.Kind == item.Page {
			if other, twice := w.slugs[p.Head.Meta.Slug]; twice {
				return nil, nil, &DecisionError{
					Key:     Key(AboutPage, p.KitAddress.String()),
					Message: fmt.Sprintf("%s and %s would both be at %s", other, p.Head.Address, p.Head.Meta.Slug),
				}
			}
			w.slugs[p.Head.Meta.Slug] = p.Head.Address
		}
	}
	for _, p := range writes { // whatever was decided, no page may stand where another does
		if p.Head.Address.Kind != item.Page {
			continue
		}
		other, there := in.site.PageAt(p.Head.Meta.Slug)
		_, written := w.written[other]
		if there && other != p.Head.Address && !written {
			return nil, nil, &DecisionError{
				Key:     Key(AboutPage, p.KitAddress.String()),
				Message: fmt.Sprintf("the site's %s is already at %s", other, p.Head.Meta.Slug),
			}
		}
	}
	for _, p := range writes {
		if !p.readable() {
			continue
		}
		f, err := in.factsOf(p)
		if err != nil {
			return nil, nil, err
		}
		for _, u := range closure.Uses(w, p.Head, f) {
			row, wrong, err := w.link(p, u)
			if err != nil {
				return nil, nil, err
			}
			if wrong && !slices.Contains(links, row) {
				links = append(links, row)
			}
		}
		for _, s := range f.Scripts {
			if p.Head.Address.Kind != item.Component {
				scripts = append(scripts, p.Head.Address.String()+": "+s)
			}
		}
	}
	for _, p := range writes {
		if p.Head.Address.Kind == item.Component {
			scripts = append(scripts, p.Head.Address.String()+": the component's script")
		}
	}
	return links, scripts, nil
}

// readable tells whether a write has a text that can name something.
func (p PlannedWrite) readable() bool {
	a, meta := p.Head.Address, p.Head.Meta
	return p.Content != nil || !p.KitAddress.IsZero() &&
		(a.Kind != item.Media || meta.Context != "" || strings.HasSuffix(a.Key, ".svg"))
}

// afterwards is the site as the delivery leaves it.
type afterwards struct {
	*inputs
	rowList
	moved     map[string]string // slugs of the kit's pages
	writes    []PlannedWrite
	deletions []item.Head
	written   map[item.Address]int
	slugs     map[string]item.Address
}

func (w *afterwards) Find(a item.Address) (item.Head, bool) {
	if i, ok := w.written[a]; ok {
		return w.writes[i].Head, true
	}
	for _, h := range w.deletions {
		if h.Address == a {
			return item.Head{}, false
		}
	}
	return w.site.Find(a)
}

func (w *afterwards) PageAt(slug string) (item.Address, bool) {
	if a, ok := w.slugs[slug]; ok {
		return a, true
	}
	a, ok := w.pageAt(slug)
	if slug == "/" && a == w.home {
		return a, ok // wherever its own address is by then
	}
	if i, written := w.written[a]; ok && written && w.writes[i].Head.Meta.Slug != slug {
		return item.Address{}, false // the delivery moves it
	}
	return a, ok
}

func (w *afterwards) KeptAt(at string) (item.Address, bool) {
	a, ok := w.site.KeptAt(at)
	if _, there := w.Find(a); !there {
		return item.Address{}, false
	}
	return a, ok
}

func (w *afterwards) Facts(h item.Head) (*facts.Facts, error) {
	if i, ok := w.written[h.Address]; ok {
		return w.factsOf(w.writes[i])
	}
	return w.site.Facts(h)
}

// link tells what is wrong with a link, if anything is.
func (w *afterwards) link(p PlannedWrite, u closure.Use) (LinkRow, bool, error) {
	row := LinkRow{From: p.Head.Address, Slug: u.Slug, Line: u.Line, State: Broken}
	if u.Fragment != "" {
		row.Slug += "#" + u.Fragment
	}
	switch {
	case u.Slug == "" && u.To.IsZero():
		return row, false, nil
	case u.Slug == "" && !u.Found && !u.Soft:
		row.Slug = u.To.String()
		row.Message = fmt.Sprintf("it %s, which is not there", u.Relation.Sentence(u.To.String(), u.Where))
		return row, true, nil
	case u.Slug == "":
		return row, false, nil
	case !u.Found:
		row.Message = "no page is at this address"
		return row, true, nil
	}
	if u.Fragment != "" && u.To != p.Head.Address {
		target, _ := w.Find(u.To)
		f, err := w.Facts(target)
		if err != nil {
			return row, false, err
		}
		anchors := 0
		for _, r := range f.Refs {
			if r.Space == facts.ID && r.Defines && r.Name == u.Fragment {
				anchors++
			}
		}
		switch {
		case anchors == 0 && len(f.Uses(facts.Section)) == 0 && len(f.Uses(facts.PartRole)) == 0:
			row.Message = fmt.Sprintf("%s has no such anchor", u.To)
			return row, true, nil
		case anchors > 1:
			row.State, row.Message = Doubled, fmt.Sprintf("%s has %d anchors of this name", u.To, anchors)
			return row, true, nil
		}
	}
	// In the kit it led to a page of the kit; now it leads to one of the site's.
	for _, r := range w.list {
		if r.Address.Kind != item.Page || r.Kit == nil || p.KitAddress.IsZero() {
			continue
		}
		if h, ok := w.parcel.Find(
			r.Address,
		); ok && w.slugNow(h.Meta.Slug) == u.Slug && !comesIn(r) && r.Standing == Taken &&
			r.Decision != "" {
			row.State, row.Message = Swapped, fmt.Sprintf("it leads to the site's %s, and led to the kit's %s", u.To,
				r.Address)
			return row, true, nil
		}
	}
	return row, false, nil
}

func (w *afterwards) slugNow(slug string) string {
	if to, ok := w.moved[slug]; ok {
		return to
	}
	return slug
}
