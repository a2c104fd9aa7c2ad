package plan

import (
	"encoding/json"
	"fmt"
	"slices"

	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// FieldRow is a field of records that the kit's pieces show and that the site's record
// type has under another name.
type FieldRow struct {
	Key  string       `json:"key"`
	Type item.Address `json:"type"` // on the site
	Kit  string       `json:"kit"`
	// Site is the site's field; empty: it stays empty where the kit shows it.
	Site      string    `json:"site,omitempty"`
	Decision  Decision  `json:"decision,omitempty"` // "as" or "leave"
	DecidedBy DecidedBy `json:"decidedBy,omitempty"`
	Choices   []Choice  `json:"choices"`
}

// ofAll are what records of every type have.
var ofAll = []string{"title", "slug", "date", "picture-alt", "url"}

// recordFields is a record type as it is kept.
type recordFields struct {
	Fields map[string]struct {
		Type  string `json:"type"`
		Label string `json:"label"`
	} `json:"fields"`
}

// fieldMapper is the stage that holds the fields of records against each other.
type fieldMapper struct {
	given
	rowList
	*transform
	fields []FieldRow
}

// mapFields finds which of the site's fields the kit's pieces mean by theirs. It gives T with
// the fields.
func mapFields(g given, rows rowList, under *transform) ([]FieldRow, *transform, error) {
	m := &fieldMapper{given: g, rowList: rows, transform: under.clone()}
	err := m.all()
	return m.fields, m.transform, err
}

func (m *fieldMapper) all() error {
	asked := map[string]bool{}
	for _, h := range m.parcel.Heads() {
		f, err := m.facts(h)
		if err != nil {
			return err
		}
		shown := f.Uses(facts.Field)
		if len(shown) == 0 {
			continue
		}
		for _, t := range typesOf(h, f) {
			at := t
			if to, ok := m.moved[t]; ok {
				at = to
			}
			site, ok := m.site.Find(at)
			if row := m.rows[t]; !ok || row != nil && row.Decision == Take {
				continue
			}
			have, err := readFields(func() ([]byte, error) { return item.Read(m.site, site) })
			if err != nil {
				return err
			}
			for _, r := range shown {
				if _, same := have.Fields[r.Name]; same || slices.Contains(ofAll, r.Name) {
					continue
				}
				key := Key(AboutField, at.String(), r.Name)
				if asked[key] {
					continue
				}
				asked[key] = true
				if err := m.field(key, at, t, r.Name, have); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

func readFields(read func() ([]byte, error)) (recordFields, error) {
	var out recordFields
	b, err := read()
	if err == nil {
		err = json.Unmarshal(b, &out)
	}
	return out, err
}

// typesOf lists the record types that an item of the kit shows.
func typesOf(h item.Head, f *facts.Facts) []item.Address {
	var out []item.Address
	add := func(key string) {
		if a := (item.Address{Kind: item.RecordType, Key: key}); key != "" && !slices.Contains(out, a) {
			out = append(out, a)
		}
	}
	for _, r := range f.Uses(facts.RecordType) {
		add(r.Name)
	}
	add(h.Meta.Type)
	if h.Meta.Placement != nil {
		for _, s := range h.Meta.Placement.Where {
			if t, ok := item.ParseTarget(s); ok {
				add(t.Type)
			}
		}
	}
	return out
}

func (m *fieldMapper) field(key string, at, kitType item.Address, name string, have recordFields) error {
	row := FieldRow{Key: key, Type: at, Kit: name}
	wanted := ""
	if h, ok := m.parcel.Find(kitType); ok {
		own, err := readFields(func() ([]byte, error) { return item.Read(m.parcel.Collection, h) })
		if err != nil {
			return err
		}
		wanted = own.Fields[name].Type
	}
	for _, n := range sortedKeys(have.Fields) {
		if f := have.Fields[n]; wanted == "" || f.Type == wanted {
			row.Choices = append(
				row.Choices,
				Choice{Decision: As, To: n, Effect: fmt.Sprintf("it shows the site's %s (%s, %s)", n, f.Label,
					f.Type)},
			)
		}
	}
	row.Choices = append(row.Choices, Choice{Decision: Leave, Effect: "it stays empty where the kit shows it"})
	facts := []string{wanted}
	for _, c := range row.Choices {
		facts = append(facts, c.Written())
	}
	d, ok := m.decided(key, about(facts...))
	_, asked := m.ask.Decisions[key]
	fits := ok && slices.ContainsFunc(row.Choices, func(c Choice) bool { return c.Written() == d.String() })
	switch {
	case ok && !fits && asked:
		return &DecisionError{key, "choose " + choiceWords(row.Choices), row.Choices}
	case fits:
		row.Decision, row.DecidedBy = d.Decision, ByPerson
		if !asked {
			row.DecidedBy = ByPrior
		}
		row.Site = d.Name
	case m.ask.Policy.asksNothing():
		row.Decision, row.DecidedBy = Leave, ByPolicy
	default:
		m.question(
			key,
			AboutField,
			fmt.Sprintf("The kit shows the field %s of %s, which the site's records do not have under this name.",
				name, at),
			row.Choices,
		)
	}
	if row.Site != "" {
		if m.transform.fields[kitType] == nil {
			m.transform.fields[kitType] = map[string]string{}
		}
		m.transform.fields[kitType][name] = row.Site
	}
	m.fields = append(m.fields, row)
	return nil
}
