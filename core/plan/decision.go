package plan

import (
	"fmt"
	"strings"

	"compactparcel/core/blend"
	"compactparcel/core/item"
)

// Decision says what is done with something that a plan asks about. The set is closed;
// which of them fit is said by the choices of each question.
type Decision string

// The decisions about items.
const (
	Take  Decision = "take"
	Keep  Decision = "keep"
	Both  Decision = "both"
	Blend Decision = "blend"
	Join  Decision = "join" // of a menu: its entries come into the site's
	Map   Decision = "map"
	Again Decision = "again"
	Skip  Decision = "skip"
	// Remove takes an item of the site away that the kit no longer holds.
	Remove Decision = "remove"
)

// The decisions about all else.
const (
	ForSite Decision = "site"    // of a conflict or a seat: the site's
	ForKit  Decision = "kit"     // of a conflict or a seat: the kit's
	Narrow  Decision = "narrow"  // of a seat: the kit's, on the pages it came with
	Rename  Decision = "rename"  // of a class or a property: the kit's gets another name
	Apart   Decision = "apart"   // of a group: the kit's names are all renamed
	Share   Decision = "share"   // of a group or a name: both rules hold for both
	Mark    Decision = "mark"    // of a group or a class: all of the kit's elements get a class of their own
	Wear    Decision = "wear"    // of a group: the site's rules hold, the kit's stay out
	Nearest Decision = "nearest" // of a token: the site's nearest in its place
	As      Decision = "as"      // of a field: the site's field of another name
	Accept  Decision = "accept"  // of a need: go on without
	Leave   Decision = "leave"   // of a need or a field: leave out what needs it
	Bring   Decision = "bring"   // of a need: from the shelf
	Raise   Decision = "raise"   // of a need: the site's to a version from the shelf
)

// DecisionInfo is the one declaration of a decision.
type DecisionInfo struct {
	Decision    Decision `json:"decision"`
	Description string   `json:"description"`
}

// Decisions lists all decisions.
var Decisions = []DecisionInfo{
	{Take, "the kit's takes the place"},
	{Keep, "the site's stays, and the kit's pieces use it"},
	{Both, "the kit's comes beside the site's, under another name"},
	{Blend, "both sides' changes are merged"},
	{Join, "the kit's entries that the site's menu has not come behind its own"},
	{Map, "another item of the site is used instead"},
	{Again, "another copy comes in beside an earlier one"},
	{Skip, "nothing is done"},
	{Remove, "the site's is removed, since the kit no longer holds it"},
	{ForSite, "the site's is used"},
	{ForKit, "the kit's is used"},
	{Narrow, "the kit's is used on the pages it came with, the site's everywhere else"},
	{Rename, "the kit's gets a name of its own"},
	{Apart, "the kit's names get names of their own"},
	{Share, "both rules apply to both sides' pieces"},
	{Mark, "the kit's rules apply to the kit's elements only"},
	{Wear, "the kit's pieces wear the site's look"},
	{Nearest, "the site's nearest token is used instead"},
	{As, "another field of the site is used instead"},
	{Accept, "the delivery goes on without it"},
	{Leave, "what needs it is left out"},
	{Bring, "it comes along from the shelf"},
	{Raise, "the site's is updated from the shelf"},
}

// DecidedBy says on whose word something was decided. The set is closed.
type DecidedBy string

// Who decides.
const (
	ByPerson DecidedBy = "person"
	ByPrior  DecidedBy = "prior-delivery" // a person, at the kit's last delivery to this site
	ByPolicy DecidedBy = "policy"
	ByRule   DecidedBy = "rule"  // nobody is asked: it changes nothing for either side
	BySeats  DecidedBy = "seats" // the delivery's option about seats
)

// Deciders lists all of them.
var Deciders = []DecidedBy{ByPerson, ByPrior, ByPolicy, ByRule, BySeats}

// SeatOption says what is done, without asking for each, with places that two parts want.
type SeatOption string

// The options about seats.
const (
	SeatsAsk  SeatOption = "ask"  // ask for each: the default
	SeatsSite SeatOption = "site" // the site's parts stay
	SeatsKit  SeatOption = "kit"  // the kit's parts take them
)

// SeatOptions lists the options, the usual one first.
var SeatOptions = []SeatOption{SeatsAsk, SeatsSite, SeatsKit}

// sideOf is the side that a decision about a conflict names; "" when it names none.
func sideOf(d Decision) blend.Decision {
	switch d {
	case ForSite:
		return blend.ForSite
	case ForKit:
		return blend.ForKit
	default:
		return ""
	}
}

// ParseDecided reads a decision as people write it: take, both, map:menu/main, blend:kit.
func ParseDecided(s string) (Decided, error) {
	word, to, ok := strings.Cut(s, ":")
	d := Decided{Decision: Decision(word)}
	if ok && d.Decision == Blend {
		if d.Side = sideOf(Decision(to)); d.Side == "" {
			return d, fmt.Errorf("%q: all conflicts of a blend are decided for one side by blend:site or blend:kit", s)
		}
		return d, nil
	}
	if ok && d.Decision == As {
		d.Name = to
		return d, item.CheckKey(to)
	}
	if ok {
		if d.Decision != Map {
			return d, fmt.Errorf("%q: only map names an item, as in map:menu/main, and blend a side", s)
		}
		a, err := item.ParseAddress(to)
		if err != nil {
			return d, err
		}
		d.To = a
	}
	return d, nil
}

// String is a decision as people write it.
func (d Decided) String() string {
	switch {
	case !d.To.IsZero():
		return string(d.Decision) + ":" + d.To.String()
	case d.Name != "":
		return string(d.Decision) + ":" + d.Name
	case d.Side != "":
		return string(d.Decision) + ":" + string(d.Side)
	}
	return string(d.Decision)
}
