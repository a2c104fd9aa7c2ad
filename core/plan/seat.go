package plan

import (
	"fmt"

	"compactparcel/core/item"
)

// seats finds parts that want the place of one of the site's.
func (m *maker) seats() error {
	replaced := map[item.Address]bool{}
	for _, p := range m.puts {
		replaced[p.Head.Address] = true
	}
	for i := range m.puts {
		p := &m.puts[i]
		if p.Head.Address.Kind != item.Part || p.Head.Meta.Off {
			continue
		}
		place := p.Head.Meta.Place()
		var stays []string
		for _, target := range place.On {
			var other item.Head
			for _, s := range m.site.Parts() {
				if replaced[s.Address] || s.Meta.Role != p.Head.Meta.Role || s.Meta.Off {
					continue
				}
				for _, t := range s.Meta.Place().On {
					if t == target {
						other = s
					}
				}
			}
			if other.Address.IsZero() {
				stays = append(stays, target)
				continue
			}
			m.rely(other.Address)
			seat := Seat{Role: p.Head.Meta.Role, Target: target, Site: other.Address, Kit: p.Head.Address}
			key := fmt.Sprintf("seat:%s:%s", seat.Role, target)
			choices := []Choice{{"site", fmt.Sprintf("%s stays on %s; the kit's comes in unplaced", other.Address, target)}, {"kit", fmt.Sprintf("the kit's stands on %s; %s is left unplaced, not deleted", target, other.Address)}}
			if d, ok := m.decided(key, ""); ok {
				if d.Decision != "site" && d.Decision != "kit" {
					return &DecisionError{key, "choose site or kit", choices}
				}
				seat.Decision = string(d.Decision)
			} else if m.ask.PartsMayGiveWay {
				seat.Decision = "kit"
			} else if m.ask.Policy == "unattended" {
				seat.Decision = "site"
			} else {
				m.question(key, "seat", fmt.Sprintf("%s and the kit's %s both want to be the %s on %s.", other.Address, p.Head.Address, seat.Role, target), choices)
			}
			m.plan.Seats = append(m.plan.Seats, seat)
			if seat.Decision == "kit" {
				stays = append(stays, target)
				gives := other
				on := []string{}
				for _, t := range other.Meta.Place().On {
					if t != target {
						on = append(on, t)
					}
				}
				gives.Meta.Placement = &item.Placement{On: on, Except: other.Meta.Place().Except}
				m.puts = append(m.puts, Put{Head: gives})
			}
		}
		if len(stays) != len(place.On) {
			if stays == nil {
				stays = []string{}
			}
			m.puts[i].Head.Meta.Placement = &item.Placement{On: stays, Except: place.Except}
		}
	}
	return nil
}
