// Package service puts the floors together into a running service, and takes it
// down again in order.
package service

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"time"

	"compactparcel/demo"
	"compactparcel/internal/blob"
	"compactparcel/internal/console"
	"compactparcel/internal/desk"
	"compactparcel/internal/httpapi"
	"compactparcel/internal/jobs"
	"compactparcel/internal/mariadb"
	"compactparcel/internal/preview"
	"compactparcel/internal/store"

	"golang.org/x/sys/unix"
)

// Config says how a service runs.
type Config struct {
	Data           string
	Listen         string
	Previews       string
	PreviewPattern string // empty: http://{host}.localhost:PORT of Previews
	Database       string // empty: a MariaDB of its own in the data folder
	Outlets        string // the folder below which sites are published by going live
	Demo           string // how much of the demo is brought in: see package demo; empty: nothing
	SecureCookies  bool
	ConsoleOrigins []string // besides the address it listens on
}

// Service is a running service.
type Service struct {
	cfg      Config
	log      *slog.Logger
	lock     *os.File
	db       *mariadb.Server
	store    *store.Store
	servers  []*http.Server
	failed   chan error
	stopJobs context.CancelFunc
	jobsDone chan struct{}
}

// lockFolder makes sure that one service works in a data folder.
func lockFolder(dir string) (*os.File, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("the data folder: %w", err)
	}
	f, err := os.OpenFile(filepath.Join(dir, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, fmt.Errorf("the data folder: %w", err)
	}
	if err := unix.Flock(int(f.Fd()), unix.LOCK_EX|unix.LOCK_NB); err != nil {
		f.Close()
		return nil, fmt.Errorf("another service works in the data folder %s: stop it first, or name another folder with --data", dir)
	}
	return f, nil
}

// secretOf reads the folder's secret, or makes one.
func secretOf(dir string) ([]byte, error) {
	p := filepath.Join(dir, "secret")
	if b, err := os.ReadFile(p); err == nil && len(b) == 32 {
		return b, nil
	}
	b := make([]byte, 32)
	rand.Read(b)
	return b, os.WriteFile(p, b, 0o600)
}

