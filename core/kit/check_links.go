package kit

import (
	"fmt"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/faults"
	"compactparcel/core/item"
)

// Origin is what a source site says of itself: none of it should be left in a kit.
type Origin = faults.Origin

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
		if !faults.HasAnchor(w, u.To, u.Fragment) {
			note(u.Line, "give the target the id, or change the link", "the link to %s leads to no place of that page",
				u.Slug+"#"+u.Fragment)
		}
	}
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
