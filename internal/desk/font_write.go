package desk

import (
	"context"
	"slices"
	"strings"

	"compactparcel/core/edit"
	"compactparcel/core/font"
	"compactparcel/core/item"
	"compactparcel/internal/store"
)

// withFaces writes rules of faces into a site, and lets a token say their family first.
func (d *Desk) withFaces(
	ctx context.Context, view *store.View, what, family string, rules []string, token string,
) ([]store.Change, error) {
	var ops []edit.Operation
	if token != "" {
		own, err := font.Chosen(view)
		if err != nil {
			return nil, err
		}
		i := slices.IndexFunc(own, func(c font.Choice) bool { return c.Path == token || c.Property == token })
		if i < 0 {
			return nil, problem(BadInput, what, To(CheckOptions), "the site has no font %s (fonts: %s)", token,
				pathsOf(own))
		}
		value, err := font.Before(family, own[i].Value)
		if err != nil {
			return nil, err
		}
		ops = append(ops, edit.Operation{Op: edit.Token, Property: own[i].Path, Value: string(value)})
	}
	return d.fontEdits(ctx, view, rules, ops)
}

func pathsOf(list []font.Choice) string {
	if len(list) == 0 {
		return "none"
	}
	out := make([]string, len(list))
	for i, c := range list {
		out[i] = c.Path
	}
	return strings.Join(out, ", ")
}

// fontEdits writes the rules that a site does not have yet, and does operations.
func (d *Desk) fontEdits(ctx context.Context, view *store.View, rules []string, ops []edit.Operation) ([]store.Change,
	error) {
	var changes []store.Change
	if len(rules) > 0 {
		users, err := usersOfSheets(view)
		if err != nil {
			return nil, err
		}
		h, there, err := font.SheetFor(view, users)
		if err != nil {
			return nil, err
		}
		if !there {
			return nil, problem(Refused, "the fonts", To(CheckOptions),
				"the site has no stylesheet that could define them")
		}
		b, err := item.Read(view, h)
		if err != nil {
			return nil, err
		}
		text := strings.TrimRight(string(b), "\n") + "\n"
		for _, rule := range rules {
			if rule = strings.TrimSpace(rule); !strings.Contains(text, rule) {
				text += rule + "\n"
			}
		}
		if h, err = d.keepOne(ctx, h, []byte(text)); err != nil {
			return nil, err
		}
		changes = append(changes, store.Change{Head: h})
	}
	if len(ops) == 0 {
		return changes, nil
	}
	out := &laidPiece{}
	more, err := d.operated(ctx, view.Laid(changes), out, ops)
	return append(changes, more...), err
}

// usersOfSheets tells how many items load each stylesheet themselves.
func usersOfSheets(view *store.View) (map[item.Address]int, error) {
	var sheets []item.Address
	for _, h := range view.OfKind(item.Stylesheet) {
		sheets = append(sheets, h.Address)
	}
	users, err := view.UsersOf(sheets)
	if err != nil {
		return nil, err
	}
	out := make(map[item.Address]int, len(users))
	for a, list := range users {
		out[a] = len(list)
	}
	return out, nil
}
