package lighten

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"time"

	"github.com/srwiley/oksvg"
	"github.com/srwiley/rasterx"
)

// maxDrawnSVG bounds an SVG that is drawn, in bytes.
const maxDrawnSVG = 512 << 10

// drawFor is how long one may take to be drawn.
const drawFor = 5 * time.Second

// drawSVG draws an SVG whole into a square with nothing behind it. What the drawing library does not know
// (filters, texts, styles) is ErrCannot: half a picture is worse than none.
//
// The library can be stopped by nothing. So what would take it long is refused before (drawable), and whoever waits
// is answered when the time is over.
func drawSVG(ctx context.Context, b []byte, side int) (img image.Image, err error) {
	if len(b) > maxDrawnSVG {
		return nil, fmt.Errorf("%w: it is too large to be drawn", ErrCannot)
	}
	if err := drawable(b); err != nil {
		return nil, err
	}
	ctx, cancel := context.WithTimeout(ctx, drawFor)
	defer cancel()
	drawn := make(chan struct{})
	var out image.Image
	var failed error
	go func() {
		defer close(drawn)
		out, failed = drawnSVG(b, side)
	}()
	select {
	case <-drawn:
		return out, failed
	case <-ctx.Done():
		return nil, fmt.Errorf("%w: it takes too long to be drawn", ErrCannot)
	}
}

func drawnSVG(b []byte, side int) (img image.Image, err error) {
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
	if !(min(w, h) >= .01) || max(w, h) > 1e5 || max(w, h) > 1e4*min(w, h) {
		return nil, fmt.Errorf("%w: it does not say a size in which it can be drawn", ErrCannot)
	}
	scale := float64(side) / max(w, h)
	icon.SetTarget((float64(side)-w*scale)/2, (float64(side)-h*scale)/2, w*scale, h*scale)
	to := image.NewRGBA(image.Rect(0, 0, side, side))
	icon.Draw(rasterx.NewDasher(side, side, rasterx.NewScannerGV(side, side, to, to.Bounds())), 1)
	return to, nil
}
