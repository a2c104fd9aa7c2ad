// Package font reads what a font file says of itself, and finds the fonts of a collection of items: the
// families that its stylesheets define, with their faces.
package font

import (
	"bytes"
	"encoding/binary"
	"errors"
	"io"
	"strings"
	"unicode"

	"github.com/andybalholm/brotli"
	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/font/opentype"
	"github.com/go-text/typesetting/font/opentype/tables"
)

// ErrNotFont tells that a file is no font that browsers read.
var ErrNotFont = errors.New("it is no font that browsers read")

// File is what a font file says of itself.
type File struct {
	Family string
	Italic bool
	// Least and Most are its weights, from 1 to 1000: the same but of a variable font.
	Least, Most int
	// Format is its name in a src descriptor, and MediaType that of RFC 8081.
	Format, MediaType string
}

// maxTables bounds what the tables of a WOFF2 file come to together.
const maxTables = 64 << 20

// formats are those that browsers read, by the first bytes of a file.
var formats = map[string]File{
	"wOF2":             {Format: "woff2", MediaType: "font/woff2"},
	"wOFF":             {Format: "woff", MediaType: "font/woff"},
	"OTTO":             {Format: "opentype", MediaType: "font/otf"},
	"true":             {Format: "truetype", MediaType: "font/ttf"},
	"\x00\x01\x00\x00": {Format: "truetype", MediaType: "font/ttf"},
}

// Read reads a font file: WOFF2, WOFF, TrueType or OpenType. Its error is ErrNotFont where it is none, or is
// broken.
func Read(b []byte) (File, error) {
	if len(b) < 12 {
		return File{}, ErrNotFont
	}
	out, known := formats[string(b[:4])]
	if !known {
		return File{}, ErrNotFont
	}
	if out.Format == "woff2" {
		var ok bool
		if b, ok = unpacked(b); !ok {
			return File{}, ErrNotFont
		}
	}
	if !bounded(b) {
		return File{}, ErrNotFont
	}
	l, err := opentype.NewLoader(bytes.NewReader(b))
	if err != nil {
		return File{}, ErrNotFont
	}
	said, _ := font.Describe(l, nil)
	if said.Family == "" || len(said.Family) > 200 || strings.ContainsFunc(said.Family, unicode.IsControl) {
		return File{}, ErrNotFont
	}
	out.Family, out.Italic = said.Family, said.Aspect.Style == font.StyleItalic
	out.Least = min(max(int(said.Aspect.Weight), 1), 1000)
	out.Most = out.Least
	if raw, err := l.RawTable(opentype.MustNewTag("fvar")); err == nil {
		if fvar, _, err := tables.ParseFvar(raw); err == nil {
			for _, axis := range fvar.Axis {
				if axis.Tag == opentype.MustNewTag("wght") {
					out.Least, out.Most = max(int(axis.Minimum), 1), min(int(axis.Maximum), 1000)
				}
			}
		}
	}
	return out, nil
}

// bounded tells whether the tables of a font lie within it, and come to no more than they may when they are
// unpacked: what reads them believes their lengths (OpenType 1.9, "Table Directory"; WOFF File Format 1.0,
// section 4).
func bounded(b []byte) bool {
	head, row, at, packed, plain, count := 12, 16, 8, 12, 12, 4
	if string(b[:4]) == "wOFF" {
		head, row, at, packed, plain, count = 44, 20, 4, 8, 12, 12
	}
	n := int(binary.BigEndian.Uint16(b[count:]))
	if len(b) < head+n*row {
		return false
	}
	total := uint64(0)
	for i := range n {
		r := b[head+i*row:]
		from, length := uint64(binary.BigEndian.Uint32(r[at:])), uint64(binary.BigEndian.Uint32(r[packed:]))
		total += uint64(binary.BigEndian.Uint32(r[plain:]))
		if from+length > uint64(len(b)) || total > maxTables {
			return false
		}
	}
	return true
}

