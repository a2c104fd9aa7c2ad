package client

import (
	"fmt"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/plan"
)

// surrounds prints what new pages leave out of the site's parts, pages alike in one line.
func (a *app) surrounds(list []plan.SurroundRow) {
	alike := map[string][]plan.SurroundRow{}
	var order []string
	for _, s := range list {
		text := surroundText(s)
		if alike[text] == nil {
			order = append(order, text)
		}
		alike[text] = append(alike[text], s)
	}
	for _, text := range order {
		rows := alike[text]
		who := rows[0].Page.String()
		if n := len(rows) - 1; n > 0 {
			who += fmt.Sprintf(" and %d more", n)
		}
		a.say("%s: %s", who, text)
		if len(rows) == 1 {
			a.otherwise(rows[0].Key, rows[0].Decision, rows[0].Choices)
		}
	}
}

func surroundText(s plan.SurroundRow) string {
	if s.Decision == plan.ForSite {
		return "in the site's surround"
	}
	var out []string
	if len(s.Own) > 0 {
		out = append(out, "with its own "+roleWords(s.Own))
	}
	if len(s.None) > 0 {
		out = append(out, "without "+roleWords(s.None))
	}
	return "as at home, " + strings.Join(out, ", ")
}

func roleWords(list []item.Role) string {
	out := make([]string, len(list))
	for i, r := range list {
		out[i] = string(r)
	}
	return strings.Join(out, " and ")
}
