package tokens

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
)

// SetValue gives the document with the $value of one token replaced by a JSON text, and
// not one other byte changed. path is the token's, as Token has it.
func SetValue(src []byte, path, value string) ([]byte, error) {
	dec := json.NewDecoder(bytes.NewReader(src))
	if tok, err := dec.Token(); err != nil || tok != json.Delim('{') {
		return nil, fmt.Errorf("not a token document")
	}
	from, to, err := findValue(dec, src, strings.Split(path, "."))
	if err != nil {
		return nil, err
	}
	if from < 0 {
		return nil, fmt.Errorf("there is no token %s with a value of its own", path)
	}
	return append(append(append([]byte{}, src[:from]...), value...), src[to:]...), nil
}

// findValue looks in an object whose brace is read.
func findValue(dec *json.Decoder, src []byte, path []string) (from, to int, err error) {
	for dec.More() {
		key, err := dec.Token()
		if err != nil {
			return -1, 0, err
		}
		start := int(dec.InputOffset())
		if len(path) > 0 && key == path[0] {
			tok, err := dec.Token()
			if err != nil || tok != json.Delim('{') {
				return -1, 0, err
			}
			return findValue(dec, src, path[1:])
		}
		var skipped json.RawMessage
		if err := dec.Decode(&skipped); err != nil {
			return -1, 0, err
		}
		if end := int(dec.InputOffset()); len(path) == 0 && key == "$value" {
			start += bytes.Index(src[start:end], skipped)
			return start, end, nil
		}
	}
	return -1, 0, nil
}

// ValueOf gives the $value of one token as its source has it.
func ValueOf(src []byte, path string) (json.RawMessage, error) {
	dec := json.NewDecoder(bytes.NewReader(src))
	if tok, err := dec.Token(); err != nil || tok != json.Delim('{') {
		return nil, fmt.Errorf("not a token document")
	}
	from, to, err := findValue(dec, src, strings.Split(path, "."))
	if err != nil {
		return nil, err
	}
	if from < 0 {
		return nil, fmt.Errorf("there is no token %s with a value of its own", path)
	}
	return bytes.Clone(src[from:to]), nil
}
