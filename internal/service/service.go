// Package service puts the floors together into a running service, and takes it
// down again in order.
package service

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"compactparcel/core/item"
	"compactparcel/demo"
	"compactparcel/internal/blob"
	"compactparcel/internal/console"
	"compactparcel/internal/desk"
	"compactparcel/internal/forms"
	"compactparcel/internal/httpapi"
	"compactparcel/internal/jobs"
	"compactparcel/internal/mail"
	"compactparcel/internal/mariadb"
	"compactparcel/internal/pictures"
	"compactparcel/internal/preview"
	"compactparcel/internal/store"
	"compactparcel/internal/uploads"

	"golang.org/x/sys/unix"
)

// Service is a running service.
type Service struct {
	cfg      Config
	log      *slog.Logger
	lock     *os.File
	db       *mariadb.Server
	store    *store.Store
	desk     *desk.Desk
	servers  []*http.Server
	failed   chan error
	mails    *mail.StandIn // of the demo
	stopping chan struct{}
	stopOnce sync.Once
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
		return nil, fmt.Errorf(
			"another service works in the data folder %s: stop it first, or name another folder with --data", dir)
	}
	return f, nil
}

// secretOf reads the folder's secret, or makes one.
func secretOf(dir string) ([]byte, error) {
	p := filepath.Join(dir, "secret")
	b, err := os.ReadFile(p)
	if err == nil && len(b) == 32 {
		return b, nil
	}
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("the secret of the data folder: %w", err)
	}
	b = make([]byte, 32)
	rand.Read(b)
	return b, os.WriteFile(p, b, 0o600)
}

// Start starts a service and says on out where it is. When it returns, it is ready.
func Start(ctx context.Context, cfg Config, log *slog.Logger, out io.Writer) (s *Service, err error) {
	s = &Service{cfg: cfg, log: log, failed: make(chan error, 4), stopping: make(chan struct{})}
	defer func() {
		if err != nil {
			s.Stop()
		}
	}()
	// The listeners first: an address that is taken should be told at once.
	listen, err := listenOn(cfg.Listen, "--listen")
	if err != nil {
		return s, err
	}
	defer closeOn(&err, listen)
	previews, err := listenOn(cfg.Previews, "--previews")
	if err != nil {
		return s, err
	}
	defer closeOn(&err, previews)
	formsAt, err := s.listenForms()
	if err != nil {
		return s, err
	}
	defer closeOn(&err, formsAt)
	scratch, err := s.openData(ctx)
	if err != nil {
		return s, err
	}
	secret, err := secretOf(cfg.Data)
	if err != nil {
		return s, err
	}
	d := desk.New(s.store, log)
	s.desk = d
	d.OutletRoot, d.Scratch = cmp.Or(cfg.Outlets, filepath.Join(cfg.Data, "outlets")), scratch
	if err := s.post(d, formsAt); err != nil {
		return s, err
	}
	token, err := s.loadDemo(ctx, d)
	if err != nil {
		return s, err
	}
	consoleAt, previewsAt := "http://"+listen.Addr().String(), "http://"+previews.Addr().String()
	_, port, _ := net.SplitHostPort(previews.Addr().String())
	pattern := cfg.PreviewPattern
	if pattern == "" {
		pattern = "http://{host}.localhost:" + port
	}
	_, consolePort, _ := net.SplitHostPort(listen.Addr().String())
	framers := append([]string{"'self'", consoleAt, "http://localhost:" + consolePort}, cfg.ConsoleOrigins...)
	shown := &preview.Previews{
		Store:     s.store,
		Log:       log,
		Pattern:   pattern,
		Framers:   framers,
		Secret:    secret,
		InMaking:  d.KitInMaking,
		AsPlanned: d.DeliveryAsPlanned,
	}
	shots, err := s.interfaceOn(listen, d, shown, pattern)
	if err != nil {
		return s, err
	}
	s.serve(previews, shown)
	if cfg.Demo == demo.Lived {
		if err := s.firstPictures(ctx, out, d, shown, shots); err != nil {
			return s, err
		}
	}
	link, err := d.SetupLink(ctx)
	if err != nil {
		return s, err
	}
	return s, s.tell(out, Said{Console: consoleAt, PreviewsAt: previewsAt,
		Previews: strings.ReplaceAll(pattern, "{host}", "SITE"), Forms: d.FormsAt, Token: token, SetUp: link})
}

