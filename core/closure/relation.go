package closure

import "compactparcel/core/facts"

// Relation says in which way one item leans on another. The set is closed.
type Relation string

// The relations.
const (
	Names         Relation = "names"          // its source names the other's address
	LinksTo       Relation = "links-to"       // it links to a page
	StyledBy      Relation = "styled-by"      // its metadata list the stylesheet
	RecordOf      Relation = "record-of"      // it is a record of the type
	StandsBelow   Relation = "stands-below"   // its address is below the page's
	ShowsMenu     Relation = "shows-menu"     // <cp-menu>
	HoldsSection  Relation = "holds-section"  // <cp-section>
	ShowsForm     Relation = "shows-form"     // <cp-form>
	ListsRecords  Relation = "lists-records"  // <cp-records>
	UsesComponent Relation = "uses-component" // a custom element
	ShowsSetting  Relation = "shows-setting"  // <cp-title>, <cp-logo> and the like
	OpensOverlay  Relation = "opens"          // data-opens
)

// Relations lists all relations.
var Relations = []Relation{
	Names, LinksTo, StyledBy, RecordOf, StandsBelow, ShowsMenu, HoldsSection, ShowsForm, ListsRecords, UsesComponent,
	ShowsSetting, OpensOverlay,
}

// Sentence goes on from the leaning item's name, and calls the other one by a word:
// "uses it in <img src>", "links to /walks/".
func (r Relation) Sentence(other string, where *facts.Where) string {
	switch r {
	case Names:
		if where != nil {
			return "uses " + other + " in " + where.String()
		}
		return "uses " + other
	case LinksTo:
		return "links to " + other
	case StyledBy:
		return "is styled by " + other
	case RecordOf:
		return "is a record of " + other
	case StandsBelow:
		return "stands below " + other
	case ShowsMenu, ShowsForm, ShowsSetting:
		return "shows " + other
	case HoldsSection:
		return "holds " + other
	case ListsRecords:
		return "lists records of " + other
	case UsesComponent:
		return "uses " + other
	case OpensOverlay:
		return "opens " + other
	}
	return string(r)
}

// placeOf is the place of a reference; nil for what metadata name.
func placeOf(r facts.Ref) *facts.Where {
	if r.Where.In == "" {
		return nil
	}
	return &r.Where
}
