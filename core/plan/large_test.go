package plan

import (
	"fmt"
	"strings"
	"testing"

	"compactparcel/core/closure"
	"compactparcel/core/item"
	"compactparcel/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// planOf plans a kit of texts into a site of texts.
func planOf(t *testing.T, site, parcel map[string]string, ask Request) *Result {
	t.Helper()
	of := func(texts map[string]string) *item.Set {
		s := item.NewSet()
		for a, text := range texts {
			put(t, s, a, item.Meta{}, []byte(text))
		}
		return s
	}
	there, kits := of(site), of(parcel)
	list := &kit.PackingList{Kit: "hut-basics", Version: "1.0.0"}
	for _, h := range kits.Heads() {
		list.Items = append(list.Items, kit.Entry{Kind: h.Address.Kind, Key: h.Address.Key, SHA256: h.Doc,
			NormalizedDigest: h.NormalizedDigest, Bytes: h.Bytes, Meta: h.Meta})
	}
	list.Settle()
	digest, err := list.Digest()
	require.NoError(t, err)
	r, err := Make(&world{Small: closure.NewSmall(there), set: there}, Parcel{List: list, Digest: digest,
		Collection: kits}, ask)
	require.NoError(t, err)
	return r
}

// properties is a rule for the root that sets many custom properties.
func properties(n, value int) string {
	var b strings.Builder
	b.WriteString(":root{")
	for i := range n {
		fmt.Fprintf(&b, "--p%d:%d;", i, value)
	}
	return b.String() + "}"
}

// Twenty thousand custom properties on both sides, which one rule ties together, are one group
// and one line; no more of them are listed than a person reads.
func TestManyPropertiesAreOneGroup(t *testing.T) {
	const n = 20_000
	var uses strings.Builder
	for i := range n {
		fmt.Fprintf(&uses, "var(--p%d) ", i)
	}
	r := planOf(t, map[string]string{"stylesheet/site": properties(n, 1)},
		map[string]string{"stylesheet/kit": properties(n, 2) + ".all{--sum:" + uses.String() + "}",
			"section/s": `<p class="all">x</p>`}, Request{})
	assert.Empty(t, r.Plan.Questions)
	require.Len(t, r.Plan.Groups, 1)
	assert.Equal(t, n, r.Plan.Groups[0].Properties)
	assert.Len(t, r.Plan.Clashes, maxClashes)
	for _, w := range r.Writes {
		if w.Head.Address.Kind == item.Stylesheet {
			assert.NotContains(t, string(w.Content), "--p7:", "every one of them is renamed")
			assert.Contains(t, string(w.Content), fmt.Sprintf("var(--hut-basics-p%d)", n-1))
		}
	}
}

// A site of three hundred stylesheets, each with a class of the kit's.
func TestManyStylesheets(t *testing.T) {
	site, kits := map[string]string{}, map[string]string{"section/s": "<p>x</p>"}
	var sheet strings.Builder
	for i := range 300 {
		site[fmt.Sprintf("stylesheet/s%d", i)] = fmt.Sprintf(".c%d{color:red}", i)
		fmt.Fprintf(&sheet, ".c%d{color:blue}", i)
	}
	kits["stylesheet/kit"] = sheet.String()
	r := planOf(t, site, kits, Request{})
	assert.Empty(t, r.Plan.Questions)
	assert.Len(t, r.Plan.Groups, 300, "none of them meets another")
}

// One rule for twenty thousand classes is read once, and not once for each of them.
func TestOneRuleForManyClasses(t *testing.T) {
	const n = 20_000
	rule := func(value string) string {
		var b strings.Builder
		for i := range n {
			fmt.Fprintf(&b, ".c%d,", i)
		}
		return b.String() + ".last{gap:var(--gap);color:" + value + "}:root{--gap:1px}"
	}
	r := planOf(t, map[string]string{"stylesheet/site": rule("red")},
		map[string]string{"stylesheet/kit": rule("blue"), "section/s": `<p class="c1">x</p>`}, Request{})
	assert.Empty(t, r.Plan.Questions)
	require.Len(t, r.Plan.Groups, 1, "they meet through the property")
	assert.Equal(t, n+1, r.Plan.Groups[0].Classes)
	for _, c := range r.Plan.Clashes {
		assert.Less(t, len(c.Kit), 2*maxRuleText)
	}
}

// A script of two megabytes that mentions everything: classes keep their names under a mark,
// and what else it may name is one question.
func TestAScriptThatMentionsEverything(t *testing.T) {
	var script strings.Builder
	for i := range 60_000 {
		fmt.Fprintf(&script, "f(\"--p%d\", \"c%d btn-\");\n", i, i)
	}
	for script.Len() < 2<<20 {
		script.WriteString("f(\"" + strings.Repeat("card ", 200) + "\");\n")
	}
	kits := map[string]string{
		"stylesheet/kit":    ".c7{color:blue}.btn-big{color:blue}.note{--p9:2}",
		"section/s":         `<p class="c7">x</p><p class="btn-big">x</p><p class="note">x</p>`,
		"component/x-clock": script.String(),
	}
	r := planOf(t, map[string]string{"stylesheet/site": ".c7{color:red}.btn-big{color:red}.note{--p9:1}"}, kits,
		Request{})
	by := map[string]Decision{}
	for _, g := range r.Plan.Groups {
		by[g.Key] = g.Decision
		require.NotNil(t, g.Script, g.Key)
	}
	assert.Equal(t, map[string]Decision{"group:c7": Mark, "group:btn-big": Mark, "group:--p9": ""}, by)
	assert.Len(t, r.Plan.Questions, 1)
}

// Two kits that clash with each other and with the site have names of their own each.
func TestTwoKitsThatClash(t *testing.T) {
	first := planOf(t, map[string]string{"stylesheet/site": ".card{color:red}"},
		map[string]string{"stylesheet/kit": ".card{color:blue}", "section/a": `<p class="card">a</p>`}, Request{})
	site := map[string]string{"stylesheet/site": ".card{color:red}"}
	for _, w := range first.Writes {
		site[w.Head.Address.String()] = string(w.Content)
	}
	assert.Contains(t, site["section/a"], "hut-basics-card")
	second := planOf(t, site, map[string]string{"stylesheet/kit": ".card{color:green}.hut-basics-card{top:0}",
		"section/a": `<p class="card hut-basics-card">b</p>`}, Request{})
	assert.Empty(t, second.Plan.Questions)
	for _, w := range second.Writes {
		if w.KitAddress.Kind == item.Section {
			assert.Equal(t, `<p class="hut-basics-card-2 hut-basics-hut-basics-card">b</p>`, string(w.Content),
				"a name of its own that nobody has")
			assert.Equal(t, "a-2", w.Head.Address.Key)
		}
	}
}
