package mail

import (
	"fmt"
	"io"
	"net"
	"os"
	"path/filepath"
	"sync/atomic"
	"time"

	"github.com/emersion/go-smtp"
)

// StandIn is a mail server that sends nothing on: it puts each mail into a folder, as a file.
type StandIn struct {
	Address string
	dir     string
	server  *smtp.Server
	count   atomic.Int64
}

// maxMail bounds a mail that the stand-in takes, in bytes.
const maxMail = 10 << 20

// StartStandIn starts one on a free port of loopback. Mails lie in dir.
func StartStandIn(dir string) (*StandIn, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	s := &StandIn{Address: l.Addr().String(), dir: dir}
	s.server = smtp.NewServer(s)
	s.server.Domain, s.server.MaxMessageBytes = "localhost", maxMail
	s.server.ReadTimeout, s.server.WriteTimeout = 10*time.Second, 10*time.Second
	go s.server.Serve(l) //nolint:errcheck // it ends when it is closed
	return s, nil
}

// Close stops it.
func (s *StandIn) Close() error { return s.server.Close() }

// NewSession begins what one client says.
func (s *StandIn) NewSession(*smtp.Conn) (smtp.Session, error) { return &session{s}, nil }

type session struct{ s *StandIn }

func (*session) Mail(string, *smtp.MailOptions) error { return nil }

func (*session) Rcpt(string, *smtp.RcptOptions) error { return nil }

func (x *session) Data(r io.Reader) error {
	b, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	name := fmt.Sprintf("%s-%03d.eml", time.Now().UTC().Format("20060102-150405"), x.s.count.Add(1))
	return os.WriteFile(filepath.Join(x.s.dir, name), b, 0o600)
}

func (*session) Reset() {}

func (*session) Logout() error { return nil }
