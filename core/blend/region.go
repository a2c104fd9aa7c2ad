package blend

import "sort"

// sided is a change of one side.
type sided struct {
	hunk
	bySite bool
	wordy  bool // it is about words, not only about elements
}

// regions finds the runs that somebody changed. Changes of both sides are one region when
// they reach into each other, or are words that touch.
func (m *merger) regions(f *flow) []*region {
	all := append(changes(f, hunks(f.toS, len(f.site)), true, f.site),
		changes(f, hunks(f.toK, len(f.kit)), false, f.kit)...)
	sort.SliceStable(all, func(i, j int) bool {
		if all[i].b0 != all[j].b0 {
			return all[i].b0 < all[j].b0
		}
		return all[i].b1 < all[j].b1
	})
	var out []*region
	for _, list := range groups(all) {
		g := &region{b0: list[0].b0, b1: list[0].b1}
		for _, c := range list {
			g.b0, g.b1 = min(g.b0, c.b0), max(g.b1, c.b1)
			g.bySite, g.byKit = g.bySite || c.bySite, g.byKit || !c.bySite
		}
		g.siteAt, g.site = g.slice(list, true, f.toS, f.site)
		g.kitAt, g.kit = g.slice(list, false, f.toK, f.kit)
		g.base, g.toS, g.toK = f.base[g.b0:g.b1], f.toS[g.b0:g.b1], f.toK[g.b0:g.b1]
		out = append(out, g)
	}
	sortRegions(out)
	return out
}

// changes gives the changes of one side, and whether they are about words.
func changes(f *flow, list []hunk, bySite bool, side []token) []sided {
	var out []sided
	for _, h := range list {
		c := sided{h, bySite, false}
		depth := 0
		for _, t := range side[h.x0:h.x1] {
			switch t.what {
			case opens:
				depth++
			case shuts:
				depth--
			case words:
				c.wordy = c.wordy || depth <= 0
			default:
			}
		}
		for _, t := range f.base[h.b0:h.b1] {
			c.wordy = c.wordy || t.what == words
		}
		out = append(out, c)
	}
	return out
}

// meets tells whether two changes belong together; c begins first.
func (c sided) meets(d sided) bool {
	switch {
	case c.bySite == d.bySite:
		return false
	case c.b0 == c.b1 && d.b0 == d.b1:
		return c.b0 == d.b0
	case d.b0 < c.b1 && c.b0 < d.b1 && (d.b0 > c.b0 || d.b0 < d.b1):
		return true
	case d.b0 == c.b1 || c.b0 == d.b0:
		return c.wordy && d.wordy
	}
	return false
}

// groups puts the changes together that meet, and what lies between them.
func groups(all []sided) (out [][]sided) {
	for _, c := range all {
		joined := -1
		for i := len(out) - 1; i >= 0 && i >= len(out)-4 && joined < 0; i-- {
			for _, x := range out[i] {
				if x.meets(c) {
					joined = i
				}
			}
		}
		if joined < 0 {
			out = append(out, []sided{c})
			continue
		}
		out[joined] = append(out[joined], c)
		for len(out)-1 > joined { // what lies between belongs to it, too
			out[joined] = append(out[joined], out[joined+1]...)
			out = append(out[:joined+1], out[joined+2:]...)
		}
	}
	return out
}

// slice gives what one side has for a region of some changes, and where that begins.
func (g *region) slice(list []sided, bySite bool, to []int, side []token) (int, []token) {
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

func sortRegions(list []*region) {
	sort.SliceStable(list, func(i, j int) bool {
		if list[i].b0 != list[j].b0 {
			return list[i].b0 < list[j].b0
		}
		return list[i].b1 < list[j].b1
	})
}
