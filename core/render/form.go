package render

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"compactparcel/core/form"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
)

var inputTypes = map[string]string{
	"email":     "email",
	"date":      "date",
	"date-time": "datetime-local",
	"time":      "time",
	"uri":       "url",
	"tel":       "tel",
}

// hiddenLabel keeps a label for screen readers alone.
const hiddenLabel = ".cp-unseen{position:absolute;width:1px;height:1px;overflow:hidden;clip-path:inset(50%);" +
	"white-space:nowrap}"

// fieldWidths let fields stand beside each other where there is room.
const fieldWidths = ".cp-form-columns{display:grid;grid-template-columns:repeat(6,minmax(0,1fr));gap:1rem}" +
	".cp-form-columns>*{grid-column:1/-1}" +
	"@media(min-width:600px){.cp-form-columns>.cp-field-half{grid-column:span 3}" +
	".cp-form-columns>.cp-field-third{grid-column:span 2}}"

// form writes a form from its schema.
func (s *stage) form(name string) (sourcemap.Text, error) {
	a := item.Address{Kind: item.Form, Key: name}
	b, ok, err := s.r.lookUp(a)
	if err != nil || !ok {
		return none, err
	}
	f, err := form.Parse(b)
	if err != nil {
		return none, nil //nolint:nilerr // what is no form shows nothing; the check of the site tells it
	}
	s.reached[a] = true
	required := map[string]bool{}
	for _, r := range f.Schema.Required {
		required[r] = true
	}
	s.styleOnce(hiddenLabel)
	var out strings.Builder
	class := "cp-form"
	if len(f.Widths) > 0 {
		s.styleOnce(fieldWidths)
		class += " cp-form-columns"
	}
	fmt.Fprintf(&out, `<form class="%s" method="post" action="%s"`, class,
		markup.EscapeAttr(s.r.formAction(name)))
	if f.Title != "" {
		fmt.Fprintf(&out, ` aria-label="%s"`, markup.EscapeAttr(f.Title))
	}
	out.WriteString(">")
	for _, n := range f.Names() {
		p := formField{f.Schema.Properties[n]}
		out.WriteString(p.html(name, n, required[n], f.Labels == "hidden", f.Widths[n]))
	}
	fmt.Fprintf(&out, `<label class="cp-unseen" aria-hidden="true">Leave this empty<input name="%s" tabindex="-1" `+
		`autocomplete="off"></label>`, f.Trap())
	submit := f.Submit
	if submit == "" {
		submit = "Send"
	}
	out.WriteString("<button>" + markup.EscapeText(submit) + "</button></form>")
	return s.rec.Made(out.String(), "form", a), nil
}

// formAction is where a form is sent: to the receiver that the site is published with, else to the
// preview, which answers and keeps nothing.
func (r *Renderer) formAction(name string) string {
	if r.Forms != "" {
		return strings.ReplaceAll(r.Forms, "{form}", url.PathEscape(name))
	}
	return AssetRoot + "form/" + name
}

// formField writes a field.
type formField struct{ form.Field }

// html writes one field with its label, its constraints and its hint.
func (f formField) html(of, name string, required, hidden bool, width string) string {
	title := f.Title
	if title == "" {
		title = name
	}
	label := "<span>" + markup.EscapeText(title) + "</span>"
	if hidden {
		label = `<span class="cp-unseen">` + markup.EscapeText(title) + "</span>"
	}
	var attrs, hint strings.Builder
	attr := func(key, value string) { fmt.Fprintf(&attrs, ` %s="%s"`, key, markup.EscapeAttr(value)) }
	attr("name", name)
	if required && f.Type != "array" {
		attrs.WriteString(" required")
	}
	if f.ReadOnly {
		attrs.WriteString(" readonly")
	}
	if f.Description != "" {
		id := "cp-hint-" + of + "-" + name
		attr("aria-describedby", id)
		fmt.Fprintf(&hint, `<small class="cp-hint" id="%s">%s</small>`, markup.EscapeAttr(id),
			markup.EscapeText(f.Description))
	}
	values, words := f.Choices()
	class := "cp-field"
	if width != "" && slices.Contains(form.Widths, width) {
		class += " cp-field-" + width
	}
	if f.Type == "array" {
		var out strings.Builder
		legend := strings.Replace(strings.Replace(label, "<span", "<legend", 1), "</span>", "</legend>", 1)
		out.WriteString(`<fieldset class="` + class + `">` + legend)
		for i, v := range values {
			fmt.Fprintf(&out, `<label><input type="checkbox" name="%s" value="%s"><span>%s</span></label>`,
				markup.EscapeAttr(name), markup.EscapeAttr(v), markup.EscapeText(words[i]))
		}
		return out.String() + hint.String() + "</fieldset>"
	}
	return `<label class="` + class + `">` + label + f.control(attrs.String(), title, hidden, values,
		words) + hint.String() + "</label>"
}

// control writes the element that takes the answer.
func (f formField) control(attrs, title string, hidden bool, values, words []string) string {
	var more strings.Builder
	attr := func(key, value string) { fmt.Fprintf(&more, ` %s="%s"`, key, markup.EscapeAttr(value)) }
	preset := f.Preset()
	switch {
	case len(values) > 0:
		var out strings.Builder
		out.WriteString("<select" + attrs + ">")
		if hidden {
			out.WriteString(`<option value="">` + markup.EscapeText(title) + "</option>")
		}
		for i, v := range values {
			chosen := ""
			if v == preset {
				chosen = " selected"
			}
			if words[i] == v {
				out.WriteString("<option" + chosen + ">" + markup.EscapeText(v) + "</option>")
			} else {
				fmt.Fprintf(&out, `<option value="%s"%s>%s</option>`, markup.EscapeAttr(v), chosen,
					markup.EscapeText(words[i]))
			}
		}
		return out.String() + "</select>"
	case f.Type == "boolean":
		if preset == "true" {
			more.WriteString(" checked")
		}
		return `<input type="checkbox"` + attrs + more.String() + ">"
	}
	if f.MinLength > 0 {
		attr("minlength", fmt.Sprint(f.MinLength))
	}
	if f.MaxLength > 0 {
		attr("maxlength", fmt.Sprint(f.MaxLength))
	}
	if example := f.Example(); example != "" {
		attr("placeholder", example)
	} else if hidden {
		attr("placeholder", title)
	}
	if f.Type == "string" && f.MaxLength > 200 {
		return `<textarea rows="4"` + attrs + more.String() + ">" + markup.EscapeText(preset) + "</textarea>"
	}
	kind := inputTypes[f.Format]
	if f.Type == "integer" || f.Type == "number" {
		kind = "number"
		if f.Minimum != nil {
			attr("min", fmt.Sprintf("%g", *f.Minimum))
		}
		if f.Maximum != nil {
			attr("max", fmt.Sprintf("%g", *f.Maximum))
		}
		if f.MultipleOf != nil {
			attr("step", fmt.Sprintf("%g", *f.MultipleOf))
		} else if f.Type == "number" {
			attr("step", "any")
		}
	}
	if kind == "" {
		kind = "text"
	}
	if f.Pattern != "" {
		attr("pattern", f.Pattern)
	}
	if preset != "" && preset != "null" {
		attr("value", preset)
	}
	return `<input type="` + kind + `"` + attrs + more.String() + ">"
}
