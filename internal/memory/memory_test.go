package memory

import (
	"math"
	"runtime/debug"
	"testing"

	"github.com/stretchr/testify/assert"
)

func limit() int64 { return debug.SetMemoryLimit(-1) }

func TestMoreMemoryWhileThereIsWork(t *testing.T) {
	t.Setenv("GOMEMLIMIT", "")
	before := limit()
	t.Cleanup(func() { debug.SetMemoryLimit(before); at.set = false })
	assert.Equal(t, int64(math.MaxInt64), before, "nobody aims at anything before Aim")
	Work()()
	assert.Equal(t, before, limit())
	Aim()
	assert.Equal(t, int64(aimed), limit())
	one, two := Work(), Work()
	assert.Equal(t, int64(atWork), limit())
	one()
	one()
	assert.Equal(t, int64(atWork), limit(), "the other still works")
	two()
	assert.Equal(t, int64(aimed), limit())
}
