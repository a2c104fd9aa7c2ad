package sourcemap

import (
	"bytes"
	"encoding/json"
	"strconv"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/span"
)

// JSON is a JSON document with the places of its strings, by the way to them: members and
// indexes, as in "entries/0/label" (RFC 6901 without its first slash).
type JSON struct {
	r          *Recorder
	of         item.Address
	occurrence int
	at         map[string]span.Span
}

// JSON reads the places of a document's strings; nothing where nobody asks.
func (r *Recorder) JSON(of item.Address, src []byte, occurrence int) JSON {
	j := JSON{r: r, of: of, occurrence: occurrence}
	if r != nil {
		j.at = stringPlaces(src)
	}
	return j
}

// Text gives a string of the document as the text of an element, and Attr as an attribute.
func (j JSON) Text(way, value string) Text { return j.written(way, value, JSONToText) }

// Attr gives a string of the document as an attribute.
func (j JSON) Attr(way, value string) Text { return j.written(way, value, JSONToAttr) }

func (j JSON) written(way, value string, c Codec) Text {
	at, ok := j.at[way]
	if !ok {
		return j.r.Made(c.Page(value), "a value", j.of)
	}
	return j.r.Encoded(c.Page(value), Place{Occurrence: j.occurrence, Span: at}, c)
}

// stringPlaces gives the places of a document's string values, between their quotes.
func stringPlaces(src []byte) map[string]span.Span {
	type level struct {
		list  bool
		index int
		name  string
		named bool
	}
	out := map[string]span.Span{}
	var stack []level
	way := func() string {
		var parts []string
		for _, l := range stack {
			if l.list {
				parts = append(parts, strconv.Itoa(l.index))
			} else {
				parts = append(parts, strings.NewReplacer("~", "~0", "/", "~1").Replace(l.name))
			}
		}
		return strings.Join(parts, "/")
	}
	next := func() {
		if n := len(stack) - 1; n >= 0 {
			stack[n].index++
			stack[n].named = false
		}
	}
	dec := json.NewDecoder(bytes.NewReader(src))
	dec.UseNumber()
	for {
		from := int(dec.InputOffset())
		tok, err := dec.Token()
		if err != nil {
			return out
		}
		top := len(stack) - 1
		switch v := tok.(type) {
		case json.Delim:
			if v == '{' || v == '[' {
				stack = append(stack, level{list: v == '['})
			} else {
				stack = stack[:top]
				next()
			}
			continue
		case string:
			if top >= 0 && !stack[top].list && !stack[top].named {
				stack[top].name, stack[top].named = v, true
				continue
			}
			if open := bytes.IndexByte(src[from:], '"'); open >= 0 { // behind commas, colons and space
				out[way()] = span.Span{Start: from + open + 1, End: int(dec.InputOffset()) - 1}
			}
		}
		next()
	}
}
