package lighten

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/draw"
	"image/jpeg"
	"image/png"
	"strings"

	"github.com/gen2brain/webp"
)

// cropQuality is that of a JPEG that is written anew: what is seen of it must not suffer.
const cropQuality = 92

// ErrNotCropped tells that nothing can be cropped there.
var ErrNotCropped = errors.New("it cannot be cropped")

// Crop gives what of a picture lies in an area, in its own format; the area is in px from its upper left corner,
// and is cut to the picture. Its error is ErrNotCropped where its format is not, or
// nothing lies there, and ErrCannot where the picture cannot be read.
func Crop(b []byte, area image.Rectangle) ([]byte, Size, error) {
	size, format, err := SizeOf(b)
	if err != nil {
		return nil, size, err
	}
	if format == "svg" || format == "gif" {
		return nil, size, fmt.Errorf("%w: it is an %s, and is cropped where it was made", ErrNotCropped,
			strings.ToUpper(format))
	}
	img, size, err := decode(b)
	if err != nil {
		return nil, size, err
	}
	area = area.Add(img.Bounds().Min).Intersect(img.Bounds())
	if area.Empty() {
		return nil, size, fmt.Errorf("%w: nothing of it lies there (it has %s px)", ErrNotCropped, size)
	}
	to := image.NewNRGBA(image.Rect(0, 0, area.Dx(), area.Dy()))
	draw.Draw(to, to.Rect, img, area.Min, draw.Src)
	var out bytes.Buffer
	switch format {
	case "jpeg":
		err = jpeg.Encode(&out, to, &jpeg.Options{Quality: cropQuality})
	case "webp":
		err = webp.Encode(&out, to, webp.Options{Quality: cropQuality, Method: 4})
	default:
		err = (&png.Encoder{CompressionLevel: png.BestCompression}).Encode(&out, to)
	}
	if err != nil {
		return nil, size, fmt.Errorf("writing the picture: %w", err)
	}
	return out.Bytes(), Size{area.Dx(), area.Dy()}, nil
}
