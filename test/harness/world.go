package harness

import (
	"bufio"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"

	"github.com/stretchr/testify/require"
)

// worlds are data folders as a service left them that brought a demo world in and was stopped, by the flag that asks
// for it. Making one takes seconds; copying it does not.
var worlds = struct {
	mu   sync.Mutex
	made map[string]func() (string, error)
}{made: map[string]func() (string, error){}}

// lay copies the world that a service's arguments ask for into an empty data folder.
func lay(t testing.TB, data string, args []string) {
	t.Helper()
	flag := ""
	for _, a := range args {
		if strings.HasPrefix(a, "--demo") {
			flag = a
		}
	}
	bin := filepath.Join(Binaries(t), "cparceld")
	worlds.mu.Lock()
	dir, ok := worlds.made[flag]
	if !ok {
		dir = sync.OnceValues(func() (string, error) { return makeWorld(bin, flag) })
		worlds.made[flag] = dir
	}
	worlds.mu.Unlock()
	from, err := dir()
	require.NoError(t, err)
	out, err := exec.Command("cp", "-a", "--reflink=auto", from+"/.", data).CombinedOutput()
	require.NoError(t, err, string(out))
}

// makeWorld lets a service make a data folder, and stops it; the folder goes when the package's tests are done.
func makeWorld(bin, flag string) (string, error) {
	dir, err := os.MkdirTemp("", "cparcel-world-")
	if err != nil {
		return "", err
	}
	atEnd(func() { os.RemoveAll(dir) })
	args := []string{"serve", "--data", dir, "--listen", "127.0.0.1:0", "--previews", "127.0.0.1:0", "--forms",
		"127.0.0.1:0", "--browser", "none", "--output", "json"}
	if flag != "" {
		args = append(args, flag)
	}
	cmd := exec.Command(bin, args...)
	for _, e := range os.Environ() { // what a test sets for its own service is not for the world of all
		if !strings.HasPrefix(e, "CPARCEL_") {
			cmd.Env = append(cmd.Env, e)
		}
	}
	var log strings.Builder
	cmd.Stderr = &log
	out, err := cmd.StdoutPipe()
	if err != nil {
		return "", err
	}
	if err := cmd.Start(); err != nil {
		return "", err
	}
	said := false
	for in := bufio.NewScanner(out); in.Scan(); { // it says one line, once it is ready
		said = true
		cmd.Process.Signal(syscall.SIGTERM)
	}
	if err = cmd.Wait(); err == nil && !said {
		err = errors.New("it ended before it was ready")
	}
	if err != nil {
		return "", fmt.Errorf("making the world %q: %w\n%s", flag, err, log.String())
	}
	return dir, nil
}
