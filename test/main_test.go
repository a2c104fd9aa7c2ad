package test

import (
	"testing"

	"compactparcel/test/harness"
)

func TestMain(m *testing.M) { harness.Main(m) }