// told are the tables of a WOFF2 file that say what the font is: none of them is transformed.
var told = map[string]bool{"name": true, "OS/2": true, "head": true, "fvar": true}

// knownTags are the tags that WOFF2 writes as a number (WOFF File Format 2.0, section 4.1).
var knownTags = strings.Fields("cmap head hhea hmtx maxp name OS/2 post cvt_ fpgm glyf loca prep CFF_ VORG EBDT EBLC " +
	"gasp hdmx kern LTSH PCLT VDMX vhea vmtx BASE GDEF GPOS GSUB EBSC JSTF MATH CBDT CBLC COLR CPAL SVG_ sbix acnt " +
	"avar bdat bloc bsln cvar fdsc feat fmtx fvar gvar hsty just lcar mort morx opbd prop trak Zapf Silf Glat Gloc " +
	"Feat Sill")

// unpacked gives a font that holds only the tables of a WOFF2 file which say what it is (WOFF File Format 2.0,
// section 4).
func unpacked(b []byte) (out []byte, ok bool) {
	const header = 48
	if len(b) < header {
		return nil, false
	}
	count, packed := int(binary.BigEndian.Uint16(b[12:])), int(binary.BigEndian.Uint32(b[20:]))
	r := bytes.NewReader(b[header:])
	type table struct {
		tag    string
		length int
	}
	var list []table
	total := 0
	for range count {
		flags, err := r.ReadByte()
		if err != nil {
			return nil, false
		}
		t := table{}
		if n := int(flags & 63); n < len(knownTags) {
			t.tag = strings.ReplaceAll(knownTags[n], "_", " ")
		} else {
			tag := make([]byte, 4)
			if _, err := io.ReadFull(r, tag); err != nil {
				return nil, false
			}
			t.tag = string(tag)
		}
		if t.length, ok = base128(r); !ok {
			return nil, false
		}
		// Version 0 of glyf and loca is transformed, and version 3 is not; of all else 0 is not.
		version := flags >> 6
		if shaped := t.tag == "glyf" || t.tag == "loca"; shaped && version != 3 || !shaped && version != 0 {
			if t.length, ok = base128(r); !ok {
				return nil, false
			}
		}
		if total += t.length; total > maxTables {
			return nil, false
		}
		list = append(list, t)
	}
	at := len(b) - r.Len()
	if packed <= 0 || packed > len(b)-at {
		return nil, false
	}
	data := make([]byte, total)
	if _, err := io.ReadFull(brotli.NewReader(bytes.NewReader(b[at:at+packed])), data); err != nil {
		return nil, false
	}
	var tags []string
	var bodies [][]byte
	for _, t := range list {
		if told[t.tag] {
			tags, bodies = append(tags, t.tag), append(bodies, data[:t.length])
		}
		data = data[t.length:]
	}
	return written(tags, bodies), true
}

// written writes tables as an OpenType file.
func written(tags []string, bodies [][]byte) []byte {
	const head, row = 12, 16
	out := binary.BigEndian.AppendUint32(nil, 0x00010000)
	out = binary.BigEndian.AppendUint16(out, uint16(len(tags)))
	out = append(out, make([]byte, 6)...) // only for searching
	at := head + row*len(tags)
	for i, tag := range tags {
		out = append(out, tag...)
		out = append(out, 0, 0, 0, 0) // a checksum that nobody asks for
		out = binary.BigEndian.AppendUint32(out, uint32(at))
		out = binary.BigEndian.AppendUint32(out, uint32(len(bodies[i])))
		at += len(bodies[i])
	}
	return append(out, bytes.Join(bodies, nil)...)
}

// base128 reads a UIntBase128 (WOFF File Format 2.0, section 4.1).
func base128(r io.ByteReader) (int, bool) {
	n := 0
	for i := range 5 {
		c, err := r.ReadByte()
		if err != nil || i == 0 && c == 0x80 || n > maxTables {
			return 0, false
		}
		n = n<<7 | int(c&0x7f)
		if c&0x80 == 0 {
			return n, true
		}
	}
	return 0, false
}
