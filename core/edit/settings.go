package edit

import (
	"encoding/json"

	"compactparcel/core/item"
)

// set gives a setting a value: JSON, or words that are kept as a text.
func (e *editor) set(op Operation) (string, error) {
	if op.Item.Kind != item.Setting {
		return "", refuse("%s is no setting", op.Item)
	}
	if err := item.CheckKey(op.Item.Key); err != nil {
		return "", refuse("%v", err)
	}
	value := []byte(op.Value)
	if !json.Valid(value) {
		if op.Value[0] == '{' || op.Value[0] == '[' || op.Value[0] == '"' {
			return "", refuse("the value is no JSON")
		}
		var err error
		if value, err = json.Marshal(op.Value); err != nil {
			return "", err
		}
	}
	h, ok := e.over.Find(op.Item)
	if !ok {
		h = item.Head{Address: op.Item}
	}
	return "set " + op.Item.String(), e.put(h, value)
}
