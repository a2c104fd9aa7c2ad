package tokens

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestOneValueIsSetAndNothingElse(t *testing.T) {
	src := "{ \"color\": {\"$type\": \"color\",\n  \"ink\": {\"$value\":   \"#000000\", \"$description\": " +
		"\"$value\"},\n  \"deep\": {\"ink\": {\"$value\": \"{color.ink}\"}} }, \"gap\": {\"$type\": " +
		"\"dimension\", \"$value\": {\"value\": 1, \"unit\": \"rem\"}} }"
	out, err := SetValue([]byte(src), "color.ink", `"#222222"`)
	require.NoError(t, err)
	assert.Equal(
		t,
		"{ \"color\": {\"$type\": \"color\",\n  \"ink\": {\"$value\":   \"#222222\", \"$description\": "+
			"\"$value\"},\n  \"deep\": {\"ink\": {\"$value\": \"{color.ink}\"}} }, \"gap\": {\"$type\": "+
			"\"dimension\", \"$value\": {\"value\": 1, \"unit\": \"rem\"}} }",
		string(out),
	)
	out, err = SetValue([]byte(src), "color.deep.ink", `"#333333"`)
	require.NoError(t, err)
	assert.Contains(t, string(out), `"deep": {"ink": {"$value": "#333333"}}`)
	out, err = SetValue([]byte(src), "gap", `"2rem"`)
	require.NoError(t, err)
	assert.Contains(t, string(out), `"$value": "2rem"} }`)
	for path, text := range map[string]string{"color.none": src, "color": src, "ink": `[1]`, "a": `{"a": 1}`} {
		_, err := SetValue([]byte(text), path, `""`)
		assert.Error(t, err, path)
	}
}
