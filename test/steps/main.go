// Command steps reads one hostile document of a given size and tells how much it allocated.
// It is built to count its own steps, so that a test can hold a document beside one twice as
// large: see test/linear_test.go.
package main

import (
	"fmt"
	"os"
	"runtime"
	"strconv"
	"strings"

	"compactparcel/core/blend"
	"compactparcel/core/css"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/tokens"
)

func rep(s string) func(int) string { return func(n int) string { return strings.Repeat(s, n) } }

func around(open, middle, shut string) func(int) string {
	return func(n int) string { return strings.Repeat(open, n) + middle + strings.Repeat(shut, n) }
}

func each(format string) func(int) string {
	return func(n int) string {
		var b strings.Builder
		for i := range n {
			fmt.Fprintf(&b, format, i)
		}
		return b.String()
	}
}

func wrap(before string, in func(int) string, after string) func(int) string {
	return func(n int) string { return before + in(n) + after }
}

// doc is a sort of document: how one of a size is made, and the size to begin with.
type doc struct {
	kind item.Kind
	make func(int) string
	n    int
}

var docs = map[string]doc{
	"page: blocks":           {item.Page, rep("<div>x</div>"), 4000},
	"page: deep":             {item.Page, around("<div>", "x", "</div>"), 2000},
	"page: never shut":       {item.Page, rep("<p><b><i>x"), 1500},
	"page: misnested":        {item.Page, rep("<b><p></b>x"), 1500},
	"page: links never shut": {item.Page, rep("<a href=/x>"), 2000},
	"page: foster parents":   {item.Page, wrap("<table>", rep("x<tr>"), ""), 3000},
	"page: attributes":       {item.Page, wrap("<div ", each(" a%d=1"), ">"), 20_000},
	"page: same attribute":   {item.Page, wrap("<div ", rep(" a=1"), ">"), 20_000},
	"page: a long attribute": {item.Page, wrap("<a href='", rep("&amp;x/"), "'>"), 20_000},
	"page: classes":          {item.Page, wrap("<div class='", each("c%d "), "'>x</div>"), 10_000},
	"page: style attribute":  {item.Page, wrap("<div style='", each("--p%d:url(x.png);"), "'>x</div>"), 4000},
	"page: srcset":           {item.Page, wrap("<img srcset='", each("/media/a%d.png 1x, "), "'>"), 4000},
	"page: fill-ins":         {item.Page, each("<b data-fill='text:f%d'>x</b>"), 3000},
	"page: a long fill-in":   {item.Page, wrap("<b data-fill='", each("text:f%d;"), "'>x</b>"), 3000},
	"page: comments":         {item.Page, rep("<!-- x"), 10_000},
	"page: end tags":         {item.Page, rep("</div>"), 20_000},
	"page: less than":        {item.Page, rep("<"), 100_000},
	"page: a long word":      {item.Page, rep("æ"), 60_000},
	"page: ids":              {item.Page, each("<i id=a%d></i><a href='#a%[1]d'></a>"), 3000},
	"page: scripts":          {item.Page, rep("<script>var a='b'</script>"), 3000},
	"page: styles":           {item.Page, rep("<style>.a{top:0}</style>"), 3000},
	"page: sections": {
		item.Page,
		each("<cp-section name=s%d><cp-value for=a>x</cp-value></cp-section>"),
		2000,
	},
	"sheet: rules":            {item.Stylesheet, each(".c%d{top:0}"), 5000},
	"sheet: a list":           {item.Stylesheet, wrap("", each(".c%d,"), ".x{top:0}"), 10_000},
	"sheet: nested functions": {item.Stylesheet, wrap("a", around(":not(", "b", ")"), "{top:0}"), 4000},
	"sheet: nested has":       {item.Stylesheet, wrap("a", around(":has(> ", "b", ")"), "{top:0}"), 4000},
	"sheet: a long selector":  {item.Stylesheet, wrap("", rep("a "), "{top:0}"), 20_000},
	"sheet: nested rules":     {item.Stylesheet, around(".a{", "top:0", "}"), 4000},
	"sheet: media":            {item.Stylesheet, around("@media (min-width:1px){", "a{top:0}", "}"), 3000},
	"sheet: open brackets":    {item.Stylesheet, wrap("a{", rep("x:((;"), ""), 5000},
	"sheet: open blocks":      {item.Stylesheet, rep("a{x:{"), 5000},
	"sheet: semicolons":       {item.Stylesheet, wrap("a{", rep(";"), "}"), 50_000},
	"sheet: no end":           {item.Stylesheet, wrap("a{x:", rep("1 "), ""), 30_000},
	"sheet: comments":         {item.Stylesheet, rep("/**/"), 30_000},
	"sheet: open comment":     {item.Stylesheet, rep("/*"), 50_000},
	"sheet: strings":          {item.Stylesheet, rep("a{content:'x\n}"), 5000},
	"sheet: escapes":          {item.Stylesheet, wrap(".", rep(`\61 `), "{top:0}"), 20_000},
	"sheet: properties":       {item.Stylesheet, wrap("a{", each("--p%d:var(--p%[1]d);"), "}"), 5000},
	"sheet: at signs":         {item.Stylesheet, rep("@x "), 20_000},
	"sheet: layers":           {item.Stylesheet, wrap("@layer ", each("l%d,"), "x;"), 10_000},
	"sheet: fonts":            {item.Stylesheet, wrap("a{font-family:", each("F%d,"), "x}"), 10_000},
	"sheet: addresses":        {item.Stylesheet, each("a{background:url(i%d.png)}"), 5000},
	"tokens: fan-out": {item.Tokens, func(n int) string {
		var b strings.Builder
		b.WriteString(`{"t0":{"$value":"#000"}`)
		for i := 1; i <= n; i++ {
			fmt.Fprintf(&b, `,"t%d":{"$value":["{t%d}","{t%[2]d}","{t%[2]d}"]}`, i, i-1)
		}
		return b.String() + "}"
	}, 20},
	"tokens: chain": {item.Tokens, func(n int) string {
		var b strings.Builder
		b.WriteString(`{"t0":{"$value":"#000"}`)
		for i := 1; i <= n; i++ {
			fmt.Fprintf(&b, `,"t%d":{"$value":"{t%d}"}`, i, i-1)
		}
		return b.String() + "}"
	}, 2000},
	"tokens: many": {item.Tokens, wrap("{", each(`"t%d":{"$value":"#000"},`), `"x":{"$value":"{t1}"}}`), 4000},
	"tokens: deep": {item.Tokens, around(`{"a":`, `{"$value":1}`, "}"), 4000},
	"menu: entries": {
		item.Menu,
		wrap(`{"entries":[`, each(`{"label":"x","to":"/%d/"},`), `{"label":"y","to":"/"}]}`),
		4000,
	},
	"menu: deep": {
		item.Menu,
		wrap("", around(`{"label":"x","to":"/","entries":[`, `{"label":"y","to":"/"}`, "]}"), ""),
		2000,
	},
	"form: fields": {
		item.Form,
		wrap(`{"schema":{"properties":{`, each(`"f%d":{"type":"string"},`), `"x":{"type":"string"}}}}`),
		4000,
	},
	"menu: escapes":   {item.Menu, wrap(`{"title":"`, rep(`\u0041`), `"}`), 20_000},
	"script: strings": {item.Component, each("f('c%d');"), 8000},
	"script: braces":  {item.Component, rep("{"), 20_000},
	"script: regular": {item.Component, rep("/a/;"), 20_000},
	"script: template": {item.Component, func(n int) string {
		return strings.Repeat("`${", n) + "1" + strings.Repeat("}`", n)
	}, 3000},
	"script: a long string": {item.Component, wrap("f('", rep("ab "), "')"), 40_000},
}

