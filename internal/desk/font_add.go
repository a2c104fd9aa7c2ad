package desk

import (
	"context"
	"errors"
	"fmt"
	"io"
	"path"
	"regexp"
	"strings"

	"compactparcel/core/font"
	"compactparcel/core/item"
	"compactparcel/internal/store"
)

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
