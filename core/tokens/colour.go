package tokens

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Colour is sRGB, each part 0 to 1.
type Colour struct{ R, G, B, A float64 }

// ParseColour reads #rgb, #rgba, #rrggbb and #rrggbbaa.
func ParseColour(s string) (Colour, bool) {
	h, ok := strings.CutPrefix(strings.TrimSpace(s), "#")
	if !ok {
		return Colour{}, false
	}
	if len(h) == 3 || len(h) == 4 {
		var b strings.Builder
		for _, c := range h {
			b.WriteRune(c)
			b.WriteRune(c)
		}
		h = b.String()
	}
	if len(h) == 6 {
		h += "ff"
	}
	n, err := strconv.ParseUint(h, 16, 32)
	if err != nil || len(h) != 8 {
		return Colour{}, false
	}
	part := func(shift uint) float64 { return float64(n>>shift&255) / 255 }
	return Colour{part(24), part(16), part(8), part(0)}, true
}

func linear(v float64) float64 {
	if v <= 0.04045 {
		return v / 12.92
	}
	return math.Pow((v+0.055)/1.055, 2.4)
}

// Luminance is the relative luminance of WCAG 2.
func (c Colour) Luminance() float64 {
	return 0.2126*linear(c.R) + 0.7152*linear(c.G) + 0.0722*linear(c.B)
}

// Contrast is the contrast ratio of WCAG 2, from 1 to 21.
func Contrast(a, b Colour) float64 {
	x, y := a.Luminance(), b.Luminance()
	return (math.Max(x, y) + 0.05) / (math.Min(x, y) + 0.05)
}

// OKLab gives lightness and the two colour axes (Björn Ottosson, 2020).
func (c Colour) OKLab() (l, a, b float64) {
	r, g, bl := linear(c.R), linear(c.G), linear(c.B)
	x := math.Cbrt(0.4122214708*r + 0.5363325363*g + 0.0514459929*bl)
	y := math.Cbrt(0.2119034982*r + 0.6806995451*g + 0.1073969566*bl)
	z := math.Cbrt(0.0883024619*r + 0.2817188376*g + 0.6299787005*bl)
	return 0.2104542553*x + 0.7936177850*y - 0.0040720468*z, 1.9779984951*x - 2.4285922050*y + 0.4505937099*z,
		0.0259040371*x + 0.7827717662*y - 0.8086757660*z
}

// Distance is the Euclidean distance in OKLab; about 0.02 is just visible.
func Distance(a, b Colour) float64 {
	l1, a1, b1 := a.OKLab()
	l2, a2, b2 := b.OKLab()
	return math.Sqrt((l1-l2)*(l1-l2) + (a1-a2)*(a1-a2) + (b1-b2)*(b1-b2))
}

// Hex writes an opaque colour as #rrggbb.
func (c Colour) Hex() string {
	part := func(v float64) int { return int(math.Round(math.Min(1, math.Max(0, v)) * 255)) }
	return fmt.Sprintf("#%02x%02x%02x", part(c.R), part(c.G), part(c.B))
}

// Nearest gives the colour that has the contrast with a ground and is closest to a text's, darker or lighter, as
// #rrggbb can say it; false where neither black nor white has it.
func Nearest(text, ground Colour, contrast float64) (Colour, bool) {
	best, found := Colour{}, false
	for _, end := range []Colour{{0, 0, 0, 1}, {1, 1, 1, 1}} {
		for step := range 101 {
			share := float64(step) / 100
			mix := func(a, b float64) float64 { return a + (b-a)*share }
			c, _ := ParseColour(Colour{mix(text.R, end.R), mix(text.G, end.G), mix(text.B, end.B), 1}.Hex())
			if Contrast(c, ground) < contrast {
				continue
			}
			if !found || Distance(text, c) < Distance(text, best) {
				best, found = c, true
			}
			break
		}
	}
	return best, found
}
