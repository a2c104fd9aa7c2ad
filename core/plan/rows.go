package plan

import (
	"fmt"
	"slices"
	"sort"
	"strings"
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

// rejectUnusedDecisions refuses decisions that no question and no row answers to.
func rejectUnusedDecisions(g given, rows []Row) error {
	var keys []string
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
		var have []string
		for _, r := range rows {
			have = append(have, r.Address.String())
		}
		sort.Strings(have)
		return &DecisionError{
			Key: k,
			Message: fmt.Sprintf("the plan has nothing of this name to decide (it has: %s)",
				strings.Join(have, ", ")),
		}
	}
	return nil
}
