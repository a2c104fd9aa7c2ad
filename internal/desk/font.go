package desk

import (
	"context"
	"errors"
	"fmt"
	"io"
	"path"
	"regexp"
	"slices"
	"strings"

	"compactparcel/core/edit"
	"compactparcel/core/font"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/internal/store"
)

// FontSource is where fonts are: the site itself, the library, or a kit.
type FontSource struct {
	From     string // empty: the site; else "library" or "kit NAME@VERSION"
	Families []font.Family
	// Chosen are the families that its tokens say, in pairs as for headings and text.
	Chosen []font.Choice
}

// Fonts lists the fonts of a site, then those that the library and the newest versions of kits have.
func (d *Desk) Fonts(ctx context.Context, p Person, site string, draft int64) ([]FontSource, error) {
	v, err := d.Look(ctx, p, site, draft)
	if err != nil {
		return nil, err
	}
	out := []FontSource{{}}
	if out[0], err = fontsOf("", v); err != nil {
		return nil, explain("site "+site, err)
	}
	if _, err := d.library(ctx); err != nil {
		return nil, err
	}
	froms := []string{LibraryName}
	newest, err := d.newestKits(ctx)
	if err != nil {
		return nil, explain("the kits", err)
	}
	for name, version := range newest {
		froms = append(froms, fromKit+name+"@"+version)
	}
	slices.Sort(froms[1:])
	for _, from := range froms {
		src, err := d.source(ctx, p, from)
		if isNotFound(err) {
			continue // it was removed meanwhile
		}
		if err != nil {
			return nil, err
		}
		x, err := fontsOf(from, src.Items)
		if err != nil {
			return nil, explain(from, err)
		}
		if len(x.Families)+len(x.Chosen) > 0 {
			out = append(out, x)
		}
	}
	return out, nil
}

func fontsOf(from string, c item.Collection) (out FontSource, err error) {
	out.From = from
	if out.Families, err = font.Families(c); err != nil {
		return out, err
	}
	out.Chosen, err = font.Chosen(c)
	return out, err
}

// maxFont bounds a font file, in bytes.
const maxFont = 20 << 20

// AddFont lays a font file into a site, with a rule that defines its face; a token, where one is named, says its
// family first from then on. One step.
func (d *Desk) AddFont(
	ctx context.Context, p Person, site string, draft int64, name, token string, r io.Reader,
) (*EditsDone, error) {
	what := "the font " + name
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	b, err := io.ReadAll(io.LimitReader(r, maxFont+1))
	if err != nil {
		return nil, err
	}
	if len(b) > maxFont {
		return nil, problem(TooLarge, what, To(ChooseFontFile), "it has more than %d MB", maxFont>>20)
	}
	f, err := font.Read(b)
	if errors.Is(err, font.ErrNotFont) {
		return nil, problem(BadInput, what, To(ChooseFontFile), "%v", err)
	}
	if err != nil {
		return nil, err
	}
	return d.step(ctx, p, site, draft, func(ctx context.Context, view *store.View) (string, []store.Change, error) {
		at := item.Address{Kind: item.Media, Key: fontName(name, f)}
		at = freeFor(view, at, item.DigestOf(b))
		ch, err := d.mediaItem(ctx, view, at, f.MediaType, b)
		if err != nil {
			return "", nil, err
		}
		rules := []string{font.RuleFor(f, at)}
		more, err := d.withFaces(ctx, view, what, f.Family, rules, token)
		weights := fmt.Sprint(f.Least)
		if f.Most > f.Least {
			weights = fmt.Sprintf("%d to %d", f.Least, f.Most)
		}
		return fmt.Sprintf("added the font %s, weight %s", f.Family, weights), append([]store.Change{ch}, more...), err
	})
}

var unwritten = regexp.MustCompile(`[^a-z0-9._-]+`)

