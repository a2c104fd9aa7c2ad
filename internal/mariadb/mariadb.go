// Package mariadb starts and minds the service's own MariaDB in its data folder.
//
// The server listens on loopback only, on a free port, for one account whose
// password lies beside the data, readable by its owner. An orphan of a killed
// service is found by its pid file and stopped before a new one starts; a server
// that dies is started again on the same port.
package mariadb

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	_ "github.com/go-sql-driver/mysql" // the driver behind ready
)

// Database and Account are what the service uses.
const (
	Database = "compactparcel"
	Account  = "cparcel"
)

// StopPatience is how long the server may take to end by itself.
const StopPatience = 5 * time.Second

// Server is a running MariaDB.
type Server struct {
	dir      string
	port     int
	password string
	log      *slog.Logger

	mu       sync.Mutex
	cmd      *exec.Cmd
	exited   chan struct{}
	stopping bool
	minded   chan struct{}
}

// Start makes the database in dir when there is none, stops an orphan, and
// starts the server. It returns when the server answers.
func Start(ctx context.Context, dir string, log *slog.Logger) (*Server, error) {
	for _, tool := range []string{"mariadbd", "mariadb-install-db"} {
		if _, err := find(tool); err != nil {
			return nil, fmt.Errorf(
				"%s is not installed: install Debian's package mariadb-server, or name a database with --database",
				tool,
			)
		}
	}
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	s := &Server{dir: dir, log: log, minded: make(chan struct{})}
	if err := os.MkdirAll(s.scratch(), 0o700); err != nil {
		return nil, err
	}
	if err := s.stopOrphan(); err != nil {
		return nil, err
	}
	if s.password, err = s.secret(); err != nil {
		return nil, err
	}
	if err := s.install(ctx); err != nil {
		return nil, err
	}
	if s.port, err = freePort(); err != nil {
		return nil, err
	}
	if err := s.launch(ctx); err != nil {
		if s.cmd != nil {
			s.cmd.Process.Kill()
			<-s.exited
		}
		return nil, err
	}
	go s.mind()
	return s, nil
}

func find(tool string) (string, error) {
	if p, err := exec.LookPath(tool); err == nil {
		return p, nil
	}
	for _, d := range []string{"/usr/sbin", "/usr/bin", "/usr/local/bin"} {
		if p := filepath.Join(d, tool); exists(p) {
			return p, nil
		}
	}
	return "", exec.ErrNotFound
}

func exists(p string) bool { _, err := os.Stat(p); return err == nil }

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

func (s *Server) secret() (string, error) {
	p := filepath.Join(s.dir, "password")
	if b, err := os.ReadFile(p); err == nil && len(b) >= 32 {
		return strings.TrimSpace(string(b)), nil
	}
	var raw [24]byte
	rand.Read(raw[:])
	secret := hex.EncodeToString(raw[:])
	return secret, os.WriteFile(p, []byte(secret), 0o600)
}

// install makes the system tables in a folder beside and moves it into place, so
// that a broken-off start leaves nothing half made.
func (s *Server) install(ctx context.Context) error {
	data := filepath.Join(s.dir, "data")
	if exists(data) {
		return nil
	}
	half := filepath.Join(s.dir, "data.new")
	if err := os.RemoveAll(half); err != nil {
		return err
	}
	tool, _ := find("mariadb-install-db")
	args := []string{
		"--no-defaults",
		"--datadir=" + half,
		"--skip-test-db",
		"--auth-root-authentication-method=socket",
	}
	if os.Geteuid() == 0 {
		args = append(args, "--user=root")
	}
	s.log.Info("making the database", "folder", data)
	cmd := exec.CommandContext(ctx, tool, args...)
	cmd.Env = append(os.Environ(), "TMPDIR="+s.scratch())
	out, err := cmd.CombinedOutput()
	if err != nil {
		return fmt.Errorf("making the database in %s: %w\n%s", half, err, complaint(out))
	}
	return os.Rename(half, data)
}

