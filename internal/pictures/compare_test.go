package pictures

import (
	"bytes"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// drawn is a white picture with red boxes.
func drawn(t *testing.T, w, h int, boxes ...image.Rectangle) *bytes.Buffer {
	t.Helper()
	m := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(m, m.Rect, image.White, image.Point{}, draw.Src)
	for _, b := range boxes {
		draw.Draw(m, b, image.NewUniform(color.RGBA{200, 0, 0, 255}), image.Point{}, draw.Src)
	}
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, m))
	return &out
}

func TestDifferencesAreFoundAsAreas(t *testing.T) {
	one, two := image.Rect(40, 40, 60, 50), image.Rect(300, 200, 310, 205)
	d, err := Compare(drawn(t, 390, 400), drawn(t, 390, 400, one, two))
	require.NoError(t, err)
	require.Len(t, d.Areas, 2)
	assert.True(t, one.In(d.Areas[0]) && two.In(d.Areas[1]), "each holds what differs: %v", d.Areas)
	assert.Less(t, d.Areas[0].Dx(), 50, "and little beside")
	assert.InDelta(t, float64(20*10+10*5)/(390*400), d.Share, 1e-9)

	d, err = Compare(drawn(t, 390, 400, one), drawn(t, 390, 400, one))
	require.NoError(t, err)
	assert.Empty(t, d.Areas)
	assert.Zero(t, d.Share)

	d, err = Compare(drawn(t, 390, 400), drawn(t, 390, 640))
	require.NoError(t, err)
	assert.Equal(t, []image.Rectangle{image.Rect(0, 400, 390, 640)}, d.Areas, "what one has more differs")
	low := image.Rect(10, 300, 50, 310)
	d, err = Compare(drawn(t, 390, 400, low),
		drawn(t, 390, 560, image.Rect(10, 100, 90, 140), low.Add(image.Pt(0, 160))))
	require.NoError(t, err)
	require.Len(t, d.Areas, 1, "what only moved down does not count: %v", d.Areas)
	assert.Less(t, d.Areas[0].Max.Y, 300)
	d, err = Compare(drawn(t, 390, 560, image.Rect(10, 100, 90, 140), low.Add(image.Pt(0, 160))),
		drawn(t, 390, 400, low))
	require.NoError(t, err)
	assert.NotEmpty(t, d.Areas, "what is there no more is marked where it was")

	var many []image.Rectangle
	for i := range 200 {
		many = append(many, image.Rect(i%10*38, i/10*38, i%10*38+2, i/10*38+2))
	}
	d, err = Compare(drawn(t, 390, 800), drawn(t, 390, 800, many...))
	require.NoError(t, err)
	assert.Len(t, d.Areas, maxAreas)
	for _, box := range many {
		held := false
		for _, a := range d.Areas {
			held = held || box.In(a)
		}
		assert.True(t, held, box)
	}
	_, err = Compare(bytes.NewReader([]byte("no picture")), drawn(t, 3, 3))
	assert.Error(t, err)
}
