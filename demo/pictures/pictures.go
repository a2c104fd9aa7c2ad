// Package pictures draws the demo's pictures from a seed: layered ridges in dawn
// and snow palettes, a hut among larches, a plan of bunks, a map, a mark. The same
// seed gives the same picture everywhere, so none of them lies in the repository.
package pictures

import (
	"bytes"
	"fmt"
	"image"
	"image/jpeg"
	"math"
	"sort"
	"strings"
	"sync"

	"golang.org/x/image/draw"
)

type rgb struct{ r, g, b float64 }

func hex(s string) rgb {
	var r, g, b int
	fmt.Sscanf(s, "#%02x%02x%02x", &r, &g, &b)
	return rgb{float64(r), float64(g), float64(b)}
}

func mix(a, b rgb, t float64) rgb {
	t = min(max(t, 0), 1)
	return rgb{a.r + (b.r-a.r)*t, a.g + (b.g-a.g)*t, a.b + (b.b-a.b)*t}
}

// noise is a small source of repeatable randomness (an xorshift).
type noise uint64

func (n *noise) next() float64 {
	*n ^= *n << 13
	*n ^= *n >> 7
	*n ^= *n << 17
	return float64(uint64(*n)>>11) / (1 << 53)
}

// canvas is drawn at twice its size and scaled down, which smooths its edges.
type canvas struct {
	*image.RGBA
	w, h float64
}

func newCanvas(w, h int) *canvas {
	return &canvas{image.NewRGBA(image.Rect(0, 0, 2*w, 2*h)), float64(2 * w), float64(2 * h)}
}

// at gives the four bytes of a dot (red, green, blue, opacity), or nil beside the canvas.
func (c *canvas) at(x, y int) []byte {
	if x < 0 || y < 0 || x >= c.Rect.Max.X || y >= c.Rect.Max.Y {
		return nil
	}
	i := y*c.Stride + 4*x
	return c.Pix[i : i+4 : i+4]
}

func (c *canvas) set(x, y int, p rgb) {
	if d := c.at(x, y); d != nil {
		d[0], d[1], d[2], d[3] = uint8(p.r), uint8(p.g), uint8(p.b), 255
	}
}

func (c *canvas) blend(x, y int, p rgb, a float64) {
	if d := c.at(x, y); d != nil {
		c.set(x, y, mix(rgb{float64(d[0]), float64(d[1]), float64(d[2])}, p, a))
	}
}

// sky fills the ground with a gradient through the colours, from the top.
func (c *canvas) sky(stops ...rgb) {
	for y := 0; y < int(c.h); y++ {
		t := float64(y) / c.h * float64(len(stops)-1)
		i := min(int(t), len(stops)-2)
		p := mix(stops[i], stops[i+1], t-float64(i))
		for x := 0; x < int(c.w); x++ {
			c.set(x, y, p)
		}
	}
}

func (c *canvas) glow(cx, cy, radius float64, p rgb, strength float64) {
	r := radius * c.w
	for y := max(int(cy*c.h-r), 0); y < min(int(cy*c.h+r)+2, int(c.h)); y++ {
		for x := max(int(cx*c.w-r), 0); x < min(int(cx*c.w+r)+2, int(c.w)); x++ {
			dx, dy := float64(x)-cx*c.w, float64(y)-cy*c.h
			if d := math.Sqrt(dx*dx+dy*dy) / r; d < 1 {
				c.blend(x, y, p, strength*(1-d)*(1-d))
			}
		}
	}
}