// read does with a document what bringing it in and showing it does.
func read(d doc, src []byte) {
	facts.Extract(d.kind, "", src)
	switch d.kind {
	case item.Page:
		set := item.NewSet()
		a := item.Address{Kind: item.Page, Key: "x"}
		set.Put(item.Head{Address: a, Meta: item.Meta{Slug: "/"}}, src)
		render.New(set).Page(render.PageRequest{Slug: "/"})
		markup.Parse(src, "").Normalize()
	case item.Stylesheet:
		sheet := css.Parse(src)
		sheet.Refs()
		page := markup.Parse([]byte(`<main class="x"><p class="c1">x</p><a href="/">y</a></main>`), "")
		css.Subset(sheet, []css.Subject{css.SubjectOf(page)})
	case item.Tokens:
		if set, err := tokens.Parse(src); err == nil {
			set.Sheet()
		}
	default:
	}
	blend.Merge(d.kind, src, append([]byte("\n"), src...), append(src[:len(src):len(src)], '\n'), nil)
}

func main() {
	if len(os.Args) == 1 {
		for name, d := range docs {
			fmt.Printf("%s\t%d\n", name, d.n)
		}
		return
	}
	d := docs[os.Args[1]]
	n, err := strconv.Atoi(os.Args[2])
	if err != nil || d.make == nil {
		fmt.Fprintln(os.Stderr, "there is no such document")
		os.Exit(2)
	}
	src := []byte(d.make(n))
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	read(d, src)
	runtime.ReadMemStats(&after)
	fmt.Println(after.TotalAlloc-before.TotalAlloc, after.Mallocs-before.Mallocs)
}