// interfaceOn serves console and interface, and begins what the service does by itself.
func (s *Service) interfaceOn(
	l net.Listener, d *desk.Desk, shown *preview.Previews, pattern string,
) (*pictures.Pictures, error) {
	shots, err := s.pictures(d, shown)
	if err != nil {
		return nil, err
	}
	sent, err := uploads.Open(filepath.Join(s.cfg.Data, "uploads"))
	if err != nil {
		return nil, err
	}
	server := &httpapi.Server{
		Desk:           d,
		Uploads:        sent,
		Previews:       shown,
		Pictures:       shots,
		Log:            s.log,
		Console:        console.Handler(framed(pattern)),
		Ready:          s.store.Ping,
		SecureCookies:  s.cfg.SecureCookies,
		Names:          s.cfg.names(),
		TrustedProxies: s.cfg.TrustedProxies,
		Stopping:       s.stopping,
	}
	handler, err := server.Handler()
	if err != nil {
		return nil, err
	}
	s.serve(l, handler)
	s.work(d, shots, sent)
	return shots, nil
}

// loadDemo brings the demo in, if it is asked for, and gives an access token for it.
func (s *Service) loadDemo(ctx context.Context, d *desk.Desk) (token string, err error) {
	if s.cfg.Demo == "" {
		return "", nil
	}
	if token, err = demo.Load(ctx, d, s.cfg.Demo); err != nil {
		return "", err
	}
	return token, demo.WriteLoose(filepath.Join(s.cfg.Data, demo.Loose))
}

func listenOn(address, option string) (net.Listener, error) {
	l, err := net.Listen("tcp", address)
	if err != nil {
		return nil, fmt.Errorf("listening on %s: %w; name another address with %s", address, err, option)
	}
	return l, nil
}

// closeOn closes a listener that is not used after an error.
func closeOn(err *error, l net.Listener) {
	if *err != nil && l != nil {
		l.Close()
	}
}

// listenForms listens for forms, if they are received; else it gives nil.
func (s *Service) listenForms() (net.Listener, error) {
	if s.cfg.Forms == "" {
		return nil, nil
	}
	return listenOn(s.cfg.Forms, "--forms")
}

// post lets the desk receive forms and send mails. The demo has a stand-in that keeps them in a folder.
func (s *Service) post(d *desk.Desk, formsAt net.Listener) (err error) {
	cfg := s.cfg
	switch {
	case cfg.SMTP != "":
		d.Mails = &mail.SMTP{Address: cfg.SMTP, From: cfg.MailFrom, User: cfg.SMTPUser, Password: cfg.SMTPPassword}
	case cfg.Demo != "":
		if s.mails, err = mail.StartStandIn(filepath.Join(cfg.Data, "mails")); err != nil {
			return err
		}
		d.Mails = &mail.SMTP{Address: s.mails.Address, From: "forms@highmoor.example"}
	}
	if formsAt == nil {
		return nil
	}
	if d.FormsAt = strings.TrimSuffix(cfg.FormsAddress, "/"); d.FormsAt == "" {
		d.FormsAt = "http://" + formsAt.Addr().String()
	}
	r := &forms.Receiver{Receive: d.ReceiveEntry, TrustedProxies: cfg.TrustedProxies, Log: s.log}
	h, err := r.Handler()
	if err != nil {
		return err
	}
	s.serve(formsAt, h)
	return nil
}

// openData locks the data folder and opens what is in it.
func (s *Service) openData(ctx context.Context) (scratch *blob.Scratch, err error) {
	if s.lock, err = lockFolder(s.cfg.Data); err != nil {
		return nil, err
	}
	if err := checkWhole(s.cfg.Data); err != nil {
		return nil, err
	}
	if scratch, err = blob.OpenScratch(filepath.Join(s.cfg.Data, "scratch")); err != nil {
		return nil, err
	}
	dsn := s.cfg.Database
	if dsn == "" {
		if s.db, err = mariadb.Start(ctx, filepath.Join(s.cfg.Data, "mariadb"), s.log); err != nil {
			return nil, err
		}
		dsn = s.db.DSN()
	}
	blobs, err := blob.Open(filepath.Join(s.cfg.Data, "blobs"))
	if err != nil {
		return nil, err
	}
	s.store, err = store.Open(ctx, dsn, blobs)
	return scratch, err
}

// framed gives the previews as a source of a Content-Security-Policy (CSP 3, 2.3.1), in which
// a star stands for whole labels of a host.
func framed(pattern string) string {
	before, after, ok := strings.Cut(pattern, "{host}")
	if !ok {
		return pattern
	}
	scheme := before[:strings.LastIndexAny(before, "/.")+1] // what stands before the host in its label
	rest := after[max(strings.IndexAny(after, ".:/"), 0):]
	if rest == after && after != "" && !strings.ContainsAny(after[:1], ".:/") {
		rest = ""
	}
	return scheme + "*" + strings.TrimSuffix(rest, "/")
}

func (s *Service) serve(l net.Listener, h http.Handler) {
	server := &http.Server{
		Handler:           recovered(paced(h), s.log),
		ReadHeaderTimeout: 10 * time.Second,
		IdleTimeout:       2 * time.Minute,
		MaxHeaderBytes:    64 << 10,
		ErrorLog:          slog.NewLogLogger(s.log.Handler(), slog.LevelWarn),
	}
	s.servers = append(s.servers, server)
	go func() {
		if err := server.Serve(l); !errors.Is(err, http.ErrServerClosed) {
			s.failed <- err
		}
	}()
}

