package main

import (
	"fmt"
	"math/rand"
	"runtime"
	"strings"
	"time"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
)

// cores measures the core alone, on one core of the machine.
func cores() error {
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(1))
	set, sections := library(sized(200))
	r := render.New(set)
	start, n := time.Now(), 0
	for slug := range r.Pages() {
		if _, err := r.Page(render.PageRequest{Slug: slug}); err != nil {
			return err
		}
		n++
	}
	fmt.Printf("| rendering | %.0f pages a second on one core | | |\n", float64(n)/time.Since(start).Seconds())

	sheet := []byte(sheetOf(200 << 10))
	start = time.Now()
	parsed := css.Parse(sheet)
	carried := 0
	for _, s := range sections {
		tree := markup.Parse([]byte("<!doctype html><html><body>"+s+"</body></html>"), "")
		piece := css.SubjectOf(markup.Parse([]byte(s), ""))
		piece.Home, piece.In = tree, tree.ByTag("section")[0].Outer()
		carried += len(css.Subset(parsed, []css.Subject{piece}).CSS)
	}
	fmt.Printf(
		"| exact CSS of %d sections of 200 pages on a sheet of %d KB | %.2f s | | aim 5 s; %d bytes carried on "+
			"average |\n",
		len(sections),
		len(sheet)>>10,
		time.Since(start).Seconds(),
		carried/len(sections),
	)
	return nil
}

// library makes a site of linked parts and sections.
func library(pages int) (*item.Set, []string) {
	r := rand.New(rand.NewSource(3))
	set := item.NewSet()
	put := func(a string, m item.Meta, text string) {
		set.Put(item.Head{Address: item.MustAddress(a), Meta: m}, []byte(text))
	}
	put("part/top", item.Meta{Role: item.Header},
		`<header class="top"><cp-title></cp-title><cp-menu name="main"></cp-menu></header>`)
	put("part/end", item.Meta{Role: item.Footer}, `<footer class="end"><p>end</p></footer>`)
	put("menu/main", item.Meta{}, `{"title":"Main","entries":[{"label":"Home","to":"/"},{"label":"Hut","to":"/p1/"}]}`)
	put("setting/title", item.Meta{}, `"Ridge"`)
	var sections []string
	for i := range pages {
		var b strings.Builder
		fmt.Fprintf(&b,
			`<!doctype html><html><head><title>%d</title></head><body><cp-part role="header"></cp-part><main>`, i)
		for k := range 4 {
			s := fmt.Sprintf(
				`<section class="c%d band k%d"><h2>%s</h2><p class="c%d">%s</p><ul><li `+
					`class="day">%s</li><li>%s</li></ul><a class="button c%d" href="/p%d/">%s</a></section>`,
				r.Intn(900),
				k,
				sentence(r, 4),
				r.Intn(900),
				sentence(r, 50),
				sentence(r, 5),
				sentence(r, 5),
				r.Intn(900),
				r.Intn(pages),
				sentence(r, 2),
			)
			sections = append(sections, s)
			b.WriteString(s)
		}
		b.WriteString(`</main></body></html>`)
		put(fmt.Sprintf("page/p%d", i), item.Meta{Slug: fmt.Sprintf("/p%d/", i)}, b.String())
	}
	return set, sections
}

// sheetOf makes a stylesheet of about so many bytes.
func sheetOf(bytes int) string {
	r := rand.New(rand.NewSource(5))
	var b strings.Builder
	b.WriteString(":root { --ink: #223; --ground: #fff }\nbody { color: var(--ink); font-family: serif }\n")
	for b.Len() < bytes {
		n := r.Intn(900)
		fmt.Fprintf(
			&b,
			".c%d { color: #%06x; padding: %dpx } .c%d > p, main .c%d li:nth-child(2n+1) { margin: 0 } .band "+
				".c%d:hover::after { content: \"x\" }\n@media (min-width: %dpx) { section.c%d:not(.k1) h2 ~ ul { "+
				"display: grid } }\n",
			n,
			r.Intn(1<<24),
			n%20,
			n,
			n,
			n,
			300+n,
			n,
		)
	}
	return b.String()
}
