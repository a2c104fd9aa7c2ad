package making

import (
	"context"
	"errors"
	"fmt"
	"path"
	"strings"

	"compactparcel/core/capture"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/lighten"
)

// TreatmentKind is a way in which a picture travels. The set is closed.
type TreatmentKind string

// The ways in which a picture travels.
const (
	Carried     TreatmentKind = "carried"
	Lighter     TreatmentKind = "lighter"
	Placeholder TreatmentKind = "placeholder"
)

// TreatmentKinds lists all of them.
var TreatmentKinds = []TreatmentKind{Carried, Lighter, Placeholder}

// Treatment says how a picture travels.
type Treatment struct {
	How TreatmentKind `json:"how"`
	// Width is the most pixels that a lighter picture is wide (1,280 when 0), Quality
	// that of a JPEG from 1 to 100 (80 when 0).
	Width   int `json:"width,omitempty"`
	Quality int `json:"quality,omitempty"`
}

// Check holds a treatment against what there is.
func (t Treatment) Check() error {
	if t.How != Carried && t.How != Lighter && t.How != Placeholder {
		return fmt.Errorf("a picture is carried, lighter or a placeholder, not %q", t.How)
	}
	if t.Width < 0 || t.Width > 20_000 || t.Quality < 0 || t.Quality > 100 {
		return fmt.Errorf("a width is 1 to 20000 pixels, a quality 1 to 100")
	}
	return nil
}

// Picture compares a picture as it is with how it travels.
type Picture struct {
	Address item.Address  `json:"address"`
	How     TreatmentKind `json:"how"`
	Before  int64         `json:"before"`
	After   int64         `json:"after"`
	Was     string        `json:"was"` // its size in pixels
	Is      string        `json:"is"`
}

// treat makes the captured pictures lighter, or puts placeholders in their place.
func (a *assembly) treat(t *capture.Taken) error {
	for _, h := range t.Items.Heads() {
		if h.Address.Kind != item.Media {
			continue
		}
		how, own := a.m.Media[h.Address.String()]
		if !own {
			how = a.m.Media["*"]
		}
		if how.How != Lighter && how.How != Placeholder || !isPicture(h) {
			if own && how.How != Carried {
				a.find(
					kit.Finding{
						Address: h.Address,
						Message: "it is not a picture; it is carried as it is",
						Remedy:  "leave it out, so that it becomes a need",
					},
				)
			}
			continue
		}
		if h.Bytes > 256<<20 {
			a.find(
				kit.Finding{
					Address: h.Address,
					Message: "it is too heavy to be made lighter here; it is carried as it is",
				},
			)
			continue
		}
		made, was, is, err := how.apply(t.Items, h)
		if err != nil && !errors.Is(err, lighten.ErrCannot) {
			return err
		}
		if err != nil {
			if own || how.How == Placeholder {
				a.find(kit.Finding{Address: h.Address, Message: err.Error()})
			}
			continue
		}
		a.out.Pictures = append(a.out.Pictures,
			Picture{h.Address, how.How, h.Bytes, int64(len(made)), was.String(), is.String()})
		if how.How == Placeholder {
			a.out.List.LeavesOut = append(
				a.out.List.LeavesOut,
				kit.LeftOut{
					Address: h.Address.String(),
					Why:     fmt.Sprintf("a placeholder of %s stands in for the picture", is),
				},
			)
		}
		h.NormalizedDigest = item.DigestOf(made)
		t.Items.Put(h, made)
	}
	return nil
}

func isPicture(h item.Head) bool {
	switch strings.ToLower(path.Ext(h.Address.Key)) {
	case ".jpg", ".jpeg", ".png", ".gif", ".webp", ".avif", ".svg":
		return true
	}
	return false
}

// apply makes a picture as it travels. What was made of the same picture before is
// remembered for a while.
func (t Treatment) apply(c item.Collection, h item.Head) (made []byte, was, is lighten.Size, err error) {
	key := memoKey{h.Doc, t, h.Address.Key}
	if m, ok := memo.get(key); ok {
		return m.made, m.was, m.is, m.err
	}
	b, err := item.Read(c, h)
	if err != nil {
		return nil, was, is, err
	}
	if was, _, err = lighten.SizeOf(b); err == nil {
		if t.How == Placeholder {
			made, is, err = lighten.Placeholder(b, path.Base(h.Address.Key))
		} else {
			width, quality := t.Width, t.Quality
			if width == 0 {
				width = 1280
			}
			if quality == 0 {
				quality = 80
			}
			made, is, err = lighten.Scale(context.Background(), b, width, quality)
		}
	}
	memo.put(key, memoed{made, was, is, err})
	return made, was, is, err
}
