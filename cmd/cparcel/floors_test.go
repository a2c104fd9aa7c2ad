package main

import (
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The client knows the interface only: nothing of the service is linked into it.
func TestTheClientLinksNothingOfTheService(t *testing.T) {
	out, err := exec.Command("go", "list", "-deps", ".").Output()
	require.NoError(t, err)
	deps := strings.Fields(string(out))
	require.Contains(t, deps, "compactparcel/internal/client")
	for _, d := range deps {
		for _, barred := range []string{
			"gorm.io/", "github.com/go-sql-driver/", "github.com/pressly/goose", "github.com/gin-gonic/",
			"github.com/prometheus/", "compactparcel/internal/desk", "compactparcel/internal/store",
			"compactparcel/internal/httpapi", "compactparcel/internal/service",
		} {
			assert.False(t, strings.HasPrefix(d, barred), "the client links %s", d)
		}
	}
}
