package plan

import (
	"slices"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// HostRow is another host from which pages will load something by what comes in.
type HostRow struct {
	Host string         `json:"host"`
	Kind facts.LoadKind `json:"kind"`
	From item.Address   `json:"from"`
	Line int            `json:"line"`
}

// findHosts lists the hosts that what comes in loads from, by host.
func findHosts(in *inputs, writes []PlannedWrite) ([]HostRow, error) {
	var out []HostRow
	for _, p := range writes {
		if !p.readable() {
			continue
		}
		f, err := in.factsOf(p)
		if err != nil {
			return nil, err
		}
		for _, l := range f.Loads() {
			out = append(out, HostRow{l.Host, l.Kind, p.Head.Address, l.Line})
		}
	}
	slices.SortStableFunc(out, func(a, b HostRow) int { return strings.Compare(a.Host, b.Host) })
	return out, nil
}
