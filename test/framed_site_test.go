package test

import (
	"fmt"
	"strings"
)

// framedSite is a made-up farm's site as a stranger would have left it: a page that links one
// sheet, a framework of short class names and many custom properties, of which every site
// has another version.
func framedSite(version int) map[string]string {
	ink := []string{"#223344", "#332244", "#224433"}[version]
	pad := []string{"1rem", "1.25rem", ".75rem"}[version]
	var css strings.Builder
	fmt.Fprintf(&css, ":root { --fw-ink: %s; --fw-pad: %s; --fw-paper: #fff;", ink, pad)
	for i := range 20 {
		fmt.Fprintf(&css, " --fw-step-%d: %drem;", i, i+version)
	}
	css.WriteString(" }\n* { box-sizing: border-box; }\nbody { margin: 0; font-family: sans-serif; " +
		"color: var(--fw-ink); line-height: 1.5; }\n")
	rules := []string{
		".row { display: flex; flex-wrap: wrap; gap: var(--fw-pad); }",
		".row > * { flex: 1 1 10rem; }",
		fmt.Sprintf(".band { padding: var(--fw-step-%d) var(--fw-pad); background: #f4f0e8; }", 2+version),
		fmt.Sprintf(".card { --fw-card-edge: %dpx; border: var(--fw-card-edge) solid var(--fw-ink); "+
			"padding: var(--fw-pad); }", version+1),
		".card .card-title { margin: 0 0 var(--fw-step-1); letter-spacing: .02em; }",
		fmt.Sprintf(".btn { --fw-btn-bg: %s; display: inline-block; padding: .5rem 1rem; border-radius: %dpx; "+
			"background: var(--fw-btn-bg); color: var(--fw-paper); animation: fw-rise %dms; }", ink, 3*version,
			version),
		".btn.btn-main { --fw-btn-bg: #115511; font-weight: 700; }",
		fmt.Sprintf(".lead { font-size: %drem; }", version+1),
		fmt.Sprintf("@keyframes fw-rise { from { opacity: .%d; } }", version+1),
		fmt.Sprintf("@media (min-width: 60rem) { .band { padding-left: %drem; } }", 3+version),
		".text-centre { text-align: center !important; }",
	}
	rules = append(rules[version:], rules[:version]...) // each version in an order of its own
	css.WriteString(strings.Join(rules, "\n") + "\n")
	name := []string{"Alder", "Birch", "Cedar"}[version]
	card := func(title string) string {
		return `<div class="card"><h3 class="card-title">` + title + `</h3><p>From ` + name + ` Farm.</p>` +
			`<a class="btn btn-main" href="#people">More</a></div>`
	}
	page := func(title, main string) string {
		return `<!DOCTYPE html><html lang="en"><head><meta charset="utf-8"><title>` + title + `</title>` +
			`<link rel="stylesheet" href="css/site.css"></head><body class="text-centre">` +
			`<nav class="band"><a href="index.html">` + name + ` Farm</a> <a href="contact.html">Contact</a></nav>` +
			main + `<footer class="band"><p class="lead">` + name + `</p></footer></body></html>`
	}
	return map[string]string{
		"css/site.css": css.String(),
		"index.html": page(name+" Farm",
			`<section class="band" id="offers"><h2 class="lead">Offers</h2><div class="row">`+
				card("Eggs")+card("Apples")+card("Wool")+`</div></section>`+
				`<section id="people"><h2 class="lead text-centre">People</h2><ul class="row"><li `+
				`class="card">Ida</li>`+
				`<li class="card band">Tomas</li></ul></section>`),
		"contact.html": page("Contact", `<main class="band"><p class="card">Write to us.</p></main>`),
	}
}
