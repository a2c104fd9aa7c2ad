package main

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestWhatFailedAndWhatWasLeftOutIsTold(t *testing.T) {
	const events = `{"Action":"run","Package":"compactparcel/core/x","Test":"TestA"}
{"Action":"output","Package":"compactparcel/core/x","Test":"TestA","Output":"    x_test.go:9: it is not so\n"}
{"Action":"fail","Package":"compactparcel/core/x","Test":"TestA","Elapsed":2.5}
{"Action":"output","Package":"compactparcel/core/x","Test":"TestB","Output":"    x_test.go:12: no browser here\n"}
{"Action":"skip","Package":"compactparcel/core/x","Test":"TestB","Elapsed":0}
{"Action":"output","Package":"compactparcel/core/x","Test":"TestC","Output":"    x_test.go:15: only a log\n"}
{"Action":"pass","Package":"compactparcel/core/x","Test":"TestC","Elapsed":1}
`
	var out strings.Builder
	ended := `{"Action":"fail","Package":"compactparcel/core/x","Elapsed":4}`
	assert.False(t, tell(strings.NewReader(events+ended), &out))
	assert.Contains(t, out.String(), "it is not so")
	assert.Contains(t, out.String(), "skipped: x_test.go:12: no browser here")
	assert.NotContains(t, out.String(), "only a log")
	assert.Contains(t, out.String(), "fail       4.0 s  core/x")
	longest, other := strings.Index(out.String(), "core/x TestA"), strings.Index(out.String(), "core/x TestC")
	assert.Less(t, longest, other, "longest first")

	assert.True(t, tell(strings.NewReader(`{"Action":"pass","Package":"compactparcel/core/x","Elapsed":4}`), &out))
	assert.False(t, tell(strings.NewReader(""), &out), "nothing was run")
	assert.False(t, tell(strings.NewReader("core/x/x.go:3: syntax error\n"), &out))
}
