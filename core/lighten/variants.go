package lighten

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"

	"github.com/gen2brain/webp"
	"golang.org/x/image/draw"
)

// Variant is a picture in another size.
type Variant struct {
	Width int
	Bytes []byte // WebP
}

// webpQuality is the quality of variants, from 1 to 100.
const webpQuality = 80

// decode reads a picture that is not too large to be held.
func decode(b []byte) (image.Image, Size, error) {
	size, format, err := SizeOf(b)
	if err != nil {
		return nil, size, err
	}
	if format == "svg" {
		return nil, size, fmt.Errorf("%w: an SVG fits every size", ErrCannot)
	}
	if size.Width*size.Height > MaxPixels {
		return nil, size, fmt.Errorf("%w: it has too many pixels (%s)", ErrCannot, size)
	}
	img, _, err := image.Decode(bytes.NewReader(b))
	if err != nil {
		return nil, size, fmt.Errorf("%w: it is damaged (%w)", ErrCannot, err)
	}
	return img, size, nil
}

// maxVariantPixels is the largest variant that is written, in pixels: the encoder holds several copies of it.
const maxVariantPixels = 8 << 20

// Variants gives a picture as WebP at those widths that are no wider than it is, the narrowest first,
// and its own size. It ends with the context.
func Variants(ctx context.Context, b []byte, widths []int) ([]Variant, Size, error) {
	img, size, err := decode(b)
	if err != nil {
		return nil, size, err
	}
	var out []Variant
	for _, w := range widths {
		if w > size.Width || w < 1 {
			continue
		}
		small, high := img, max(1, size.Height*w/size.Width)
		if w*high > maxVariantPixels {
			return nil, size, fmt.Errorf("%w: at %d px wide it has too many pixels", ErrCannot, w)
		}
		if w < size.Width {
			if small, err = resample(ctx, img, w, high); err != nil {
				return nil, size, err
			}
		}
		if err := ctx.Err(); err != nil {
			return nil, size, err
		}
		var file bytes.Buffer
		if err := webp.Encode(&file, small, webp.Options{Quality: webpQuality, Method: 4}); err != nil {
			return nil, size, fmt.Errorf("writing WebP: %w", err)
		}
		out = append(out, Variant{w, file.Bytes()})
	}
	return out, size, nil
}

// Square gives a picture as PNG in a square, whole, with nothing behind it. It ends with the context.
func Square(ctx context.Context, b []byte, side int) ([]byte, error) {
	if _, svg := svgSize(b); svg {
		img, err := drawSVG(ctx, b, side)
		if err != nil {
			return nil, err
		}
		var out bytes.Buffer
		err = png.Encode(&out, img)
		return out.Bytes(), err
	}
	img, size, err := decode(b)
	if err != nil {
		return nil, err
	}
	w, h := side, side
	if size.Width > size.Height {
		h = max(1, side*size.Height/size.Width)
	} else {
		w = max(1, side*size.Width/size.Height)
	}
	to := image.NewNRGBA(image.Rect(0, 0, side, side))
	at := image.Rect((side-w)/2, (side-h)/2, (side-w)/2+w, (side-h)/2+h)
	small, err := resample(ctx, img, w, h)
	if err != nil {
		return nil, err
	}
	draw.Draw(to, at, small, image.Point{}, draw.Src)
	var out bytes.Buffer
	err = (&png.Encoder{CompressionLevel: png.BestCompression}).Encode(&out, to)
	return out.Bytes(), err
}
