package blend

import "sort"

// regions finds the runs that somebody changed. Changes of both sides are one region when
// they reach into each other, or are words that touch.
func (m *merger) regions(f *flow) []*region {
	type change struct {
		hunk
		bySite bool
		wordy  bool
	}
	var all []change
	add := func(list []hunk, bySite bool, side []token) {
		for _, h := range list {
			c := change{h, bySite, false}
			depth := 0
			for _, t := range side[h.x0:h.x1] {
				switch t.what {
				case opens:
					depth++
				case shuts:
					depth--
				case words:
					c.wordy = c.wordy || depth <= 0
				}
			}
			for _, t := range f.base[h.b0:h.b1] {
				c.wordy = c.wordy || t.what == words
			}
			all = append(all, c)
		}
	}
	add(hunks(f.toS, len(f.site)), true, f.site)
	add(hunks(f.toK, len(f.kit)), false, f.kit)
	sort.SliceStable(all, func(i, j int) bool {
		if all[i].b0 != all[j].b0 {
			return all[i].b0 < all[j].b0
		}
		return all[i].b1 < all[j].b1
	})
	meet := func(a, b change) bool { // a begins first
		switch {
		case a.bySite == b.bySite:
			return false
		case a.b0 == a.b1 && b.b0 == b.b1:
			return a.b0 == b.b0
		case b.b0 < a.b1 && a.b0 < b.b1 && (b.b0 > a.b0 || b.b0 < b.b1):
			return true
		case b.b0 == a.b1 || a.b0 == b.b0:
			return a.wordy && b.wordy
		}
		return false
	}
	var out []*region
	var groups [][]change
	for _, c := range all {
		joined := -1
		for i := len(groups) - 1; i >= 0 && i >= len(groups)-4; i-- {
			for _, x := range groups[i] {
				if meet(x, c) {
					joined = i
				}
			}
			if joined >= 0 {
				break
			}
		}
		if joined < 0 {
			groups = append(groups, []change{c})
			continue
		}
		groups[joined] = append(groups[joined], c)
		for len(groups)-1 > joined { // what lies between belongs to it, too
			groups[joined] = append(groups[joined], groups[joined+1]...)
			groups = append(groups[:joined+1], groups[joined+2:]...)
		}
	}
	for _, list := range groups {
		g := &region{b0: list[0].b0, b1: list[0].b1}
		for _, c := range list {
			g.b0, g.b1 = min(g.b0, c.b0), max(g.b1, c.b1)
			g.bySite, g.byKit = g.bySite || c.bySite, g.byKit || !c.bySite
		}
		slice := func(bySite bool, to []int, side []token) (int, []token) {
			from, until := -1, -1
			for _, c := range list {
				if c.bySite != bySite {
					continue
				}
				if c.b0 == g.b0 && (from < 0 || c.x0 < from) {
					from = c.x0
				}
				if c.b1 == g.b1 && c.x1 > until {
					until = c.x1
				}
			}
			if from < 0 && g.b0 < len(to) && g.b0 < g.b1 {
				from = to[g.b0]
			}
			if until < 0 && g.b1 > 0 && g.b0 < g.b1 {
				until = to[g.b1-1] + 1
			}
			if from < 0 || until < from {
				return 0, nil
			}
			return from, side[from:until]
		}
		g.siteAt, g.site = slice(true, f.toS, f.site)
		g.kitAt, g.kit = slice(false, f.toK, f.kit)
		g.base, g.toS, g.toK = f.base[g.b0:g.b1], f.toS[g.b0:g.b1], f.toK[g.b0:g.b1]
		out = append(out, g)
	}
	sortRegions(out)
	return out
}

func sortRegions(list []*region) {
	sort.SliceStable(list, func(i, j int) bool {
		if list[i].b0 != list[j].b0 {
			return list[i].b0 < list[j].b0
		}
		return list[i].b1 < list[j].b1
	})
}
