package item

import "fmt"

// Trigger says what makes an overlay appear.
type Trigger struct {
	// On is one of Triggers.
	On string `json:"on"`
	// Value counts seconds, or percent of the page's height.
	Value int `json:"value,omitempty"`
	// Once shows it once per visitor.
	Once bool `json:"once,omitempty"`
}

// Triggers lists the triggers with what they say; %d is the value.
var Triggers = []struct{ On, Says string }{
	{"button", "when a button or link with data-opens is pressed"},
	{"after", "after %d seconds"},
	{"depth", "when %d percent of the page are behind"},
	{"leave", "when the pointer leaves the page at its top"},
}

// TriggerOrDefault gives an overlay's trigger: a button when it names none.
func (m Meta) TriggerOrDefault() Trigger {
	if m.Trigger != nil {
		return *m.Trigger
	}
	return Trigger{On: "button"}
}

// Says tells in words when it appears.
func (t Trigger) Description() string {
	for _, x := range Triggers {
		if x.On == t.On {
			says := x.Says
			if t.On == "after" || t.On == "depth" {
				says = fmt.Sprintf(says, t.Value)
			}
			if t.Once {
				says += ", once per visitor"
			}
			return says
		}
	}
	return "never: the trigger " + t.On + " is not known"
}
