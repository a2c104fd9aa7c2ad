package kit

import "strings"

// FillinType is what can be filled in. The set is closed.
type FillinType string

// The types of fill-ins.
const (
	FillText     FillinType = "text"
	FillRichText FillinType = "rich-text"
	FillURL      FillinType = "url"
	FillEmail    FillinType = "email"
	FillPhone    FillinType = "phone"
	FillImage    FillinType = "image"
	FillVideo    FillinType = "video"
	FillColour   FillinType = "colour"
	FillNumber   FillinType = "number"
	FillDate     FillinType = "date"
	FillChoice   FillinType = "choice"
	FillList     FillinType = "list"
	FillGroup    FillinType = "group"
	FillItem     FillinType = "item" // an item of the receiving site
)

// FillinTypes lists all types.
var FillinTypes = []FillinType{
	FillText, FillRichText, FillURL, FillEmail, FillPhone, FillImage, FillVideo, FillColour, FillNumber, FillDate,
	FillChoice, FillList, FillGroup, FillItem,
}

// Fillin is a named blank that the receiver fills in.
type Fillin struct {
	Name     string     `json:"name"`
	Label    string     `json:"label"`
	Type     FillinType `json:"type"`
	Sample   string     `json:"sample,omitempty"`
	Required bool       `json:"required"`
	Choices  []string   `json:"choices,omitempty"`
}

// TypeWords names all types, for messages.
func TypeWords() string {
	words := make([]string, len(FillinTypes))
	for i, t := range FillinTypes {
		words[i] = string(t)
	}
	return strings.Join(words, ", ")
}
