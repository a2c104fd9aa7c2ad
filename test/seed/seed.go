// Package seed gives random tests the seed that they begin with: another one each run, and one that is named when a
// run is to be repeated.
package seed

import (
	"math/rand"
	"os"
	"strconv"
	"testing"
	"time"
)

// Of gives the seed of a random test, and prints it. CPARCEL_SEED repeats a run. (Properties checked with rapid print
// theirs when they fail, and take it as -rapid.seed.)
func Of(t testing.TB) int64 {
	t.Helper()
	seed := time.Now().UnixNano()
	if s := os.Getenv("CPARCEL_SEED"); s != "" {
		var err error
		if seed, err = strconv.ParseInt(s, 10, 64); err != nil {
			t.Fatalf("CPARCEL_SEED is a number, and not %q", s)
		}
	}
	t.Logf("CPARCEL_SEED=%d repeats this", seed)
	return seed
}

// Rand gives a source of random numbers with the seed of a test.
func Rand(t testing.TB) *rand.Rand {
	t.Helper()
	return rand.New(rand.NewSource(Of(t)))
}
