package render

import (
	"encoding/json"
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
)

func (s *stage) form(name string) string {
	a := item.Address{Kind: item.Form, Key: name}
	b, ok := s.r.read(a)
	var f struct {
		Title  string `json:"title"`
		Submit string `json:"submit"`
		Schema struct {
			Properties map[string]struct {
				Title     string   `json:"title"`
				Type      string   `json:"type"`
				Format    string   `json:"format"`
				Enum      []string `json:"enum"`
				MaxLength int      `json:"maxLength"`
				Minimum   *float64 `json:"minimum"`
				Maximum   *float64 `json:"maximum"`
			} `json:"properties"`
			Required []string `json:"required"`
		} `json:"schema"`
		Order []string `json:"order"`
	}
	if !ok || json.Unmarshal(b, &f) != nil {
		return ""
	}
	s.reached[a] = true
	required := map[string]bool{}
	for _, r := range f.Schema.Required {
		required[r] = true
	}
	names := f.Order
	if len(names) == 0 {
		for n := range f.Schema.Properties {
			names = append(names, n)
		}
		sort.Strings(names)
	}
	var out strings.Builder
	fmt.Fprintf(&out, `<form class="cp-form" method="post" action="%sform/%s">`, AssetRoot, markup.EscapeAttr(name))
	for _, n := range names {
		p, ok := f.Schema.Properties[n]
		if !ok {
			continue
		}
		req := ""
		if required[n] {
			req = " required"
		}
		fmt.Fprintf(&out, `<label class="cp-field"><span>%s</span>`, markup.EscapeText(p.Title))
		attrs := fmt.Sprintf(` name="%s"%s`, markup.EscapeAttr(n), req)
		switch {
		case len(p.Enum) > 0:
			out.WriteString("<select" + attrs + ">")
			for _, e := range p.Enum {
				out.WriteString("<option>" + markup.EscapeText(e) + "</option>")
			}
			out.WriteString("</select>")
		case p.Type == "boolean":
			out.WriteString(`<input type="checkbox"` + attrs + ">")
		case p.Type == "string" && p.MaxLength > 200:
			out.WriteString(`<textarea rows="4"` + attrs + "></textarea>")
		default:
			kind := map[string]string{"email": "email", "date": "date", "uri": "url"}[p.Format]
			if p.Type == "integer" || p.Type == "number" {
				kind = "number"
				if p.Minimum != nil {
					attrs += fmt.Sprintf(` min="%g"`, *p.Minimum)
				}
				if p.Maximum != nil {
					attrs += fmt.Sprintf(` max="%g"`, *p.Maximum)
				}
			}
			if kind == "" {
				kind = "text"
			}
			out.WriteString(`<input type="` + kind + `"` + attrs + ">")
		}
		out.WriteString("</label>")
	}
	submit := f.Submit
	if submit == "" {
		submit = "Send"
	}
	out.WriteString("<button>" + markup.EscapeText(submit) + "</button></form>")
	return out.String()
}
