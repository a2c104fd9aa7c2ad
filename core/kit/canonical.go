package kit

import (
	"encoding/json"

	"github.com/gowebpki/jcs"
)

// CanonicalJSON writes v in the form of RFC 8785 (JSON Canonicalization Scheme): members sorted
// by UTF-16 code units, no white space, ECMAScript numbers. Its error is of a value that JSON
// cannot hold.
func CanonicalJSON(v any) ([]byte, error) {
	plain, err := json.Marshal(v)
	if err != nil {
		return nil, err
	}
	return jcs.Transform(plain)
}
