package says

import (
	"fmt"
	"strings"
)

// Count writes a number with its noun, which is given for one of them: 1 item, 2 items, 3 entries.
func Count[N int | int64](n N, one string) string {
	switch {
	case n == 1:
		return "1 " + one
	case strings.HasSuffix(one, "y") && !strings.HasSuffix(one, "ay") && !strings.HasSuffix(one, "ey"):
		one = strings.TrimSuffix(one, "y") + "ie"
	}
	return fmt.Sprintf("%d %ss", n, one)
}
