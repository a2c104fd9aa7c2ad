package lighten

import (
	"bytes"
	"context"
	"encoding/base64"
	"fmt"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"runtime"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// noisy is a picture that does not compress away.
func noisy(w, h int) image.Image {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	n := uint32(7)
	for i := range img.Pix {
		n = n*1664525 + 1013904223
		img.Pix[i] = byte(n >> 24)
		if i%4 == 3 {
			img.Pix[i] = 255
		}
	}
	return img
}

func formats(t *testing.T, w, h int) map[string][]byte {
	t.Helper()
	out := map[string][]byte{}
	for name, encode := range map[string]func(*bytes.Buffer, image.Image) error{
		"jpeg": func(b *bytes.Buffer, m image.Image) error { return jpeg.Encode(b, m, &jpeg.Options{Quality: 95}) },
		"png":  func(b *bytes.Buffer, m image.Image) error { return png.Encode(b, m) },
		"gif":  func(b *bytes.Buffer, m image.Image) error { return gif.Encode(b, m, nil) },
	} {
		var b bytes.Buffer
		require.NoError(t, encode(&b, noisy(w, h)))
		out[name] = b.Bytes()
	}
	return out
}

func TestAPictureIsScaledAndStaysWhatItIs(t *testing.T) {
	for name, b := range formats(t, 400, 300) {
		small, size, err := Scale(t.Context(), b, 200, 70)
		if name == "gif" {
			assert.ErrorIs(t, err, ErrCannot, name)
			continue
		}
		require.NoError(t, err, name)
		assert.Equal(t, Size{200, 150}, size)
		assert.Less(t, len(small), len(b))
		got, format, err := SizeOf(small)
		require.NoError(t, err)
		assert.Equal(t, name, format)
		assert.Equal(t, size, got)
		again, _, err := Scale(t.Context(), b, 200, 70)
		require.NoError(t, err)
		assert.Equal(t, small, again, "the same wish gives the same bytes")
		_, _, err = Scale(t.Context(), small, 200, 100)
		assert.ErrorIs(t, err, ErrCannot, "what would get heavier stays as it is")
	}
}

func TestAPlaceholderHasTheSizeAndFormatOfItsPicture(t *testing.T) {
	all := formats(t, 300, 200)
	all["svg"] = []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 300 200"><path d="M0 0"/></svg>`)
	for name, b := range all {
		p, size, err := Placeholder(b, "hut <door>.jpg")
		require.NoError(t, err, name)
		assert.Equal(t, Size{300, 200}, size, name)
		got, format, err := SizeOf(p)
		require.NoError(t, err, name)
		assert.Equal(t, name, format)
		assert.Equal(t, size, got, name)
		if name == "svg" {
			assert.Contains(t, string(p), "hut &lt;door&gt;.jpg")
			continue
		}
		assert.Less(t, len(p), len(b), name)
		img, _, err := image.Decode(bytes.NewReader(p))
		require.NoError(t, err)
		dark := 0
		for x := range 300 {
			for y := range 200 {
				if g := color.GrayModel.Convert(img.At(x, y)).(color.Gray); g.Y < 120 {
					dark++
				}
			}
		}
		assert.Greater(t, dark, 60, "%s: the label is on it", name)
	}
	tiny, size, err := Placeholder(formats(t, 6, 4)["png"], "a long label that has no room")
	require.NoError(t, err)
	assert.Equal(t, Size{6, 4}, size)
	assert.NotEmpty(t, tiny)
}

func TestWhatIsNoPictureIsCarried(t *testing.T) {
	for name, b := range map[string][]byte{"text": []byte("hello"), "empty": nil,
		"cut off": formats(t, 50, 50)["png"][:60],
		"a lie about its size": []byte(
			"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x7f\xff\xff\xff\x7f\xff\xff\xff\x08\x02\x00\x00\x00")} {
		t.Run(name, func(t *testing.T) {
			_, _, err := Scale(t.Context(), b, 10, 80)
			assert.ErrorIs(t, err, ErrCannot, name)
		})
	}
	webp, err := base64.StdEncoding.DecodeString("UklGRiQAAABXRUJQVlA4IBgAAAAwAQCdASoBAAEAAwA0JaQAA3AA/vuUAAA=")
	require.NoError(t, err)
	s, format, err := SizeOf(webp)
	require.NoError(t, err)
	assert.Equal(t, "webp 1×1", format+" "+s.String())
	_, _, err = Placeholder(webp, "x")
	assert.ErrorIs(t, err, ErrCannot, "WebP is read and not written")
	for svg, want := range map[string]Size{`<svg width="20px" height="10">`: {20, 10},
		`<svg viewBox="0,0,30,40">`: {30, 40}, `<svg>`: {300, 150}} {
		t.Run(svg, func(t *testing.T) {
			s, _, err := SizeOf([]byte(svg))
			require.NoError(t, err)
			assert.Equal(t, want, s)
		})
	}
}

func TestAPictureIsMadeInSizes(t *testing.T) {
	pictures := formats(t, 900, 600)
	for _, format := range []string{"jpeg", "png"} {
		t.Run(format, func(t *testing.T) {
			list, size, err := Variants(t.Context(), pictures[format], []int{300, 600, 900, 1200})
			require.NoError(t, err, format)
			assert.Equal(t, Size{900, 600}, size)
			require.Len(t, list, 3, "never wider than it is")
			for _, v := range list {
				s, kind, err := SizeOf(v.Bytes)
				require.NoError(t, err)
				assert.Equal(t, "webp", kind)
				assert.Equal(t, Size{v.Width, v.Width * 2 / 3}, s)
			}
			icon, err := Square(t.Context(), pictures[format], 180)
			require.NoError(t, err)
			s, kind, err := SizeOf(icon)
			require.NoError(t, err)
			assert.Equal(t, "png", kind)
			assert.Equal(t, Size{180, 180}, s)
		})
	}
	for _, bad := range [][]byte{[]byte("no picture"),
		[]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="3" height="3"><text>x</text></svg>`),
		pictures["jpeg"][:400]} {
		_, _, err := Variants(t.Context(), bad, []int{300})
		assert.ErrorIs(t, err, ErrCannot)
		_, err = Square(t.Context(), bad, 32)
		assert.ErrorIs(t, err, ErrCannot)
	}
}

func TestAnSVGIsDrawnInASquare(t *testing.T) {
	b, err := Square(t.Context(), []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 20 10">`+
		`<rect width="20" height="10" fill="#00f"/></svg>`), 40)
	require.NoError(t, err)
	img, err := png.Decode(bytes.NewReader(b))
	require.NoError(t, err)
	_, _, _, above := img.At(20, 3).RGBA()
	_, _, blue, solid := img.At(20, 20).RGBA()
	assert.Equal(t, []uint32{0, 0xffff, 0xffff}, []uint32{above, blue, solid},
		"whole, in the middle, nothing behind it")
}

