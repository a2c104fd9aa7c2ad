package store

// What the tests hold against the tables.
var (
	ContentColumns = contentColumns
	ContentTexts   = contentTexts
)
