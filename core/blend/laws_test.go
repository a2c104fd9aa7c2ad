package blend

import (
	"strings"
	"testing"

	"compactparcel/core/item"
	"compactparcel/test/triples"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func told(r *Result) (out []string) {
	for _, c := range r.Conflicts {
		out = append(out, c.Base, c.Site, c.Kit)
	}
	return out
}

// On pages edited as people do, on both sides: no edit is lost, doubled or undone; what is
// a conflict does not depend on which side is which; deciding all for one side leaves
// nothing open and keeps all that no conflict is about.
func TestEditsOfPeople(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		seed := rapid.Uint64Range(0, 1<<40).Draw(t, "seed")
		x := triples.Make(seed, rapid.IntRange(1, 8).Draw(t, "edits"))
		base, site, kit := []byte(x.Base), []byte(x.Site), []byte(x.Kit)
		got := Merge(item.Page, base, site, kit, nil)
		assert.Empty(t, x.Wrong(string(got.Text), told(got)), "base %s\nsite %s\nkit %s\ngot %s\n%s", x.Base, x.Site,
			x.Kit, got.Text, inLines(got))
		back := Merge(item.Page, base, kit, site, nil)
		require.Len(t, back.Conflicts, len(got.Conflicts), "%s\n--\n%s", inLines(got), inLines(back))
		if len(got.Conflicts) == 0 {
			assert.Equal(t, meaning(item.Page, got.Text), meaning(item.Page, back.Text))
		}
		all := Merge(item.Page, base, site, kit, func(*Conflict) Decision { return "kit" })
		assert.Zero(t, all.Open())
		assert.Empty(t, x.Wrong(string(all.Text), told(all)))
	})
}

// The laws for any text: tags, rules and values in any order.
func TestLaws(t *testing.T) {
	words := map[item.Kind][]string{
		item.Section: {
			"<p>",
			"</p>",
			"<div class=a>",
			"<div class='a b' id=x>",
			"</div>",
			"<b>",
			"</b>",
			"one ",
			"two ",
			"three",
			" ",
			"\n",
			"<br>",
			"<!-- c -->",
			"<ul>",
			"<li>",
			"</ul>",
			"<img src=a>",
			"<style>.a{top:0}",
			"</style>",
			"&amp;",
		},
		item.Stylesheet: {
			".a{",
			"top:0;",
			"left:1px",
			"}",
			".b,.c{",
			"@media (width>9px){",
			"/* x */",
			"\n",
			"@import 'x';",
			"--p: {a};",
			".a .b{color:red}",
		},
		item.Menu: {
			`{"title":"a","entries":[]}`,
			`{"title":"b","entries":[{"label":"x","to":"/"}]}`,
			`{"title":"a","entries":[{"label":"y","to":"/"},{"label":"z","to":"/z/"}]}`,
			`{"entries":[{"to":"/z/"},{"label":"x y z w","to":"/"}],"title":"a"}`,
			`[1,2,3]`,
			`[3,1]`,
			`null`,
			`"a b c"`,
			`{`,
		},
		item.Component: {"let a\n", "let b\n", "\n", "x()", "}\n"},
	}
	rapid.Check(t, func(t *rapid.T) {
		kind := rapid.SampledFrom([]item.Kind{item.Section, item.Stylesheet, item.Menu, item.Component}).
			Draw(t, "kind")
		most := 14
		if kind == item.Menu {
			most = 1
		}
		draw := func(name string) []byte {
			return []byte(strings.Join(rapid.SliceOfN(rapid.SampledFrom(words[kind]), 0, most).Draw(t, name), ""))
		}
		b, x, y := draw("b"), draw("x"), draw("y")
		for _, c := range [][4][]byte{{b, b, x, x}, {b, x, b, x}, {b, x, x, x}} {
			r := Merge(kind, c[0], c[1], c[2], nil)
			assert.Equal(t, string(c[3]), string(r.Text))
			assert.Empty(t, r.Conflicts)
		}
		// The same with a base that only differs in form: read anew, not taken whole.
		if kind == item.Section {
			r := Merge(kind, b, append([]byte("\n"), b...), x, nil)
			if len(r.Conflicts) == 0 {
				assert.Equal(t, meaning(kind, x), meaning(kind, r.Text))
			}
		}
		all := Merge(kind, b, x, y, func(*Conflict) Decision { return "kit" })
		assert.Zero(t, all.Open())
		// Broken texts may not read as they were put together: then all is one conflict.
		if got := Merge(kind, b, x, y, nil); got.Whole() {
			assert.Equal(t, string(x), string(got.Text))
		}
	})
}

