package edit

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// field is a field of a record type.
type field struct {
	Type    string   `json:"type"`
	Label   string   `json:"label"`
	Choices []string `json:"choices"`
}

// fieldsOf reads the fields of a record type; none where the site has no such type.
func (e *editor) fieldsOf(typ string) (map[string]field, error) {
	h, ok := e.over.Find(item.Address{Kind: item.RecordType, Key: typ})
	if !ok {
		return nil, nil
	}
	b, err := item.Read(e.over, h)
	if err != nil {
		return nil, err
	}
	var t struct {
		Fields map[string]field `json:"fields"`
		Schema struct {
			Properties map[string]field `json:"properties"`
		} `json:"schema"`
	}
	if err := json.Unmarshal(b, &t); err != nil {
		return nil, refuse("%s cannot be read: %v", h.Address, err)
	}
	if t.Fields == nil {
		t.Fields = t.Schema.Properties
	}
	return t.Fields, nil
}

// record gives a field of a record a value, or makes a record as a copy of another.
func (e *editor) record(op Operation) (string, error) {
	h, ok := e.over.Find(op.Item)
	if !ok || op.Item.Kind != item.Record {
		return "", refuse("there is no record %s", op.Item)
	}
	src, err := item.Read(e.over, h)
	if err != nil {
		return "", err
	}
	if op.Op == RecordNew {
		return e.newRecord(h, src, op)
	}
	if op.Property == "title" {
		h.Meta.Title = op.Value
	}
	known, err := e.fieldsOf(h.Meta.Type)
	if err != nil {
		return "", err
	}
	f, declared := known[op.Property]
	if err := e.fits(f, op.Value); err != nil {
		return "", err
	}
	list, err := markup.Fillings(markup.Parse(src, ""), "data-value", func(name string) (string, bool) {
		return op.Value, name == op.Property
	})
	if err != nil {
		return "", err
	}
	var edits []span.Edit
	for _, f := range list {
		edits = append(edits, f.Edit)
	}
	switch {
	case len(edits) == 0 && !declared && op.Property != "title":
		return "", refuse("a %s has no field %q (it has: %s)", h.Meta.Type, op.Property,
			strings.Join(slices.Sorted(maps.Keys(known)), ", "))
	case len(edits) == 0 && op.Property != "title":
		return "", refuse("%s does not show its %s: edit its source", op.Item, op.Property)
	}
	if src, err = span.Apply(src, edits); err != nil {
		return "", err
	}
	return fmt.Sprintf("gave %s another %s", op.Item, op.Property), e.put(h, src)
}

// fits tells why a field cannot hold a value; nil when it can.
func (e *editor) fits(f field, value string) error {
	switch f.Type {
	case "number":
		if _, err := strconv.ParseFloat(strings.TrimSpace(value), 64); err != nil {
			return refuse("%q is no number", value)
		}
	case "date":
		if _, err := time.Parse(time.DateOnly, value); err != nil {
			return refuse("%q is no date: write it as 2026-05-30", value)
		}
	case "image":
		a, err := item.ParseAddress(strings.TrimPrefix(value, "/"))
		if _, found := e.over.Find(a); err != nil || a.Kind != item.Media || !found {
			return refuse("there are no media %s", value)
		}
	case "choice":
		if len(f.Choices) > 0 && !slices.Contains(f.Choices, value) {
			return refuse("%q is not one of %s", value, strings.Join(f.Choices, ", "))
		}
	}
	return nil
}

// newRecord makes a record as a copy of another, with a title of its own.
func (e *editor) newRecord(h item.Head, src []byte, op Operation) (string, error) {
	if item.CheckKey(op.Value) != nil {
		return "", refuse("%q cannot be a name: write it as %s/name", op.Value, h.Meta.Type)
	}
	to := item.Address{Kind: item.Record, Key: op.Value}
	if _, taken := e.over.Find(to); taken {
		return "", refuse("there is a %s already", to)
	}
	list, err := markup.Fillings(markup.Parse(src, ""), "data-value", func(name string) (string, bool) {
		return op.Label, name == "title"
	})
	if err != nil {
		return "", err
	}
	var edits []span.Edit
	for _, f := range list {
		edits = append(edits, f.Edit)
	}
	if src, err = span.Apply(src, edits); err != nil {
		return "", err
	}
	h.Address, h.ID, h.Meta.Title, h.Meta.Slug = to, "", op.Label, ""
	return "made " + to.String() + " as a copy of " + op.Item.String(), e.put(h, src)
}
