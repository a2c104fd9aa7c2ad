package kit

import (
	"encoding/json"
	"fmt"
	"sort"

	"compactparcel/core/item"
	"compactparcel/core/tokens"

	"github.com/Masterminds/semver/v3"
)

// VersionStep is the part of a version number that changes ask for. The set is closed.
type VersionStep string

// The steps.
const (
	FirstVersion VersionStep = "first" // nothing was sealed before
	MajorStep    VersionStep = "major"
	MinorStep    VersionStep = "minor"
	PatchStep    VersionStep = "patch"
	NoStep       VersionStep = "none" // nothing changed
)

// VersionSteps lists all of them.
var VersionSteps = []VersionStep{FirstVersion, MajorStep, MinorStep, PatchStep, NoStep}

// Advice says which version number comes next, and why (Semantic Versioning 2.0: what
// others lean on and is gone asks for a major one, what is new for a minor one, all
// else for a patch).
type Advice struct {
	Last string `json:"last"`
	Next string `json:"next"`
	// Step is the part of the number that the changes ask for.
	Step    VersionStep `json:"step"`
	Reasons []string    `json:"reasons"`
}

// VersionAdvice says what changed since the last sealed version, which number that asks
// for, and whether the version's own is enough.
type VersionAdvice struct {
	Advice
	Comparison
	Enough bool `json:"enough"`
}

// Offers gives the names in a kit that others may lean on: its items, fill-ins,
// variants, tokens and fields.
func Offers(list *PackingList, c item.Collection) (map[string]bool, error) {
	out := map[string]bool{}
	for _, e := range list.Items {
		a := e.Address()
		out[a.String()] = true
		for _, v := range e.Variants {
			out[fmt.Sprintf("the variant %s of %s", v, a)] = true
		}
		switch e.Kind {
		case item.Tokens:
			b, err := item.Read(c, e.Head())
			if err != nil {
				return nil, err
			}
			if t, err := tokens.Parse(b); err == nil {
				for _, x := range t.List {
					out[fmt.Sprintf("the token %s of %s", x.Path, a)] = true
				}
			}
		case item.RecordType, item.Form:
			b, err := item.Read(c, e.Head())
			if err != nil {
				return nil, err
			}
			var f struct {
				Schema struct {
					Properties map[string]any `json:"properties"`
				} `json:"schema"`
				Fields     map[string]any `json:"fields"`
				Properties map[string]any `json:"properties"`
			}
			if json.Unmarshal(b, &f) == nil {
				for _, m := range []map[string]any{f.Schema.Properties, f.Fields, f.Properties} {
					for name := range m {
						out[fmt.Sprintf("the field %s of %s", name, a)] = true
					}
				}
			}
		default:
		}
	}
	for _, f := range list.Fillins {
		out["the fill-in "+f.Name] = true
	}
	return out, nil
}

// AdviseOn compares a version with the last sealed one, and says which number it asks for.
func AdviseOn(last, next Contents) (*Advice, *Comparison, error) {
	c, err := Compare(last, next)
	if err != nil {
		return nil, nil, err
	}
	had, err := Offers(last.List, last.Items)
	if err != nil {
		return nil, nil, err
	}
	has, err := Offers(next.List, next.Items)
	if err != nil {
		return nil, nil, err
	}
	a, err := Advise(last.List, had, has, len(c.Changes)+len(c.Metadata) > 0)
	return a, c, err
}

// Advise compares what was offered with what is. changed tells whether anything at all
// is other.
func Advise(last *PackingList, had, has map[string]bool, changed bool) (*Advice, error) {
	v, err := semver.StrictNewVersion(last.Version)
	if err != nil {
		return nil, fmt.Errorf("the last version %q is not a version: %w", last.Version, err)
	}
	a := &Advice{Last: last.Version, Step: NoStep, Next: last.Version, Reasons: []string{}}
	var gone, come []string
	for n := range had {
		if !has[n] {
			gone = append(gone, n+" is gone")
		}
	}
	for n := range has {
		if !had[n] {
			come = append(come, n+" is new")
		}
	}
	sort.Strings(gone)
	sort.Strings(come)
	a.Reasons = append(gone, come...)
	early := v.Major() == 0 // SemVer, item 4: nothing is promised yet
	switch {
	case len(gone) > 0 && early:
		a.Step, a.Next = MinorStep, v.IncMinor().String()
	case len(come) > 0 && early:
		a.Step, a.Next = PatchStep, v.IncPatch().String()
	case len(gone) > 0:
		a.Step, a.Next = MajorStep, v.IncMajor().String()
	case len(come) > 0:
		a.Step, a.Next = MinorStep, v.IncMinor().String()
	case changed:
		a.Step, a.Next, a.Reasons = PatchStep, v.IncPatch().
			String(),
			[]string{
				"contents changed, and nothing that others rely on was added or removed",
			}
	default:
		a.Reasons = []string{"nothing changed"}
	}
	return a, nil
}

// Enough tells whether a version number is at least the one that is asked for.
func (a *Advice) Enough(version string) bool {
	v, err := semver.StrictNewVersion(version)
	return err == nil && !v.LessThan(semver.MustParse(a.Next))
}
