package faults_test

import (
	"testing"

	"compactparcel/core/faults"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a part says where a site has no such setting is a sample; what it says where it has one is never seen.
func TestWordsThatStandInForASettingAreSamples(t *testing.T) {
	w := site(t, map[string]string{
		"site.json": `{"format":1,"items":[{"kind":"part","key":"foot","role":"footer"}]}`,
		"surround/foot.html": "<footer><b><cp-title>A hut</cp-title></b> " +
			"<cp-strapline>A line\n about it</cp-strapline></footer>",
	})
	for want, unset := range map[string][]string{"": nil, "A line about it": {"strapline"}, "A hut": {"title"}} {
		t.Run(want, func(t *testing.T) {
			got, err := faults.StandIns(w, unset)
			require.NoError(t, err)
			if want == "" {
				assert.Empty(t, got)
				return
			}
			assert.Equal(t, []string{want}, got)
		})
	}
}
