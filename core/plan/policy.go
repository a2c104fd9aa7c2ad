package plan

import (
	"compactparcel/core/item"
)

// Policy says what is done where nobody decided. The set is closed.
type Policy string

// The policies.
const (
	Careful    Policy = "careful"
	Refresh    Policy = "refresh"
	Restyle    Policy = "restyle"
	Unattended Policy = "unattended"
)

// asksNothing tells that a policy keeps the site's where it might ask about what is no item.
func (p Policy) asksNothing() bool { return p == Unattended || p == Restyle }

// PolicyInfo is the one declaration of a policy: what is done where nobody decided.
type PolicyInfo struct {
	Policy      Policy `json:"policy"`
	Description string `json:"description"`
}

// Policies lists the policies, the usual one first.
var Policies = []PolicyInfo{
	{Careful, "edits made here stay; where both sides changed they are blended; any doubt is a question"},
	{
		Refresh,
		"the kit's is taken wherever the site has not edited it, older versions too; where both " +
			"changed they are blended; conflicts are questions",
	},
	{Restyle, "only tokens and stylesheets come in; all else stays as it is"},
	{Unattended, "nothing is asked: on any doubt the site's stays"},
}

// PolicyNames are the words of the policies.
func PolicyNames() []string {
	var out []string
	for _, p := range Policies {
		out = append(out, string(p.Policy))
	}
	return out
}

// standsBeside tells whether a kit's item whose name is taken can come in beside the site's,
// under a name of its own, so that nothing changes for either side; where a part stands is a
// question of its own. Menus are not among them, since a part of the kit may be meant to show
// the site's; nor are pages, whose address people know.
func (in *inputs) standsBeside(k item.Kind) bool {
	switch k {
	case item.Stylesheet, item.Tokens:
		return !in.looksOnly()
	case item.Part:
		return in.ask.Policy != Unattended
	case item.Media, item.Section, item.Block, item.Form:
		return true
	default:
	}
	return false
}

// byPolicy gives the decision for an item about which nobody decided; "" is a question.
func (in *inputs) byPolicy(row *Row) Decision {
	unedited := row.Standing == Newer || row.Standing == Older && row.unedited
	switch in.ask.Policy {
	case Restyle:
		if k := row.Address.Kind; k != item.Tokens && k != item.Stylesheet {
			if row.Site != nil {
				return Keep
			}
			return Skip
		}
		if row.Standing == Taken {
			return ""
		}
	case Refresh:
		if unedited {
			return Take
		}
	case Unattended:
		switch row.Standing {
		case Taken:
			if !in.standsBeside(row.Address.Kind) {
				return Keep
			}
		case Withdrawn:
			return Keep
		case Diverged:
			if row.Base == "" {
				return Keep
			}
		default:
		}
	default:
	}
	switch {
	case row.Standing == Taken && in.standsBeside(row.Address.Kind):
		return Both
	case row.Standing == Diverged && row.Base == "":
		return ""
	case row.Standing.Info().Question:
		return ""
	}
	return row.Standing.Info().Choices[0]
}
