package render

import (
	"encoding/json"
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
)

// formItem is a form: a JSON Schema (2020-12) of what is asked, and how it is shown.
type formItem struct {
	Title  string   `json:"title"`
	Submit string   `json:"submit"`
	Labels string   `json:"labels"` // "shown", or "hidden" from all but screen readers
	Order  []string `json:"order"`
	Schema struct {
		Properties map[string]formField `json:"properties"`
		Required   []string             `json:"required"`
	} `json:"schema"`
}

// formField is one property of the schema.
type formField struct {
	Title       string          `json:"title"`
	Description string          `json:"description"`
	Type        string          `json:"type"`
	Format      string          `json:"format"`
	Pattern     string          `json:"pattern"`
	Default     json.RawMessage `json:"default"`
	Enum        []string        `json:"enum"`
	OneOf       []struct {
		Const string `json:"const"`
		Title string `json:"title"`
	} `json:"oneOf"`
	Items      *formField `json:"items"` // of an array: what can be chosen
	MinLength  int        `json:"minLength"`
	MaxLength  int        `json:"maxLength"`
	Minimum    *float64   `json:"minimum"`
	Maximum    *float64   `json:"maximum"`
	MultipleOf *float64   `json:"multipleOf"`
	ReadOnly   bool       `json:"readOnly"`
}

// choices gives the values that can be chosen, with their words.
func (f formField) choices() (values, words []string) {
	if f.Items != nil {
		return f.Items.choices()
	}
	for _, e := range f.Enum {
		values, words = append(values, e), append(words, e)
	}
	for _, o := range f.OneOf {
		w := o.Title
		if w == "" {
			w = o.Const
		}
		values, words = append(values, o.Const), append(words, w)
	}
	return values, words
}

// preset is the default as a text; empty when there is none.
func (f formField) preset() string {
	var s string
	if json.Unmarshal(f.Default, &s) == nil {
		return s
	}
	return string(f.Default)
}

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

// form writes a form from its schema.
func (s *stage) form(name string) (sourcemap.Text, error) {
	a := item.Address{Kind: item.Form, Key: name}
	b, ok, err := s.r.lookUp(a)
	var f formItem
	if err != nil || !ok || json.Unmarshal(b, &f) != nil {
		return none, err
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
	if f.Labels == "hidden" {
		s.styleOnce(hiddenLabel)
	}
	var out strings.Builder
	fmt.Fprintf(&out, `<form class="cp-form" method="post" action="%sform/%s"`, AssetRoot, markup.EscapeAttr(name))
	if f.Title != "" {
		fmt.Fprintf(&out, ` aria-label="%s"`, markup.EscapeAttr(f.Title))
	}
	out.WriteString(">")
	for _, n := range names {
		if p, ok := f.Schema.Properties[n]; ok {
			out.WriteString(p.html(name, n, required[n], f.Labels == "hidden"))
		}
	}
	submit := f.Submit
	if submit == "" {
		submit = "Send"
	}
	out.WriteString("<button>" + markup.EscapeText(submit) + "</button></form>")
	return s.rec.Made(out.String(), "form", a), nil
}

// html writes one field with its label, its constraints and its hint.
func (f formField) html(form, name string, required, hidden bool) string {
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
		id := "cp-hint-" + form + "-" + name
		attr("aria-describedby", id)
		fmt.Fprintf(&hint, `<small class="cp-hint" id="%s">%s</small>`, markup.EscapeAttr(id),
			markup.EscapeText(f.Description))
	}
	values, words := f.choices()
	if f.Type == "array" {
		var out strings.Builder
		legend := strings.Replace(strings.Replace(label, "<span", "<legend", 1), "</span>", "</legend>", 1)
		out.WriteString(`<fieldset class="cp-field">` + legend)
		for i, v := range values {
			fmt.Fprintf(&out, `<label><input type="checkbox" name="%s" value="%s"><span>%s</span></label>`,
				markup.EscapeAttr(name), markup.EscapeAttr(v), markup.EscapeText(words[i]))
		}
		return out.String() + hint.String() + "</fieldset>"
	}
	return `<label class="cp-field">` + label + f.control(attrs.String(), title, hidden, values,
		words) + hint.String() + "</label>"
}

// control writes the element that takes the answer.
func (f formField) control(attrs, title string, hidden bool, values, words []string) string {
	var more strings.Builder
	attr := func(key, value string) { fmt.Fprintf(&more, ` %s="%s"`, key, markup.EscapeAttr(value)) }
	preset := f.preset()
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
	if hidden {
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
