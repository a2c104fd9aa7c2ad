package edit

import (
	"errors"
	"strconv"
	"strings"

	"compactparcel/core/form"
	"compactparcel/core/item"
)

// forms makes forms, and changes what they ask.
func (e *editor) forms(op Operation) (string, error) {
	h, there := e.over.Find(op.Item)
	switch {
	case op.Item.Kind != item.Form:
		return "", refuse("%s is no form", op.Item)
	case op.Op == FormNew:
		return e.newForm(op, there)
	case !there:
		return "", refuse("there is no %s", op.Item)
	}
	src, err := item.Read(e.over, h)
	if err != nil {
		return "", err
	}
	w, err := form.Write(src)
	if err != nil {
		return "", refuse("%s cannot be read: %v", op.Item, err)
	}
	says, err := e.asks(w, op)
	var unfit *form.UnfitError
	if errors.As(err, &unfit) {
		return "", refuse("%s", unfit.Why)
	}
	if err != nil {
		return "", err
	}
	if src, err = w.Text(); err != nil {
		return "", err
	}
	return says + " of " + op.Item.String(), e.put(h, src)
}

// asks changes what a form asks.
func (e *editor) asks(w *form.Writer, op Operation) (string, error) {
	at := 0
	if op.Entry != "" {
		n, err := strconv.Atoi(op.Entry)
		if err != nil || n < 1 {
			return "", refuse("write the place as a number from 1")
		}
		at = n
	}
	switch op.Op {
	case FormField:
		return "wrote the field " + op.Property, w.Field(op.Property, op.Value, op.Label, at)
	case FormMove:
		return "moved the field " + op.Property, w.Move(op.Property, at)
	case FormRemove:
		return "took out the field " + op.Property, w.Remove(op.Property)
	default:
		name, what, of := strings.Cut(op.Property, ".")
		if !of {
			name, what = "", op.Property
		}
		if what == "confirmation" && strings.HasPrefix(op.Value, "/") {
			if err := e.canLead(op.Value); err != nil {
				return "", err
			}
		}
		return "set " + op.Property, w.Set(name, what, op.Value)
	}
}

func (e *editor) newForm(op Operation, taken bool) (string, error) {
	if taken {
		return "", refuse("there is a %s already", op.Item)
	}
	src, err := form.New(op.Value)
	if err != nil {
		return "", err
	}
	return "made " + op.Item.String(), e.put(item.Head{Address: op.Item}, src)
}
