package edit

import (
	"net/url"
	"slices"
	"strconv"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
)

// EmptyElements are the elements that can be put in without having been made before, by name: each
// takes a value, which is its words, an address or a name.
var EmptyElements = []string{"heading", "text", "picture", "button", "icon", "list", "columns", "video", "map",
	"strip", "questions", "number", "records", "search", "profiles", "menu", "form", "line", "space", "html"}

// emptyElement gives the markup of an empty element.
func (e *editor) emptyElement(op Operation) (string, error) {
	v := op.Value
	words := markup.EscapeText(v)
	switch op.Property {
	case "heading":
		return "<h2>" + words + "</h2>", nil
	case "text":
		return "<p>" + words + "</p>", nil
	case "list":
		return "<ul>\n" + repeated("  <li>", strings.Split(v, "\n"), "</li>\n") + "</ul>", nil
	case "questions":
		return "<details>\n  <summary>" + words + "</summary>\n  <p></p>\n</details>", nil
	case "number":
		return "<p><strong>" + words + "</strong></p>", nil
	case "line":
		return "<hr>", nil
	case "space":
		return `<div style="height:2rem"></div>`, nil
	case "html":
		return v, nil
	case "search":
		return "<cp-search></cp-search>", nil
	case "profiles":
		return "<cp-profiles></cp-profiles>", nil
	case "columns":
		n, err := strconv.Atoi(v)
		if err != nil || n < 1 || n > 12 {
			return "", refuse("say how many columns, from 1 to 12")
		}
		return "<div>\n" + repeated("  <div>", make([]string, n), "</div>\n") + "</div>", nil
	case "button":
		to := op.Label
		if to == "" {
			to = "/"
		}
		if err := e.canLead(to); err != nil {
			return "", err
		}
		class, err := e.buttonClass(op.Page)
		if err != nil {
			return "", err
		}
		return `<p><a` + class + ` href="` + markup.EscapeAttr(to) + `">` + words + "</a></p>", nil
	case "icon":
		if !strings.HasSuffix(v, ".svg") {
			return e.pictures(op)
		}
		p, err := e.shown(op.Page, op.Element)
		if err != nil {
			return "", err
		}
		return e.inTextColour(p, v, drawn{label: op.Label})
	case "picture", "strip":
		return e.pictures(op)
	case "video", "map":
		return e.framed(op)
	case "menu", "form", "records":
		return e.named(op)
	}
	return "", refuse("there is no empty element %q (there are: %s)", op.Property, strings.Join(EmptyElements, ", "))
}

// buttonClass gives the class attribute by which links of the page look like buttons: that of the first that
// does; none where none does.
func (e *editor) buttonClass(slug string) (string, error) {
	out, err := render.New(e.over).Page(render.PageRequest{Slug: slug})
	if err != nil {
		return "", err
	}
	for _, n := range markup.Parse(out.Body, "").ByTag("a") {
		for _, c := range n.Classes() {
			if w := strings.ToLower(c); strings.HasPrefix(w, "button") || strings.HasPrefix(w, "btn") {
				list := slices.DeleteFunc(n.Classes(), isOwnClass)
				return ` class="` + markup.EscapeAttr(strings.Join(list, " ")) + `"`, nil
			}
		}
	}
	return "", nil
}

func repeated(lead string, list []string, trail string) string {
	var b strings.Builder
	for _, s := range list {
		b.WriteString(lead + markup.EscapeText(s) + trail)
	}
	return b.String()
}

// pictures shows one of the site's media, or several below each other's side.
func (e *editor) pictures(op Operation) (string, error) {
	var out []string
	for _, name := range strings.Fields(op.Value) {
		a, err := item.ParseAddress(strings.TrimPrefix(name, "/"))
		if _, found := e.over.Find(a); err != nil || a.Kind != item.Media || !found {
			return "", refuse("there are no media %s", name)
		}
		size := ""
		if op.Property == "icon" {
			size = ` width="24" height="24"`
		}
		out = append(out, `<img src="/`+markup.EscapeAttr(a.Path())+`" alt="`+markup.EscapeAttr(op.Label)+`"`+size+">")
	}
	switch {
	case len(out) == 0:
		return "", refuse("name media of the site, as media/ridge.jpg")
	case op.Property == "strip":
		return "<div>\n  " + strings.Join(out, "\n  ") + "\n</div>", nil
	case len(out) > 1:
		return "", refuse("name one of the media")
	}
	return out[0], nil
}

// framed shows what lies elsewhere, by a pasted address, or a video of the site's media.
func (e *editor) framed(op Operation) (string, error) {
	v := op.Value
	if a, err := item.ParseAddress(strings.TrimPrefix(v, "/")); err == nil && a.Kind == item.Media &&
		op.Property == "video" {
		if _, found := e.over.Find(a); !found {
			return "", refuse("there are no media %s", v)
		}
		return `<video controls src="/` + markup.EscapeAttr(a.Path()) + `"></video>`, nil
	}
	u, err := url.Parse(v)
	if err != nil || u.Scheme != "https" || u.Host == "" {
		return "", refuse("paste its address, which begins with https://")
	}
	title := op.Label
	if title == "" {
		title = strings.ToUpper(op.Property[:1]) + op.Property[1:]
	}
	return `<iframe src="` + markup.EscapeAttr(v) + `" title="` + markup.EscapeAttr(title) +
		`" loading="lazy" allowfullscreen></iframe>`, nil
}

// named shows a menu or form of the site, or its records of a type.
func (e *editor) named(op Operation) (string, error) {
	kinds := map[string]item.Kind{"menu": item.Menu, "form": item.Form, "records": item.RecordType}
	name, rest, _ := strings.Cut(op.Value, " ")
	a := item.Address{Kind: kinds[op.Property], Key: strings.TrimPrefix(name, string(kinds[op.Property])+"/")}
	if _, found := e.over.Find(a); !found {
		return "", refuse("there is no %s", a)
	}
	key := markup.EscapeAttr(a.Key)
	if op.Property != "records" {
		return "<cp-" + op.Property + ` name="` + key + `"></cp-` + op.Property + ">", nil
	}
	limit := ""
	if rest != "" {
		n, err := strconv.Atoi(rest)
		if err != nil || n < 1 {
			return "", refuse("say how many after the type, as in notice 3")
		}
		limit = ` limit="` + rest + `"`
	}
	fields, err := e.fieldsOf(a.Key)
	if err != nil {
		return "", err
	}
	picture := ""
	names := make([]string, 0, len(fields))
	for n := range fields {
		names = append(names, n)
	}
	slices.Sort(names)
	for _, n := range names {
		if fields[n].Type == "image" && picture == "" {
			picture = `  <img data-value="src:` + markup.EscapeAttr(n) + `" src="" alt="">` + "\n"
		}
	}
	return `<cp-records type="` + key + `"` + limit + ">\n<article>\n" + picture +
		`  <h3><a data-value="text:title; href:url" href="/">Title</a></h3>` + "\n</article>\n</cp-records>", nil
}
