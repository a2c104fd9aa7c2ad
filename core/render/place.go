package render

import (
	"sort"
	"strings"

	"compactparcel/core/item"
)

// PageContext is one page as placement targets see it.
type PageContext struct {
	Slug     string
	Own      string // of a page that is shown at another: its own
	Home     bool
	Search   bool
	NotFound bool
	Record   string // record type of a record's page
	Listing  string // record type of a listing
	Category string
	// Page is the page of a listing that has several, from 1; 0 stands for the first.
	Page int
}

// Fits tells whether a target names the spot.
func (s PageContext) Fits(target string) bool {
	t, ok := item.ParseTarget(target)
	if !ok {
		return false
	}
	switch t.Word {
	case "everywhere":
		return true
	case "home":
		return s.Home
	case "search":
		return s.Search
	case "not-found":
		return s.NotFound
	case "page":
		return s.Slug == t.Path || s.Own != "" && s.Own == t.Path
	case "under":
		below := func(slug string) bool { return strings.HasPrefix(slug, t.Path) && slug != t.Path }
		return below(s.Slug) || below(s.Own)
	case "records":
		return s.Record == t.Type && (t.Category == "" || s.Category == t.Category)
	case "listing":
		return s.Listing == t.Type && (t.Category == "" || s.Category == t.Category)
	}
	return false
}

// PartAssignment says which part stands on a spot in one role, and why.
type PartAssignment struct {
	Role   item.Role      `json:"role"`
	Part   item.Address   `json:"part,omitzero"`
	Target string         `json:"target,omitempty"`
	Ties   []item.Address `json:"ties,omitempty"` // others with an equal claim
	Why    string         `json:"why"`
}

// AssignPart gives the part that stands on a spot in a role: the more exact target
// wins; of equal claims the first address, and the others are told as ties.
func AssignPart(parts []item.Head, role item.Role, spot PageContext) (item.Head, PartAssignment) {
	type claim struct {
		head   item.Head
		target string
		exact  int
	}
	var claims []claim
	for _, h := range parts {
		if h.Meta.Role != role || h.Meta.Off {
			continue
		}
		place := h.Meta.Place()
		best, exact := "", -1
		for _, t := range place.Where {
			if target, ok := item.ParseTarget(t); ok && spot.Fits(t) && target.Exactness() > exact {
				best, exact = t, target.Exactness()
			}
		}
		for _, t := range place.Unless {
			if spot.Fits(t) {
				exact = -1
			}
		}
		if exact >= 0 {
			claims = append(claims, claim{h, best, exact})
		}
	}
	st := PartAssignment{Role: role, Why: "no part is placed here"}
	if len(claims) == 0 {
		return item.Head{}, st
	}
	sort.SliceStable(claims, func(i, j int) bool {
		if claims[i].exact != claims[j].exact {
			return claims[i].exact > claims[j].exact
		}
		return claims[i].head.Address.Less(claims[j].head.Address)
	})
	st.Part, st.Target, st.Why = claims[0].head.Address, claims[0].target, "placed on "+claims[0].target
	for _, c := range claims[1:] {
		if c.exact == claims[0].exact {
			st.Ties = append(st.Ties, c.head.Address)
		}
	}
	return claims[0].head, st
}
