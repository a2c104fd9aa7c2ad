package item

import (
	"fmt"
	"strconv"
)

// TriggerKind is what makes an overlay appear. The set is closed.
type TriggerKind string

// The triggers.
const (
	OnClick      TriggerKind = "click"       // of a button or link with data-opens
	OnDelay      TriggerKind = "delay"       // after some seconds
	OnScroll     TriggerKind = "scroll"      // when a share of the page has been scrolled
	OnPointerOut TriggerKind = "pointer-out" // when the pointer leaves the page at its top
)

// TriggerKinds lists the triggers, the usual one first.
var TriggerKinds = []TriggerKind{OnClick, OnDelay, OnScroll, OnPointerOut}

// Repeat says how often an overlay appears to one visitor. The set is closed.
type Repeat string

// The repeats.
const (
	RepeatAlways  Repeat = "always"  // on every page view: the default
	RepeatSession Repeat = "session" // once per session of the browser
	RepeatNever   Repeat = "never"   // once, and not again
)

// Repeats lists them, the usual one first.
var Repeats = []Repeat{RepeatAlways, RepeatSession, RepeatNever}

// Trigger says what makes an overlay appear.
type Trigger struct {
	On TriggerKind `json:"on"`
	// Value counts seconds, of delay, or is a share of the page from 0 to 1, of scroll.
	Value float64 `json:"value,omitempty"`
	// Repeat is empty for always.
	Repeat Repeat `json:"repeat,omitempty"`
}

// TriggerOrDefault gives an overlay's trigger: a click when it names none.
func (m Meta) TriggerOrDefault() Trigger {
	if m.Trigger != nil {
		return *m.Trigger
	}
	return Trigger{On: OnClick}
}

// Check tells what is wrong with a trigger.
func (t Trigger) Check() error {
	switch t.On {
	case OnClick, OnPointerOut:
	case OnDelay:
		if t.Value < 0 {
			return fmt.Errorf("the trigger delay has %g seconds; write 0 or more", t.Value)
		}
	case OnScroll:
		if t.Value < 0 || t.Value > 1 {
			return fmt.Errorf("the trigger scroll has %g; write a share of the page from 0 to 1", t.Value)
		}
	default:
		return fmt.Errorf("there is no trigger %q; write click, delay, scroll or pointer-out", t.On)
	}
	switch t.Repeat {
	case "", RepeatAlways, RepeatSession, RepeatNever:
		return nil
	default:
		return fmt.Errorf("a trigger cannot repeat %q; write always, session or never", t.Repeat)
	}
}

// Description tells in words when it appears.
func (t Trigger) Description() string {
	var text string
	switch t.On {
	case OnClick:
		text = "when a button or link with data-opens is pressed"
	case OnDelay:
		if text = fmt.Sprintf("after %s seconds", strconv.FormatFloat(t.Value, 'f', -1, 64)); t.Value == 1 {
			text = "after a second"
		}
	case OnScroll:
		text = fmt.Sprintf("when %.0f percent of the page has been scrolled", t.Value*100)
	case OnPointerOut:
		text = "when the pointer leaves the page at its top"
	default:
		return "never: the trigger " + string(t.On) + " is not known"
	}
	switch t.Repeat {
	case RepeatSession:
		text += ", once per session"
	case RepeatNever:
		text += ", once per visitor"
	case "", RepeatAlways:
	}
	return text
}
