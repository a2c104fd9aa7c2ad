package desk

import (
	"fmt"

	"compactparcel/core/form"
	"compactparcel/core/item"
	"compactparcel/internal/store"
)

// setForms is the setting that says who gets what is sent.
var setForms = item.Address{Kind: item.Setting, Key: "forms"}

// formOf reads a form of a site; ErrNoForm when it has none that can be read.
func formOf(view *store.View, name string) (*form.Form, error) {
	h, ok := view.Find(item.Address{Kind: item.Form, Key: name})
	if !ok {
		return nil, ErrNoForm
	}
	b, err := item.Read(view, h)
	if err != nil {
		return nil, err
	}
	f, err := form.Parse(b)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrNoForm, err)
	}
	return f, nil
}

// receiversOf reads who gets what is sent with a site's forms.
func receiversOf(view *store.View) (map[string]form.Receiver, error) {
	h, ok := view.Find(setForms)
	if !ok {
		return nil, nil
	}
	b, err := item.Read(view, h)
	if err != nil {
		return nil, err
	}
	return form.Receivers(b)
}
