package plan

import (
	"compactparcel/core/item"
)

// PolicyInfo is the one declaration of a policy: what is done where nobody decided.
type PolicyInfo struct {
	Policy      string `json:"policy"`
	Description string `json:"says"`
}

// Policies lists the policies, the usual one first.
var Policies = []PolicyInfo{
	{"careful", "what somebody edited here stays; where both sides changed they are blended; any doubt is a question"},
	{
		"refresh",
		"the kit's is taken wherever the site has not edited it, older versions and withdrawals too; where both " +
			"changed they are blended; conflicts are questions",
	},
	{"restyle", "only tokens and stylesheets come in; all else stays as it is"},
	{"unattended", "nothing is asked: on any doubt the site's stays"},
}

// PolicyNames are the words of the policies.
func PolicyNames() []string {
	var out []string
	for _, p := range Policies {
		out = append(out, p.Policy)
	}
	return out
}

// byPolicy gives the decision for an item about which nobody decided; "" is a question.
func (m *maker) byPolicy(row *Row) Decision {
	unedited := row.Standing == Newer || row.Standing == Older && row.unedited
	switch m.ask.Policy {
	case "restyle":
		if k := row.Address.Kind; k != item.Tokens && k != item.Stylesheet {
			if row.Site != nil {
				return Keep
			}
			return Skip
		}
		if row.Standing == Taken {
			return ""
		}
	case "refresh":
		switch {
		case unedited:
			return Take
		case row.Standing == Withdrawn && row.unedited && !row.inUse:
			return Remove
		}
	case "unattended":
		switch row.Standing {
		case Taken, Withdrawn:
			return Keep
		case Diverged:
			if row.Base == "" {
				return Keep
			}
		}
	}
	switch {
	case row.Standing == Withdrawn && row.unedited && !row.inUse:
		return ""
	case row.Standing == Diverged && row.Base == "":
		return ""
	case row.Standing.Info().Question:
		return ""
	}
	return row.Standing.Info().Choices[0]
}
