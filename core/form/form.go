// Package form knows what a form asks, and holds what is sent against it.
package form

import (
	"encoding/json"
	"fmt"
	"sort"

	"compactparcel/core/item"
)

// Form is a form: a JSON Schema (2020-12) of what is asked, and how it is shown.
type Form struct {
	Title  string   `json:"title"`
	Submit string   `json:"submit"`
	Labels string   `json:"labels"` // "shown", or "hidden" from all but screen readers
	Order  []string `json:"order"`
	// Widths says how wide a field stands, by name: one of Widths; full where it says nothing.
	Widths map[string]string `json:"widths"`
	Schema struct {
		Properties map[string]Field `json:"properties"`
		Required   []string         `json:"required"`
	} `json:"schema"`
	// Confirmation is what a visitor reads afterwards: a sentence, or a page of the site.
	Confirmation struct {
		Text string `json:"text"`
		Page string `json:"page"` // see LeadsTo
	} `json:"confirmation"`

	schema json.RawMessage
}

// Field is one property of the schema.
type Field struct {
	Title       string          `json:"title"`
	Description string          `json:"description"`
	Type        string          `json:"type"`
	Format      string          `json:"format"`
	Pattern     string          `json:"pattern"`
	Default     json.RawMessage `json:"default"`
	Examples    json.RawMessage `json:"examples"` // the first stands in the empty field
	Enum        []string        `json:"enum"`
	OneOf       []struct {
		Const string `json:"const"`
		Title string `json:"title"`
	} `json:"oneOf"`
	Items      *Field   `json:"items"` // of an array: what can be chosen
	MinLength  int      `json:"minLength"`
	MaxLength  int      `json:"maxLength"`
	Minimum    *float64 `json:"minimum"`
	Maximum    *float64 `json:"maximum"`
	MultipleOf *float64 `json:"multipleOf"`
	ReadOnly   bool     `json:"readOnly"`
}

// Widths are how wide a field can stand.
var Widths = []string{"full", "half", "third"}

// Parse reads a form.
func Parse(src []byte) (*Form, error) {
	f := &Form{}
	if err := json.Unmarshal(src, f); err != nil {
		return nil, err
	}
	var whole struct {
		Schema json.RawMessage `json:"schema"`
	}
	err := json.Unmarshal(src, &whole)
	f.schema = whole.Schema
	return f, err
}

// Names lists the fields in the order in which they are asked.
func (f *Form) Names() []string {
	var out []string
	for _, n := range f.Order {
		if _, ok := f.Schema.Properties[n]; ok {
			out = append(out, n)
		}
	}
	if len(f.Order) > 0 {
		return out
	}
	for n := range f.Schema.Properties {
		out = append(out, n)
	}
	sort.Strings(out)
	return out
}

// Label is what a field is called.
func (f *Form) Label(name string) string {
	if t := f.Schema.Properties[name].Title; t != "" {
		return t
	}
	return name
}

// Trap is the name of a field that people do not see: who fills it in is a program.
func (f *Form) Trap() string {
	name := "website"
	for n := 2; ; n++ {
		if _, taken := f.Schema.Properties[name]; !taken {
			return name
		}
		name = fmt.Sprintf("website-%d", n)
	}
}

// Choices gives the values that can be chosen, with their words.
func (f Field) Choices() (values, words []string) {
	if f.Items != nil {
		return f.Items.Choices()
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

// Example is what stands in the empty field; empty when there is nothing.
func (f Field) Example() string {
	var list []json.RawMessage
	if json.Unmarshal(f.Examples, &list) != nil || len(list) == 0 {
		return ""
	}
	return Field{Default: list[0]}.Preset()
}

// Preset is the default as a text; empty when there is none.
func (f Field) Preset() string {
	var s string
	if json.Unmarshal(f.Default, &s) == nil {
		return s
	}
	return string(f.Default)
}

// LeadsTo gives the page of the site that a visitor is led to afterwards, as its address there; "" where there is
// none, or what is said is no address of a page: "@host/" behind a site's own address would be another host's.
func (f *Form) LeadsTo() string {
	if p := f.Confirmation.Page; p != "" && item.CheckSlug(p) == nil {
		return p
	}
	return ""
}
