package facts

import (
	"strings"
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
)

// What a script may name: whole words of its literals, however long these are, and names
// that it puts together from a beginning or an end.
func TestWhatAScriptMayName(t *testing.T) {
	long := strings.Repeat(".filler-rule { color: red }\n", 300) + ".card { gap: var(--hut-gap) }"
	for _, c := range []struct {
		name   string
		script string
		may    bool
	}{
		{"card", `x.classList.add("card")`, true},
		{"card", `x.querySelector("ul > .card:first-child")`, true},
		{"card", `x.className = "big card " + y`, true},
		{"btn-primary", `x.className = "btn-" + kind`, true},
		{"btn-primary", `x.className = "btn " + "btn-" + kind`, true},
		{"btn-primary", "x.className = `big btn-${kind}`", true},
		{"btn-primary", `kind + "-primary"`, true},
		{"col6", `"col" + n`, true},
		{"md:flex", `add("md:flex wide")`, true},
		{"w-1/2", `find("p.w-1/2")`, true},
		{"isOpen", `"is" + State`, true},
		{"btn", `"b" + rest`, false}, // in the middle of a word
		{"table", `["ta", "le"]`, false},
		{"card", `"discard"`, false},
		{"card", `card()`, false},
		{"--gap", `style.setProperty("--gap", 0)`, true},
		{"--gap", `style.setProperty("--" + name, 0)`, true},
		{"--gap", `a - b; c.join("-")`, false},
		{"card", "x`" + long + "`", true},
		{"--hut-gap", "x`" + long + "`", true},
		{"--hut-width", "x`" + long + "`", false},
	} {
		t.Run(c.name, func(t *testing.T) {
			f := Extract(item.Component, "", []byte(c.script))
			var got []string
			for _, x := range f.MayName(map[string]bool{c.name: true, "nobody-says-this": true}) {
				got = append(got, x.Name)
			}
			var want []string
			if c.may {
				want = []string{c.name}
			}
			assert.Equal(t, want, got, "%s by %.60s", c.name, c.script)
		})
	}
}
