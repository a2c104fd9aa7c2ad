package font_test

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"testing"

	"compactparcel/core/font"
	"compactparcel/core/item"

	"github.com/andybalholm/brotli"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/gobolditalic"
	"golang.org/x/image/font/gofont/goregular"
)

// woff2 packs the tables of a font that say what it is, untransformed.
func woff2(t *testing.T, ttf []byte) []byte {
	t.Helper()
	numbers := map[string]byte{"name": 5, "OS/2": 6, "head": 1}
	var rows, data []byte
	count := 0
	for i := range int(binary.BigEndian.Uint16(ttf[4:])) {
		row := ttf[12+16*i:]
		n, known := numbers[string(row[:4])]
		if !known {
			continue
		}
		at, length := binary.BigEndian.Uint32(row[8:]), binary.BigEndian.Uint32(row[12:])
		rows = append(rows, n)
		for shift := 28; shift >= 0; shift -= 7 {
			if part := byte(length >> shift & 0x7f); shift == 0 {
				rows = append(rows, part)
			} else if length>>shift > 0 {
				rows = append(rows, 0x80|part)
			}
		}
		data = append(data, ttf[at:at+length]...)
		count++
	}
	var packed bytes.Buffer
	w := brotli.NewWriter(&packed)
	_, err := w.Write(data)
	require.NoError(t, err)
	require.NoError(t, w.Close())
	head := make([]byte, 48)
	copy(head, "wOF2")
	binary.BigEndian.PutUint16(head[12:], uint16(count))
	binary.BigEndian.PutUint32(head[20:], uint32(packed.Len()))
	return append(append(head, rows...), packed.Bytes()...)
}

// beyond gives a font one of whose tables says that it has 4 GB.
func beyond(b []byte, at int) []byte {
	b = bytes.Clone(b)
	if string(b[:4]) == "wOFF" {
		b[13] = 1 // one table
	}
	binary.BigEndian.PutUint32(b[at:], 0xfffffff0)
	return b
}

func TestFontFilesSayWhatTheyAre(t *testing.T) {
	got, err := font.Read(goregular.TTF)
	require.NoError(t, err)
	assert.Equal(t, font.File{Family: "Go", Least: 400, Most: 400, Format: "truetype", MediaType: "font/ttf"}, got)
	packed := woff2(t, gobolditalic.TTF)
	got, err = font.Read(packed)
	require.NoError(t, err)
	assert.Equal(t, "Go", got.Family)
	assert.True(t, got.Italic)
	assert.Equal(t, "font/woff2", got.MediaType)
	assert.GreaterOrEqual(t, got.Least, 600)

	for name, b := range map[string][]byte{"empty": nil, "a picture": []byte("\x89PNG\r\n\x1a\n0123456789"),
		"a page": []byte("<!doctype html><p>Not found"), "cut off": packed[:len(packed)-20],
		"only a head": packed[:48], "noise": append([]byte("wOF2"), bytes.Repeat([]byte{0xff}, 300)...),
		"a table that lies beyond": beyond(goregular.TTF, 12+12), "a table of 4 GB when it is unpacked": beyond(
			append([]byte("wOFF"), make([]byte, 100)...), 44+12),
		"a head of another": append([]byte("OTTO"), bytes.Repeat([]byte{0}, 40)...)} {
		t.Run(name, func(t *testing.T) {
			_, err := font.Read(b)
			assert.ErrorIs(t, err, font.ErrNotFont, name)
		})
	}
}