func TestAPictureIsCroppedInItsOwnFormat(t *testing.T) {
	for format, b := range formats(t, 60, 40) {
		out, size, err := Crop(b, image.Rect(10, 5, 50, 90))
		if format == "gif" {
			require.ErrorIs(t, err, ErrNotCropped)
			continue
		}
		require.NoError(t, err, format)
		assert.Equal(t, Size{Width: 40, Height: 35}, size, "what lies beyond is not there")
		read, is, err := SizeOf(out)
		require.NoError(t, err)
		assert.Equal(t, format, is)
		assert.Equal(t, size, read)
		_, _, err = Crop(b, image.Rect(60, 0, 90, 40))
		require.ErrorIs(t, err, ErrNotCropped)
	}
	_, _, err := Crop([]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>`), image.Rect(0, 0, 2, 2))
	require.ErrorIs(t, err, ErrNotCropped)
	_, _, err = Crop([]byte("no picture"), image.Rect(0, 0, 2, 2))
	require.ErrorIs(t, err, ErrCannot)
}

// A picture keeps its looks when it is made smaller: plain areas stay plain to the edge, what is clear stays clear,
// and the middle of a slope is its middle. The same comes out each time.
func TestResampling(t *testing.T) {
	img := image.NewNRGBA(image.Rect(3, 5, 203, 105))
	for x := range 200 {
		for y := range 100 {
			c := color.NRGBA{R: 200, G: uint8(x), A: 255}
			if x >= 100 && y < 50 {
				c = color.NRGBA{R: 9, G: 9, B: 9}
			}
			img.SetNRGBA(x+3, y+5, c)
		}
	}
	for _, w := range []int{20, 50, 150, 400} {
		small, err := resample(t.Context(), img, w, w/2)
		require.NoError(t, err)
		assert.Equal(t, image.Rect(0, 0, w, w/2), small.Rect)
		corner := small.NRGBAAt(0, w/2-1)
		assert.Equal(t, [2]uint8{200, 255}, [2]uint8{corner.R, corner.A}, "%d", w)
		assert.InDelta(t, 50, int(small.NRGBAAt(w/4, w/2-1).G), 5)
		assert.Zero(t, small.NRGBAAt(w-1, 0).A)
		again, err := resample(t.Context(), img, w, w/2)
		require.NoError(t, err)
		assert.Equal(t, small.Pix, again.Pix)
	}
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err := resample(ctx, img, 20, 10)
	assert.ErrorIs(t, err, context.Canceled, "it ends with who asked")
}

// Making sizes of a picture of many pixels takes the memory of the picture, and little beside it.
func TestManyPixelsTakeLittleMemory(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 5010, 5010))
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	_, err := resample(t.Context(), img, 1600, 1600)
	require.NoError(t, err)
	runtime.ReadMemStats(&after)
	assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(170<<20), "all that is ever asked for, given back or not")
}

// An SVG that would be drawn without an end is refused before, and is used as it is.
func TestAnSVGThatNeverEndsIsNotDrawn(t *testing.T) {
	doubled := `<g id="a0"><rect width="9" height="9"/></g>`
	for i := range 30 {
		doubled += fmt.Sprintf(`<g id="a%d"><use href="#a%d"/><use xlink:href="#a%[2]d"/></g>`, i+1, i)
	}
	for name, inner := range map[string]string{
		"doubled":            doubled + `<use href="#a30"/>`,
		"in itself":          `<g id="a"><use href="#a"/></g>`,
		"each in the other":  `<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>`,
		"dashes":             `<path d="M0 0h90" stroke="#000" stroke-dasharray=".0001"/>`,
		"dashes by style":    `<path d="M0 0h90" style="stroke:#000;stroke-dasharray:.0001"/>`,
		"far off":            `<path d="M0 0L1e9 1e9"/>`,
		"many":               strings.Repeat(`<rect width="9" height="9"/>`, 5000),
		"deep":               strings.Repeat(`<g>`, 90),
		"a size of nearly 0": `</svg><svg viewBox="0 0 0.000001 1">`,
	} {
		begin := time.Now()
		_, err := Square(
			t.Context(),
			[]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100">`+inner+`</svg>`),
			512,
		)
		if name != "a size of nearly 0" {
			assert.ErrorIs(t, err, ErrCannot, name)
		}
		assert.Less(t, time.Since(begin), 2*drawFor, name)
	}
}
