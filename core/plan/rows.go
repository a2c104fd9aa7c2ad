package plan

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/item"
)

// sorted gives the rows, questions first, by standing.
func (l rowList) sorted() []Row {
	rank := map[Standing]int{}
	for i, s := range Standings {
		rank[s.Standing] = i
	}
	list := slices.Clone(l.list)
	sort.SliceStable(list, func(i, j int) bool {
		a, b := list[i], list[j]
		if (a.Decision == "") != (b.Decision == "") {
			return a.Decision == ""
		}
		if rank[a.Standing] != rank[b.Standing] {
			return rank[a.Standing] < rank[b.Standing]
		}
		return a.Address.Less(b.Address)
	})
	out := make([]Row, 0, len(list))
	for _, row := range list {
		out = append(out, *row)
	}
	return out
}

// unusedDecisions refuses decisions that no question and no row answers to; those that were not given for this site
// alone are left out. The name of an item that the kit has not is a slip of the pen, on every site.
func unusedDecisions(g given, rows []Row) ([]LeftOut, error) {
	var keys []string
	moot := []LeftOut{}
	for k := range g.ask.Decisions {
		if !g.used[k] {
			keys = append(keys, k)
		}
	}
	sort.Strings(keys)
	for _, k := range keys {
		if g.ask.Decisions[k].SubjectDigest != "" {
			continue // decided once; what it was about is gone
		}
		if _, err := item.ParseAddress(k); err != nil && g.ask.Decisions[k].IfFits {
			moot = append(moot, LeftOut{k, g.ask.Decisions[k].String(), "there is nothing of this name to decide here",
				true})
			continue
		}
		var have []string
		for _, r := range rows {
			have = append(have, r.Address.String())
		}
		sort.Strings(have)
		return nil, &DecisionError{
			Key: k,
			Message: fmt.Sprintf("the plan has nothing of this name to decide (it has: %s)",
				strings.Join(have, ", ")),
		}
	}
	return moot, nil
}
