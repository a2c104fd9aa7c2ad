package version

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestWhatItWasBuiltFrom(t *testing.T) {
	assert.Equal(
		t,
		"v1.2.0, commit 0123456789ab of 2026-11-30T04:00:00Z, with changes since, go1.26.8",
		Built{
			Module:  "v1.2.0",
			Commit:  "0123456789abcdef",
			At:      "2026-11-30T04:00:00Z",
			Changed: true,
			Go:      "go1.26.8",
		}.String(),
	)
	assert.Equal(t, "(devel), go1.26.8", Built{Module: "(devel)", Go: "go1.26.8"}.String())
	assert.Contains(t, Read().Go, "go1.")
}
