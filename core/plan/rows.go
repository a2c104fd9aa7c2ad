package plan

import (
	"fmt"
	"sort"
	"strings"
)

// collectRows puts the rows into the plan, questions first, by standing.
func (m *maker) collectRows() error {
	rank := map[Standing]int{}
	for i, s := range Standings {
		rank[s.Standing] = i
	}
	sort.SliceStable(m.list, func(i, j int) bool {
		a, b := m.list[i], m.list[j]
		if (a.Decision == "") != (b.Decision == "") {
			return a.Decision == ""
		}
		if rank[a.Standing] != rank[b.Standing] {
			return rank[a.Standing] < rank[b.Standing]
		}
		return a.Address.Less(b.Address)
	})
	for _, row := range m.list {
		m.plan.Rows = append(m.plan.Rows, *row)
	}
	return nil
}

// stray refuses decisions that no question and no row answers to.
func (m *maker) rejectUnusedDecisions() error {
	var keys []string
	for k := range m.ask.Decisions {
		if !m.used[k] {
			keys = append(keys, k)
		}
	}
	sort.Strings(keys)
	for _, k := range keys {
		if m.ask.Decisions[k].SubjectDigest != "" {
			continue // decided once; what it was about is gone
		}
		var have []string
		for _, r := range m.plan.Rows {
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
