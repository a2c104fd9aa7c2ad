package plan

import (
	"strings"

	"compactparcel/core/item"
)

// tellLeftScripts tells of pages that come in without a script of their heads at home by which they
// may look different.
func tellLeftScripts(g given, rows rowList) {
	for _, l := range g.parcel.List.LeavesOut {
		a, err := item.ParseAddress(l.Address)
		if err != nil || l.Script == "" || l.Names == "" {
			continue
		}
		row := rows.rows[a]
		if row == nil || !comesIn(row) {
			continue
		}
		knows := "which names " + strings.ReplaceAll(l.Names, " ", ", ") + " of the page"
		if l.Names == "*" {
			knows = "which was not read"
		}
		g.note("%s ran the script %s in its head at home, %s. It stays behind, so the page may look different. "+
			"To bring "+
			"it, call it portable in setting/head-scripts of its site, and seal the kit anew.", a, l.Script, knows)
	}
}
