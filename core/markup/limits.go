package markup

// What is read as a tree. A document beyond one of these is kept whole and opaque: it is
// shown as it is, and only its addresses are found, tag by tag.
const (
	// MaxDepth is the deepest nesting.
	MaxDepth = 500
	// MaxElements is the largest number of tags, start and end counted together.
	MaxElements = 200_000
	// MaxAttributes is the largest number of attributes of one tag.
	MaxAttributes = 1000
)

// tooManyTags counts what may be tags, without reading them: a token takes a hundred
// bytes of memory, and four bytes of source can hold one.
func tooManyTags(src []byte) bool {
	n := 0
	for i := 0; i+1 < len(src); i++ {
		if src[i] == '<' && (isAlnum(src[i+1]) || src[i+1] == '/') {
			if n++; n > MaxElements {
				return true
			}
		}
	}
	return false
}
