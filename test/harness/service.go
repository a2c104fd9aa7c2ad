// Package harness runs the real thing for the end-to-end tests: the service as a
// process with a MariaDB of its own, the client as a process, and a browser.
package harness

import (
	"bufio"
	"bytes"
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"compactparcel/internal/mariadb"

	"github.com/stretchr/testify/require"
)

var (
	buildOnce sync.Once
	binDir    string
	buildErr  error
)

// Binaries gives the folder of the service and the client: CPARCEL_BIN, or where they are built once for the package.
func Binaries(t testing.TB) string {
	t.Helper()
	if dir := os.Getenv("CPARCEL_BIN"); dir != "" {
		return dir
	}
	buildOnce.Do(func() {
		binDir, buildErr = os.MkdirTemp("", "cparcel-bin-")
		if buildErr != nil {
			return
		}
		atEnd(func() { os.RemoveAll(binDir) })
		out, err := exec.Command("go", "build", "-o", binDir+"/", "compactparcel/cmd/cparceld",
			"compactparcel/cmd/cparcel").
			CombinedOutput()
		if err != nil {
			buildErr = fmt.Errorf("building: %w\n%s", err, out)
		}
	})
	require.NoError(t, buildErr)
	return binDir
}

// Service is a running service.
type Service struct {
	Data    string
	Console string // http://127.0.0.1:PORT
	Preview string // port of the previews
	Token   string
	Said    Said

	t    testing.TB
	cmd  *exec.Cmd
	args []string
	log  *bytes.Buffer
	done chan struct{}
}

// Said is what a service says once it is ready, with --output json.
type Said struct {
	Console, Previews, PreviewsAt, Forms, Token, SetUp string
}

// Start starts a service in a folder of its own, where the world that its flags ask for is already; it is stopped when
// the test ends. args are further flags.
func Start(t testing.TB, args ...string) *Service {
	t.Helper()
	data, err := os.MkdirTemp("", "cparcel-data-")
	require.NoError(t, err)
	t.Cleanup(func() { os.RemoveAll(data) })
	lay(t, data, args)
	return StartAt(t, data, args...)
}

// StartAt is Start in a folder that is there already, and stays.
func StartAt(t testing.TB, data string, args ...string) *Service {
	t.Helper()
	browser := "none" // one for each test would be too many
	if os.Getenv("CPARCEL_SHOTS") != "" {
		browser = "auto"
	}
	s := &Service{
		Data: data,
		t:    t,
		args: append([]string{"--data", data, "--forms", "127.0.0.1:0", "--browser", browser, "--output", "json"},
			args...),
	}
	t.Cleanup(func() {
		s.Stop()
		if t.Failed() {
			t.Logf("the service's log:\n%s", s.log.String())
		}
	})
	s.Up()
	return s
}

// Up starts the process, and waits until it says that it is ready; after a Kill again, at the ports that it had.
func (s *Service) Up() {
	s.t.Helper()
	listen, previews := "127.0.0.1:0", "127.0.0.1:0"
	if s.Console != "" {
		listen, previews = strings.TrimPrefix(s.Console, "http://"), "127.0.0.1:"+s.Preview
	}
	for try := 1; ; try++ {
		err := s.up(listen, previews)
		if err == nil {
			break
		}
		// Whoever connected from one of its ports meanwhile goes soon.
		if try == 20 || !strings.Contains(err.Error(), "address already in use") {
			s.t.Fatalf("the service ended at once: %v", err)
		}
		time.Sleep(500 * time.Millisecond)
	}
	s.Console, s.Token = s.Said.Console, cmp.Or(s.Said.Token, s.Token)
	_, s.Preview, _ = strings.Cut(strings.TrimPrefix(s.Said.PreviewsAt, "http://"), ":")
}

