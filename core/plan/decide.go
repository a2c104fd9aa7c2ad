package plan

import (
	"fmt"
	"path"
	"strings"

	"compactparcel/core/item"
)

// decide takes the person's decision, or the policy's default.
func (m *maker) decide(row *Row) error {
	info := row.Standing.Info()
	for _, d := range info.Choices {
		row.Choices = append(row.Choices, Choice{d, m.leads(row, d)})
	}
	key := row.Address.String()
	if d, ok := m.decided(key, row.About); ok {
		fits := false
		for _, c := range info.Choices {
			fits = fits || c == d.Decision
		}
		if !fits {
			return &DecisionError{key, fmt.Sprintf("its standing is %q, which leaves %v", row.Standing, info.Choices), row.Choices}
		}
		if d.Decision == Map {
			h, ok := m.site.Find(d.To)
			if !ok || d.To.Kind != row.Address.Kind {
				return &DecisionError{key, fmt.Sprintf("map needs another %s of the site, as in map:%s/NAME", row.Address.Kind, row.Address.Kind), row.Choices}
			}
			row.Becomes = h.Address
			m.rely(h.Address)
		}
		row.Decision, row.DecidedBy = d.Decision, "you"
	} else if !info.Question {
		row.Decision, row.DecidedBy = info.Choices[0], "policy"
	} else if m.ask.Policy == "unattended" {
		row.Decision, row.DecidedBy = Keep, "policy"
	} else {
		m.question(key, "item", fmt.Sprintf("%s: %s.", key, row.Why), row.Choices)
	}
	switch row.Decision {
	case Both:
		row.Becomes = m.freeName(row.Address)
		m.premises[row.Becomes] = ""
	case Take:
		if row.Site == nil {
			row.Becomes = row.Address
		}
	case Skip:
		if row.Site == nil {
			row.Becomes = item.Address{}
		}
	}
	if !row.Becomes.IsZero() {
		m.moved[row.Address] = row.Becomes
	}
	return nil
}

func (m *maker) leads(row *Row, d Decision) string {
	switch d {
	case Both:
		return fmt.Sprintf("the kit's comes in as %s, and all of the kit follows; the site's stays as it is", m.freeName(row.Address))
	case Keep:
		if row.Standing == Taken {
			return fmt.Sprintf("the kit's pieces use the site's %s; the kit's stays out", row.Becomes)
		}
		return "the site's stays as it is"
	case Take:
		if row.Site == nil {
			return fmt.Sprintf("it comes in as %s", row.Address)
		}
		return fmt.Sprintf("the kit's replaces the site's %s everywhere it is used; undo brings it back", row.Becomes)
	case Map:
		return fmt.Sprintf("you name another %s of the site, and the kit's pieces use it", row.Address.Kind)
	}
	return "it does not come in; what refers to it keeps its name"
}

// freeName proposes a name that neither side uses.
func (m *maker) freeName(a item.Address) item.Address {
	ext := ""
	if a.Kind == item.Media {
		ext = path.Ext(a.Key)
	}
	stem := strings.TrimSuffix(a.Key, ext)
	for n := 2; ; n++ {
		b := item.Address{Kind: a.Kind, Key: fmt.Sprintf("%s-%d%s", stem, n, ext)}
		_, onSite := m.site.Find(b)
		_, inKit := m.parcel.Find(b)
		if !onSite && !inKit {
			return b
		}
	}
}
