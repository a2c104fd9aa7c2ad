package faults

import (
	"slices"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// StandIns gives the words that the parts and sections of a collection hold for settings, by their keys, which a site
// that shows them does not have: samples, as those of a blank are.
func StandIns(c World, settings []string) (out []string, err error) {
	if len(settings) == 0 {
		return nil, nil
	}
	for _, h := range c.Heads() {
		if h.Address.Kind != item.Part && h.Address.Kind != item.Section {
			continue
		}
		f, err := c.Facts(h)
		if err != nil {
			return nil, err
		}
		if !slices.ContainsFunc(closure.Uses(c, h, f), func(u closure.Use) bool {
			return u.To.Kind == item.Setting && slices.Contains(settings, u.To.Key)
		}) {
			continue
		}
		b, err := item.Read(c, h)
		if err != nil {
			return nil, err
		}
		for _, n := range markup.Parse(b, h.Meta.Context).All {
			key, ok := strings.CutPrefix(n.Tag, "cp-")
			if ok && slices.Contains(settings, key) {
				out = append(out, strings.Join(strings.Fields(strings.Join(n.Texts(), " ")), " "))
			}
		}
	}
	return out, nil
}
