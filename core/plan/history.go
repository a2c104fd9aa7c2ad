package plan

import (
	"fmt"

	"compactparcel/core/facts"
)

// loadHistory reads what this kit delivered before, and what was said then.
func (m *maker) loadHistory() error {
	name := m.parcel.List.Kit
	came, err := m.site.Origins(name)
	if err != nil {
		return err
	}
	if m.prior, err = m.site.PriorDelivery(name); err != nil {
		return err
	}
	m.plan.VersionIs = FirstDelivery
	for _, o := range came {
		if old, ok := m.origins[o.KitAddress]; !ok || o.Copy > old.Copy {
			m.origins[o.KitAddress] = o
		}
		switch c := compareVersions(m.parcel.List.Version, o.Version); {
		case c > 0:
			m.plan.VersionIs = NewerVersion
		case c == 0 && m.plan.VersionIs != NewerVersion:
			m.plan.VersionIs = SameVersion
			if m.prior.KitDigest != "" && m.prior.Version == o.Version && m.prior.KitDigest != m.parcel.Digest {
				m.plan.VersionIs = RebuiltVersion
				m.plan.Notes = append(
					m.plan.Notes,
					fmt.Sprintf("%s@%s was delivered here before with other contents: it was rebuilt under the "+
						"same version.",
						name, o.Version),
				)
			}
		case c < 0 && m.plan.VersionIs == FirstDelivery:
			m.plan.VersionIs = OlderVersion
		}
	}
	if f := m.prior.Format; f > 0 && m.parcel.List.Format > f {
		m.plan.Notes = append(
			m.plan.Notes,
			fmt.Sprintf("The kit's format was raised from %d to %d since %s.", f, m.parcel.List.Format,
				m.prior.Version),
		)
	}
	// T is as it was: what was filled in and renamed is no change of the kit's.
	m.values = map[string]string{}
	for _, f := range m.parcel.List.Fillins {
		if v := m.prior.Fills[f.Name]; v != "" && checkFill(f, v) == "" {
			m.values[f.Name] = v
		}
	}
	for name, v := range m.ask.Fills {
		if v != "" {
			m.values[name] = v
		}
	}
	for key, d := range m.prior.Decisions {
		if now, again := m.ask.Decisions[key]; again && now.Decision != d.Decision {
			continue
		}
		switch kind, n := ParseKey(key); {
		case kind == AboutClass && d.Decision == Mark:
			m.marked = true
		case d.Decision == Rename:
			if name, ok := nameOf(kind, n); ok {
				if m.names[name] = d.Name; d.Name == "" {
					m.names[name] = m.ownName(name)
				}
			}
		case d.Decision == Wear:
			if name, ok := nameOf(kind, n); ok {
				m.worn[name] = true
			}
		}
	}
	return nil
}

// nameOf is the name that a key is about, if it is about one of a stylesheet.
func nameOf(kind QuestionKind, name string) (facts.Name, bool) {
	for space, k := range aboutName {
		if k == kind {
			return facts.Name{Space: space, Name: name}, true
		}
	}
	return facts.Name{}, false
}
