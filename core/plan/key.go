package plan

import (
	"strings"
)

// QuestionKind is the sort of thing that a plan asks about and that a decision is about.
// The set is closed.
type QuestionKind string

// The kinds of questions.
const (
	AboutItem      QuestionKind = "item"      // an item of the kit or the site: its key is the address
	AboutConflict  QuestionKind = "conflict"  // one conflict of a blend: ADDRESS, KEY
	AboutFill      QuestionKind = "fill"      // a fill-in: NAME
	AboutClass     QuestionKind = "class"     // a class that both sides define: NAME
	AboutProperty  QuestionKind = "property"  // a custom property that both sides define: --NAME
	AboutAnimation QuestionKind = "animation" // an animation that both sides define: NAME
	AboutFont      QuestionKind = "font"      // a font that both sides define: FAMILY
	AboutID        QuestionKind = "id"        // an id that meets another on a page: NAME
	AboutGroup     QuestionKind = "group"     // a group of the kit's names that clash: the first of them
	AboutSeat      QuestionKind = "seat"      // a place that two parts want: ROLE, TARGET
	AboutSurround  QuestionKind = "surround"  // what stands around a page of the kit: ADDRESS
	AboutNeed      QuestionKind = "need"      // something that the kit needs: NAME
	AboutToken     QuestionKind = "token"     // a token that both sides have: --NAME, or *
	AboutField     QuestionKind = "field"     // a field that the kit shows: TYPE, NAME
	AboutSetting   QuestionKind = "propose"   // a setting that the kit proposes: ADDRESS
	AboutPage      QuestionKind = "page"      // where a new page stands: ADDRESS
)

// QuestionKinds lists all kinds.
var QuestionKinds = []QuestionKind{
	AboutItem, AboutConflict, AboutFill, AboutClass, AboutProperty, AboutAnimation, AboutFont, AboutID, AboutGroup,
	AboutSeat,
	AboutSurround, AboutNeed, AboutToken, AboutField,
	AboutSetting, AboutPage,
}

// Key names what a decision is about: "KIND:NAME", or the bare address of an item. It is
// what people write behind --decide and in answers.
func Key(kind QuestionKind, names ...string) string {
	name := strings.Join(names, ":")
	if kind == AboutItem {
		return name
	}
	return string(kind) + ":" + name
}

// ParseKey takes a key apart; it turns Key round.
func ParseKey(key string) (kind QuestionKind, name string) {
	word, rest, ok := strings.Cut(key, ":")
	for _, k := range QuestionKinds {
		if ok && k != AboutItem && string(k) == word {
			return k, rest
		}
	}
	return AboutItem, key
}