// up starts the process once; its error is what it logged, if it ended before it was ready.
func (s *Service) up(listen, previews string) error {
	s.cmd = exec.Command(filepath.Join(Binaries(s.t), "cparceld"),
		append([]string{"serve", "--listen", listen, "--previews", previews}, s.args...)...)
	out, err := s.cmd.StdoutPipe()
	require.NoError(s.t, err)
	s.log = &bytes.Buffer{}
	s.cmd.Stderr = s.log
	require.NoError(s.t, s.cmd.Start())
	s.done = make(chan struct{})
	ready := make(chan error, 1)
	go func() {
		in := bufio.NewReader(out)
		line, err := in.ReadBytes('\n')
		if err == nil {
			err = json.Unmarshal(line, &s.Said)
			ready <- err
		}
		io.Copy(io.Discard, in)
		s.cmd.Wait()
		close(s.done)
	}()
	select {
	case err := <-ready:
		return err
	case <-s.done:
		return errors.New(s.log.String())
	case <-time.After(2 * time.Minute):
		s.cmd.Process.Kill()
		<-s.done
		return fmt.Errorf("it was not ready within two minutes: %s", s.log.String())
	}
}

// ended tells whether the process is no more.
func (s *Service) ended() bool {
	select {
	case <-s.done:
		return true
	default:
		return false
	}
}

// Kill ends the process with kill -9; its MariaDB is left an orphan.
func (s *Service) Kill() {
	s.cmd.Process.Signal(syscall.SIGKILL)
	<-s.done
}

// Stop ends the service in order.
func (s *Service) Stop() {
	if s.cmd == nil {
		return
	}
	if !s.ended() {
		s.cmd.Process.Signal(syscall.SIGTERM)
		select {
		case <-s.done:
		case <-time.After(40 * time.Second):
			s.cmd.Process.Kill()
			<-s.done
		}
	}
	if pid := s.MariaDB(); pid > 0 { // an orphan of a killed service
		syscall.Kill(pid, syscall.SIGKILL)
	}
}

// MariaDB gives the process id of the service's database server, or 0.
func (s *Service) MariaDB() int {
	b, err := os.ReadFile(filepath.Join(s.Data, "mariadb", "mariadb.pid"))
	if err != nil {
		return 0
	}
	pid, _ := strconv.Atoi(strings.TrimSpace(string(b)))
	if syscall.Kill(pid, 0) != nil {
		return 0
	}
	return pid
}

// Ran is what a run of the client gave.
type Ran struct {
	Code     int
	Out, Err string
}

// Client runs the client as a process against the service.
func (s *Service) Client(args ...string) Ran { return s.ClientIn("", args...) }

// ClientIn is Client with a standard input.
func (s *Service) ClientIn(in string, args ...string) Ran {
	cmd := exec.Command(filepath.Join(Binaries(s.t), "cparcel"), args...)
	cmd.Env = append(os.Environ(), "CPARCEL_SERVER="+s.Console, "CPARCEL_TOKEN="+s.Token, "XDG_CONFIG_HOME="+s.Data,
		"XDG_CACHE_HOME="+s.Data)
	cmd.Stdin = strings.NewReader(in)
	var out, errOut bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errOut
	err := cmd.Run()
	r := Ran{Out: out.String(), Err: errOut.String(), Code: cmd.ProcessState.ExitCode()}
	if exited := new(exec.ExitError); err != nil && !errors.As(err, &exited) {
		s.t.Fatalf("running the client: %v", err)
	}
	return r
}

// Must runs the client, which must end with 0, and gives its output.
func (s *Service) Must(args ...string) string {
	s.t.Helper()
	r := s.Client(args...)
	require.Equal(s.t, 0, r.Code, "cparcel %s\n%s%s", strings.Join(args, " "), r.Out, r.Err)
	return r.Out
}

// JSON runs the client with -o json and reads its output into v.
func (s *Service) JSON(v any, args ...string) {
	s.t.Helper()
	require.NoError(s.t, json.Unmarshal([]byte(s.Must(append(args, "-o", "json")...)), v))
}

// Reply is what a request was answered with.
type Reply struct {
	Status int
	Header http.Header
	Body   []byte
}