// ridge fills everything below a broken line; it gives the line's height.
func (c *canvas) ridge(n *noise, base, height float64, p, foot rgb, snow *rgb) func(x float64) float64 {
	type wave struct{ f, a, o float64 }
	var waves []wave
	for k := 0; k < 6; k++ {
		f := math.Pow(1.9, float64(k))
		waves = append(waves, wave{f * (1.2 + n.next()), height / math.Pow(1.75, float64(k)), n.next() * 10})
	}
	line := func(x float64) float64 {
		y := base
		for _, w := range waves {
			s := math.Mod(x*w.f+w.o, 1)
			y -= w.a * (1 - math.Abs(2*s-1)) * 0.55 // folded: sharp crests
		}
		return y
	}
	for x := 0; x < int(c.w); x++ {
		top := line(float64(x)/c.w) * c.h
		snowline := 0.0
		if snow != nil {
			snowline = height * 0.35 * (0.55 + 0.45*math.Sin(float64(x)/c.w*90)*math.Sin(float64(x)/c.w*37))
		}
		for y := max(int(top), 0); y < int(c.h); y++ {
			d := (float64(y) - top) / c.h
			q := mix(p, foot, d*2.2)
			if snow != nil && d < snowline {
				q = mix(*snow, q, d/height*1.6)
			}
			c.set(x, y, q)
		}
	}
	return line
}

func (c *canvas) polygon(p rgb, pts ...float64) {
	lo, hi := c.h, 0.0
	for i := 1; i < len(pts); i += 2 {
		lo, hi = min(lo, pts[i]*c.h), max(hi, pts[i]*c.h)
	}
	for y := int(lo); y <= int(hi); y++ {
		var xs []float64
		fy := float64(y) + .5
		for i := 0; i < len(pts); i += 2 {
			j := (i + 2) % len(pts)
			x1, y1, x2, y2 := pts[i]*c.w, pts[i+1]*c.h, pts[j]*c.w, pts[j+1]*c.h
			if (y1 <= fy) != (y2 <= fy) {
				xs = append(xs, x1+(fy-y1)/(y2-y1)*(x2-x1))
			}
		}
		sort.Float64s(xs)
		for i := 0; i+1 < len(xs); i += 2 {
			for x := int(xs[i] + .5); x < int(xs[i+1]+.5); x++ {
				c.set(x, y, p)
			}
		}
	}
}

// larch draws a tree with its foot at x, y.
func (c *canvas) larch(x, y, size float64, p rgb) {
	for i := 0; i < 4; i++ {
		t := float64(i) / 4
		w, top := size*(0.42-0.08*float64(i)), y-size*(0.18+0.55*t)*2
		c.polygon(p, x-w*.5*c.h/c.w*1.1, top+size*.75, x+w*.5*c.h/c.w*1.1, top+size*.75, x, top-size*.1)
	}
	c.polygon(mix(p, hex("#000000"), .3), x-size*.03, y, x+size*.03, y, x+size*.03, y-size*.3, x-size*.03, y-size*.3)
}

// hut draws a hut of a width w with its floor's middle at x, y.
func (c *canvas) hut(x, y, w float64, wall, roof, light rgb) {
	h := w * .5 * c.w / c.h
	c.polygon(wall, x-w/2, y, x+w/2, y, x+w/2, y-h*.62, x-w/2, y-h*.62)
	c.polygon(roof, x-w*.6, y-h*.55, x+w*.6, y-h*.55, x+w*.36, y-h*1.25, x-w*.36, y-h*1.25)
	c.polygon(roof, x+w*.16, y-h*1.2, x+w*.25, y-h*1.2, x+w*.25, y-h*1.5, x+w*.16, y-h*1.5)
	for _, at := range []float64{-.33, -.12, .22} {
		c.polygon(light, x+w*at, y-h*.22, x+w*(at+.11), y-h*.22, x+w*(at+.11), y-h*.46, x+w*at, y-h*.46)
	}
	c.polygon(mix(wall, hex("#000000"), .45), x+w*.05, y, x+w*.15, y, x+w*.15, y-h*.42, x+w*.05, y-h*.42)
}