// Start starts a service and says on out where it is. When it returns, it is ready.
func Start(ctx context.Context, cfg Config, log *slog.Logger, out io.Writer) (s *Service, err error) {
	s = &Service{cfg: cfg, log: log, failed: make(chan error, 4)}
	defer func() {
		if err != nil {
			s.Stop()
		}
	}()
	// The listeners first: an address that is taken should be told at once.
	listen, err := net.Listen("tcp", cfg.Listen)
	if err != nil {
		return s, fmt.Errorf("listening on %s: %w; name another address with --listen", cfg.Listen, err)
	}
	defer func() {
		if err != nil {
			listen.Close()
		}
	}()
	previews, err := net.Listen("tcp", cfg.Previews)
	if err != nil {
		return s, fmt.Errorf("listening on %s: %w; name another address with --previews", cfg.Previews, err)
	}
	defer func() {
		if err != nil {
			previews.Close()
		}
	}()
	if s.lock, err = lockFolder(cfg.Data); err != nil {
		return s, err
	}
	dsn := cfg.Database
	if dsn == "" {
		if s.db, err = mariadb.Start(ctx, filepath.Join(cfg.Data, "mariadb"), log); err != nil {
			return s, err
		}
		dsn = s.db.DSN()
	}
	blobs, err := blob.Open(filepath.Join(cfg.Data, "blobs"))
	if err != nil {
		return s, err
	}
	if s.store, err = store.Open(ctx, dsn, blobs); err != nil {
		return s, err
	}
	secret, err := secretOf(cfg.Data)
	if err != nil {
		return s, err
	}
	d := desk.New(s.store, log)
	d.OutletRoot = cfg.Outlets
	if d.OutletRoot == "" {
		d.OutletRoot = filepath.Join(cfg.Data, "outlets")
	}
	token := ""
	if cfg.Demo != "" {
		if token, err = demo.Load(ctx, d, cfg.Demo); err != nil {
			return s, err
		}
		if err = demo.WriteLoose(filepath.Join(cfg.Data, demo.Loose)); err != nil {
			return s, err
		}
	}
	consoleAt := "http://" + listen.Addr().String()
	_, port, _ := net.SplitHostPort(previews.Addr().String())
	pattern := cfg.PreviewPattern
	if pattern == "" {
		pattern = "http://{host}.localhost:" + port
	}
	_, consolePort, _ := net.SplitHostPort(listen.Addr().String())
	framers := append([]string{"'self'", consoleAt, "http://localhost:" + consolePort}, cfg.ConsoleOrigins...)
	shown := &preview.Previews{Store: s.store, Log: log, Pattern: pattern, Framers: framers, Secret: secret, InMaking: d.KitInMaking, AsPlanned: d.DeliveryAsPlanned}
	server := &httpapi.Server{Desk: d, Previews: shown, Log: log, Console: console.Handler(), Ready: s.store.Ping, SecureCookies: cfg.SecureCookies}
	s.serve(listen, server.Handler())
	s.serve(previews, shown)
	s.work(d)
	fmt.Fprintf(out, "Console:  %s\nPreviews: %s\n", consoleAt, strings.ReplaceAll(pattern, "{host}", "SITE"))
	if cfg.Demo != "" {
		fmt.Fprintf(out, "Sign in:  ida / %s (a keeper; also warden, tomas, visitor)\nToken:    %s\n", demo.Password, token)
		fmt.Fprintf(out, "A static site to adopt: %s\n", filepath.Join(cfg.Data, demo.Loose))
	}
	link, err := d.SetupLink(ctx)
	if err != nil {
		return s, err
	}
	if link != "" {
		fmt.Fprintf(out, "There is no user yet. Make the first admin here, once, within a day:\n  %s/set-up#%s\n", consoleAt, link)
	}
	return s, nil
}

func (s *Service) serve(l net.Listener, h http.Handler) {
	server := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute, ErrorLog: slog.NewLogLogger(s.log.Handler(), slog.LevelWarn)}
	s.servers = append(s.servers, server)
	go func() {
		if err := server.Serve(l); !errors.Is(err, http.ErrServerClosed) {
			s.failed <- err
		}
	}()
}

// work does the queue's jobs.
func (s *Service) work(d *desk.Desk) {
	ctx, cancel := context.WithCancel(context.Background())
	s.stopJobs, s.jobsDone = cancel, make(chan struct{})
	q := &jobs.Queue{Store: s.store, Log: s.log, Now: d.Now, Handlers: map[string]jobs.Handler{"sweep": d.Sweep}}
	go func() {
		defer close(s.jobsDone)
		go func() {
			for {
				if err := q.Ensure(ctx, "sweep", d.Now().Add(time.Minute)); err != nil && ctx.Err() == nil {
					s.log.Warn("planning the sweep", "error", err)
				}
				select {
				case <-ctx.Done():
					return
				case <-time.After(6 * time.Hour):
				}
			}
		}()
		go func() {
			for {
				if err := d.CatchUpOutlets(ctx); err != nil && ctx.Err() == nil {
					s.log.Warn("outlets", "error", err)
				}
				select {
				case <-ctx.Done():
					return
				case <-time.After(desk.CatchUpEvery):
				}
			}
		}()
		q.Run(ctx)
	}()
}

// Failed tells of a listener that broke off.
func (s *Service) Failed() <-chan error { return s.failed }

// Stop lets requests finish, then takes everything down in order.
func (s *Service) Stop() {
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	defer cancel()
	for _, server := range s.servers {
		if err := server.Shutdown(ctx); err != nil {
			s.log.Warn("stopping", "error", err)
		}
	}
	if s.stopJobs != nil {
		s.stopJobs()
		<-s.jobsDone
	}
	if s.store != nil {
		s.store.Close()
	}
	if s.db != nil {
		s.db.Stop()
	}
	if s.lock != nil {
		s.lock.Close()
	}
}