// fontName is what a font file is called among the media.
func fontName(name string, f font.File) string {
	end := map[string]string{"woff2": ".woff2", "woff": ".woff", "opentype": ".otf", "truetype": ".ttf"}[f.Format]
	name = strings.ToLower(strings.TrimSuffix(path.Base(name), path.Ext(name)))
	if name = strings.Trim(unwritten.ReplaceAllString(name, "-"), "-._"); name == "" {
		name = "font"
	}
	return shortened(name, 80) + end
}

// freeFor gives the address of a file, or one beside it where another file is there.
func freeFor(view *store.View, a item.Address, digest item.Digest) item.Address {
	end := path.Ext(a.Key)
	base := strings.TrimSuffix(a.Key, end)
	for n := 2; ; n++ {
		if h, there := view.Find(a); !there || h.Doc == digest {
			return a
		}
		a.Key = fmt.Sprintf("%s-%d%s", base, n, end)
	}
}

// TakeFont brings a family of the library or a kit into a site, with all its faces; or its pair, which are all the
// families that its tokens say, for the tokens of the site by the same paths. One step.
func (d *Desk) TakeFont(
	ctx context.Context, p Person, site string, draft int64, from, family, token string, pair bool,
) (*EditsDone, error) {
	what := "the font " + family
	if pair {
		what = "the fonts of " + from
	}
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	if pair == (family != "") {
		return nil, problem(BadInput, what, To(CheckOptions), "say a family, or that the pair comes")
	}
	src := FontSource{}
	var files item.Collection
	if from != "" {
		if err := d.trustedSource(ctx, p, site, from, what); err != nil {
			return nil, err
		}
		s, err := d.source(ctx, p, from)
		if err != nil {
			return nil, err
		}
		files = s.Items
		if src, err = fontsOf(from, files); err != nil {
			return nil, explain(from, err)
		}
	}
	return d.step(ctx, p, site, draft, func(ctx context.Context, view *store.View) (string, []store.Change, error) {
		if from == "" {
			var err error
			if src, err = fontsOf("", view); err != nil {
				return "", nil, err
			}
			files = view
		}
		if pair {
			return d.takePair(ctx, view, src, files)
		}
		changes, rules, err := d.takeFaces(view, src, files, family)
		if err != nil {
			return "", nil, err
		}
		if rules == nil && from != "" {
			return "", nil, problem(NotFound, what, To(ShowItems, "site", from), "%s defines no such font", from)
		}
		more, err := d.withFaces(ctx, view.Laid(changes), what, family, rules, token)
		return "took the font " + family, append(changes, more...), err
	})
}

// trustedSource tells why nothing of a source may come to a site: of a kit, that the site wants signatures which it
// does not have.
func (d *Desk) trustedSource(ctx context.Context, p Person, site, from, what string) error {
	of, isKit := strings.CutPrefix(from, fromKit)
	if !isKit {
		return nil
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return err
	}
	name, version, err := kit.ParseName(of)
	if err != nil {
		return problem(BadInput, of, Form("hut-basics@0.1.0"), "%v", err)
	}
	v, err := d.sealed(ctx, p, name, version)
	if err != nil {
		return err
	}
	_, err = d.checkTrust(ctx, c, v, what)
	return err
}

// takePair says the families of a source by the tokens of the site that have the same paths.
func (d *Desk) takePair(ctx context.Context, view *store.View, src FontSource, files item.Collection) (
	string, []store.Change, error,
) {
	own, err := font.Chosen(view)
	if err != nil {
		return "", nil, err
	}
	var ops []edit.Operation
	var rules []string
	var changes []store.Change
	for _, c := range src.Chosen {
		if !slices.ContainsFunc(own, func(o font.Choice) bool { return o.Path == c.Path && o.CSS != c.CSS }) {
			continue
		}
		ops = append(ops, edit.Operation{Op: edit.Token, Property: c.Path, Value: string(c.Value)})
		for _, f := range src.Families {
			if !slices.Contains(font.Names(c.CSS), f.Name) {
				continue
			}
			more, list, err := d.takeFaces(view, src, files, f.Name)
			if err != nil {
				return "", nil, err
			}
			changes, rules = append(changes, more...), append(rules, list...)
		}
	}
	if len(ops) == 0 {
		return "", nil, problem(Refused, "the fonts of "+src.From, To(CheckOptions),
			"the site has no such fonts to choose, or says the same already")
	}
	more, err := d.fontEdits(ctx, view.Laid(changes), rules, ops)
	return "took the fonts of " + src.From, append(changes, more...), err
}