// work does the queue's jobs, and makes pictures.
func (s *Service) work(d *desk.Desk, shots *pictures.Pictures, sent *uploads.Uploads) {
	ctx, cancel := context.WithCancel(context.Background())
	s.stopJobs, s.jobsDone = cancel, make(chan struct{})
	q := &jobs.Queue{Store: s.store, Log: s.log, Now: d.Now, Handlers: map[string]jobs.Handler{store.SweepJob: d.Sweep,
		store.GoLiveJob: d.GoLiveInTime, store.MailJob: d.SendMail, store.RebaseJob: d.RebaseLater}}
	q.Lanes = []jobs.Lane{
		{Kinds: []string{store.GoLiveJob}, Workers: 1}, // what has a time waits for nothing else
		{Kinds: []string{store.MailJob}, Workers: 2},   // few at once for the one mail server
	}
	var working sync.WaitGroup
	every := func(pause time.Duration, f func()) {
		working.Go(func() {
			for ctx.Err() == nil {
				f()
				select {
				case <-ctx.Done():
				case <-time.After(pause):
				}
			}
		})
	}
	working.Go(func() { s.store.Watch(ctx) })
	working.Go(func() { shots.Run(ctx) })
	working.Go(func() { q.Run(ctx) })
	every(6*time.Hour, func() {
		if err := q.Ensure(ctx, store.SweepJob, d.Now().Add(time.Minute)); err != nil && ctx.Err() == nil {
			s.log.Warn("planning the sweep", "error", err)
		}
	})
	every(10*time.Minute, func() { sent.Sweep(ctx, time.Now(), s.log) })
	every(desk.CatchUpEvery, func() {
		if err := d.CatchUpOutlets(ctx); err != nil && ctx.Err() == nil {
			s.log.Warn("outlets", "error", err)
		}
	})
	go func() { working.Wait(); close(s.jobsDone) }()
}

// pictures prepares the making of pictures, for all that shows some.
func (s *Service) pictures(d *desk.Desk, shown *preview.Previews) (*pictures.Pictures, error) {
	dir := filepath.Join(s.cfg.Data, "pictures")
	_, missing := os.Stat(dir)
	files, err := blob.Open(dir)
	if err != nil {
		return nil, err
	}
	if missing != nil { // records that were brought back from a backup, which holds no pictures
		if err := s.store.Read(context.Background()).Pictures().DropAll(); err != nil {
			return nil, err
		}
	}
	shots := pictures.New(s.store, files, shown, s.log)
	s.findBrowser(shots)
	d.SweepMore = shots.Sweep
	d.KitFaces = func(ctx context.Context, version int64, list []item.Address) map[item.Address][]byte {
		return shots.Faces(ctx, shown.Making(version), list)
	}
	d.RunPage = func(ctx context.Context, site, slug string) ([][]byte, int, error) {
		return shots.Ran(ctx, shown.Site(site)+slug)
	}
	return shots, nil
}

// findBrowser finds the browser that makes pictures; where there is none, pages are shown live.
func (s *Service) findBrowser(shots *pictures.Pictures) {
	if s.cfg.Browser == "none" {
		return
	}
	b, err := pictures.Find(s.cfg.Browser, s.log)
	if err != nil {
		s.log.Warn("no pictures are made: pages are shown live in their place", "error", err)
		return
	}
	shots.Use(b)
}

// Failed tells of a listener that broke off.
func (s *Service) Failed() <-chan error { return s.failed }

// stopPatience is how long requests under way may take to end. What they have not done by
// then they have not done: each writes in one transaction.
const stopPatience = 4 * time.Second

// Stop lets requests finish, then takes everything down in order. It takes ten seconds at
// the most: see also mariadb.StopPatience.
func (s *Service) Stop() {
	ctx, cancel := context.WithTimeout(context.Background(), stopPatience)
	defer cancel()
	s.stopOnce.Do(func() { close(s.stopping) })
	if s.stopJobs != nil {
		s.stopJobs()
	}
	var ended sync.WaitGroup
	for _, server := range s.servers {
		ended.Go(func() {
			if err := server.Shutdown(ctx); err != nil {
				s.log.Warn("stopping: requests under way are cut off", "error", err)
				server.Close()
			}
		})
	}
	ended.Wait()
	if s.jobsDone != nil {
		select {
		case <-s.jobsDone:
		case <-ctx.Done():
			s.log.Warn("stopping: a job is cut off; it will be done again later")
		}
	}
	if s.desk != nil {
		if err := s.desk.Close(ctx); err != nil {
			s.log.Warn("stopping: something in the background is cut off; it will be done again later")
		}
	}
	if s.mails != nil {
		if err := s.mails.Close(); err != nil {
			s.log.Warn("stopping the mail stand-in", "error", err)
		}
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
