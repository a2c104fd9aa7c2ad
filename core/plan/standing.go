package plan

// Standing says what the two sides of an item look like.
type Standing string

// The standings, as the glossary names them.
const (
	New       Standing = "new"
	Same      Standing = "same"
	Newer     Standing = "newer"
	Edited    Standing = "edited"
	Diverged  Standing = "diverged"
	Taken     Standing = "taken"
	Older     Standing = "older"
	Withdrawn Standing = "withdrawn"
	Removed   Standing = "removed"
)

// StandingInfo is the one declaration of a standing.
type StandingInfo struct {
	Standing    Standing `json:"standing"`
	Description string   `json:"description"`
	// Choices are the decisions it allows; the first is the careful default, or
	// none when it is a question.
	Choices  []Decision `json:"choices"`
	Question bool       `json:"question"`
}

// Standings lists all standings, questions first, as plans are read.
var Standings = []StandingInfo{
	{Taken, "the name belongs to something unrelated on the site", []Decision{Both, Join, Keep, Take, Map, Skip},
		true},
	{Diverged, "changed on the site and in the kit", []Decision{Blend, Keep, Take, Again, Skip}, false},
	{New, "not on the site yet", []Decision{Take, Skip}, false},
	{
		Newer,
		"unchanged on the site since it was delivered, changed in the kit",
		[]Decision{Take, Keep, Again, Skip},
		false,
	},
	{
		Edited,
		"changed on the site since it was delivered, unchanged in the kit",
		[]Decision{Keep, Take, Again, Skip},
		false,
	},
	{Same, "the same on both sides", []Decision{Keep, Again}, false},
	{Older, "the kit is behind what the site has", []Decision{Keep, Take, Again, Skip}, false},
	{Removed, "delivered earlier, deleted on the site since", []Decision{Skip, Take}, false},
	{Withdrawn, "delivered earlier, no longer in the kit", []Decision{Keep, Remove}, false},
}

// Info gives a standing's declaration.
func (s Standing) Info() StandingInfo {
	for _, i := range Standings {
		if i.Standing == s {
			return i
		}
	}
	return StandingInfo{}
}