// takeFaces copies the files of a family's faces to a site, and gives its rules as the site needs them.
func (d *Desk) takeFaces(view *store.View, src FontSource, files item.Collection, family string) (
	changes []store.Change, rules []string, err error,
) {
	i := slices.IndexFunc(src.Families, func(f font.Family) bool { return f.Name == family })
	if i < 0 || src.From == "" {
		return nil, nil, nil
	}
	for _, f := range src.Families[i].Faces {
		rule := f.Rule
		h, there := files.Find(f.File)
		if there {
			at := freeFor(view, f.File, h.Doc)
			if at != f.File {
				rule = strings.ReplaceAll(rule, f.File.Path(), at.Path())
			}
			if _, has := view.Find(at); !has {
				changes = append(changes, store.Change{Head: item.Head{ID: store.NewID(), Address: at, Meta: h.Meta,
					Doc: h.Doc, Bytes: h.Bytes, NormalizedDigest: h.NormalizedDigest}})
			}
		}
		rules = append(rules, rule)
	}
	return changes, rules, nil
}

// withFaces writes rules of faces into a site, and lets a token say their family first.
func (d *Desk) withFaces(
	ctx context.Context, view *store.View, what, family string, rules []string, token string,
) ([]store.Change, error) {
	var ops []edit.Operation
	if token != "" {
		own, err := font.Chosen(view)
		if err != nil {
			return nil, err
		}
		i := slices.IndexFunc(own, func(c font.Choice) bool { return c.Path == token || c.Property == token })
		if i < 0 {
			return nil, problem(BadInput, what, To(CheckOptions), "the site has no font %s (fonts: %s)", token,
				pathsOf(own))
		}
		value, err := font.Before(family, own[i].Value)
		if err != nil {
			return nil, err
		}
		ops = append(ops, edit.Operation{Op: edit.Token, Property: own[i].Path, Value: string(value)})
	}
	return d.fontEdits(ctx, view, rules, ops)
}

func pathsOf(list []font.Choice) string {
	if len(list) == 0 {
		return "none"
	}
	out := make([]string, len(list))
	for i, c := range list {
		out[i] = c.Path
	}
	return strings.Join(out, ", ")
}

// fontEdits writes the rules that a site does not have yet, and does operations.
func (d *Desk) fontEdits(ctx context.Context, view *store.View, rules []string, ops []edit.Operation) ([]store.Change,
	error) {
	var changes []store.Change
	if len(rules) > 0 {
		h, there, err := font.SheetFor(view)
		if err != nil {
			return nil, err
		}
		if !there {
			return nil, problem(Refused, "the fonts", To(CheckOptions),
				"the site has no stylesheet that could define them")
		}
		b, err := item.Read(view, h)
		if err != nil {
			return nil, err
		}
		text := strings.TrimRight(string(b), "\n") + "\n"
		for _, rule := range rules {
			if rule = strings.TrimSpace(rule); !strings.Contains(text, rule) {
				text += rule + "\n"
			}
		}
		if h, err = d.keepOne(ctx, h, []byte(text)); err != nil {
			return nil, err
		}
		changes = append(changes, store.Change{Head: h})
	}
	if len(ops) == 0 {
		return changes, nil
	}
	out := &laidPiece{}
	more, err := d.operated(ctx, view.Laid(changes), out, ops)
	return append(changes, more...), err
}
