// Package lighten makes pictures lighter for their way in a kit, or puts a labelled
// placeholder of the same size in their place. The same picture and wish give the same
// bytes. JPEG and PNG are made lighter; placeholders are also made of GIF and SVG. WebP and
// AVIF are not written here: they are carried as they are.
package lighten

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"strings"

	_ "golang.org/x/image/webp" // so that WebP is read
)

// MaxPixels is the largest picture that is decoded, in pixels: a bound on memory.
const MaxPixels = 24 << 20

// Size is a picture's width and height in pixels.
type Size struct{ Width, Height int }

func (s Size) String() string { return fmt.Sprintf("%d×%d", s.Width, s.Height) }

// ErrCannot is a picture that is carried as it is: what stands in the way is in the text.
var ErrCannot = errors.New("it is carried as it is")

// SizeOf gives a picture's size without decoding it whole.
func SizeOf(b []byte) (Size, string, error) {
	if s, ok := svgSize(b); ok {
		return s, "svg", nil
	}
	c, format, err := image.DecodeConfig(bytes.NewReader(b))
	if err != nil {
		return Size{}, "", fmt.Errorf("%w: it is not a picture of a type that is read here", ErrCannot)
	}
	return Size{c.Width, c.Height}, format, nil
}

// Scale gives a picture at most width pixels wide, as JPEG of a quality from 1 to 100 or
// as PNG, as it was. A picture that would not get lighter is an ErrCannot.
func Scale(ctx context.Context, b []byte, width, quality int) ([]byte, Size, error) {
	size, format, err := SizeOf(b)
	if err != nil {
		return nil, Size{}, err
	}
	if format != "jpeg" && format != "png" {
		return nil, size, fmt.Errorf("%w: a %s is not rewritten here", ErrCannot, strings.ToUpper(format))
	}
	if size.Width*size.Height > MaxPixels {
		return nil, size, fmt.Errorf("%w: it has too many pixels (%s)", ErrCannot, size)
	}
	img, _, err := image.Decode(bytes.NewReader(b))
	if err != nil {
		return nil, size, fmt.Errorf("%w: it is damaged (%w)", ErrCannot, err)
	}
	if size.Width > width {
		to := Size{width, max(1, size.Height*width/size.Width)}
		if img, err = resample(ctx, img, to.Width, to.Height); err != nil {
			return nil, size, err
		}
		size = to
	}
	var out bytes.Buffer
	if format == "jpeg" {
		err = jpeg.Encode(&out, img, &jpeg.Options{Quality: quality})
	} else {
		err = (&png.Encoder{CompressionLevel: png.BestCompression}).Encode(&out, img)
	}
	if err != nil {
		return nil, size, err
	}
	if out.Len() > len(b)*3/4 { // for less no picture is written anew: each time costs some of it
		return nil, size, fmt.Errorf("%w: it would get lighter by less than a quarter", ErrCannot)
	}
	return out.Bytes(), size, nil
}

// Placeholder gives a plain picture of the same size and format, with a label on it.
func Placeholder(b []byte, label string) ([]byte, Size, error) {
	size, format, err := SizeOf(b)
	if err != nil {
		return nil, size, err
	}
	if format == "svg" {
		return svgPlaceholder(size, label), size, nil
	}
	if size.Width*size.Height > MaxPixels {
		return nil, size, fmt.Errorf("%w: it has too many pixels (%s)", ErrCannot, size)
	}
	img := image.NewPaletted(image.Rect(0, 0, size.Width, size.Height), color.Palette{paper, edge, ink})
	for x := range size.Width {
		for y := range size.Height {
			if x < 2 || y < 2 || x >= size.Width-2 || y >= size.Height-2 {
				img.SetColorIndex(x, y, 1)
			}
		}
	}
	write(img, label, size.String())
	var out bytes.Buffer
	switch format {
	case "jpeg":
		err = jpeg.Encode(&out, img, &jpeg.Options{Quality: 70})
	case "png":
		err = (&png.Encoder{CompressionLevel: png.BestCompression}).Encode(&out, img)
	case "gif":
		err = gif.Encode(&out, img, nil)
	default:
		err = fmt.Errorf("%w: a %s is not written here", ErrCannot, strings.ToUpper(format))
	}
	return out.Bytes(), size, err
}
