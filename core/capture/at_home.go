package capture

import (
	"slices"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/render"
)

// partsOf gives the parts of the source.
func (w *world) partsOf(src item.Collection) []item.Head {
	if w.parts == nil {
		var out []item.Head
		for _, h := range src.Heads() {
			if h.Address.Kind == item.Part {
				out = append(out, h)
			}
		}
		w.parts = &out
	}
	return *w.parts
}

// atHome says for each role how a page has it on its site: as a landmark of its own, as a
// part that stands there, or not at all.
func atHome(parts []item.Head, page item.Head, f *facts.Facts) map[item.Role]item.AtHome {
	out := map[item.Role]item.AtHome{}
	spot := render.PageContext{Slug: page.Meta.Slug, Home: page.Meta.Slug == "/"}
	for _, r := range item.SurroundRoles {
		switch {
		case slices.Contains(f.Landmarks, r):
			out[r] = item.HadOwn
		case !page.Meta.LeavesOut(r) && stands(parts, r, spot):
			out[r] = item.HadPart
		default:
			out[r] = item.HadNone
		}
	}
	return out
}

func stands(parts []item.Head, r item.Role, spot render.PageContext) bool {
	_, st := render.AssignPart(parts, r, spot)
	return !st.Part.IsZero()
}
