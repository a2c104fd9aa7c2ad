package edit

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/look"
	"compactparcel/core/tokens"
)

// looks reads the site's looks; a setting that is none is refused.
func (e *editor) looks() (map[string]look.Look, error) {
	all, err := look.Of(e.over)
	if errors.Is(err, look.ErrBroken) {
		return nil, refuse("%v", err)
	}
	return all, err
}

// look keeps, wears and drops looks, and sets single tokens.
func (e *editor) look(op Operation) (string, error) {
	switch op.Op {
	case Token:
		return e.token(op)
	case OwnLook, PartLook:
		return e.ownLook(op)
	default:
	}
	looks, err := e.looks()
	if err != nil {
		return "", err
	}
	name := strings.TrimSpace(op.Value)
	if op.Op == LookKeep {
		if len(name) > 60 || name == "" {
			return "", refuse("give the look a name of up to 60 characters")
		}
		if looks[name], err = look.Now(e.over); err != nil {
			return "", err
		}
		if err := e.putLooks(looks); err != nil {
			return "", err
		}
		return "kept the look as " + name, e.renewLook(name)
	}
	l, ok := looks[name]
	if !ok {
		return "", refuse("there is no look %q (looks: %s)", name, namesOf(looks))
	}
	if op.Op == LookDrop {
		delete(looks, name)
		return "dropped the look " + name, e.putLooks(looks)
	}
	docs, missing, err := l.Worn(e.over)
	if err != nil {
		return "", err
	}
	addresses := slices.Collect(maps.Keys(docs))
	sort.Slice(addresses, func(i, j int) bool { return addresses[i].Less(addresses[j]) })
	for _, a := range addresses {
		h, _ := e.over.Find(a)
		if err := e.put(h, docs[a]); err != nil {
			return "", err
		}
	}
	says := "the site wears the look " + name
	if len(missing) > 0 {
		says += fmt.Sprintf("; it has no %s any more", strings.Join(missing, ", "))
	}
	return says, nil
}

func namesOf(looks map[string]look.Look) string {
	if len(looks) == 0 {
		return "none"
	}
	return strings.Join(slices.Sorted(maps.Keys(looks)), ", ")
}

// putLooks writes a site's looks, a value to a line, so that two people's looks merge.
func (e *editor) putLooks(looks map[string]look.Look) error {
	b, err := json.MarshalIndent(looks, "", "  ")
	if err != nil {
		return err
	}
	h, ok := e.over.Find(look.Setting)
	if !ok {
		h = item.Head{Address: look.Setting}
	}
	return e.put(h, append(b, '\n'))
}

// token gives a token another value: JSON, or words that are kept as a text.
func (e *editor) token(op Operation) (string, error) {
	value := op.Value
	if !json.Valid([]byte(value)) {
		b, err := json.Marshal(value)
		if err != nil {
			return "", err
		}
		value = string(b)
	}
	for _, h := range e.over.OfKind(item.Tokens) {
		b, err := item.Read(e.over, h)
		if err != nil {
			return "", err
		}
		set, err := tokens.Parse(b)
		if err != nil {
			continue // the check of the site tells it
		}
		for _, t := range set.List {
			if t.Path != op.Property && t.Property() != op.Property {
				continue
			}
			if b, err = tokens.SetValue(b, t.Path, value); err != nil {
				return "", refuse("%v", err)
			}
			return fmt.Sprintf("set %s of %s", t.Path, h.Address), e.put(h, b)
		}
	}
	return "", refuse("the site has no token %s", op.Property)
}
