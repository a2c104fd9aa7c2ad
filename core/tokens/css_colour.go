package tokens

import (
	"math"
	"strconv"
	"strings"

	"golang.org/x/image/colornames"
)

// ReadColour reads a colour as stylesheets write it (CSS Color 4): hexadecimal, by name, as rgb()
// and hsl() with commas or spaces. ok is false for all else, such as currentColor.
func ReadColour(s string) (c Colour, ok bool) {
	s = strings.ToLower(strings.TrimSpace(s))
	if c, ok := ParseColour(s); ok {
		return c, true
	}
	if s == "transparent" {
		return Colour{}, true
	}
	if n, ok := colornames.Map[s]; ok {
		return Colour{float64(n.R) / 255, float64(n.G) / 255, float64(n.B) / 255, 1}, true
	}
	name, rest, ok := strings.Cut(s, "(")
	args, closed := strings.CutSuffix(rest, ")")
	if !ok || !closed {
		return Colour{}, false
	}
	parts := strings.FieldsFunc(args, func(r rune) bool { return r == ',' || r == ' ' || r == '/' || r == '\n' })
	if len(parts) != 3 && len(parts) != 4 {
		return Colour{}, false
	}
	alpha := 1.0
	if len(parts) == 4 {
		if alpha, ok = share(parts[3], 1); !ok {
			return Colour{}, false
		}
	}
	switch name {
	case "rgb", "rgba":
		var v [3]float64
		for i := range v {
			if v[i], ok = share(parts[i], 255); !ok {
				return Colour{}, false
			}
		}
		return Colour{v[0], v[1], v[2], alpha}, true
	case "hsl", "hsla":
		h, err := strconv.ParseFloat(strings.TrimSuffix(parts[0], "deg"), 64)
		sat, okS := share(parts[1], 100)
		light, okL := share(parts[2], 100)
		if err != nil || !okS || !okL {
			return Colour{}, false
		}
		return fromHSL(h, sat, light, alpha), true
	}
	return Colour{}, false
}

// share reads a number of so many, or a percentage, as a part of 1.
func share(s string, of float64) (float64, bool) {
	p, percent := strings.CutSuffix(s, "%")
	v, err := strconv.ParseFloat(p, 64)
	if percent {
		of = 100
	}
	return math.Max(0, math.Min(1, v/of)), err == nil
}

// fromHSL turns hue (degrees), saturation and lightness into sRGB (CSS Color 4, 7.1).
func fromHSL(hue, sat, light, alpha float64) Colour {
	hue = math.Mod(math.Mod(hue, 360)+360, 360)
	f := func(n float64) float64 {
		k := math.Mod(n+hue/30, 12)
		return light - sat*math.Min(light, 1-light)*math.Max(-1, math.Min(math.Min(k-3, 9-k), 1))
	}
	return Colour{f(0), f(8), f(4), alpha}
}

// Over gives the colour that is seen where one lies over an opaque other.
func (c Colour) Over(ground Colour) Colour {
	mix := func(a, b float64) float64 { return a*c.A + b*(1-c.A) }
	return Colour{mix(c.R, ground.R), mix(c.G, ground.G), mix(c.B, ground.B), 1}
}
