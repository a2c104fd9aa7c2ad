package plan

import (
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/item"
)

// seater is the stage that settles where parts stand.
type seater struct {
	given
	writes []PlannedWrite
	seats  []Seat
}

// settleSeats finds parts that want the place of one of the site's. It gives the writes with the
// parts where they will stand, and with what gives way to them.
func settleSeats(g given, writes []PlannedWrite) ([]Seat, []PlannedWrite, error) {
	m := &seater{given: g, writes: slices.Clone(writes)}
	err := m.all()
	return m.seats, m.writes, err
}

func (m *seater) all() error {
	replaced := map[item.Address]bool{}
	for _, p := range m.writes {
		replaced[p.Head.Address] = true
	}
	for i := range m.writes {
		if err := m.seat(i, replaced); err != nil {
			return err
		}
	}
	taken := map[item.Address][]item.Role{}
	for i := range m.writes {
		if h := m.writes[i].Head; h.Address.Kind == item.Part && !h.Meta.Off && !m.writes[i].KitAddress.IsZero() {
			if err := m.ownSeat(h, taken); err != nil {
				return err
			}
		}
	}
	if err := m.takePlaces(taken, replaced); err != nil {
		return err
	}
	if _, ok := m.ask.Decisions[allSeats]; ok {
		m.used[allSeats] = true
	}
	m.askForSeats()
	return nil
}

// allSeats is the key of a decision about all seats of which nobody decided alone.
var allSeats = Key(AboutSeat, "*")

// askForSeats asks for the places that are open, all in one question.
func (m *seater) askForSeats() {
	var open []Seat
	for _, s := range m.seats {
		if s.Decision == "" {
			open = append(open, s)
		}
	}
	switch len(open) {
	case 0:
	case 1:
		s := open[0]
		m.question(s.Key, AboutSeat, s.says(), s.Choices)
	default:
		var places []string
		narrow := true
		for _, s := range open {
			places = append(places, s.place())
			narrow = narrow && len(s.Choices) > 2
		}
		choices := []Choice{
			{Decision: ForSite, Effect: "the site's parts stay; the kit's come in unplaced"},
			{Decision: ForKit, Effect: "the kit's parts take these places; the site's are left unplaced, not deleted"},
		}
		if narrow {
			choices = append(choices, Choice{Decision: Narrow, Effect: fmt.Sprintf(
				"the kit's parts stand only on the pages they came with (%s); the site's stay on all others",
				joined(m.deliveredPages()))})
		}
		m.question(allSeats, AboutSeat, fmt.Sprintf("%d places are claimed on both sides: %s.", len(open),
			strings.Join(places, "; ")), choices)
	}
}

// seat settles where one part of the delivery stands.
func (m *seater) seat(i int, replaced map[item.Address]bool) error {
	part := m.writes[i].Head
	if part.Address.Kind != item.Part || part.Meta.Off {
		return nil
	}
	place := part.Meta.Place()
	stays := []string{}
	for _, target := range place.Where {
		var other item.Head
		for _, s := range m.site.Parts() {
			if !replaced[s.Address] && s.Meta.Role == part.Meta.Role && !s.Meta.Off &&
				slices.Contains(s.Meta.Place().Where, target) {
				other = s
			}
		}
		if other.Address.IsZero() {
			stays = append(stays, target)
			continue
		}
		m.addPrecondition(other.Address)
		seat, err := m.decideSeat(part, other, target)
		if err != nil {
			return err
		}
		m.seats = append(m.seats, seat)
		switch seat.Decision {
		case ForKit:
			stays = append(stays, target)
			gives := other
			on := slices.DeleteFunc(slices.Clone(other.Meta.Place().Where), func(t string) bool { return t == target })
			gives.Meta.Placement = &item.Placement{Where: append([]string{}, on...), Unless: other.Meta.Place().Unless}
			m.writes = append(m.writes, PlannedWrite{Head: gives})
		case Narrow:
			for _, t := range m.deliveredPages() {
				if !slices.Contains(stays, t) {
					stays = append(stays, t)
				}
			}
		default:
		}
	}
	if !slices.Equal(stays, place.Where) {
		m.writes[i].Head.Meta.Placement = &item.Placement{Where: stays, Unless: place.Unless}
	}
	return nil
}

