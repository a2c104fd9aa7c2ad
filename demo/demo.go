// Package demo brings the Highmoor Huts world in: its sites, kits and people, all
// made up, loaded through the same use cases that a person would use.
package demo

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"slices"
	"strings"
	"sync"
	"testing/fstest"

	"compactparcel/demo/pictures"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"
)

//go:embed all:sites
var sites embed.FS

// Password is everybody's in the demo.
const Password = "highmoor-demo"

// Person is somebody of the demo.
type Person struct {
	Name string
	Role desk.Role
}

// People of the demo, by the name they sign in with.
var People = []Person{{"warden", desk.Admin}, {"ida", desk.Keeper}, {"tomas", desk.Librarian}, {"visitor", desk.Viewer}}

// Sites of the demo, with the pictures each needs.
var Sites = map[string][]string{
	"kestrel-refuge": {
		"ridge-dawn.jpg",
		"hut-evening.jpg",
		"valley-path.jpg",
		"stove-smoke.jpg",
		"hut-door.jpg",
		"kestrel-mark.svg",
		"bunk-plan.svg",
		"valley-map.svg",
	},
	"larch-saddle":     {},
	"blackwater-bothy": {},
}

// Loose is the static site as somebody's designer left it: no site of the demo yet,
// but a folder to adopt.
const Loose = "cairn-edge"

var loosePictures = map[string]string{
	"pictures/Ridge Dawn.jpg":  "ridge-dawn.jpg",
	"pictures/hut evening.jpg": "hut-evening.jpg",
	"pictures/path.jpg":        "valley-path.jpg",
	"pictures/stove.jpg":       "stove-smoke.jpg",
}

// draw gives all pictures, drawn once.
var draw = sync.OnceValue(pictures.All)

// WriteLoose puts the folder to adopt into dir, unless it is there already.
func WriteLoose(dir string) error {
	if _, err := os.Stat(dir); err == nil {
		return nil
	}
	f, err := Folder(Loose)
	if err != nil {
		return err
	}
	return os.CopyFS(dir, f)
}

// Folder gives a demo site as a folder, its pictures drawn.
func Folder(name string) (fs.FS, error) {
	root, err := fs.Sub(sites, "sites/"+name)
	if err != nil {
		return nil, err
	}
	out := fstest.MapFS{}
	err = fs.WalkDir(root, ".", func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := fs.ReadFile(root, p)
		out[p] = &fstest.MapFile{Data: b, Mode: 0o644}
		return err
	})
	drawn := map[string][]byte{}
	if len(Sites[name]) > 0 || name == Loose {
		drawn = draw()
	}
	for _, p := range Sites[name] {
		out["media/"+p] = &fstest.MapFile{Data: drawn[p], Mode: 0o644}
	}
	if name == Loose {
		for p, from := range loosePictures {
			out[p] = &fstest.MapFile{Data: drawn[from], Mode: 0o644}
		}
	}
	return out, err
}

// How much of the demo is brought in.
const (
	All       = "all"   // sites, the kits of the shelf, and what was delivered of them
	OnlySites = "sites" // people and sites
	Lived     = "lived" // all, and what a week of work leaves behind
)

// Worlds are all of these.
var Worlds = []string{All, OnlySites, Lived}

// Load brings the demo in; what is there already stays as it is. It gives a fresh access
// token for ida.
func Load(ctx context.Context, d *desk.Desk, how string) (token string, err error) {
	if !slices.Contains(Worlds, how) {
		return "", fmt.Errorf("demo: %q is none of %s", how, strings.Join(Worlds, ", "))
	}
	ida, err := settle(ctx, d)
	if err != nil {
		return "", err
	}
	if err := found(ctx, d, ida); err != nil {
		return "", err
	}
	if how != OnlySites {
		if err := LoadKits(ctx, d, ida); err != nil {
			return "", err
		}
		if err := DeliverLastSpring(ctx, d, ida); err != nil {
			return "", err
		}
	}
	if how == Lived {
		if err := LiveIn(ctx, d, ida); err != nil {
			return "", err
		}
	}
	tokens, err := d.Tokens(ctx, ida, "")
	if err != nil {
		return "", err
	}
	for _, t := range tokens {
		if t.Name == "demo" {
			if err := d.DropToken(ctx, ida, t.ID); err != nil {
				return "", err
			}
		}
	}
	token, _, err = d.NewToken(ctx, ida, desk.TokenWish{Name: "demo"})
	return token, err
}

// settle makes the people who are not there yet; it gives ida.
func settle(ctx context.Context, d *desk.Desk) (desk.Person, error) {
	loader := desk.Person{Name: "demo", Role: desk.Admin}
	there, err := d.Users(ctx, loader)
	if err != nil {
		return desk.Person{}, err
	}
	for _, p := range People {
		if slices.ContainsFunc(there, func(u store.User) bool { return u.Name == p.Name }) {
			continue
		}
		if err := d.NewUser(ctx, loader, p.Name, Password, p.Role); err != nil && !is(err, desk.Exists) {
			return desk.Person{}, fmt.Errorf("demo: making %s: %w", p.Name, err)
		}
	}
	if there, err = d.Users(ctx, loader); err != nil {
		return desk.Person{}, err
	}
	for _, u := range there {
		if u.Name == "ida" && !u.Disabled {
			return desk.Person{ID: u.ID, Name: u.Name, Role: desk.Role(u.Role)}, nil
		}
	}
	return desk.Person{}, errors.New("demo: ida is gone or switched off, and the demo is brought in as her: " +
		"give her an account again, or start in an empty data folder")
}

// found adopts the sites that are not there yet; only for these are pictures drawn.
func found(ctx context.Context, d *desk.Desk, p desk.Person) error {
	there, err := d.Sites(ctx, p)
	if err != nil {
		return err
	}
	for _, name := range []string{"kestrel-refuge", "larch-saddle", "blackwater-bothy"} {
		if slices.ContainsFunc(there, func(s desk.SiteInfo) bool { return s.Name == name }) {
			continue
		}
		folder, err := Folder(name)
		if err != nil {
			return err
		}
		if _, err := d.Adopt(ctx, p, name, folder, desk.PartsNone); err != nil && !is(err, desk.Exists) {
			return fmt.Errorf("demo: adopting %s: %w", name, err)
		}
	}
	return nil
}

func is(err error, t desk.ProblemType) bool {
	var p *desk.Problem
	return errors.As(err, &p) && p.Type == t
}
