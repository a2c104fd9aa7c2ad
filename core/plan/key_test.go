package plan_test

import (
	"testing"

	"compactparcel/core/plan"

	"github.com/stretchr/testify/assert"
)

func TestKeysAreTakenApartAsTheyWerePutTogether(t *testing.T) {
	for _, kind := range plan.QuestionKinds {
		name := "section/opening-hours"
		got, rest := plan.ParseKey(plan.Key(kind, name))
		assert.Equal(t, kind, got)
		assert.Equal(t, name, rest)
	}
	kind, name := plan.ParseKey(plan.Key(plan.AboutSeat, "header", "page:/walks/"))
	assert.Equal(t, plan.AboutSeat, kind)
	assert.Equal(t, "header:page:/walks/", name)
	kind, name = plan.ParseKey("moon:full")
	assert.Equal(t, plan.AboutItem, kind, "a word that is no kind names an item, which nothing answers to")
	assert.Equal(t, "moon:full", name)
}