// deliveredPages lists the pages of the delivery as targets.
func (m *seater) deliveredPages() []string {
	var out []string
	for _, p := range m.writes {
		if p.Head.Address.Kind == item.Page && !p.KitAddress.IsZero() && p.Head.Meta.Slug != "" {
			out = append(out, "page:"+p.Head.Meta.Slug)
		}
	}
	slices.Sort(out)
	return out
}

func (m *seater) decideSeat(part, other item.Head, target string) (Seat, error) {
	seat := Seat{Role: part.Meta.Role, Target: target, Site: other.Address, Kit: part.Address}
	seat.Key = Key(AboutSeat, string(seat.Role), target)
	seat.Choices = []Choice{
		{Decision: ForSite, Effect: fmt.Sprintf("%s stays on %s; the kit's comes in unplaced", other.Address, target)},
		{Decision: ForKit, Effect: fmt.Sprintf("the kit's stands on %s; %s is left unplaced, not deleted", target,
			other.Address)},
	}
	if pages := m.deliveredPages(); len(pages) > 0 {
		seat.Choices = append(
			seat.Choices,
			Choice{
				Decision: Narrow,
				Effect: fmt.Sprintf("the kit's stands only on the pages it came with (%s); %s stays on all others",
					joined(pages), other.Address),
			},
		)
	}
	err := m.settleSeat(&seat)
	return seat, err
}

// settleSeat takes what was decided about a seat, by whatever says so; else it stays open, and
// is asked for with the others.
func (m *seater) settleSeat(seat *Seat) error {
	d, ok := m.decided(seat.Key, about(seat.Site.String(), seat.Kit.String()))
	_, asked := m.ask.Decisions[seat.Key]
	if !asked {
		if all, said := m.ask.Decisions[allSeats]; said {
			d, ok, asked = all, true, true
		}
	}
	if d.Decision == Narrow && seat.Target == ownTarget { // said of all: their own stay
		d.Decision = ForSite
	}
	fits := slices.ContainsFunc(seat.Choices, func(c Choice) bool { return c.Decision == d.Decision })
	switch {
	case ok && !fits && asked:
		return &DecisionError{seat.Key, "choose " + choiceWords(seat.Choices), seat.Choices}
	case ok && fits && asked:
		seat.Decision, seat.DecidedBy = d.Decision, ByPerson
	case m.ask.Seats == SeatsKit:
		seat.Decision, seat.DecidedBy = ForKit, BySeats
	case m.ask.Seats == SeatsSite:
		seat.Decision, seat.DecidedBy = ForSite, BySeats
	case ok && fits:
		seat.Decision, seat.DecidedBy = d.Decision, ByPrior
	case m.ask.Policy.asksNothing():
		seat.Decision, seat.DecidedBy = ForSite, ByPolicy
	default: // asked for with the others
	}
	if seat.DecidedBy == ByPerson {
		m.settled[seat.Key] = Decided{Decision: seat.Decision}
	}
	return nil
}

// says is the question about one seat.
func (s Seat) says() string {
	if s.Target == ownTarget && s.Pages == 1 {
		return fmt.Sprintf("One page of the site has a %s of its own, and the kit brings %s.", s.Role, s.Kit)
	}
	if s.Target == ownTarget {
		return fmt.Sprintf("%d pages of the site have a %s of their own, and the kit brings %s.", s.Pages, s.Role,
			s.Kit)
	}
	return fmt.Sprintf("%s and the kit's %s both claim to be the %s on %s.", s.Site, s.Kit, s.Role, s.Target)
}

// place is the seat in a list.
func (s Seat) place() string {
	if s.Target == ownTarget {
		if s.Pages == 1 {
			return fmt.Sprintf("the %s on one page that has its own (or the kit's %s)", s.Role, s.Kit)
		}
		return fmt.Sprintf("the %s on %d pages that have their own (or the kit's %s)", s.Role, s.Pages, s.Kit)
	}
	return fmt.Sprintf("the %s on %s (%s or the kit's %s)", s.Role, s.Target, s.Site, s.Kit)
}

func choiceWords(list []Choice) string {
	var words []string
	for _, c := range list {
		words = append(words, string(c.Decision))
	}
	return joined(words)
}

func joined(words []string) string { return joinedBy(words, "or") }

func joinedBy(words []string, last string) string {
	out := ""
	for i, w := range words {
		switch {
		case i == 0:
		case i == len(words)-1:
			out += " " + last + " "
		default:
			out += ", "
		}
		out += w
	}
	return out
}
