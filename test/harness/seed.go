package harness

import (
	"os"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// Seed gives the seed of a random test and prints it. CPARCEL_SEED repeats a run. (Properties
// checked with rapid print theirs when they fail, and take it as -rapid.seed.)
func Seed(t testing.TB) int64 {
	t.Helper()
	seed := time.Now().UnixNano()
	if s := os.Getenv("CPARCEL_SEED"); s != "" {
		var err error
		seed, err = strconv.ParseInt(s, 10, 64)
		require.NoError(t, err, "CPARCEL_SEED is a number")
	}
	t.Logf("CPARCEL_SEED=%d repeats this", seed)
	return seed
}
