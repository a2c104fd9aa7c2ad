package capture

import (
	"maps"

	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// switchedBy gives the classes of the stylesheets among some items that the scripts among them can put on elements:
// bare words of their literals, and names that they put together. Rules for them come along although no element has
// them yet. scripted tells whether there is a script at all.
func switchedBy(w *world, src item.Collection, c *closure.Result) (out map[string]bool, scripted bool, err error) {
	var scripts []*facts.Facts
	names := map[string]bool{}
	for _, e := range c.Items {
		h, ok := src.Find(e.Address)
		if !ok {
			continue
		}
		f, err := w.Small.Facts(h)
		if err != nil {
			return nil, false, err
		}
		if h.Address.Kind == item.Stylesheet {
			for _, r := range f.Refs {
				if r.Space == facts.Class {
					names[r.Name] = true
				}
			}
			continue
		}
		scripted = scripted || len(f.Scripts) > 0 || h.Address.Kind == item.Component
		scripts = append(scripts, f)
	}
	out = map[string]bool{}
	for _, f := range scripts {
		maps.Copy(out, f.MayPutOn(names))
	}
	return out, scripted, nil
}
