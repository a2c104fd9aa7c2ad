package plan

import (
	"encoding/json"
	"fmt"
	"reflect"
	"sort"

	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// SettingRow is a setting that the kit proposes. On a site that has a value it is only
// taken when somebody says so.
type SettingRow struct {
	Setting item.Address `json:"setting"`
	// Proposed and Site are values in JSON; Site is empty when the site has none.
	Proposed  string    `json:"proposed"`
	Site      string    `json:"site,omitempty"`
	Key       string    `json:"key"`
	Decision  Decision  `json:"decision"`
	DecidedBy DecidedBy `json:"decidedBy"`
	Why       string    `json:"why"`
	Choices   []Choice  `json:"choices"`
}

// propose decides about the settings that the kit proposes, and writes those that are
// taken. A value that names an item of the kit follows its new name.
func propose(g given, rows rowList, t *transform) ([]SettingRow, []PlannedWrite, error) {
	m := &proposer{given: g, rowList: rows, moved: t.moved}
	err := m.all()
	return m.settings, m.writes, err
}

// proposer is the stage that decides about settings.
type proposer struct {
	given
	rowList
	moved    map[item.Address]item.Address
	settings []SettingRow
	writes   []PlannedWrite
}

func (m *proposer) all() error {
	keys := make([]string, 0, len(m.parcel.List.Proposes))
	for k := range m.parcel.List.Proposes {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	for _, k := range keys {
		a, err := item.ParseAddress(k)
		if err != nil || a.Kind != item.Setting {
			m.note("the kit proposes %q, which is not a setting", k)
			continue
		}
		if err := m.proposal(a, m.parcel.List.Proposes[k]); err != nil {
			return err
		}
	}
	return nil
}

func (m *proposer) proposal(a item.Address, value any) error {
	row := SettingRow{Setting: a, Key: Key(AboutSetting, a.String()), Choices: []Choice{}}
	value, out := m.resolveProposal(value)
	text, err := json.Marshal(value)
	if err != nil {
		return err
	}
	row.Proposed = string(text)
	head, has := m.site.Find(a)
	same := false
	if has {
		b, err := item.Read(m.site, head)
		if err != nil {
			return err
		}
		var own any
		same = json.Unmarshal(b, &own) == nil && reflect.DeepEqual(own, normal(text))
		row.Site = string(b)
	}
	m.addPrecondition(a)
	d, decided := m.decided(row.Key, about(fmt.Sprint(row.Proposed), fmt.Sprint(row.Site)))
	switch {
	case item.SiteOnly(a.Key) && decided:
		return &DecisionError{row.Key, "each site's own: a kit cannot set it", nil}
	case item.SiteOnly(a.Key): // nobody can be asked to trust on a kit's word
		row.Decision, row.DecidedBy, row.Why = Skip, ByPolicy, "each site's own: a kit cannot set it"
	case out != "":
		row.Decision, row.DecidedBy, row.Why = Skip, ByPolicy, out
	case same:
		row.Decision, row.DecidedBy, row.Why = Keep, ByPolicy, "the site already has this value"
	default:
		leads := "the site's value stays"
		if !has {
			leads = "the site goes without it"
		}
		row.Choices = []Choice{{Decision: Take, Effect: "the site's " + a.Key + " becomes " + row.Proposed},
			{Decision: Keep, Effect: leads}}
		row.Decision, row.DecidedBy, row.Why = Keep, ByPolicy,
			"the site has a value of its own, which is never replaced unasked"
		if !has {
			row.Decision, row.Why = Take, "the site has none"
		}
		if decided {
			if d.Decision != Take && d.Decision != Keep {
				return &DecisionError{row.Key, "a proposed setting is either taken or not", row.Choices}
			}
			row.Decision, row.DecidedBy = d.Decision, ByPerson
		}
	}
	if row.Decision == Take {
		meta := item.Meta{}
		if has {
			meta = head.Meta
		}
		f := facts.Extract(item.Setting, "", text)
		m.writes = append(
			m.writes,
			PlannedWrite{
				Head: item.Head{
					Address:          a,
					Meta:             meta,
					Doc:              item.DigestOf(text),
					NormalizedDigest: f.NormalizedDigest,
					Bytes:            int64(len(text)),
				},
				Content: text,
			},
		)
	}
	m.settings = append(m.settings, row)
	return nil
}

// resolveProposal gives a value as the site would have it: an address of the kit's as it is called
// there. why says what stands in the way.
func (m *proposer) resolveProposal(value any) (out any, why string) {
	text, ok := value.(string)
	if !ok {
		return value, ""
	}
	a, err := item.ParseAddress(text)
	if err != nil {
		return value, ""
	}
	if _, ours := m.parcel.Find(a); !ours {
		return value, ""
	}
	row := m.rows[a]
	to, moved := m.moved[a]
	if row == nil || row.Decision == Skip || row.Decision == "" || !moved && row.Site == nil && row.Decision != Take {
		return value, fmt.Sprintf("%s does not come in", a)
	}
	if moved {
		return to.String(), ""
	}
	return value, ""
}

func normal(text []byte) (v any) {
	_ = json.Unmarshal(text, &v) // it was just written
	return v
}