func TestFamiliesWithTheWeightsThatExist(t *testing.T) {
	c := item.NewSet()
	put := func(a, text string, m item.Meta) {
		c.Put(item.Head{Address: item.MustAddress(a), Meta: m}, []byte(text))
	}
	put("tokens/brand", `{"font":{"$type":"fontFamily","head":{"$value":["Tarn","serif"]},"text":{"$value":"Georgia"},`+
		`"small":{"$value":"{font.text}"}}}`, item.Meta{})
	put("stylesheet/idle", `b{top:0}`, item.Meta{})
	put("stylesheet/base", `h1{font-family:var(--font-head)}@font-face{font-family:"Tarn";font-weight:bold;`+
		`src:url(/media/tarn.woff2) format("woff2"),url("/media/tarn.woff")}`+
		`@font-face{font-family:Tarn;src:local("Tarn")}`+
		`@font-face{font-family:Fell;font-weight:100  900;font-style:italic;src:url(https://fonts.example/f)}`,
		item.Meta{})
	put("page/a", "", item.Meta{Styles: []item.Address{item.MustAddress("stylesheet/idle")}})

	list, err := font.Families(c)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "Fell", list[0].Name)
	assert.Equal(t, "100 900", list[0].Faces[0].Weight)
	assert.True(t, list[0].Faces[0].Italic)
	assert.Empty(t, list[0].Faces[0].Files, "it is loaded from elsewhere")
	assert.Equal(t, "400", list[1].Faces[0].Weight)
	woff := func(name string) item.Address { return item.MustAddress("media/" + name) }
	assert.Equal(t, []item.Address{woff("tarn.woff2"), woff("tarn.woff")}, list[1].Faces[1].Files)
	moved, err := list[1].Faces[1].With(map[item.Address]item.Address{woff("tarn.woff"): woff("tarn-2.woff"),
		woff("tarn.woff2"): woff("tarn.woff2")})
	require.NoError(t, err)
	assert.Contains(t, moved, `url(/media/tarn.woff2) format("woff2"),url("/media/tarn-2.woff")`)

	// Where none says a font by a token, it is the one that most pages load.
	plain := item.NewSet()
	for _, a := range []string{"stylesheet/a", "stylesheet/b"} {
		plain.Put(item.Head{Address: item.MustAddress(a)}, []byte("b{top:0}"))
	}
	h, ok, err := font.SheetFor(plain, map[item.Address]int{item.MustAddress("stylesheet/b"): 2})
	require.NoError(t, err)
	assert.True(t, ok)
	assert.Equal(t, "stylesheet/b", h.Address.String())

	sheet, ok, err := font.SheetFor(c, nil)
	require.NoError(t, err)
	require.True(t, ok)
	assert.Equal(t, "stylesheet/base", sheet.Address.String(), "it says a font by a token")

	chosen, err := font.Chosen(c)
	require.NoError(t, err)
	require.Len(t, chosen, 2, "an alias follows")
	v, err := font.Before("Fell", chosen[1].Value)
	require.NoError(t, err)
	assert.JSONEq(t, `["Fell","Georgia"]`, string(v))
	v, err = font.Before("Tarn", json.RawMessage(`["serif","Tarn"]`))
	require.NoError(t, err)
	assert.JSONEq(t, `["Tarn","serif"]`, string(v))
	assert.Contains(t, font.RuleFor(font.File{Family: `O"k`, Least: 100, Most: 900, Format: "woff2"},
		item.MustAddress("media/ok.woff2")), `font-family: "O\"k";`)
}

// A real font, and the same as a WOFF2, changed byte by byte where it says what it is: it is read or refused.
func TestARealFontChangedByteByByte(t *testing.T) {
	t.Parallel()
	for name, whole := range map[string][]byte{"ttf": goregular.TTF, "woff2": woff2(t, goregular.TTF)} {
		t.Run(name, func(t *testing.T) {
			read, refused := 0, 0
			for at := range min(len(whole), 700) {
				for _, to := range []byte{0, 0xff, whole[at] ^ 1, whole[at] ^ 0x80} {
					b := bytes.Clone(whole)
					b[at] = to
					f, err := font.Read(b)
					if err != nil {
						assert.ErrorIs(t, err, font.ErrNotFont, "%s, byte %d", name, at)
						refused++
						continue
					}
					read++
					if f.Family == "" || f.Least < 1 || f.Most > 1000 {
						assert.Fail(t, "it says what cannot be", "%s, byte %d: %+v", name, at, f)
					}
				}
			}
			assert.Positive(t, read, name)
			assert.Positive(t, refused, name)
		})
	}
}
