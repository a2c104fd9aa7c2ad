package lighten

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
)

// Bounds of an SVG that is drawn. They are held against before anything is: what a <use> shows is counted as often
// as it is shown.
const (
	maxDrawnElements = 4_000
	maxDrawnNumber   = 1e5 // of a coordinate, or a factor
	maxDrawnDepth    = 64
)

// svgNode is an element of an SVG, as far as its cost goes.
type svgNode struct {
	id, shows string // the id that a <use> shows
	children  []*svgNode
}

// drawable tells what stands in the way of drawing an SVG in a bounded time; nil where nothing does.
func drawable(b []byte) error {
	root, byID, err := readSVG(b)
	if err != nil {
		return fmt.Errorf("%w: it cannot be drawn (%w)", ErrCannot, err)
	}
	known, underway := map[*svgNode]float64{}, map[*svgNode]bool{}
	var cost func(n *svgNode) float64
	cost = func(n *svgNode) float64 {
		if c, ok := known[n]; ok {
			return c
		}
		if underway[n] { // it shows itself
			return math.Inf(1)
		}
		underway[n] = true
		c := 1.
		for _, child := range n.children {
			c += cost(child)
		}
		if to := byID[n.shows]; to != nil && n.shows != "" {
			c += cost(to)
		}
		underway[n] = false
		known[n] = c
		return c
	}
	if c := cost(root); c > maxDrawnElements {
		return fmt.Errorf("%w: it is too much to be drawn (%s elements, as often as they are shown)", ErrCannot,
			countOf(c))
	}
	return nil
}

func countOf(c float64) string {
	if math.IsInf(c, 1) {
		return "endlessly many"
	}
	return strconv.FormatFloat(c, 'g', 3, 64)
}

// readSVG reads the elements of an SVG, and refuses what no bound holds for: patterns of dashes, which can be as
// short as one likes, and numbers far off.
func readSVG(b []byte) (root *svgNode, byID map[string]*svgNode, err error) {
	root, byID = &svgNode{}, map[string]*svgNode{}
	d := xml.NewDecoder(bytes.NewReader(b))
	d.Strict = false
	open := []*svgNode{root}
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			return root, byID, nil
		}
		if err != nil {
			return nil, nil, err
		}
		switch x := token.(type) {
		case xml.StartElement:
			n := &svgNode{}
			for _, a := range x.Attr {
				if err := drawableAttribute(a); err != nil {
					return nil, nil, err
				}
				switch a.Name.Local {
				case "id":
					n.id = a.Value
				case "href":
					if x.Name.Local == "use" {
						n.shows = strings.TrimPrefix(strings.TrimSpace(a.Value), "#")
					}
				}
			}
			if n.id != "" && byID[n.id] == nil {
				byID[n.id] = n
			}
			parent := open[len(open)-1]
			parent.children = append(parent.children, n)
			if open = append(open, n); len(open) > maxDrawnDepth {
				return nil, nil, fmt.Errorf("its elements stand %d deep in each other", maxDrawnDepth)
			}
		case xml.EndElement:
			if len(open) > 1 {
				open = open[:len(open)-1]
			}
		}
	}
}

// drawableAttribute holds one attribute against the bounds.
func drawableAttribute(a xml.Attr) error {
	if strings.Contains(a.Name.Local+a.Value, "dasharray") && a.Value != "none" {
		return errors.New("it has dashes")
	}
	isNumber := func(c rune) bool { return c >= '0' && c <= '9' || strings.ContainsRune("+-.eE", c) }
	for _, word := range strings.FieldsFunc(a.Value, func(c rune) bool { return !isNumber(c) }) {
		f, err := strconv.ParseFloat(strings.TrimLeft(word, "eE"), 64)
		if err == nil && math.Abs(f) > maxDrawnNumber {
			return fmt.Errorf("it has a number as large as %s", word)
		}
	}
	return nil
}