func (c *canvas) smoke(n *noise, x, y float64, p rgb) {
	for i := 0; i < 26; i++ {
		t := float64(i) / 26
		cx, cy, r := x+.03*math.Sin(t*7)+t*.09+(n.next()-.5)*.01, y-t*.42, .012+t*.05
		for dy := -r; dy <= r; dy += 1 / c.w {
			for dx := -r; dx <= r; dx += 1 / c.w {
				if d := math.Hypot(dx, dy) / r; d < 1 {
					c.blend(int((cx+dx)*c.w), int(cy*c.h+dy*c.w), p, .05*(1-d)*(1-t*.7))
				}
			}
		}
	}
}

func (c *canvas) jpeg() []byte {
	small := image.NewRGBA(image.Rect(0, 0, int(c.w)/2, int(c.h)/2))
	draw.ApproxBiLinear.Scale(small, small.Rect, c.RGBA, c.Rect, draw.Src, nil)
	var b bytes.Buffer
	jpeg.Encode(&b, small, &jpeg.Options{Quality: 84}) // a buffer does not fail
	return b.Bytes()
}

func ridgeDawn() []byte {
	c, n := newCanvas(1600, 900), noise(71)
	c.sky(hex("#41365e"), hex("#8d5a78"), hex("#dd8a72"), hex("#f6c794"), hex("#fbe6c4"))
	c.glow(.68, .62, .42, hex("#fff3cf"), .85)
	snow := hex("#ffe9dd")
	c.ridge(&n, .72, .30, hex("#a3708a"), hex("#d79a8b"), &snow)
	c.ridge(&n, .80, .22, hex("#7a5478"), hex("#b3788a"), nil)
	c.ridge(&n, .87, .16, hex("#563f63"), hex("#7b5876"), nil)
	line := c.ridge(&n, .97, .12, hex("#33284a"), hex("#2b2135"), nil)
	for i := 0; i < 46; i++ {
		x := n.next()
		c.larch(x, line(x)+.02, .035+n.next()*.04, hex("#241c35"))
	}
	c.hut(.79, line(.79)+.012, .055, hex("#2a2038"), hex("#1d1629"), hex("#ffcf7a"))
	return c.jpeg()
}

func hutEvening() []byte {
	c, n := newCanvas(640, 400), noise(19)
	c.sky(hex("#2a2c55"), hex("#5b4a78"), hex("#b3748a"), hex("#e9ad93"))
	snow := hex("#f2d9df")
	c.ridge(&n, .66, .34, hex("#6b5b86"), hex("#8d7394"), &snow)
	c.ridge(&n, .84, .14, hex("#3f3558"), hex("#4b3c60"), nil)
	c.polygon(hex("#2c2440"), 0, .84, 1, .8, 1, 1, 0, 1)
	c.hut(.5, .88, .36, hex("#4a3446"), hex("#241c33"), hex("#ffd27d"))
	for _, x := range []float64{.07, .14, .2, .8, .88, .95} {
		c.larch(x, .92, .13+n.next()*.07, hex("#221b33"))
	}
	return c.jpeg()
}

func valleyPath() []byte {
	c, n := newCanvas(640, 400), noise(5)
	c.sky(hex("#b9d3e4"), hex("#dfe9ec"), hex("#f7efe0"))
	snow := hex("#ffffff")
	c.ridge(&n, .56, .32, hex("#8aa0b4"), hex("#b7c4c9"), &snow)
	c.ridge(&n, .70, .18, hex("#6f8a80"), hex("#93a98f"), nil)
	c.ridge(&n, .84, .14, hex("#557552"), hex("#7d9660"), nil)
	c.polygon(hex("#e6d9b8"), .40, 1, .62, 1, .545, .88, .60, .80, .555, .74, .545, .74, .575, .80, .49, .88)
	for i := 0; i < 26; i++ {
		x, y := n.next(), .80+n.next()*.2
		if math.Abs(x-.53) > .12 {
			c.larch(x, y, .05+(y-.78)*.5, mix(hex("#3c5f43"), hex("#c08a3e"), n.next()*.5))
		}
	}
	return c.jpeg()
}