// scratch is the folder for temporary tables. It is no other server's: each removes what it
// finds in its own when it starts, and would take another's tables away while they are used.
func (s *Server) scratch() string { return filepath.Join(s.dir, "tmp") }

// complaint is what a program says of its failure: lines that call it an error, else the last.
func complaint(out []byte) string {
	var said []string
	for line := range strings.Lines(string(out)) {
		if strings.Contains(line, "ERROR") {
			said = append(said, line)
		}
	}
	if len(said) == 0 {
		return tail(out)
	}
	return tail([]byte(strings.Join(said, "")))
}

func tail(b []byte) string {
	lines := strings.Split(strings.TrimSpace(string(b)), "\n")
	return strings.Join(lines[max(0, len(lines)-8):], "\n")
}

func (s *Server) pidFile() string { return filepath.Join(s.dir, "mariadb.pid") }

// stopOrphan ends a server that an earlier service left behind. It is ours only
// if its command line names our data folder.
func (s *Server) stopOrphan() error {
	b, err := os.ReadFile(s.pidFile())
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	pid, err := strconv.Atoi(strings.TrimSpace(string(b)))
	if err != nil || pid <= 1 {
		return os.Remove(s.pidFile())
	}
	cmdline, err := os.ReadFile(fmt.Sprintf("/proc/%d/cmdline", pid))
	if err != nil || !strings.Contains(string(cmdline), "--datadir="+filepath.Join(s.dir, "data")) {
		return os.Remove(s.pidFile())
	}
	s.log.Warn("stopping the database server that an earlier service left behind", "pid", pid)
	syscall.Kill(pid, syscall.SIGTERM)
	for i := 0; i < 300; i++ {
		if syscall.Kill(pid, 0) != nil {
			return os.Remove(s.pidFile())
		}
		if i == 200 {
			syscall.Kill(pid, syscall.SIGKILL)
		}
		time.Sleep(50 * time.Millisecond)
	}
	return fmt.Errorf("an earlier database server (pid %d) does not end: stop it by hand", pid)
}

// Running gives the address of the server that a service minds in dir now.
func Running(dir string) (string, error) {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return "", err
	}
	s := &Server{dir: dir}
	b, err := os.ReadFile(s.pidFile())
	if err != nil {
		return "", err
	}
	cmdline, err := os.ReadFile(filepath.Join("/proc", strings.TrimSpace(string(b)), "cmdline"))
	if err != nil || !strings.Contains(string(cmdline), "--datadir="+filepath.Join(dir, "data")) {
		return "", fmt.Errorf("no server runs in %s", dir)
	}
	for _, arg := range strings.Split(string(cmdline), "\x00") {
		if port, ok := strings.CutPrefix(arg, "--port="); ok {
			if s.port, err = strconv.Atoi(port); err != nil {
				return "", err
			}
		}
	}
	if s.password, err = s.secret(); err != nil {
		return "", err
	}
	return s.DSN(), nil
}

func (s *Server) socket() string {
	p := filepath.Join(s.dir, "mariadb.sock")
	if len(p) < 100 {
		return p
	}
	sum := sha256.Sum256([]byte(s.dir))
	return filepath.Join(os.TempDir(), "cparcel-"+hex.EncodeToString(sum[:6])+".sock")
}

