package render

import (
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
)

func TestRoleOf(t *testing.T) {
	for _, x := range []struct {
		key, src string
		role     item.Role
	}{
		{"top", `<header>h</header>`, item.Header},
		{"site-footer", `<div>f</div>`, item.Footer},
		{"ask", `<dialog>d</dialog>`, item.Overlay},
		{"frame", `<div><cp-content></cp-content></div>`, item.Wrapper},
		{"room-record", `<article><cp-content></cp-content></article>`, item.RecordRole},
		{"found", `<main><cp-results></cp-results></main>`, item.Search},
		{"thing", `<div>x</div>`, ""},
	} {
		t.Run(x.key, func(t *testing.T) {
			assert.Equal(t, x.role, RoleOf(x.key, []byte(x.src)), x.key)
		})
	}
}
