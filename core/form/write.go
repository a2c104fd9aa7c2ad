package form

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/tidwall/gjson"
	"github.com/tidwall/pretty"
	"github.com/tidwall/sjson"
)

// Writer changes a form's source; what it is not asked to change keeps its order and its values, members
// that it does not know among them.
type Writer struct{ src []byte }

// Write begins to change a form. Its error tells of a source that is no form.
func Write(src []byte) (*Writer, error) {
	if _, err := Parse(src); err != nil {
		return nil, err
	}
	return &Writer{slices.Clone(src)}, nil
}

// New is a form that asks for a name, a mail address and words.
func New(title string) ([]byte, error) {
	w := &Writer{[]byte(`{"title":"","submit":"Send","order":[],"schema":{"type":"object","required":[],` +
		`"properties":{}},"confirmation":{"text":"Thank you. We have it."}}`)}
	return w.text(errors.Join(
		w.set("title", title),
		w.Field("name", "text", "Your name", 0), w.Set("name", "required", "yes"),
		w.Field("mail", "mail", "Your mail address", 0), w.Set("mail", "required", "yes"),
		w.Field("words", "lines", "Your words", 0)))
}

// Text gives the source, written as by hand.
func (w *Writer) Text() ([]byte, error) { return w.text(nil) }

func (w *Writer) text(err error) ([]byte, error) {
	return pretty.PrettyOptions(w.src, &pretty.Options{Width: 100, Indent: "  "}), err
}

// UnfitError tells why a form cannot be changed so.
type UnfitError struct{ Why string }

func (e *UnfitError) Error() string { return e.Why }

func unfit(format string, args ...any) error { return &UnfitError{fmt.Sprintf(format, args...)} }

func (w *Writer) set(path string, v any) (err error) {
	w.src, err = sjson.SetBytes(w.src, path, v)
	return err
}

func (w *Writer) drop(path string) (err error) {
	w.src, err = sjson.DeleteBytes(w.src, path)
	return err
}

// property is the path of a field in the source.
func property(name string, more ...string) string {
	return strings.Join(append([]string{"schema", "properties", gjson.Escape(name)}, more...), ".")
}

// Has tells whether the form asks for a field.
func (w *Writer) Has(name string) bool { return gjson.GetBytes(w.src, property(name)).Exists() }

// names lists the fields as they are asked.
func (w *Writer) names() ([]string, error) {
	f, err := Parse(w.src)
	if err != nil {
		return nil, err
	}
	return f.Names(), nil
}

// without lists the fields but one.
func (w *Writer) without(name string) ([]string, error) {
	list, err := w.names()
	return slices.DeleteFunc(list, func(n string) bool { return n == name }), err
}

// sorts are what a field can ask for, and the JSON Schema (2020-12) that says so.
var sorts = map[string]string{
	"text":    `{"type":"string","maxLength":200}`,
	"lines":   `{"type":"string","maxLength":2000}`,
	"mail":    `{"type":"string","format":"email"}`,
	"phone":   `{"type":"string","format":"tel","maxLength":40}`,
	"address": `{"type":"string","format":"uri"}`,
	"date":    `{"type":"string","format":"date"}`,
	"time":    `{"type":"string","format":"time"}`,
	"number":  `{"type":"number"}`,
	"whole":   `{"type":"integer"}`,
	"yes-no":  `{"type":"boolean"}`,
	"one-of":  `{"type":"string","enum":[]}`,
	"some-of": `{"type":"array","items":{"type":"string","enum":[]}}`,
}

// Sorts lists what a field can ask for.
func Sorts() []string {
	out := make([]string, 0, len(sorts))
	for s := range sorts {
		out = append(out, s)
	}
	slices.Sort(out)
	return out
}

// Field adds a field, at a place from 1, or at the end; or lets one ask for something else. What it asks
// for is one of Sorts; one-of and some-of are followed by the answers, as in "one-of: one night | two".
func (w *Writer) Field(name, asks, label string, at int) error {
	sort, answers, several := strings.Cut(asks, ":")
	sort = strings.TrimSpace(sort)
	schema, known := sorts[sort]
	switch {
	case !known:
		return unfit("a field cannot ask for %q (it can for: %s)", sort, strings.Join(Sorts(), ", "))
	case !isName(name):
		return unfit("%q cannot be a field's name: write letters, digits and hyphens", name)
	}
	if path := map[string]string{"one-of": "enum", "some-of": "items.enum"}[sort]; path != "" {
		list := []string{}
		for _, s := range strings.Split(answers, "|") {
			if s = strings.TrimSpace(s); s != "" && !slices.Contains(list, s) {
				list = append(list, s)
			}
		}
		if len(list) < 2 {
			return unfit("write the answers behind it, as in %s: one night | two nights", sort)
		}
		var err error
		if schema, err = sjson.Set(schema, path, list); err != nil {
			return err
		}
	} else if several {
		return unfit("%s takes no answers", sort)
	}
	there := w.Has(name)
	if label == "" {
		label = gjson.GetBytes(w.src, property(name, "title")).String()
	}
	hint := gjson.GetBytes(w.src, property(name, "description"))
	var err error
	w.src, err = sjson.SetRawBytes(w.src, property(name), []byte(schema))
	if err == nil && label != "" {
		err = w.set(property(name, "title"), label)
	}
	if err == nil && hint.Exists() {
		err = w.set(property(name, "description"), hint.String())
	}
	if err != nil || there && at == 0 {
		return err
	}
	return w.Move(name, at)
}

