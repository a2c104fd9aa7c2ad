// Package demo brings the Highmoor Huts world in: two sites and three people, all
// made up, loaded through the same use cases that a person would use.
package demo

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"testing/fstest"

	"compactparcel/demo/pictures"
	"compactparcel/internal/desk"
)

//go:embed all:sites
var sites embed.FS

// Password is everybody's in the demo.
const Password = "highmoor-demo"

// People of the demo, by the name they sign in with.
var People = []struct {
	Name string
	Role desk.Role
}{{"warden", desk.Admin}, {"ida", desk.Keeper}, {"tomas", desk.Librarian}, {"visitor", desk.Viewer}}

// Sites of the demo, with the pictures each needs.
var Sites = map[string][]string{
	"kestrel-refuge": {"ridge-dawn.jpg", "hut-evening.jpg", "valley-path.jpg", "stove-smoke.jpg", "hut-door.jpg", "kestrel-mark.svg", "bunk-plan.svg", "valley-map.svg"},
	"larch-saddle":   {},
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
	if len(Sites[name]) > 0 {
		drawn := pictures.All()
		for _, p := range Sites[name] {
			out["media/"+p] = &fstest.MapFile{Data: drawn[p], Mode: 0o644}
		}
	}
	return out, err
}

// Load brings people and sites in; what is there already stays as it is. It gives
// a fresh access token for ida.
func Load(ctx context.Context, d *desk.Desk) (token string, err error) {
	loader := desk.Person{Name: "demo", Role: desk.Admin}
	for _, p := range People {
		if err := d.NewUser(ctx, loader, p.Name, Password, p.Role); err != nil && !is(err, desk.Exists) {
			return "", fmt.Errorf("demo: making %s: %w", p.Name, err)
		}
	}
	ida, _, err := d.SignIn(ctx, "ida", Password, "demo")
	if err != nil {
		return "", fmt.Errorf("demo: signing in: %w", err)
	}
	for _, name := range []string{"kestrel-refuge", "larch-saddle"} {
		folder, err := Folder(name)
		if err != nil {
			return "", err
		}
		if _, _, err := d.Adopt(ctx, ida, name, folder); err != nil && !is(err, desk.Exists) {
			return "", fmt.Errorf("demo: adopting %s: %w", name, err)
		}
	}
	tokens, err := d.Tokens(ctx, ida)
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
	token, _, err = d.NewToken(ctx, ida, "demo")
	return token, err
}

func is(err error, t desk.ProblemType) bool {
	var p *desk.Problem
	return errors.As(err, &p) && p.Type == t
}
