package lighten

import (
	"bytes"
	"fmt"
	"image"

	"github.com/srwiley/oksvg"
	"github.com/srwiley/rasterx"
)

// maxDrawnSVG bounds an SVG that is drawn, in bytes.
const maxDrawnSVG = 512 << 10

// drawSVG draws an SVG whole into a square with nothing behind it. What the drawing library does not know
// (filters, texts, styles) is ErrCannot: half a picture is worse than none.
func drawSVG(b []byte, side int) (img image.Image, err error) {
	if len(b) > maxDrawnSVG {
		return nil, fmt.Errorf("%w: it is too large to be drawn", ErrCannot)
	}
	defer func() {
		if r := recover(); r != nil { // the library ends so on what it cannot read
			img, err = nil, fmt.Errorf("%w: it cannot be drawn (%v)", ErrCannot, r)
		}
	}()
	icon, err := oksvg.ReadIconStream(bytes.NewReader(b), oksvg.StrictErrorMode)
	if err != nil {
		return nil, fmt.Errorf("%w: it cannot be drawn (%w)", ErrCannot, err)
	}
	w, h := icon.ViewBox.W, icon.ViewBox.H
	if size, ok := svgSize(b); ok && (w <= 0 || h <= 0) {
		w, h = float64(size.Width), float64(size.Height)
		icon.ViewBox.W, icon.ViewBox.H = w, h
	}
	if w <= 0 || h <= 0 {
		return nil, fmt.Errorf("%w: it does not say its size", ErrCannot)
	}
	scale := float64(side) / max(w, h)
	icon.SetTarget((float64(side)-w*scale)/2, (float64(side)-h*scale)/2, w*scale, h*scale)
	to := image.NewRGBA(image.Rect(0, 0, side, side))
	icon.Draw(rasterx.NewDasher(side, side, rasterx.NewScannerGV(side, side, to, to.Bounds())), 1)
	return to, nil
}
