package client

import (
	"encoding/json"
	"fmt"
	"os"
	"strings"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/jedib0t/go-pretty/v6/text"
	"golang.org/x/term"
)

func (a *app) paint(c text.Colors, s string) string {
	if !a.colour {
		return s
	}
	return c.Sprint(s)
}

func (a *app) bad(s string) string   { return a.paint(text.Colors{text.FgRed, text.Bold}, s) }
func (a *app) mark(s string) string  { return a.paint(text.Colors{text.FgMagenta, text.Bold}, s) }
func (a *app) good(s string) string  { return a.paint(text.Colors{text.FgGreen}, s) }
func (a *app) quiet(s string) string { return a.paint(text.Colors{text.Faint}, s) }

// print writes a value as JSON, or calls the writer of its table.
func (a *app) print(v any, people func()) error {
	if a.output == "json" {
		enc := json.NewEncoder(a.out)
		enc.SetIndent("", "  ")
		enc.SetEscapeHTML(false)
		return enc.Encode(v)
	}
	people()
	return nil
}

func (a *app) say(format string, args ...any) { fmt.Fprintf(a.out, format+"\n", args...) }

// table prints rows under headings. A table of nothing says what to do instead.
func (a *app) table(empty string, heads []string, rows [][]any) {
	if len(rows) == 0 {
		a.say("%s", empty)
		return
	}
	t := table.NewWriter()
	style := table.StyleLight
	style.Options = table.OptionsNoBordersAndSeparators
	style.Options.SeparateHeader = true
	style.Box.PaddingLeft, style.Box.PaddingRight = "", "  "
	t.SetStyle(style)
	width := 100
	if f, ok := a.out.(*os.File); ok {
		if w, _, err := term.GetSize(int(f.Fd())); err == nil && w > 40 {
			width = w
		}
	}
	head := make(table.Row, len(heads))
	for i, h := range heads {
		head[i] = h
	}
	t.AppendHeader(head)
	for _, r := range rows {
		t.AppendRow(table.Row(r))
	}
	// The last column takes what is left of the line.
	used := 0
	for i := range heads[:len(heads)-1] {
		w := len(heads[i])
		for _, r := range rows {
			for _, line := range strings.Split(text.StripEscape(fmt.Sprint(r[i])), "\n") {
				w = max(w, len([]rune(line)))
			}
		}
		used += w + 2
	}
	t.SetColumnConfigs(
		[]table.ColumnConfig{{Number: len(heads), WidthMax: max(24, width-used-2), WidthMaxEnforcer: wrapWords}},
	)
	for _, line := range strings.Split(t.Render(), "\n") {
		fmt.Fprintln(a.out, strings.TrimRight(line, " "))
	}
}

func weight(n int64) string {
	switch {
	case n >= 1<<20:
		return fmt.Sprintf("%.1f MB", float64(n)/(1<<20))
	case n >= 1<<10:
		return fmt.Sprintf("%.1f KB", float64(n)/(1<<10))
	}
	return fmt.Sprintf("%d B", n)
}

func short(d string) string {
	if len(d) > 12 {
		return d[:12]
	}
	return d
}

// wrapWords breaks lines between words and leaves an address in one piece.
func wrapWords(s string, width int) string {
	if !strings.Contains(s, " ") {
		return s
	}
	return text.WrapSoft(s, width)
}

// sentence begins what was done with a capital, but where it begins with the address of an item.
func sentence(s string) string {
	first, _, _ := strings.Cut(s, " ")
	if s == "" || strings.Contains(first, "/") {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}
