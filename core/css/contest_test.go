package css

import (
	"testing"

	"compactparcel/core/markup"

	"github.com/stretchr/testify/assert"
)

// Only rules of one weight that may decide the same of the same element depend on their order.
func TestContestsAreBetweenEquals(t *testing.T) {
	tree := markup.Parse([]byte(`<main><section class="hours" id="h"><p class="note">x</p></section></main>`), "")
	for _, x := range []struct {
		mine, theirs string
		found        bool
	}{
		{`.note{color:red}`, `.note{color:blue}`, true},
		{`.note{color:red}`, `p{color:blue}`, false},
		{`.note{color:red}`, `.note{margin:0}`, false},
		{`.note{color:red}`, `.other{color:blue}`, false},
		{`.note{color:red!important}`, `.note{color:blue}`, false},
		{`.note{color:red}`, `@layer a{.note{color:blue}}`, false},
		{`.note{color:red}`, `@media (max-width:9px){.note{color:blue}}`, true},
		{`.note:hover{color:red}`, `.note:focus{color:blue}`, true},
		{`.note::before{color:red}`, `.note{color:blue}`, false},
		{`.note{line-height:2}`, `.note{font:1rem serif}`, true},
		{`.hours{top:0}`, `.hours{inset:1px}`, true},
		{`.hours{row-gap:0}`, `.hours{gap:1px}`, true},
		{`.hours{align-items:start}`, `.hours{place-items:end}`, true},
		{`.hours{-webkit-hyphens:auto}`, `.hours{hyphens:none}`, true},
		{`.hours{all:unset}`, `.hours{color:red}`, true},
	} {
		t.Run(x.mine, func(t *testing.T) {
			c, found := Parse([]byte(x.mine)).Contests(tree, []byte(x.theirs))
			assert.Equal(t, x.found, found, "%s beside %s: %v", x.mine, x.theirs, c)
		})
	}
}
