package facts

// Place is the sort of place in which a document holds a name. The set is closed.
type Place string

// The places.
const (
	InAttribute    Place = "attribute"    // of an element: href of <a>
	InElement      Place = "element"      // the element itself: <cp-menu>
	InValue        Place = "value"        // the text of a <cp-value>
	InStylesheet   Place = "stylesheet"   // a rule or a declaration
	InURL          Place = "url"          // url() of a stylesheet
	InImport       Place = "import"       // @import of a stylesheet
	InSelector     Place = "selector"     // a bare element in a selector
	InToken        Place = "token"        // a design token, by its path
	InMenuEntry    Place = "menu-entry"   // where an entry of a menu leads
	InConfirmation Place = "confirmation" // the page that a form leads to
	InSetting      Place = "setting"      // the value of a setting
	InScript       Place = "script"       // a string literal of a script
	InManifest     Place = "manifest"     // a member of a web app manifest
)

// Places lists all places.
var Places = []Place{
	InAttribute, InElement, InValue, InStylesheet, InURL, InImport, InSelector, InToken, InMenuEntry,
	InConfirmation, InSetting, InScript, InManifest,
}

// Where says what holds a name in a document. Tag is set for InAttribute, InElement and
// InValue, Name for InAttribute (the attribute), InToken (the
// token's path) and InManifest (the member).
type Where struct {
	In   Place  `json:"in"`
	Tag  string `json:"tag,omitempty"`
	Name string `json:"name,omitempty"`
}

// String writes it for people: "<img src>", "a menu entry".
func (w Where) String() string {
	switch w.In {
	case InAttribute:
		return "<" + w.Tag + " " + w.Name + ">"
	case InElement:
		return "<" + w.Tag + ">"
	case InValue:
		return "a value of <" + w.Tag + ">"
	case InStylesheet:
		return "a stylesheet"
	case InURL:
		return "url()"
	case InImport:
		return "@import"
	case InSelector:
		return "a selector"
	case InToken:
		return "token " + w.Name
	case InMenuEntry:
		return "a menu entry"
	case InConfirmation:
		return "the confirmation page"
	case InSetting:
		return "a setting"
	case InScript:
		return "a script"
	case InManifest:
		return w.Name + " of the web manifest"
	}
	return ""
}

// IsAttribute tells that it is one attribute, of an element with one of the tags; of any
// element where no tag is named.
func (w Where) IsAttribute(name string, tags ...string) bool {
	if w.In != InAttribute || w.Name != name {
		return false
	}
	for _, t := range tags {
		if w.Tag == t {
			return true
		}
	}
	return len(tags) == 0
}
