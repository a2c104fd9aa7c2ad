package pictures

import (
	"bytes"
	"fmt"
	"image"
	"image/draw"
	"image/png"
	"io"
	"slices"

	"github.com/gen2brain/webp"
	scale "golang.org/x/image/draw"
)

// Difference is where two pictures of one width differ.
type Difference struct {
	// Share is how much of the larger picture differs, from 0 to 1.
	Share float64
	// Areas are the differing areas in px, from above to below.
	Areas []image.Rectangle
}

const (
	tile     = 16 // px: areas are made of tiles
	maxAreas = 60
	// maxDecoded bounds a picture that is read, in px.
	maxDecoded = 1280 * maxHeight * 2
)

// Compare finds where two pictures differ, pixel for pixel. Where one is higher, what is the same above and below
// stays out of it, so that what only moved down does not count; areas are those of the second picture then.
func Compare(a, b io.Reader) (Difference, error) {
	one, err := read(a)
	if err != nil {
		return Difference{}, err
	}
	two, err := read(b)
	if err != nil {
		return Difference{}, err
	}
	w, h := max(one.Rect.Dx(), two.Rect.Dx()), max(one.Rect.Dy(), two.Rect.Dy())
	cols, rows := (w+tile-1)/tile, (h+tile-1)/tile
	marks := make([]bool, cols*rows)
	differ := 0
	top, bottom := same(one, two)
	restA, restB := one.Rect.Dy()-top-bottom, two.Rect.Dy()-top-bottom
	for y := range max(restA, restB) {
		var lineA, lineB []byte
		if y < restA {
			lineA = line(one, top+y)
		}
		if y < restB {
			lineB = line(two, top+y)
		}
		if bytes.Equal(lineA, lineB) {
			continue
		}
		at := top + y // what is there no more is marked where it was
		if y >= restB {
			at = min(top+max(restB-1, 0), h-1)
		}
		for x := range w {
			if !bytes.Equal(pixel(lineA, x), pixel(lineB, x)) {
				differ++
				marks[at/tile*cols+x/tile] = true
			}
		}
	}
	out := Difference{Areas: areas(marks, cols, rows, image.Rect(0, 0, w, h))}
	if w*h > 0 {
		out.Share = float64(differ) / float64(w*h)
	}
	return out, nil
}

// same gives how many lines two pictures of unlike height share at their top and at their bottom.
func same(one, two *image.RGBA) (top, bottom int) {
	a, b := one.Rect.Dy(), two.Rect.Dy()
	if a == b || one.Rect.Dx() != two.Rect.Dx() {
		return 0, 0
	}
	least := min(a, b)
	for top < least && bytes.Equal(line(one, top), line(two, top)) {
		top++
	}
	for top+bottom < least && bytes.Equal(line(one, a-1-bottom), line(two, b-1-bottom)) {
		bottom++
	}
	return top, bottom
}

// read decodes a picture that was made here.
func read(r io.Reader) (*image.RGBA, error) {
	b, err := io.ReadAll(r)
	if err != nil {
		return nil, err
	}
	c, err := png.DecodeConfig(bytes.NewReader(b))
	if err != nil {
		return nil, err
	}
	if c.Width*c.Height > maxDecoded {
		return nil, fmt.Errorf("a picture of %d × %d px is too large", c.Width, c.Height)
	}
	img, err := png.Decode(bytes.NewReader(b))
	if err != nil {
		return nil, err
	}
	if x, ok := img.(*image.RGBA); ok {
		return x, nil
	}
	to := image.NewRGBA(image.Rect(0, 0, c.Width, c.Height))
	draw.Draw(to, to.Rect, img, img.Bounds().Min, draw.Src)
	return to, nil
}

func line(m *image.RGBA, y int) []byte {
	if y >= m.Rect.Dy() {
		return nil
	}
	return m.Pix[y*m.Stride : y*m.Stride+m.Rect.Dx()*4]
}

func pixel(line []byte, x int) []byte {
	if x*4+4 > len(line) {
		return nil
	}
	return line[x*4 : x*4+4]
}

// areas joins marked tiles that touch into rectangles.
func areas(marks []bool, cols, rows int, within image.Rectangle) []image.Rectangle {
	var out []image.Rectangle
	for i := range marks {
		if !marks[i] {
			continue
		}
		box := image.Rect(i%cols, i/cols, i%cols+1, i/cols+1)
		marks[i] = false
		for todo := []int{i}; len(todo) > 0; {
			at := todo[len(todo)-1]
			todo = todo[:len(todo)-1]
			x, y := at%cols, at/cols
			box = box.Union(image.Rect(x, y, x+1, y+1))
			for dy := -1; dy <= 1; dy++ {
				for dx := -1; dx <= 1; dx++ {
					if n := (y+dy)*cols + x + dx; x+dx >= 0 && x+dx < cols && y+dy >= 0 && y+dy < rows && marks[n] {
						marks[n] = false
						todo = append(todo, n)
					}
				}
			}
		}
		out = append(out, image.Rect(box.Min.X*tile, box.Min.Y*tile, box.Max.X*tile, box.Max.Y*tile).Intersect(within))
	}
	slices.SortFunc(out, func(a, b image.Rectangle) int { return a.Min.Y - b.Min.Y })
	if len(out) > maxAreas { // too many to look at: the last are one
		rest := image.Rectangle{}
		for _, r := range out[maxAreas-1:] {
			rest = rest.Union(r)
		}
		out = append(out[:maxAreas-1], rest)
	}
	return out
}

// What lists show: the top of a page.
const (
	smallWidth  = 480
	smallHeight = 360
	webpQuality = 82
)

// small gives the top of a picture as WebP, as lists show it.
func small(b []byte) ([]byte, error) {
	img, err := read(bytes.NewReader(b))
	if err != nil {
		return nil, err
	}
	from := image.Rect(0, 0, img.Rect.Dx(), min(img.Rect.Dy(), img.Rect.Dx()*smallHeight/smallWidth))
	to := image.NewRGBA(image.Rect(0, 0, smallWidth, max(1, from.Dy()*smallWidth/from.Dx())))
	scale.ApproxBiLinear.Scale(to, to.Rect, img, from, scale.Src, nil)
	var out bytes.Buffer
	if err := webp.Encode(&out, to, webp.Options{Quality: webpQuality, Method: 4}); err != nil {
		return nil, fmt.Errorf("writing WebP: %w", err)
	}
	return out.Bytes(), nil
}
