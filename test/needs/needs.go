// Package needs says what tests need of the machine. What is missing fails them: a test that is left out in silence is
// believed to have passed.
package needs

import (
	"os"
	"testing"
)

// Sandbox fails a test of pictures where the browser does not start in its sandbox, as err tells; CPARCEL_NO_PICTURES=1
// leaves these tests out on a machine that is like that.
func Sandbox(t testing.TB, err error) {
	t.Helper()
	switch {
	case err == nil:
	case os.Getenv("CPARCEL_NO_PICTURES") != "":
		t.Skipf("CPARCEL_NO_PICTURES is set: %v", err)
	default:
		t.Fatalf("pictures are made in the browser's sandbox alone, which does not work here (CPARCEL_NO_PICTURES=1 "+
			"leaves their tests out): %v", err)
	}
}
