package harness

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Differ shows two pages at each width, from top to bottom, and gives for each
// width the number of pixels in which they differ. Each page is named by an
// address, or by a folder and a path in it, as "/tmp/out#/contact/": folders are
// served for the while. Where there are differences, a picture of them is kept.
func (b *Browser) Differ(name, one, other string, widths ...int64) map[int64]int {
	b.t.Helper()
	one, other = b.address(one), b.address(other)
	out := map[int64]int{}
	for _, w := range widths {
		out[w] = Compare(b.t, fmt.Sprintf("%s-%d", name, w), b.Whole(one, w), b.Whole(other, w))
	}
	return out
}

// address gives where a page can be visited; a folder gets a server of its own.
func (b *Browser) address(page string) string {
	if strings.Contains(page, "://") {
		return page
	}
	dir, path, _ := strings.Cut(page, "#")
	s := httptest.NewServer(http.FileServer(http.Dir(dir)))
	b.t.Cleanup(s.Close)
	return s.URL + "/" + strings.TrimPrefix(path, "/")
}

// Compare gives the number of pixels in which two PNGs differ. When there are any,
// a picture of the differences is kept in test/out and told of.
func Compare(t testing.TB, name string, a, b []byte) int {
	t.Helper()
	if bytes.Equal(a, b) {
		return 0
	}
	x, y := dots(t, a), dots(t, b)
	all := x.Bounds().Union(y.Bounds())
	diff := image.NewRGBA(all)
	n := 0
	for py := all.Min.Y; py < all.Max.Y; py++ {
		for px := all.Min.X; px < all.Max.X; px++ {
			p, one, other := image.Pt(px, py), x.RGBAAt(px, py), y.RGBAAt(px, py)
			if !p.In(x.Rect) || !p.In(y.Rect) || one != other {
				n++
				diff.SetRGBA(px, py, color.RGBA{194, 58, 32, 255})
				continue
			}
			grey := uint8(200 + (int(one.R)+int(one.G)+int(one.B))/3*55/255)
			diff.SetRGBA(px, py, color.RGBA{grey, grey, grey, 255})
		}
	}
	if n == 0 {
		return 0
	}
	p := filepath.Join(Root(t), "test", "out", name+".png")
	require.NoError(t, os.MkdirAll(filepath.Dir(p), 0o755))
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, diff))
	require.NoError(t, os.WriteFile(p, out.Bytes(), 0o644))
	t.Logf("%s: %d pixels differ; see %s", name, n, p)
	return n
}

// dots reads a PNG.
func dots(t testing.TB, b []byte) *image.RGBA {
	t.Helper()
	read, err := png.Decode(bytes.NewReader(b))
	require.NoError(t, err)
	out := image.NewRGBA(read.Bounds())
	draw.Draw(out, out.Rect, read, out.Rect.Min, draw.Src)
	return out
}

// Patch gives the number of pixels of the largest connected patch in which two PNGs of
// one size differ, neighbours at the corners included; differing sizes are one patch.
func Patch(t testing.TB, a, b []byte) int {
	t.Helper()
	x, y := dots(t, a), dots(t, b)
	if x.Bounds() != y.Bounds() {
		return x.Bounds().Dx() * x.Bounds().Dy()
	}
	differ := map[image.Point]bool{}
	for py := x.Bounds().Min.Y; py < x.Bounds().Max.Y; py++ {
		for px := x.Bounds().Min.X; px < x.Bounds().Max.X; px++ {
			if x.RGBAAt(px, py) != y.RGBAAt(px, py) {
				differ[image.Pt(px, py)] = true
			}
		}
	}
	largest := 0
	for p := range differ {
		size, stack := 0, []image.Point{p}
		delete(differ, p)
		for len(stack) > 0 {
			at := stack[len(stack)-1]
			stack = stack[:len(stack)-1]
			size++
			for dy := -1; dy <= 1; dy++ {
				for dx := -1; dx <= 1; dx++ {
					if n := at.Add(image.Pt(dx, dy)); differ[n] {
						delete(differ, n)
						stack = append(stack, n)
					}
				}
			}
		}
		largest = max(largest, size)
	}
	return largest
}
