package main

import (
	"fmt"
	"math/rand"
	"os"
	"path/filepath"
	"strings"
)

// size says how large a made site is.
type size struct{ pages, sheets, pictures, pictureBytes int }

var words = strings.Fields(
	"the hut stands above a valley of larch and stone where wind comes early and snow stays late wardens keep a " +
		"stove lit for whoever climbs in fog or sun bunks are narrow blankets warm soup thick and the log is " +
		"open to all who pass over the ridge before noon",
)

func sentence(r *rand.Rand, n int) string {
	out := make([]string, n)
	for i := range out {
		out[i] = words[r.Intn(len(words))]
	}
	return strings.ToUpper(out[0][:1]) + strings.Join(out, " ")[1:] + "."
}

// makeSite writes a static site, the same for the same size.
func makeSite(dir string, s size) error {
	m := &siteMaker{dir: dir, size: s, r: rand.New(rand.NewSource(7))}
	for i := range s.pictures {
		b := make([]byte, s.pictureBytes)
		m.r.Read(b)
		if err := m.write(fmt.Sprintf("pictures/%d/p%04d.jpg", i%30, i), b); err != nil {
			return err
		}
	}
	for i := range s.sheets {
		if err := m.write(fmt.Sprintf("styles/s%02d.css", i), m.sheet(i)); err != nil {
			return err
		}
	}
	for i := range s.pages {
		if err := m.write(fmt.Sprintf("pages/%02d/%04d.html", i%50, i), m.page(i)); err != nil {
			return err
		}
	}
	return m.write("index.html", []byte(`<!doctype html><html lang="en"><head><meta charset="utf-8">`+
		`<title>Ridge</title></head><body><h1>Ridge</h1><a href="pages/00/0000.html">first</a></body></html>`))
}

// siteMaker writes a made-up site, the same for the same size.
type siteMaker struct {
	dir  string
	size size
	r    *rand.Rand
}

func (m *siteMaker) write(p string, b []byte) error {
	p = filepath.Join(m.dir, p)
	if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
		return err
	}
	return os.WriteFile(p, b, 0o644)
}

func (m *siteMaker) sheet(i int) []byte {
	var b strings.Builder
	for k := range 60 {
		n := (i*60 + k) % m.size.pictures
		fmt.Fprintf(&b, ".s%d-%d { color: #%06x; margin: %dpx %drem; padding: .%dem }\n", i, k, m.r.Intn(1<<24), k,
			k%4,
			k%9)
		fmt.Fprintf(&b, ".s%d-%d > p + p:hover { background: url(../pictures/%d/p%04d.jpg) }\n", i, k, n%30, n)
	}
	return []byte(b.String())
}

func (m *siteMaker) page(i int) []byte {
	const up = "../../"
	var b strings.Builder
	fmt.Fprintf(&b, "<!doctype html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>Page %d</title>\n", i)
	for k := range 4 {
		fmt.Fprintf(&b, "<link rel=\"stylesheet\" href=\"%sstyles/s%02d.css\">\n", up, (i+k*7)%m.size.sheets)
	}
	fmt.Fprintf(&b, "</head><body>\n<header class=\"top\"><a href=\"%sindex.html\">Ridge</a><nav><ul>", up)
	for k := range 8 {
		mark := ""
		if k == i%50 {
			mark = " class=\"now\""
		}
		fmt.Fprintf(&b, "<li%s><a href=\"%spages/%02d/%04d.html\">Walk %d</a></li>", mark, up, k%50, k, k)
	}
	fmt.Fprintf(&b, "</ul></nav></header>\n<main><h1>%s</h1>\n", sentence(m.r, 4))
	for k := range 6 {
		to, n := (i+k)%m.size.pages, (i*6+k)%m.size.pictures
		fmt.Fprintf(&b, "<section class=\"s%d-%d band\"><h2 id=\"h%d\">%s</h2><p>%s</p>", (i+k)%m.size.sheets, k, k,
			sentence(m.r, 5), sentence(m.r, 60))
		fmt.Fprintf(&b, "<p>%s <a href=\"%spages/%02d/%04d.html#h%d\">%s</a></p>", sentence(m.r, 40), up, to%50, to, k,
			sentence(m.r, 3))
		fmt.Fprintf(&b, "<img src=\"%spictures/%d/p%04d.jpg\" alt=\"%s\" width=\"320\" height=\"200\"></section>\n",
			up, n%30, n, sentence(m.r, 4))
	}
	b.WriteString("</main>\n<footer class=\"end\"><p>Ridge, a hut of the Highmoor Huts</p><p>" +
		"<a href=\"mailto:ridge@highmoor.example\">Write</a></p></footer>\n</body></html>\n")
	return []byte(b.String())
}
