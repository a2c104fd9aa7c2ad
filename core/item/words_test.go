package item

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestTriggersAndWidthsAreHeldAgainstTheirWords(t *testing.T) {
	for _, good := range []Trigger{
		{On: OnClick}, {On: OnDelay, Value: 5}, {On: OnScroll, Value: 0.5, Repeat: RepeatSession}, {On: OnPointerOut},
	} {
		assert.NoError(t, good.Check())
	}
	for want, bad := range map[string]Trigger{
		"0 or more": {On: OnDelay, Value: -1}, "0 to 1": {On: OnScroll, Value: 50}, "no trigger": {On: "moonrise"},
		"always, session or never": {On: OnClick, Repeat: "twice"},
	} {
		t.Run(want, func(t *testing.T) {
			assert.ErrorContains(t, bad.Check(), want)
			assert.ErrorContains(t, CheckHead(Head{Address: MustAddress("part/ask"), Meta: Meta{Trigger: &bad}}), want)
		})
	}
	assert.Equal(t, "when 50 percent of the page has been scrolled, once per session",
		Trigger{On: OnScroll, Value: 0.5, Repeat: RepeatSession}.Description())
	assert.NoError(t, Width("").Check())
	for _, w := range Widths {
		assert.NoError(t, w.Check())
	}
	assert.ErrorContains(t, CheckHead(Head{Address: MustAddress("page/a"), Meta: Meta{Width: "wide"}}), "text or edge")
}
