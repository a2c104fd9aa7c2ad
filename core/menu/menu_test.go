package menu

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEntriesAreJoinedOneByOne(t *testing.T) {
	own, err := Parse([]byte(`{"title":"Main","entries":[{"label":"Hut","to":"/","entries":[{"label":"Rooms",` +
		`"to":"/rooms/"}]}]}`))
	require.NoError(t, err)
	other, err := Parse([]byte(`{"entries":[{"label":"Home","to":"/"},{"label":"Beds","to":"/rooms/"},` +
		`{"label":"Ask \"us\"",` +
		`"to":"/contact/","entries":[{"label":"Map","to":"/map/"}]}]}`))
	require.NoError(t, err)
	assert.Equal(t, 1, own.Join(other), "what leads where one leads already stays out, at whatever depth")
	text, err := own.Text()
	require.NoError(t, err)
	again, err := Parse(text)
	require.NoError(t, err)
	assert.Equal(t, own, again)
	require.Len(t, again.Entries, 2)
	assert.Equal(t, `Ask "us"`, again.Entries[1].Label)
	assert.Equal(t, "/map/", again.Entries[1].Entries[0].To)
	assert.Equal(t, 0, own.Join(other))
	_, err = Parse([]byte(`{"entries":[],"more":1}`))
	assert.Error(t, err)
}
