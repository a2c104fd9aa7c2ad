package capture

import (
	"regexp"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/item"
)

// className is what can be the name of a class in a script's string. A name behind a
// dot is looked up, not put on, and is none.
var className = regexp.MustCompile(`^-?[A-Za-z_][\w-]*$`)

// switchedBy gives the classes that the scripts among some items can put on elements:
// the bare words of their string literals. Rules for them come along although no
// element has them yet.
func switchedBy(w *world, src item.Collection, c *closure.Result) (map[string]bool, error) {
	out := map[string]bool{}
	for _, e := range c.Items {
		h, ok := src.Find(e.Address)
		if !ok || !h.Address.Kind.IsMarkup() && h.Address.Kind != item.Media {
			continue
		}
		f, err := w.Small.Facts(h)
		if err != nil {
			return nil, err
		}
		for _, m := range f.Mentions {
			for _, word := range strings.Fields(m) {
				if className.MatchString(word) {
					out[word] = true
				}
			}
		}
	}
	return out, nil
}
