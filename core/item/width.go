package item

import "fmt"

// Width says how wide a page's own content stands. The set is closed.
type Width string

// The widths.
const (
	WidthText Width = "text" // as wide as text reads well
	WidthEdge Width = "edge" // from edge to edge
)

// Widths lists them.
var Widths = []Width{WidthText, WidthEdge}

// Check tells when it is neither of them, nor empty for the site's own.
func (w Width) Check() error {
	switch w {
	case "", WidthText, WidthEdge:
		return nil
	default:
		return fmt.Errorf("there is no width %q; write text or edge", w)
	}
}