// grown draws a text whose blocks are closed, of any depth.
func grown(t *rapid.T, kind item.Kind, depth int) string {
	var b strings.Builder
	for range rapid.IntRange(0, 4).Draw(t, "n") {
		what := rapid.IntRange(0, 5).Draw(t, "what")
		if depth == 0 {
			what = 5
		}
		switch {
		case kind == item.Stylesheet && what < 2:
			b.WriteString(
				rapid.SampledFrom([]string{".a{top:0}", ".b,.c{left:0;color:red}", ".a .b{top:1px}", "/* c */",
					"@import 'x';", ".a{}"}).
					Draw(t, "rule") +
					"\n",
			)
		case kind == item.Stylesheet && what < 4:
			b.WriteString("@media (width>9px){" + grown(t, kind, depth-1) + "}")
		case kind == item.Stylesheet:
		case what == 0:
			b.WriteString("<p>" + grown(t, kind, 0) + "</p>")
		case what < 3:
			b.WriteString(
				rapid.SampledFrom([]string{"<div>", "<div class=a>", "<div class='b a'>", "<div id=x>"}).
					Draw(t, "tag") +
					grown(t, kind, depth-1) + "</div>\n",
			)
		case what == 3:
			b.WriteString("<ul><li>" + grown(t, kind, depth-1) + "</li></ul>")
		default:
			b.WriteString(
				rapid.SampledFrom([]string{"one ", "two ", "three ", "<br>", "<img src=a>", "<b>four</b> "}).
					Draw(t, "word"),
			)
		}
	}
	return b.String()
}

// Swapping the sides changes only which side is named in a conflict.
func TestSidesAreEqual(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		kind := rapid.SampledFrom([]item.Kind{item.Section, item.Stylesheet}).Draw(t, "kind")
		b, x, y := []byte(grown(t, kind, 3)), []byte(grown(t, kind, 3)), []byte(grown(t, kind, 3))
		got, back := Merge(kind, b, x, y, nil), Merge(kind, b, y, x, nil)
		if got.Whole() || back.Whole() {
			return // what does not read as it was put together may do so in one formatting only
		}
		require.Len(t, back.Conflicts, len(got.Conflicts), "%s\n--\n%s", inLines(got), inLines(back))
		count := map[string]int{}
		for i := range got.Conflicts {
			c, d := got.Conflicts[i], back.Conflicts[i]
			count[string(c.Kind)+c.Base+"\x00"+c.Site+"\x00"+c.Kit]++
			count[string(d.Kind)+d.Base+"\x00"+d.Kit+"\x00"+d.Site]--
		}
		for text, n := range count {
			assert.Zero(t, n, text)
		}
		if len(got.Conflicts) == 0 {
			assert.Equal(t, meaning(kind, got.Text), meaning(kind, back.Text))
		}
	})
}

func FuzzBlend(f *testing.F) {
	f.Add("<p>a b</p>", "<p>a c</p>", "<div><p>a b</p></div>", byte(0))
	f.Add(".a{top:0}", ".a{top:1px}", "@media print{.a{top:0}}", byte(1))
	f.Add(`{"a":[{"id":1}]}`, `{"a":[]}`, `{"a":[{"id":1,"b":2}]}`, byte(2))
	f.Fuzz(func(t *testing.T, base, site, kit string, which byte) {
		kind := []item.Kind{item.Page, item.Stylesheet, item.Menu, item.Component, item.Media}[which%5]
		r := Merge(kind, []byte(base), []byte(site), []byte(kit), nil)
		if len(r.Conflicts) == 0 && site == base && string(r.Text) != kit {
			t.Fatalf("only the kit changed, and it is not what comes out")
		}
		Merge(kind, []byte(base), []byte(site), []byte(kit), func(*Conflict) Decision { return "kit" })
	})
}