func (s *Server) launch(ctx context.Context) error {
	script := fmt.Sprintf(
		"CREATE DATABASE IF NOT EXISTS %s CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin;\nCREATE OR REPLACE "+
			"USER %s@'127.0.0.1' IDENTIFIED BY '%s';\nGRANT ALL ON %s.* TO %s@'127.0.0.1';\n",
		Database,
		Account,
		s.password,
		Database,
		Account,
	)
	initFile := filepath.Join(s.dir, "start.sql")
	if err := os.WriteFile(initFile, []byte(script), 0o600); err != nil {
		return err
	}
	logFile, err := os.OpenFile(filepath.Join(s.dir, "mariadb.log"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	defer logFile.Close()
	tool, _ := find("mariadbd")
	args := []string{
		"--no-defaults",
		"--datadir=" + filepath.Join(s.dir, "data"),
		"--tmpdir=" + s.scratch(),
		"--socket=" + s.socket(),
		"--bind-address=127.0.0.1",
		fmt.Sprintf("--port=%d", s.port),
		"--init-file=" + initFile,
		"--skip-name-resolve",
		"--skip-log-bin",
		"--skip-symbolic-links", // a table lies where the server keeps it, whatever its definition says
		"--skip-local-infile",
		"--max-allowed-packet=64M",
		"--innodb-buffer-pool-size=192M",
		"--innodb-log-file-size=64M",
		"--innodb-flush-log-at-trx-commit=1",
		"--max-connections=200",
		"--performance-schema=OFF",
		"--transaction-isolation=READ-COMMITTED",
		"--innodb-fast-shutdown=1",
	}
	if os.Geteuid() == 0 {
		args = append(args, "--user=root")
	}
	cmd := exec.Command(tool, args...)
	cmd.Stdout, cmd.Stderr = logFile, logFile
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true} // a Ctrl-C is for us; we stop it in order
	if err := cmd.Start(); err != nil {
		return fmt.Errorf("starting mariadbd: %w", err)
	}
	if err := os.WriteFile(s.pidFile(), []byte(strconv.Itoa(cmd.Process.Pid)), 0o600); err != nil {
		return err
	}
	exited := make(chan struct{})
	go func() { cmd.Wait(); close(exited) }()
	s.mu.Lock()
	s.cmd, s.exited = cmd, exited
	s.mu.Unlock()
	return s.ready(ctx, exited)
}

func (s *Server) ready(ctx context.Context, exited chan struct{}) error {
	db, err := sql.Open("mysql", s.DSN())
	if err != nil {
		return err
	}
	defer db.Close()
	deadline := time.Now().Add(60 * time.Second)
	for {
		if err = db.PingContext(ctx); err == nil {
			return nil
		}
		select {
		case <-exited:
			b, _ := os.ReadFile(filepath.Join(s.dir, "mariadb.log"))
			return fmt.Errorf("mariadbd ended at once:\n%s", tail(b))
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(50 * time.Millisecond):
		}
		if time.Now().After(deadline) {
			return fmt.Errorf("mariadbd does not answer: %w", err)
		}
	}
}

// mind starts the server again when it dies.
func (s *Server) mind() {
	defer close(s.minded)
	for {
		s.mu.Lock()
		exited := s.exited
		s.mu.Unlock()
		<-exited
		s.mu.Lock()
		stopping := s.stopping
		s.mu.Unlock()
		if stopping {
			return
		}
		s.log.Error("the database server died; starting it again")
		for wait := 200 * time.Millisecond; ; wait = min(2*wait, 5*time.Second) {
			ctx, cancel := context.WithTimeout(context.Background(), 90*time.Second)
			err := s.launch(ctx)
			cancel()
			s.mu.Lock()
			stopping = s.stopping
			s.mu.Unlock()
			if err == nil || stopping {
				break
			}
			s.log.Error("the database server does not start", "error", err)
			time.Sleep(wait)
		}
	}
}

// DSN is the address for the MySQL driver.
func (s *Server) DSN() string {
	return fmt.Sprintf("%s:%s@tcp(127.0.0.1:%d)/%s?charset=utf8mb4&parseTime=true&loc=UTC", Account, s.password,
		s.port, Database)
}

// PID is the server's process id, for operations and tests.
func (s *Server) PID() int {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.cmd.Process.Pid
}

// Stop ends the server in order and waits for it.
func (s *Server) Stop() error {
	s.mu.Lock()
	s.stopping = true
	cmd, exited := s.cmd, s.exited
	s.mu.Unlock()
	cmd.Process.Signal(syscall.SIGTERM)
	select {
	case <-exited:
	case <-time.After(StopPatience): // what it was told is committed survives that
		cmd.Process.Kill()
		<-exited
	}
	<-s.minded
	os.Remove(s.pidFile())
	return nil
}
