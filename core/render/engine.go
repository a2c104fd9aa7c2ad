package render

import (
	_ "embed"
	"path"

	"compactparcel/core/item"
)

// The engine's own scripts: without them a page shows all but its overlays and the
// results of a search on a published site.
var (
	//go:embed engine/overlay.js
	overlayScript []byte
	//go:embed engine/search.js
	searchScript []byte
	//go:embed engine/pick.js
	pickScript []byte
)

// EngineRoot is where the engine's own scripts lie.
const EngineRoot = AssetRoot + "engine/"

// script gives a script of the engine as an asset.
func (r *Renderer) script(name string, text []byte) Asset {
	x := Asset{
		Path:      EngineRoot + item.DigestOf(text).Short() + "/" + name,
		MediaType: "text/javascript; charset=utf-8",
		content:   text,
	}
	if _, ok := r.byPath[x.Path]; !ok {
		r.byPath[x.Path] = x
		r.engine = append(r.engine, x)
	}
	return x
}

// engineAsset finds a script of the engine by its address.
func (r *Renderer) engineAsset(p string) (Asset, bool) {
	for name, text := range map[string][]byte{"overlay.js": overlayScript, "search.js": searchScript,
		"pick.js": pickScript} {
		if path.Base(p) == name {
			x := r.script(name, text)
			return x, x.Path == p
		}
	}
	return Asset{}, false
}