func isName(s string) bool {
	if s == "" || s[0] >= '0' && s[0] <= '9' {
		return false
	}
	for _, c := range s {
		if c != '-' && c != '_' && (c < '0' || c > '9') && (c < 'a' || c > 'z') && (c < 'A' || c > 'Z') {
			return false
		}
	}
	return len(s) <= 60
}

// Move lets a field be asked at a place, from 1; 0: at the end.
func (w *Writer) Move(name string, at int) error {
	if !w.Has(name) {
		return w.unknown(name)
	}
	list, err := w.without(name)
	if err != nil {
		return err
	}
	if at == 0 {
		at = len(list) + 1
	}
	if at < 0 || at > len(list)+1 {
		return unfit("the form has places from 1 to %d", len(list)+1)
	}
	return w.set("order", slices.Insert(list, at-1, name))
}

func (w *Writer) unknown(name string) error {
	list, err := w.names()
	if err != nil {
		return err
	}
	return unfit("the form has no field %q (it has: %s)", name, strings.Join(list, ", "))
}

// Remove takes a field out.
func (w *Writer) Remove(name string) error {
	if !w.Has(name) {
		return w.unknown(name)
	}
	order, err := w.without(name)
	if err != nil {
		return err
	}
	if len(order) == 0 {
		return unfit("it is the form's last field: take the form away instead")
	}
	return errors.Join(w.set("order", order), w.require(name, false), w.widen(name, ""),
		w.drop(property(name)))
}

func (w *Writer) require(name string, yes bool) error {
	var list []string
	for _, r := range gjson.GetBytes(w.src, "schema.required").Array() {
		if r.String() != name {
			list = append(list, r.String())
		}
	}
	if yes {
		list = append(list, name)
	}
	if list == nil {
		list = []string{}
	}
	return w.set("schema.required", list)
}

// Set gives a field a label, a hint, an example, a width, a default, a least or a most; or, where no field is
// named, the form its title, the words of its button, whether labels are shown, and what follows when it was
// sent: words, or a page's address. An empty value takes it back.
func (w *Writer) Set(name, what, value string) error {
	if name == "" {
		return w.setForm(what, value)
	}
	if !w.Has(name) {
		return w.unknown(name)
	}
	switch what {
	case "label":
		return w.words(property(name, "title"), value)
	case "hint":
		return w.words(property(name, "description"), value)
	case "example":
		if value == "" {
			return w.drop(property(name, "examples"))
		}
		return w.set(property(name, "examples"), []string{value})
	case "required":
		yes, err := yesNo(value)
		if err != nil {
			return err
		}
		return w.require(name, yes)
	case "width":
		if value != "" && !slices.Contains(Widths, value) {
			return unfit("a field is as wide as %s", strings.Join(Widths, ", "))
		}
		return w.widen(name, value)
	case "least", "most":
		return w.bound(name, what, value)
	}
	return unfit("a field has no %q (it has: label, hint, example, required, width, least, most)", what)
}

// widen says how wide a field stands; full where nothing is said.
func (w *Writer) widen(name, width string) error {
	f, err := Parse(w.src)
	if err != nil {
		return err
	}
	if width == "" || width == Widths[0] {
		if _, said := f.Widths[name]; !said {
			return nil
		}
		if delete(f.Widths, name); len(f.Widths) == 0 {
			return w.drop("widths")
		}
		return w.set("widths", f.Widths)
	}
	if f.Widths == nil {
		f.Widths = map[string]string{}
	}
	f.Widths[name] = width
	return w.set("widths", f.Widths)
}

// bound sets how long words are, or how large a number is.
func (w *Writer) bound(name, what, value string) error {
	path := map[string]string{"least": "minimum", "most": "maximum"}[what]
	switch gjson.GetBytes(w.src, property(name, "type")).String() {
	case "string":
		path = map[string]string{"least": "minLength", "most": "maxLength"}[what]
		if n, err := strconv.Atoi(value); value != "" && (err != nil || n < 1 || n > MaxFieldBytes) {
			return unfit("write how many characters, from 1 to %d", MaxFieldBytes)
		}
	case "integer", "number":
	default:
		return unfit("%s has no %s", name, what)
	}
	if value == "" {
		return w.drop(property(name, path))
	}
	n, err := strconv.ParseFloat(value, 64)
	if err != nil {
		return unfit("%q is no number", value)
	}
	other := map[string]string{"minimum": "maximum", "maximum": "minimum", "minLength": "maxLength",
		"maxLength": "minLength"}[path]
	if o := gjson.GetBytes(w.src, property(name, other)); o.Exists() &&
		(what == "least" && n > o.Float() || what == "most" && n < o.Float()) {
		return unfit("the least would be more than the most")
	}
	w.src, err = sjson.SetRawBytes(w.src, property(name, path), json.RawMessage(strconv.FormatFloat(n, 'f', -1, 64)))
	return err
}

func (w *Writer) setForm(what, value string) error {
	switch what {
	case "title", "submit":
		return w.words(what, value)
	case "labels":
		if value != "" && value != "shown" && value != "hidden" {
			return unfit("labels are shown or hidden")
		}
		return w.words(what, value)
	case "confirmation":
		if strings.HasPrefix(value, "/") {
			return errors.Join(w.drop("confirmation.text"), w.set("confirmation.page", value))
		}
		return errors.Join(w.drop("confirmation.page"), w.words("confirmation.text", value))
	}
	return unfit("a form has no %q (it has: title, submit, labels, confirmation)", what)
}

// words writes a text, or takes it out where it is empty.
func (w *Writer) words(path, value string) error {
	if value == "" {
		return w.drop(path)
	}
	return w.set(path, value)
}

func yesNo(s string) (bool, error) {
	if s != "yes" && s != "no" {
		return false, unfit("write yes or no")
	}
	return s == "yes", nil
}
