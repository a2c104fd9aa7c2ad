package mail

import (
	"mime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a visitor wrote is shown as it was written, also where it looks as if it were encoded.
func TestASubjectIsReadAsItWasWritten(t *testing.T) {
	for _, s := range []string{"=?utf-8?B?U3B5?= wrote", "=?utf-8?Q?=41?=", strings.Repeat("Grüße =?x?= ", 20), "=?"} {
		t.Run(s, func(t *testing.T) {
			encoded := encodedWords(s)
			got, err := (&mime.WordDecoder{}).DecodeHeader(encoded)
			require.NoError(t, err)
			assert.Equal(t, s, got)
			for _, word := range strings.Fields(encoded) {
				assert.LessOrEqual(t, len(word), 75)
			}
		})
	}
	assert.Equal(t, "A bunk for Ida", encodedWords("A bunk for Ida"))
}
