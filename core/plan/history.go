package plan

import (
	"fmt"
	"maps"

	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// history is what a kit delivered before, and what was said then.
type history struct {
	origins   map[item.Address]Origin // by the kit's address
	prior     PriorDelivery
	versionIs VersionStanding
	values    map[string]string // of fill-ins: given now, or before
	// under is T as it was said before: what was filled in and renamed is no change of the kit's.
	under *transform
	notes []string
}

// readHistory reads what this kit delivered before, and what was said then.
func readHistory(in *inputs) (*history, error) {
	name := in.parcel.List.Kit
	came, err := in.site.Origins(name)
	if err != nil {
		return nil, err
	}
	h := &history{origins: map[item.Address]Origin{}, versionIs: FirstDelivery}
	if h.prior, err = in.site.PriorDelivery(name); err != nil {
		return nil, err
	}
	for _, o := range came {
		if old, ok := h.origins[o.KitAddress]; !ok || o.Copy > old.Copy {
			h.origins[o.KitAddress] = o
		}
		switch c := compareVersions(in.parcel.List.Version, o.Version); {
		case c > 0:
			h.versionIs = NewerVersion
		case c == 0 && h.versionIs != NewerVersion:
			h.versionIs = SameVersion
			if h.prior.KitDigest != "" && h.prior.Version == o.Version && h.prior.KitDigest != in.parcel.Digest {
				h.versionIs = RebuiltVersion
				h.notes = append(
					h.notes,
					fmt.Sprintf("%s@%s was delivered here before with other contents: it was rebuilt under the "+
						"same version.",
						name, o.Version),
				)
			}
		case c < 0 && h.versionIs == FirstDelivery:
			h.versionIs = OlderVersion
		}
	}
	if f := h.prior.Format; f > 0 && in.parcel.List.Format > f {
		h.notes = append(
			h.notes,
			fmt.Sprintf("The kit's format was raised from %d to %d since %s.", f, in.parcel.List.Format,
				h.prior.Version),
		)
	}
	h.values = map[string]string{}
	for _, f := range in.parcel.List.Fillins {
		if v := h.prior.Fills[f.Name]; v != "" && checkFill(f, v) == "" && !in.ask.Next {
			h.values[f.Name] = v
		}
	}
	for name, v := range in.ask.Fills {
		if v != "" {
			h.values[name] = v
		}
	}
	h.under = priorTransform(in, h.prior)
	return h, nil
}

// priorTransform is what T does about single names, as it was decided before.
func priorTransform(in *inputs, prior PriorDelivery) *transform {
	t := newTransform()
	for key, d := range prior.Decisions {
		if now, again := in.ask.Decisions[key]; again && now.Decision != d.Decision {
			continue
		}
		switch kind, n := ParseKey(key); {
		case kind == AboutClass && d.Decision == Mark:
			t.marked = true
		case d.Decision == Rename:
			if name, ok := nameOf(kind, n); ok {
				if t.names[name] = d.Name; d.Name == "" {
					t.names[name] = in.ownName(name)
				}
			}
		case d.Decision == Wear:
			if name, ok := nameOf(kind, n); ok {
				t.worn[name] = true
			}
		}
	}
	return t
}

// said lays what was said before over a T.
func (h *history) said(under *transform) *transform {
	t := under.clone()
	maps.Copy(t.names, h.under.names)
	maps.Copy(t.worn, h.under.worn)
	t.marked = t.marked || h.under.marked
	return t
}

// origin gives what is remembered of an item of the kit, under its name or a former one.
func (h *history) origin(of item.Head) (Origin, bool) {
	if o, ok := h.origins[of.Address]; ok {
		return o, true
	}
	for _, was := range of.Meta.Was {
		if o, ok := h.origins[was]; ok {
			return o, true
		}
	}
	return Origin{}, false
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
