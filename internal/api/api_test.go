package api_test

import (
	"testing"

	description "compactparcel/api"
	"compactparcel/core/blend"
	"compactparcel/core/closure"
	"compactparcel/core/edit"
	"compactparcel/core/facts"
	"compactparcel/core/faults"
	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/making"
	"compactparcel/core/outline"
	"compactparcel/core/outside"
	"compactparcel/core/plan"
	"compactparcel/core/says"
	"compactparcel/core/sourcemap"
	"compactparcel/core/steps"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"
)

type schema struct {
	Description string            `yaml:"description"`
	Enum        []string          `yaml:"enum"`
	GoType      string            `yaml:"x-go-type"`
	Properties  map[string]schema `yaml:"properties"`
	Example     any               `yaml:"example"`
}

func schemas(t *testing.T) map[string]schema {
	var doc struct {
		Components struct {
			Schemas map[string]schema `yaml:"schemas"`
		} `yaml:"components"`
	}
	require.NoError(t, yaml.Unmarshal(description.Text, &doc))
	require.NotEmpty(t, doc.Components.Schemas)
	return doc.Components.Schemas
}

func words[T ~string](list []T) []string {
	out := []string{}
	for _, w := range list {
		out = append(out, string(w))
	}
	return out
}

func wordsOf[I any, T ~string](list []I, word func(I) T) []string {
	out := []string{}
	for _, i := range list {
		out = append(out, string(word(i)))
	}
	return out
}

// Every closed set of the core that the interface names is the same set in both.
func TestTheEnumerationsAreThoseOfTheCore(t *testing.T) {
	sets := map[string][]string{
		"Kind":          wordsOf(item.Kinds, func(i item.KindInfo) item.Kind { return i.Kind }),
		"PartRole":      wordsOf(item.Roles, func(i item.RoleInfo) item.Role { return i.Role }),
		"Standing":      wordsOf(plan.Standings, func(i plan.StandingInfo) plan.Standing { return i.Standing }),
		"Decision":      wordsOf(plan.Decisions, func(i plan.DecisionInfo) plan.Decision { return i.Decision }),
		"Policy":        wordsOf(plan.Policies, func(i plan.PolicyInfo) plan.Policy { return i.Policy }),
		"DecidedBy":     words(plan.Deciders),
		"QuestionKind":  words(plan.QuestionKinds),
		"SeatOption":    words(plan.SeatOptions),
		"NeedState":     words(plan.NeedStates),
		"LinkState":     words(plan.LinkStates),
		"LoadKind":      words(facts.LoadKinds),
		"FaultKind":     words(faults.KindList()),
		"StepKind":      words(steps.Kinds),
		"OperationName": words(edit.Names()),
		"EditPlace":     words(edit.Places),
		"OutlineKind":   words(outline.Kinds),
		"EditState":     words(edit.States),
		"CandidateBy":   words(plan.CandidateBys),
		"ConflictKind":  words(blend.ConflictKinds),
		"Relation":      words(closure.Relations),
		"Place":         words(facts.Places),
		"Layout":        words(folder.Layouts),
		"FillinType":    words(kit.FillinTypes),
		"KitChangeKind": words(kit.ChangeKinds),
		"VersionStep":   words(kit.VersionSteps),
		"TreatmentKind": words(making.TreatmentKinds),
		"TriggerKind":   words(item.TriggerKinds),
		"Repeat":        words(item.Repeats),
		"Width":         words(item.Widths),
		"AtHome":        words(item.AtHomes),
		"SharedEdits":   words(outside.SharedWays),
		"SourceKind":    words(sourcemap.Kinds),

		"OutsideEditState": words(outside.States),
		"VersionStanding":  words(plan.VersionStandings),
		"MessageValueKind": words(says.Kinds),
		"ConflictDecision": words([]blend.Decision{blend.ForSite, blend.ForKit}),
	}
	for name, s := range schemas(t) {
		if len(s.Enum) == 0 || s.GoType == "" {
			continue
		}
		assert.ElementsMatch(t, sets[name], s.Enum, "%s is not the set of the core", name)
		delete(sets, name)
	}
	assert.Empty(t, sets, "the interface does not name these")
}

// Whoever reads the description finds a sentence at everything that it names.
func TestEverySchemaAndPropertyIsDescribed(t *testing.T) {
	for name, s := range schemas(t) {
		assert.NotEmpty(t, s.Description, name)
		for p, x := range s.Properties {
			assert.NotEmpty(t, x.Description, "%s.%s", name, p)
		}
	}
	ops, err := description.Operations()
	require.NoError(t, err)
	for _, o := range ops {
		assert.NotEmpty(t, o.Says, o.ID)
	}
}

func TestTheMainSchemasHaveExamples(t *testing.T) {
	all := schemas(t)
	for _, name := range []string{"Problem", "Item", "Site", "NewKit", "KitSummary", "OpenDelivery", "Answers",
		"PlanRow",
		"Question", "Receipt", "DeliveryRow", "SignIn", "Trigger", "Placement", "Meta"} {
		assert.NotNil(t, all[name].Example, name)
	}
}
