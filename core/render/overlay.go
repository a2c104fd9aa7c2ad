package render

import (
	"fmt"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
)

// overlays gives the parts of role overlay that are placed on a spot, by address: a
// page can have several.
func overlays(parts []item.Head, spot PageContext) (heads []item.Head, standings []PartAssignment) {
	for _, h := range parts {
		if h.Meta.Role != item.Overlay {
			continue
		}
		if part, st := AssignPart([]item.Head{h}, item.Overlay, spot); !part.Address.IsZero() {
			t := h.Meta.TriggerOrDefault()
			st.Why += "; appears " + t.Description()
			heads, standings = append(heads, h), append(standings, st)
		}
	}
	return heads, standings
}

// overlay writes one as a dialog that the engine's script opens.
func (s *stage) overlay(h item.Head) (sourcemap.Text, error) {
	text, err := s.part(h, none, nil)
	if err != nil {
		return none, err
	}
	t := h.Meta.TriggerOrDefault()
	attrs := fmt.Sprintf(` data-cp-name="%s" data-cp-trigger="%s" data-cp-value="%g"`,
		markup.EscapeAttr(h.Address.Key), t.On, t.Value)
	if t.Repeat != "" && t.Repeat != item.RepeatAlways {
		attrs += ` data-cp-repeat="` + string(t.Repeat) + `"`
	}
	label := h.Meta.Title
	if label == "" {
		label = strings.ReplaceAll(h.Address.Key, "-", " ")
	}
	return s.rec.Build("overlay", h.Address).Made(fmt.Sprintf(`<dialog class="cp-overlay" aria-label="%s"%s>`+
		`<form method="dialog"><button class="cp-overlay-close" aria-label="Close">×</button></form>`,
		markup.EscapeAttr(label), attrs)).Add(text).Made("</dialog>").Text(), nil
}
