// Package says holds what is said to people as a sentence with values in it. Who shows it words the values: an engineer
// reads kind/key and a selector, a keeper a title and “what you pointed at”. So nobody has to take a sentence apart.
package says

import (
	"fmt"
	"strconv"
	"strings"
	"unicode"

	"compactparcel/core/item"
)

// Kind says what a value is.
type Kind string

// The kinds of values.
const (
	Text    Kind = "text"    // words or a number, as they stand
	Item    Kind = "item"    // kind/key of an item
	Page    Kind = "page"    // the address of a page on its site
	Element Kind = "element" // a selector of an element
	Tag     Kind = "tag"     // the name of an element, as nav
)

// Kinds lists all of them.
var Kinds = []Kind{Text, Item, Page, Element, Tag}

// Value is a value of a sentence.
type Value struct {
	Kind Kind   `json:"kind"`
	Text string `json:"text"`
}

// Message is a sentence: its pattern has {0}, {1} and so on where the values stand, and {{ for a brace.
type Message struct {
	Code    string  `json:"code"`
	Pattern string  `json:"pattern"`
	Values  []Value `json:"values,omitempty"`
}

// Slug, Selector and TagName are texts of their kinds, for New.
type (
	Slug     string
	Selector string
	TagName  string
)

// Said is an error that says what happened as a message.
type Said interface {
	error
	Said() Message
}

// New makes a message as fmt.Sprintf makes a text. The kinds of its values are those of the arguments: an item.Address,
// a Slug, a Selector, a TagName; an error that is Said stands in it with its own values; anything else is a text.
func New(format string, args ...any) Message {
	b := &builder{args: args}
	code := format
	for {
		at := strings.IndexByte(format, '%')
		if at < 0 {
			b.words(format)
			break
		}
		b.words(format[:at])
		end := at + 1
		for end < len(format) && !unicode.IsLetter(rune(format[end])) && format[end] != '%' {
			end++
		}
		if end == len(format) {
			b.words(format[at:])
			break
		}
		b.verb(format[at : end+1])
		format = format[end+1:]
	}
	return Message{Code: codeOf(code), Pattern: b.pattern.String(), Values: b.values}
}

type builder struct {
	args    []any
	pattern strings.Builder
	values  []Value
}

func (b *builder) words(s string) { b.pattern.WriteString(strings.ReplaceAll(s, "{", "{{")) }

func (b *builder) value(k Kind, text string) {
	b.pattern.WriteString("{" + strconv.Itoa(len(b.values)) + "}")
	b.values = append(b.values, Value{k, text})
}

func (b *builder) verb(verb string) {
	if verb == "%%" {
		b.words("%")
		return
	}
	if len(b.args) == 0 {
		b.words(verb)
		return
	}
	arg := b.args[0]
	b.args = b.args[1:]
	kind := Text
	switch x := arg.(type) {
	case Message:
		b.message(x)
		return
	case Said:
		b.message(x.Said())
		return
	case item.Address:
		kind = Item
	case Slug:
		kind = Page
	case Selector:
		kind = Element
	case TagName:
		kind = Tag
	}
	text := fmt.Sprintf(verb, arg)
	if inner, quoted := strings.CutPrefix(text, `"`); quoted && verb[len(verb)-1] == 'q' { // the quotes are words
		b.words(`"`)
		b.value(kind, strings.TrimSuffix(inner, `"`)) // and what no terminal should get stays escaped
		b.words(`"`)
		return
	}
	b.value(kind, text)
}

func (b *builder) message(m Message) {
	b.pattern.WriteString(renumbered(m.Pattern, len(b.values)))
	b.values = append(b.values, m.Values...)
}

// renumbered gives a pattern with its values behind others.
func renumbered(pattern string, by int) string {
	var out strings.Builder
	each(pattern, func(words string) { out.WriteString(strings.ReplaceAll(words, "{", "{{")) },
		func(n int) { out.WriteString("{" + strconv.Itoa(n+by) + "}") })
	return out.String()
}

// each goes over the words and the places of a pattern.
func each(pattern string, words func(string), place func(int)) {
	for pattern != "" {
		at := strings.IndexByte(pattern, '{')
		if at < 0 {
			words(pattern)
			return
		}
		words(pattern[:at])
		if strings.HasPrefix(pattern[at:], "{{") {
			words("{")
			pattern = pattern[at+2:]
			continue
		}
		number, rest, _ := strings.Cut(pattern[at+1:], "}")
		if n, err := strconv.Atoi(number); err == nil {
			place(n)
		}
		pattern = rest
	}
}

// IsZero tells that nothing is said.
func (m Message) IsZero() bool { return m.Pattern == "" }

// String is the sentence with its values as they are.
func (m Message) String() string {
	var out strings.Builder
	each(m.Pattern, func(words string) { out.WriteString(words) }, func(n int) {
		if n < len(m.Values) {
			out.WriteString(m.Values[n].Text)
		}
	})
	return out.String()
}

// maxCode bounds a code, in bytes.
const maxCode = 60

// codeOf makes a name of a format: its words.
func codeOf(format string) string {
	var words []string
	n := 0
	for _, w := range strings.FieldsFunc(format, func(r rune) bool { return !unicode.IsLetter(r) && r != '%' }) {
		if strings.HasPrefix(w, "%") {
			continue
		}
		if n += len(w) + 1; n > maxCode {
			break
		}
		words = append(words, strings.ToLower(w))
	}
	return strings.Join(words, "-")
}

// Error is an error that is said.
type Error struct{ Message }

// Errorf makes an error of a message.
func Errorf(format string, args ...any) error { return Error{New(format, args...)} }

func (e Error) Error() string { return e.String() }

// Said gives the message.
func (e Error) Said() Message { return e.Message }
