package demo

import (
	"crypto/sha256"
	"fmt"
	"io"
	"testing"

	"compactparcel/core/capture"
	"compactparcel/core/closure"
	"compactparcel/core/faults"
	"compactparcel/core/folder"
	"compactparcel/core/font"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/look"
	"compactparcel/core/making"
	"compactparcel/core/pieces"
	"compactparcel/core/repeat"
	"compactparcel/core/views"
	"compactparcel/test/failing"

	"github.com/stretchr/testify/require"
)

// siteSet reads a site of the demo into memory.
func siteSet(t *testing.T, name string) *item.Set {
	f, err := Folder(name)
	require.NoError(t, err)
	set, _, err := folder.Read(f)
	require.NoError(t, err)
	return set
}

// No computation of the core takes a failed read for something that is not there.
func TestNothingIsPublishedCapturedOrPackedWithoutWhatCouldNotBeRead(t *testing.T) {
	kestrel, cairn := siteSet(t, "kestrel-refuge"), siteSet(t, Loose)
	var parts []item.Address
	var picks []making.Pick
	for _, h := range kestrel.Heads() {
		if h.Address.Kind == item.Part || h.Address.Kind == item.Section {
			parts = append(parts, h.Address)
			picks = append(picks, making.Pick{From: "kestrel-refuge", Address: h.Address})
		}
	}
	made, err := making.Assemble("story", "1.0.0", making.Draft{Picks: picks}, func(string) (*making.Source, error) {
		return &making.Source{Items: kestrel, Site: true}, nil
	})
	require.NoError(t, err)
	for name, do := range map[string]func(item.Collection) (any, error){
		"publish": func(c item.Collection) (any, error) {
			files := map[string]item.Digest{}
			_, _, err := folder.Publish(c, folder.Options{Site: "s"},
				func(p string, f folder.Published, open func() (io.ReadCloser, error)) error {
					r, err := open()
					if err != nil {
						return err
					}
					defer r.Close()
					b, err := io.ReadAll(r)
					files[p] = item.DigestOf(b)
					return err
				})
			return files, err
		},
		"capture": func(c item.Collection) (any, error) {
			got, err := capture.Take(c, capture.Order{Chosen: parts})
			if err != nil {
				return nil, err
			}
			return fmt.Sprint(item.CollectionDigest(got.Items.Heads()), got.Fillins, got.Needs, got.Notes,
				got.StyleOrder), nil
		},
		"making": func(c item.Collection) (any, error) {
			got, err := making.Assemble("story", "1.0.0", making.Draft{Picks: picks},
				func(string) (*making.Source, error) {
					return &making.Source{Items: c, Site: true}, nil
				})
			if err != nil {
				return nil, err
			}
			text, err := got.List.Canonical()
			return fmt.Sprint(string(text), got.Found), err
		},
	} {
		t.Run(name, func(t *testing.T) { failing.EachRead(t, kestrel, do) })
	}
	for name, do := range map[string]func(item.Collection) (any, error){
		"check": func(c item.Collection) (any, error) {
			return kit.CheckIn(made.List, closure.NewSmall(c), made.Origins...)
		},
		"views": func(c item.Collection) (any, error) {
			out := map[string]item.Digest{}
			err := views.Make(made.List, c, func(v views.View) error { out[v.Path] = v.SHA256; return nil })
			return out, err
		},
		"compare": func(c item.Collection) (any, error) {
			advice, _, err := kit.AdviseOn(kit.Contents{List: made.List, Items: made.Items},
				kit.Contents{List: made.List, Items: c})
			return advice, err
		},
		"pieces": func(c item.Collection) (any, error) {
			list, err := pieces.Split(made.List, c)
			if err != nil {
				return nil, err
			}
			sum := sha256.New()
			err = pieces.WriteAll(sum, list)
			return fmt.Sprintf("%x", sum.Sum(nil)), err
		},
	} {
		t.Run(name, func(t *testing.T) { failing.EachRead(t, made.Items, do) })
	}
	for name, do := range map[string]func(item.Collection) (any, error){
		"faults": func(c item.Collection) (any, error) {
			return faults.Check(closure.NewSmall(c), faults.Options{Samples: []string{"x"}})
		},
		"stand-ins": func(c item.Collection) (any, error) { return faults.StandIns(closure.NewSmall(c), nil) },
		"closure": func(c item.Collection) (any, error) {
			return closure.Compute(closure.NewSmall(c), parts, func(item.Address) bool { return false })
		},
		"copies":        func(c item.Collection) (any, error) { return repeat.Copies(c) },
		"proposals":     func(c item.Collection) (any, error) { return repeat.Find(c) },
		"shapes":        func(c item.Collection) (any, error) { return repeat.Shapes(c) },
		"families":      func(c item.Collection) (any, error) { return font.Families(c) },
		"chosen fonts":  func(c item.Collection) (any, error) { return font.Chosen(c) },
		"look":          func(c item.Collection) (any, error) { return look.Now(c) },
		"look of":       func(c item.Collection) (any, error) { return look.From(kestrel, c) },
		"look of other": func(c item.Collection) (any, error) { return look.From(c, kestrel) },
		"sheet": func(c item.Collection) (any, error) {
			h, ok, err := font.SheetFor(c, map[item.Address]int{})
			return fmt.Sprint(h.Address, ok), err
		},
	} {
		t.Run(name, func(t *testing.T) {
			failing.AnyRead(t, kestrel, do)
			if name != "closure" { // of what kestrel has
				failing.AnyRead(t, cairn, do)
			}
		})
	}
	t.Run("repeat", func(t *testing.T) {
		failing.EachRead(t, cairn, func(c item.Collection) (any, error) {
			got, err := repeat.Accept(c, nil, true)
			if err != nil {
				return nil, err
			}
			return fmt.Sprint(got.Took, got.Notes, len(got.Items)), nil
		})
	})
}
