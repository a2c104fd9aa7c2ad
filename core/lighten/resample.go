package lighten

import (
	"context"
	"image"
	"math"

	"golang.org/x/image/draw"
)

// resample gives a picture in another size, by the Catmull-Rom filter (Mitchell and Netravali 1988, B = 0, C = 1/2),
// row by row: beside the picture and the result it holds the rows that one row of the result is made of, and no
// more. It ends with the context.
func resample(ctx context.Context, img image.Image, width, height int) (*image.NRGBA, error) {
	from := img.Bounds()
	to := image.NewNRGBA(image.Rect(0, 0, width, height))
	across, down := taps(from.Dx(), width), taps(from.Dy(), height)
	line := image.NewRGBA(image.Rect(0, 0, from.Dx(), 1)) // a row of the picture, its colours times its alpha
	rows := map[int][]float32{}                           // rows of the picture in the new width
	sum := make([]float32, 4*width)
	for y, t := range down {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		for old := range rows {
			if old < t.first {
				delete(rows, old)
			}
		}
		clear(sum)
		for i, w := range t.weights {
			at := t.first + i
			row, ok := rows[at]
			if !ok {
				draw.Draw(line, line.Rect, img, image.Pt(from.Min.X, from.Min.Y+at), draw.Src)
				row = narrowed(line.Pix, across)
				rows[at] = row
			}
			for x, v := range row {
				sum[x] += w * v
			}
		}
		writeRow(to.Pix[y*to.Stride:], sum)
	}
	return to, nil
}

// tap is what one pixel of the result is made of along one side: pixels of the picture from first on.
type tap struct {
	first   int
	weights []float32
}

// taps gives those of a whole side.
func taps(from, to int) []tap {
	scale := float64(from) / float64(to)
	stretch := max(scale, 1) // the filter is as wide as what becomes one pixel
	out := make([]tap, to)
	for i := range out {
		centre := (float64(i)+.5)*scale - .5
		first := max(0, int(math.Ceil(centre-2*stretch)))
		last := min(from-1, int(math.Floor(centre+2*stretch)))
		weights, sum := make([]float32, last-first+1), 0.
		for k := range weights {
			w := catmullRom((float64(first+k) - centre) / stretch)
			weights[k] = float32(w)
			sum += w
		}
		for k := range weights {
			weights[k] /= float32(sum)
		}
		out[i] = tap{first, weights}
	}
	return out
}

// catmullRom is the filter's kernel.
func catmullRom(t float64) float64 {
	switch t = math.Abs(t); {
	case t < 1:
		return (1.5*t-2.5)*t*t + 1
	case t < 2:
		return ((-.5*t+2.5)*t-4)*t + 2
	}
	return 0
}

// narrowed gives one row in the new width.
func narrowed(pix []uint8, across []tap) []float32 {
	out := make([]float32, 4*len(across))
	for x, t := range across {
		var r, g, b, a float32
		at := 4 * t.first
		for _, w := range t.weights {
			r += w * float32(pix[at])
			g += w * float32(pix[at+1])
			b += w * float32(pix[at+2])
			a += w * float32(pix[at+3])
			at += 4
		}
		out[4*x], out[4*x+1], out[4*x+2], out[4*x+3] = r, g, b, a
	}
	return out
}

// writeRow writes a row with its alpha taken out of its colours again.
func writeRow(pix []uint8, row []float32) {
	for x := 0; x < len(row); x += 4 {
		alpha := min(max(row[x+3], 0), 255)
		for c := range 3 {
			v := float32(0)
			if alpha > 0 {
				v = row[x+c] * 255 / alpha
			}
			pix[x+c] = uint8(min(max(v, 0), 255) + .5)
		}
		pix[x+3] = uint8(alpha + .5)
	}
}