// Into reads the body as JSON.
func (r Reply) Into(t testing.TB, v any) {
	t.Helper()
	require.NoError(t, json.Unmarshal(r.Body, v), string(r.Body))
}

// Call sends a request to the interface; every answer is held against openapi.yaml.
func (s *Service) Call(method, path string, body any, headers ...string) Reply {
	s.t.Helper()
	var in io.Reader
	switch b := body.(type) {
	case nil:
	case []byte:
		in = bytes.NewReader(b)
	default:
		text, err := json.Marshal(b)
		require.NoError(s.t, err)
		in = bytes.NewReader(text)
		headers = append([]string{"Content-Type", "application/json"}, headers...)
	}
	req, err := http.NewRequestWithContext(context.Background(), method, s.Console+path, in)
	require.NoError(s.t, err)
	req.Header.Set("Authorization", "Bearer "+s.Token)
	for i := 0; i+1 < len(headers); i += 2 {
		if headers[i+1] == "" {
			req.Header.Del(headers[i])
			continue
		}
		req.Header.Set(headers[i], headers[i+1])
	}
	r, err := http.DefaultClient.Do(req)
	require.NoError(s.t, err)
	defer r.Body.Close()
	out, err := io.ReadAll(r.Body)
	require.NoError(s.t, err)
	hold(s.t, req, r, out)
	return Reply{r.StatusCode, r.Header, out}
}

// Visit fetches a page of a preview as a browser would, by its Host header: Go
// does not resolve *.localhost. at is a preview's address, with a path behind it; headers
// come as names and values.
func (s *Service) Visit(at string, headers ...string) Reply {
	s.t.Helper()
	rest, ok := strings.CutPrefix(at, "http://")
	require.True(s.t, ok, at)
	host, path, _ := strings.Cut(rest, "/")
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Minute) // one that hangs fails here
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, "http://127.0.0.1:"+s.Preview+"/"+path, nil)
	require.NoError(s.t, err)
	req.Host = host
	for i := 0; i+1 < len(headers); i += 2 {
		req.Header.Set(headers[i], headers[i+1])
	}
	r, err := http.DefaultTransport.RoundTrip(req)
	require.NoError(s.t, err)
	defer r.Body.Close()
	out, err := io.ReadAll(r.Body)
	require.NoError(s.t, err)
	return Reply{r.StatusCode, r.Header, out}
}

// Live is the address of a site's live preview.
func (s *Service) Live(site string) string { return "http://" + site + ".localhost:" + s.Preview }

// Second tries to start another service in the same data folder.
func Second(t testing.TB, s *Service) Ran {
	t.Helper()
	var out, errOut bytes.Buffer
	cmd := exec.Command(filepath.Join(Binaries(t), "cparceld"), "serve", "--data", s.Data, "--listen", "127.0.0.1:0",
		"--previews", "127.0.0.1:0", "--forms", "")
	cmd.Stdout, cmd.Stderr = &out, &errOut
	cmd.Run() // its exit code is what is asked for
	return Ran{Code: cmd.ProcessState.ExitCode(), Out: out.String(), Err: errOut.String()}
}

// PID is the service's process id.
func (s *Service) PID() int { return s.cmd.Process.Pid }

// Logged is what the service has logged since it was started the last time.
func (s *Service) Logged() string { return s.log.String() }

// SQL runs a statement in the service's database, as somebody who damages it would.
func (s *Service) SQL(t testing.TB, text string) {
	t.Helper()
	dsn, err := mariadb.Running(filepath.Join(s.Data, "mariadb"))
	require.NoError(t, err)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec(text)
	require.NoError(t, err, text)
}

// DialPreview opens a connection to the previews.
func (s *Service) DialPreview(t testing.TB) net.Conn {
	t.Helper()
	c, err := net.Dial("tcp", "127.0.0.1:"+s.Preview)
	require.NoError(t, err)
	return c
}
