package lighten

import (
	"image"
	"image/color"

	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"
)

var (
	paper = color.NRGBA{0xee, 0xeb, 0xe4, 0xff}
	edge  = color.NRGBA{0xb9, 0xb4, 0xa8, 0xff}
	ink   = color.NRGBA{0x4a, 0x48, 0x44, 0xff}
)

var regular = func() *opentype.Font {
	f, err := opentype.Parse(goregular.TTF)
	if err != nil {
		panic(err) // it comes with the module
	}
	return f
}()

// write puts lines into the middle of a picture, as large as its width allows; a
// picture that is too small for words stays plain.
func write(img canvas, lines ...string) {
	b := img.Bounds()
	for size := min(28.0, float64(b.Dy())/5); size >= 7; size-- {
		face, err := opentype.NewFace(regular, &opentype.FaceOptions{Size: size, DPI: 72, Hinting: font.HintingFull})
		if err != nil {
			return
		}
		wide := fixed.Int26_6(0)
		for _, l := range lines {
			wide = max(wide, font.MeasureString(face, l))
		}
		if wide.Ceil() > b.Dx()*9/10 && size > 8 {
			continue
		}
		if wide.Ceil() > b.Dx() {
			return
		}
		height := face.Metrics().Height.Ceil()
		y := b.Dy()/2 - height*len(lines)/2 + face.Metrics().Ascent.Ceil()
		for _, l := range lines {
			d := font.Drawer{
				Dst:  img,
				Src:  image.NewUniform(ink),
				Face: face,
				Dot:  fixed.P((b.Dx()-font.MeasureString(face, l).Ceil())/2, y),
			}
			d.DrawString(l)
			y += height
		}
		return
	}
}

// canvas is a picture that can be drawn on.
type canvas interface {
	image.Image
	Set(x, y int, c color.Color)
}
