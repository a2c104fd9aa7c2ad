package client

import (
	"bufio"
	"os"

	"golang.org/x/term"
)

// someoneThere tells whether questions can be asked: the input is a terminal.
func (a *app) someoneThere() bool {
	f, ok := a.in.(*os.File)
	return ok && term.IsTerminal(int(f.Fd()))
}

// readLine reads one answer. The reader is kept: it may have read on.
func (a *app) readLine() (string, error) {
	if a.lines == nil {
		a.lines = bufio.NewReader(a.in)
	}
	return a.lines.ReadString('\n')
}
