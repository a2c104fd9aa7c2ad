package blend

import (
	"slices"
	"strings"

	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// open gives the text of a token that both sides have: the site's, with what the kit
// changed in its attributes, values and names.
func (m *merger) open(x output) string {
	site, base, kit := x.n, x.base, x.other
	var edits []span.Edit
	done := map[string]bool{}
	for _, s := range site.parts {
		done[s.name] = true
		b, had := base.part(s.name)
		k, has := kit.part(s.name)
		switch {
		case had && !has: // the kit removed it
			if plain(b) != plain(s) && m.ask(Attribute, site, s.name, b.value, s.value, "") != ForKit {
				continue
			}
			at := s.at
			for at.Start > 0 && isSpace(m.site.src[at.Start-1]) {
				at.Start--
			}
			edits = append(edits, span.Edit{Span: at})
		case !has:
		default:
			if !had {
				b = part{name: s.name, how: s.how}
			}
			if v, same := m.value(site, b, s, k, had); !same {
				edits = append(edits, m.put(s, v))
			}
		}
	}
	for _, k := range kit.parts {
		if done[k.name] {
			continue
		}
		b, had := base.part(k.name)
		if had { // the site removed it
			if plain(b) == plain(k) || m.ask(Attribute, site, k.name, b.value, "", k.value) != ForKit {
				continue
			}
		}
		at := site.open.End - 1
		for at > site.open.Start && (m.site.src[at-1] == '/' || isSpace(m.site.src[at-1])) {
			at--
		}
		edits = append(edits,
			span.Edit{Span: span.Span{Start: at, End: at}, New: []byte(" " + string(k.at.Of(m.kit.src)))})
	}
	text := site.open.Of(m.site.src)
	if len(edits) == 0 {
		return string(text)
	}
	for i := range edits {
		edits[i].Span = edits[i].Shift(-site.open.Start)
	}
	out, err := span.Apply(text, edits)
	if err != nil { // two parts of one name; the site's text stays
		return string(text)
	}
	return string(out)
}

// put gives the edit that puts a value in the place of the site's.
func (m *merger) put(s part, v string) span.Edit {
	if m.site.lang != langMarkup || s.name == "" {
		return span.Edit{Span: s.in, New: []byte(v)}
	}
	name := string(m.site.src[s.at.Start:min(s.at.Start+len(s.name), s.at.End)])
	return span.Edit{Span: s.at, New: []byte(name + `="` + markup.EscapeAttr(v) + `"`)}
}

// value blends one part that both sides have; same tells that it is the site's.
func (m *merger) value(n *node, b, s, k part, had bool) (v string, same bool) {
	ps, pk := plain(s), plain(k)
	pb := plain(b)
	switch {
	case ps == pk || had && pb == pk:
		return s.value, true
	case had && pb == ps:
		return k.value, false
	}
	switch s.how {
	case set:
		return mergeSet(strings.Fields(b.value), strings.Fields(s.value), strings.Fields(k.value), " "), false
	case list:
		if v, ok := mergeList(b.value, s.value, k.value); ok {
			return v, false
		}
	case decls, sheet, lines:
		read := map[strategy]func([]byte) *doc{decls: readDecls, sheet: readSheet, lines: readLines}[s.how]
		where := n.path()
		if s.name != "" {
			where += " " + s.name
		}
		if r, ok := m.inner(where, read, b.value, s.value, k.value); ok {
			return r, r == s.value
		}
	case prose, quoted:
		if len(strings.Fields(b.value)) < 2 {
			break
		}
		quiet := &merger{choose: func(*Conflict) Decision { return "" }}
		unquote := func(v string) string { return v }
		if s.how == quoted {
			unquote = func(v string) string { return strings.TrimSuffix(strings.TrimPrefix(v, `"`), `"`) }
		}
		r, ok := quiet.inner("", readWords, unquote(b.value), unquote(s.value), unquote(k.value))
		if ok && len(quiet.conflicts) == 0 {
			if s.how == quoted {
				r = `"` + r + `"`
			}
			return r, false
		}
	default:
	}
	kind := Attribute
	switch m.site.lang {
	case langSheet:
		kind = Declaration
	case langJSON:
		kind = Value
	default:
	}
	if s.name == "selector" {
		kind = Selector
	}
	if m.ask(kind, n, strings.TrimSuffix(s.name, ":"), b.value, s.value, k.value) == ForKit {
		return k.value, false
	}
	return s.value, true
}

// inner blends a value that is a document of its own.
func (m *merger) inner(where string, read func([]byte) *doc, base, site, kit string) (string, bool) {
	b, s, k := read([]byte(base)), read([]byte(site)), read([]byte(kit))
	if b == nil || s == nil || k == nil {
		return "", false
	}
	sub := &merger{base: b, choose: m.choose, where: m.under(where)}
	out := sub.run(s, k)
	if out == nil {
		return "", false
	}
	m.conflicts = append(m.conflicts, sub.conflicts...)
	return string(out), true
}

// mergeSet blends names that have no order: the site's, with what the kit added and
// without what it removed.
func mergeSet(base, site, kit []string, between string) string {
	var out []string
	for _, v := range site {
		if slices.Contains(base, v) && !slices.Contains(kit, v) {
			continue
		}
		out = append(out, v)
	}
	for _, v := range kit {
		if !slices.Contains(base, v) && !slices.Contains(out, v) {
			out = append(out, v)
		}
	}
	return strings.Join(out, between)
}

// mergeList blends lists with commas in which each side only adds and removes.
func mergeList(base, site, kit string) (string, bool) {
	cut := func(s string) []string {
		if strings.ContainsAny(s, "(\"'[") {
			return nil
		}
		out := strings.Split(s, ",")
		for i := range out {
			out[i] = strings.Join(strings.Fields(out[i]), " ")
		}
		return out
	}
	b, s, k := cut(base), cut(site), cut(kit)
	shared := func(list []string) bool {
		return slices.ContainsFunc(list, func(v string) bool { return slices.Contains(b, v) })
	}
	if b == nil || s == nil || k == nil || !shared(s) || !shared(k) {
		return "", false
	}
	v := mergeSet(b, s, k, ", ")
	return v, v != ""
}
