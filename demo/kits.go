package demo

import (
	"bytes"
	"context"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"path"
	"slices"
	"testing/fstest"

	"compactparcel/core/capture"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/plan"
	"compactparcel/core/views"
	"compactparcel/internal/desk"
)

//go:embed all:kits
var kitSources embed.FS

// Kits of the demo, NAME/VERSION, each behind those that it needs.
var Kits = []string{
	"hut-basics/1.0.0",
	"hut-basics/1.1.0",
	"hut-basics/2.0.0",
	"winter-notices/0.3.0",
	"winter-notices/0.4.0",
	"ridge-walk/1.0.0",
	"dusk/1.0.0",
	"room-pages/1.0.0",
	"hut-month/1.0.0",
}

// KitFolder gives a demo kit as a folder, as it would be unpacked. Its packing list names
// the items; each lies in the version's folder, in the one that versions share, on the
// model site, or is a picture to be drawn.
func KitFolder(of string) (fs.FS, error) {
	dir := "kits/" + of
	list, err := fs.ReadFile(kitSources, dir+"/"+kit.ListName)
	if err != nil {
		return nil, err
	}
	var named kit.PackingList
	if err := json.Unmarshal(list, &named); err != nil {
		return nil, err
	}
	out := fstest.MapFS{kit.ListName: {Data: list, Mode: 0o644}}
	for _, e := range named.Items {
		p := e.Address().Path()
		b, err := kitFile(dir, p)
		if err != nil {
			return nil, fmt.Errorf("the demo kit %s: %w", of, err)
		}
		out[p] = &fstest.MapFile{Data: b, Mode: 0o644}
	}
	return out, nil
}

func kitFile(dir, p string) ([]byte, error) {
	for _, from := range []struct {
		fsys embed.FS
		at   string
	}{{kitSources, path.Join(dir, p)}, {kitSources, path.Join(path.Dir(dir), "common", p)},
		{sites, path.Join("sites/kestrel-refuge", p)}} {
		b, err := from.fsys.ReadFile(from.at)
		if err == nil || !errors.Is(err, fs.ErrNotExist) {
			return b, err
		}
	}
	if b, ok := draw()[path.Base(p)]; ok {
		return b, nil
	}
	return nil, fmt.Errorf("there is no %s", p)
}

// PackKit packs a demo kit, as cparcel file pack would.
func PackKit(of string, w io.Writer) error {
	files, err := KitFolder(of)
	if err != nil {
		return err
	}
	list, taken, _, err := capture.FromFolder(files)
	if err != nil {
		return err
	}
	found, err := kit.CheckIn(list, taken.World)
	if err != nil {
		return err
	}
	for _, f := range found {
		if f.Stops {
			return fmt.Errorf("the demo kit %s: %s: %s", of, f.Address, f.Message)
		}
	}
	open, done, err := views.Add(list, taken.Items, nil)
	if err != nil {
		return err
	}
	defer done()
	_, err = kit.Write(w, list, open)
	return err
}

// LoadKits puts the kits of the demo on the shelf; what is there already stays.
func LoadKits(ctx context.Context, d *desk.Desk, p desk.Person) error {
	for _, of := range Kits {
		name, version := path.Split(of)
		if _, err := d.Kit(ctx, p, path.Clean(name), version); err == nil {
			continue
		}
		var b bytes.Buffer
		if err := PackKit(of, &b); err != nil {
			return err
		}
		if _, err := d.KitUpload(ctx, p, &b, path.Base(path.Clean(name))+".cpkit", ""); err != nil {
			return fmt.Errorf("demo: adding the kit %s: %w", of, err)
		}
	}
	return nil
}

// last spring's delivery of hut-basics 1.0.0 to blackwater-bothy, which wanted little of it.
var lastSpring = plan.Request{
	Decisions: map[string]plan.Decided{
		"page/home": {
			Decision: plan.Skip,
		},
		"page/contact":           {Decision: plan.Both},
		"menu/main":              {Decision: plan.Both},
		"form/booking":           {Decision: plan.Both},
		"class:card":             {Decision: "rename"},
		"class:hero":             {Decision: "rename"},
		"seat:footer:everywhere": {Decision: "site"},
		"seat:header:everywhere": {Decision: "site"},
	},
	Fills: map[string]string{"hut-name": "Blackwater Bothy", "phone": "01 000 204", "valley": "the Blackwater"},
}

// editedSince are the words that the bothy's keeper put into what was delivered.
var editedSince = map[string][2]string{
	"section/opening-hours": {"every day, warden at home", "every day, when the boat goes"},
	"part/not-found":        {"It happens to the best.", "The mist does that."},
}

// DeliverLastSpring delivers hut-basics 1.0.0 to blackwater-bothy, and edits it since.
func DeliverLastSpring(ctx context.Context, d *desk.Desk, p desk.Person) error {
	done, err := d.Deliveries(ctx, p)
	if err != nil || len(done) > 0 {
		return err
	}
	const site = "blackwater-bothy"
	info, err := d.DeliveryOpen(ctx, p, "hut-basics", "1.0.0", site, lastSpring)
	if err == nil {
		info, err = d.DeliveryStage(ctx, p, info.ID, "")
	}
	if err == nil {
		_, err = d.DeliveryGoLive(ctx, p, info.ID, nil)
	}
	if err != nil {
		return fmt.Errorf("demo: delivering hut-basics to %s: %w", site, err)
	}
	draft := int64(0)
	for _, a := range slices.Sorted(maps.Keys(editedSince)) {
		at := item.MustAddress(a)
		had, err := d.Item(ctx, p, site, at, draft)
		if err != nil {
			return err
		}
		text := bytes.Replace(had.Content, []byte(editedSince[a][0]), []byte(editedSince[a][1]), 1)
		edited, err := d.EditItem(ctx, p,
			desk.Edit{Site: site, Draft: draft, Address: at, Content: text, IfMatch: had.Head.State()})
		if err != nil {
			return fmt.Errorf("demo: editing %s: %w", a, err)
		}
		draft = edited.Draft.ID
	}
	_, err = d.GoLive(ctx, p, site, draft)
	return err
}