func stoveSmoke() []byte {
	c, n := newCanvas(640, 400), noise(88)
	c.sky(hex("#7fb0d4"), hex("#c6deea"), hex("#f4f4ec"))
	snow := hex("#ffffff")
	c.ridge(&n, .70, .40, hex("#7d95ae"), hex("#c3d0d8"), &snow)
	c.polygon(hex("#eef3f5"), 0, .80, .5, .74, 1, .82, 1, 1, 0, 1)
	c.hut(.42, .90, .46, hex("#8a5a3c"), hex("#eaf0f3"), hex("#ffe0a0"))
	c.smoke(&n, .515, .40, hex("#ffffff"))
	for _, x := range []float64{.78, .86, .94} {
		c.larch(x, .93, .14+n.next()*.08, hex("#3d5a50"))
	}
	return c.jpeg()
}

func hutDoor() []byte {
	c, n := newCanvas(800, 600), noise(33)
	c.sky(hex("#8c5a3e"), hex("#7a4b34"))
	for i := 0; i < 15; i++ { // boards
		x := float64(i) / 15
		tone := mix(hex("#a26a47"), hex("#6f432e"), n.next())
		c.polygon(tone, x, 0, x+1./15-.003, 0, x+1./15-.003, 1, x, 1)
		for k := 0; k < 5; k++ {
			y := n.next()
			c.polygon(mix(tone, hex("#3b2218"), .25), x+.008, y, x+.05, y+.004, x+.05, y+.007, x+.008, y+.003)
		}
	}
	c.glow(.95, .1, .9, hex("#ffe0a8"), .55)
	c.polygon(hex("#3a2740"), .34, 1, .34, .16, .70, .16, .70, 1)
	c.polygon(hex("#5b3a4f"), .36, 1, .36, .19, .68, .19, .68, 1)
	for i := 0; i < 4; i++ {
		x := .37 + float64(i)*.078
		c.polygon(mix(hex("#7d4f5f"), hex("#643f52"), n.next()), x, .98, x, .21, x+.07, .21, x+.07, .98)
	}
	c.polygon(hex("#f7c978"), .43, .50, .43, .28, .61, .28, .61, .50)
	c.polygon(hex("#5b3a4f"), .515, .50, .515, .28, .525, .28, .525, .50)
	c.polygon(hex("#5b3a4f"), .43, .395, .43, .385, .61, .385, .61, .395)
	c.polygon(hex("#e8d9c0"), .635, .62, .655, .62, .655, .66, .635, .66)
	c.polygon(hex("#2b2135"), .80, .30, .88, .30, .90, .36, .78, .36) // the lantern
	c.polygon(hex("#ffd98a"), .795, .37, .885, .37, .875, .50, .805, .50)
	c.polygon(hex("#2b2135"), .79, .50, .89, .50, .88, .53, .80, .53)
	c.glow(.84, .44, .16, hex("#fff0c0"), .7)
	c.polygon(hex("#9a8f86"), .26, 1, .26, .955, .78, .955, .78, 1)
	return c.jpeg()
}

const mark = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 64 64" role="img"><title>Kestrel ` +
	`Refuge</title><circle cx="32" cy="32" r="30" fill="#b5432f"/><path d="M8 44 24 22l8 10 6-8 18 20z" ` +
	`fill="#fdf8f3"/><path d="m24 22 4.4 5.5L24 31l-4-3.400z" fill="#f6c794"/><path d="M38 15c3-4 8-4 ` +
	`11-1-3-.5-5 .5-6.500 3-1.500-2-3-2.500-4.500-2z" fill="#fdf8f3"/></svg>
`

