package says

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestANumberStandsWithItsNoun(t *testing.T) {
	assert.Equal(t, []string{"1 item", "0 items", "2 items", "1 entry", "3 entries", "4 keys", "2 days"},
		[]string{Count(1, "item"), Count(0, "item"), Count(2, "item"), Count(int64(1), "entry"), Count(3, "entry"),
			Count(4, "key"), Count(2, "day")})
}
