package form

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"net/mail"
	"net/url"
	"slices"
	"sort"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/santhosh-tekuri/jsonschema/v6"
)

// Entry is what was sent, by field: texts, numbers, yes or no, and lists of texts.
type Entry map[string]any

// Bounds of what is sent. MaxFieldBytes is for a field whose schema says nothing.
const (
	MaxFieldBytes = 10_000
	MaxValues     = 100    // of one field
	MaxEntryBytes = 32_000 // of all fields together
)

// Wrong is a field that cannot be as it was sent.
type Wrong struct {
	Field   string
	Message string
}

// Check reads what was sent as the form's schema says, and lists what does not fit. Fields that the
// form does not ask for are wrong, too: nothing is passed over.
func (f *Form) Check(sent url.Values) (Entry, []Wrong) {
	entry, wrong := Entry{}, []Wrong{}
	size := 0
	for name, values := range sent {
		for _, v := range values {
			size += len(v)
		}
		if name == f.Trap() {
			continue
		}
		if len(values) > MaxValues {
			wrong = append(wrong, Wrong{name, fmt.Sprintf("these are more than %d", MaxValues)})
			continue
		}
		p, asked := f.Schema.Properties[name]
		if !asked {
			wrong = append(wrong, Wrong{name, "the form does not ask for it"})
			continue
		}
		v, why := p.read(values)
		if why != "" {
			wrong = append(wrong, Wrong{name, why})
		} else if v != nil {
			entry[name] = v
		}
	}
	if size > MaxEntryBytes {
		return Entry{}, []Wrong{{"", fmt.Sprintf("all of it together is longer than %d characters", MaxEntryBytes)}}
	}
	for _, name := range f.Schema.Required {
		if _, there := entry[name]; !there && !isWrong(wrong, name) {
			wrong = append(wrong, Wrong{name, "please fill it in"})
		}
	}
	for _, w := range f.bySchema(entry) {
		if !isWrong(wrong, w.Field) && (w.Field != "" || len(wrong) == 0) {
			wrong = append(wrong, w)
		}
	}
	place := func(name string) int {
		if i := slices.Index(f.Names(), name); i >= 0 {
			return i
		}
		return len(f.Schema.Properties)
	}
	sort.Slice(wrong, func(i, j int) bool { // as they are asked
		a, b := wrong[i].Field, wrong[j].Field
		return cmp.Or(cmp.Compare(place(a), place(b)), cmp.Compare(a, b)) < 0
	})
	return entry, wrong
}

func isWrong(list []Wrong, name string) bool {
	for _, w := range list {
		if w.Field == name {
			return true
		}
	}
	return false
}

// read gives the value of a field in its type; nil where nothing was filled in.
func (f Field) read(values []string) (v any, why string) {
	for i, s := range values {
		values[i] = strings.ReplaceAll(strings.TrimSpace(s), "\r\n", "\n")
		if !utf8.ValidString(s) || strings.ContainsRune(s, 0) {
			return nil, "this is not text"
		}
		if len(s) > MaxFieldBytes && f.MaxLength == 0 {
			return nil, "this is too long"
		}
	}
	if f.Type == "array" {
		list := []any{}
		for _, s := range values {
			if s != "" {
				list = append(list, s)
			}
		}
		return list, ""
	}
	if len(values) != 1 {
		return nil, "this was sent more than once"
	}
	s := values[0]
	switch {
	case f.Type == "boolean":
		return s != "" && s != "false", ""
	case s == "":
		return nil, ""
	case f.Type == "integer":
		n, err := strconv.ParseInt(s, 10, 64)
		if err != nil {
			return nil, "this is not a whole number"
		}
		return float64(n), ""
	case f.Type == "number":
		n, err := strconv.ParseFloat(s, 64)
		if err != nil {
			return nil, "this is not a number"
		}
		return n, ""
	case f.Format == "email":
		if a, err := mail.ParseAddress(s); err != nil || a.Address != s {
			return nil, "this is not a mail address"
		}
	case f.Format == "date":
		if _, err := time.Parse(time.DateOnly, s); err != nil {
			return nil, "this is not a date"
		}
	}
	return s, ""
}

// bySchema holds an entry against the whole schema.
func (f *Form) bySchema(entry Entry) []Wrong {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(f.schema))
	if err != nil {
		return []Wrong{{"", "the form cannot be read"}}
	}
	c := jsonschema.NewCompiler()
	c.UseLoader(nothingElsewhere{})
	if err := c.AddResource("form.json", doc); err != nil {
		return []Wrong{{"", "the form cannot be read"}}
	}
	schema, err := c.Compile("form.json")
	if err != nil {
		return []Wrong{{"", "the form cannot be read"}}
	}
	err = schema.Validate(map[string]any(entry))
	var bad *jsonschema.ValidationError
	if !errors.As(err, &bad) {
		return nil
	}
	var out []Wrong
	var tell func(e *jsonschema.ValidationError)
	tell = func(e *jsonschema.ValidationError) {
		if len(e.Causes) == 0 {
			name := ""
			if len(e.InstanceLocation) > 0 {
				name = e.InstanceLocation[0]
			}
			if !isWrong(out, name) {
				out = append(out, Wrong{name, f.why(name)})
			}
		}
		for _, c := range e.Causes {
			tell(c)
		}
	}
	tell(bad)
	return out
}

// why tells a visitor what a field can be.
func (f *Form) why(name string) string {
	p := f.Schema.Properties[name]
	values, _ := p.Choices()
	switch {
	case len(values) > 0:
		return "please choose one of the answers"
	case p.Minimum != nil && p.Maximum != nil:
		return fmt.Sprintf("please write a number from %g to %g", *p.Minimum, *p.Maximum)
	case p.MaxLength > 0 && p.MinLength > 0:
		return fmt.Sprintf("please write %d to %d characters", p.MinLength, p.MaxLength)
	case p.MaxLength > 0:
		return fmt.Sprintf("please write at most %d characters", p.MaxLength)
	}
	return "this does not fit"
}

// nothingElsewhere keeps a schema from being read from anywhere else.
type nothingElsewhere struct{}

func (nothingElsewhere) Load(string) (any, error) {
	return nil, errors.New("a form's schema names no other")
}