func bunkPlan() []byte {
	var b strings.Builder
	b.WriteString(
		`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 520 360" font-family="sans-serif" font-size="12" ` +
			`fill="#2b2135"><title>Plan of the upper floor</title><rect x="6" y="6" width="508" height="348" ` +
			`rx="6" fill="#fdf8f3" stroke="#2b2135" stroke-width="3"/><path d="M6 140h330M336 6v134M336 ` +
			`220v134M6 220h508" stroke="#2b2135" stroke-width="3" fill="none"/>`,
	)
	n := 0
	row := func(x, y, count int) {
		for i := 0; i < count; i++ {
			n++
			fmt.Fprintf(
				&b,
				`<rect x="%d" y="%d" width="32" height="48" rx="4" fill="#f4e7de" stroke="#6a5a72"/><rect x="%d" `+
					`y="%d" width="22" height="9" rx="3" fill="#fff" stroke="#6a5a72"/><text x="%d" y="%d" `+
					`text-anchor="middle">%d</text>`,
				x+i*39,
				y,
				x+5+i*39,
				y+5,
				x+16+i*39,
				y+36,
				n,
			)
		}
	}
	row(16, 16, 8)
	row(16, 82, 8)
	row(348, 16, 4)
	row(348, 82, 4)
	row(348, 236, 4)
	row(348, 296, 4)
	row(16, 236, 8)
	b.WriteString(
		`<text x="20" y="186" font-size="15">stairs and the big stove</text><circle cx="250" cy="180" r="22" ` +
			`fill="#b5432f"/><text x="250" y="185" text-anchor="middle" fill="#fff">stove</text></svg>` + "\n",
	)
	return []byte(b.String())
}

const valleyMap = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 520 390" font-family="sans-serif" ` +
	`font-size="13" fill="#2b2135"><title>The valley</title><rect width="520" height="390" fill="#f4e7de"/><g ` +
	`fill="none" stroke="#d9bfb0" stroke-width="1.500"><path d="M0 90c90-60 160 10 250-30s170-50 270-10"/><path ` +
	`d="M0 130c90-60 160 10 250-30s170-50 270-10"/><path d="M0 175c100-55 150 20 250-20s170-60 270-10"/><path ` +
	`d="M0 225c100-45 150 20 250-10s180-50 270 0"/></g><path d="M40 390c40-60 120-70 150-130s110-60 160-120 ` +
	`80-70 170-90" fill="none" stroke="#7fb0d4" stroke-width="5"/><g fill="none" stroke="#b5432f" ` +
	`stroke-width="4" stroke-linecap="round"><path d="M70 350c60-20 60-90 130-110s90-60 110-120" ` +
	`stroke-dasharray="2 9"/><path d="M70 350c100 10 190-60 240-230" /><path d="M70 350c-20-120 60-220 ` +
	`130-260s80 0 110 30" stroke-dasharray="14 8"/></g><circle cx="70" cy="350" r="8"/><text x="86" ` +
	`y="372">Lower Moor, last stop</text><path d="m296 120 14-20 14 20v16h-28z"/><text x="334" y="126" ` +
	`font-weight="bold">the hut</text><text x="168" y="226">gentle</text><text x="262" y="262">short</text><text ` +
	`x="84" y="130">over the ridge</text><text x="392" y="122" fill="#3f7196">stream</text></svg>
`

// All gives every picture by its name in the folder media; they are drawn beside one another.
func All() map[string][]byte {
	out := map[string][]byte{
		"kestrel-mark.svg": []byte(mark),
		"bunk-plan.svg":    bunkPlan(),
		"valley-map.svg":   []byte(valleyMap),
	}
	var mu sync.Mutex
	var drawing sync.WaitGroup
	for name, paint := range map[string]func() []byte{
		"ridge-dawn.jpg":  ridgeDawn,
		"hut-evening.jpg": hutEvening,
		"valley-path.jpg": valleyPath,
		"stove-smoke.jpg": stoveSmoke,
		"hut-door.jpg":    hutDoor,
	} {
		drawing.Go(func() {
			b := paint()
			mu.Lock()
			defer mu.Unlock()
			out[name] = b
		})
	}
	drawing.Wait()
	return out
}
