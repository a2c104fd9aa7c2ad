package edit

import (
	"slices"
	"strconv"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/render"
)

// part changes the role of a part and where it appears, switches it off, or copies it.
func (e *editor) part(op Operation) (string, error) {
	h, ok := e.over.Find(op.Item)
	if !ok || op.Item.Kind != item.Part {
		return "", refuse("there is no part %s", op.Item)
	}
	name := op.Item.String()
	switch op.Op {
	case PartRole:
		if !slices.Contains(item.RoleNames(), op.Value) {
			return "", refuse("there is no role %q (roles: %s)", op.Value, strings.Join(item.RoleNames(), ", "))
		}
		h.Meta.Role = item.Role(op.Value)
		return "gave " + name + " the role " + op.Value, e.putHead(h)
	case PartWhere:
		where, unless, _ := strings.Cut(" "+op.Value+" ", " except ")
		place := item.Placement{Where: targetsIn(where), Unless: targetsIn(unless)}
		var empty []string
		pages := render.New(e.over)
		for _, t := range append(slices.Clone(place.Where), place.Unless...) {
			target, ok := item.ParseTarget(t)
			if !ok {
				return "", refuse("%q names no pages: write everywhere, home, page:/path/ or under:/path/", t)
			}
			if target.Word != "page" {
				continue
			}
			there, err := shows(pages, target.Path)
			if err != nil {
				return "", err
			}
			if !there {
				empty = append(empty, target.Path)
			}
		}
		h.Meta.Placement = &place
		says := name + " appears on " + strings.Join(place.Where, ", ")
		if len(place.Where) == 0 {
			says = name + " appears nowhere"
		}
		if len(place.Unless) > 0 {
			says += " except on " + strings.Join(place.Unless, ", ")
		}
		if len(empty) > 0 {
			says += "; no page is at " + strings.Join(empty, ", ") + " yet"
		}
		return says, e.putHead(h)
	case PartTrigger:
		t, err := triggerOf(op.Value)
		if err != nil {
			return "", err
		}
		if h.Meta.Role != item.Overlay {
			return "", refuse("%s is no overlay: it stands where its role does", name)
		}
		h.Meta.Trigger = t
		return name + " appears " + t.Description(), e.putHead(h)
	case PartOff:
		if op.Value != "yes" && op.Value != "no" {
			return "", refuse("write yes or no")
		}
		h.Meta.Off = op.Value == "yes"
		return map[bool]string{true: "switched off ", false: "switched on "}[h.Meta.Off] + name, e.putHead(h)
	default:
		if item.CheckKey(op.Value) != nil {
			return "", refuse("%q cannot be a name", op.Value)
		}
		to := item.Address{Kind: item.Part, Key: op.Value}
		if _, taken := e.over.Find(to); taken {
			return "", refuse("there is a %s already", to)
		}
		b, err := item.Read(e.over, h)
		if err != nil {
			return "", err
		}
		h.Address, h.ID = to, ""
		h.Meta.Placement = &item.Placement{Where: []string{}} // two of one claim would stand in each other's way
		return "copied " + name + " to " + to.String() + ", which appears nowhere yet", e.put(h, b)
	}
}

// triggerOf reads what makes an overlay appear: its kind, its figure where it has one, and how often.
func triggerOf(words string) (*item.Trigger, error) {
	var t item.Trigger
	for i, w := range strings.Fields(words) {
		figure, err := strconv.ParseFloat(w, 64)
		switch {
		case i == 0:
			t.On = item.TriggerKind(w)
		case err == nil:
			t.Value = figure
		default:
			t.Repeat = item.Repeat(w)
		}
	}
	if err := t.Check(); err != nil {
		return nil, refuse("%v", err)
	}
	return &t, nil
}

// targetsIn reads the targets of a placement, with blanks or commas between.
func targetsIn(text string) []string {
	list := strings.Fields(text)
	for i := range list {
		list[i] = strings.TrimSuffix(list[i], ",")
	}
	return list
}

// shows tells that visitors find something at an address, a record's page, too.
func shows(pages *render.Renderer, slug string) (bool, error) {
	out, err := pages.Page(render.PageRequest{Slug: slug})
	if render.IsUnshowable(err) {
		return true, nil
	}
	if err != nil {
		return false, err
	}
	return out.Status == 200 || slug == render.NotFoundSlug, nil
}
