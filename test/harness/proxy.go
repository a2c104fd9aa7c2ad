package harness

import (
	"context"
	"encoding/binary"
	"io"
	"net"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"compactparcel/internal/blob"
	"compactparcel/internal/store"

	driver "github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/require"
)

// Proxy stands between a store and its database, and can break what goes through.
type Proxy struct {
	addr string

	mu      sync.Mutex
	commits int // how many commits from now on are lost behind the act; 0 for none
	stalled chan struct{}
	conns   map[net.Conn]bool
	refuse  bool
}

// RecordsThrough is Records with a proxy before the database.
func RecordsThrough(t testing.TB) (*store.Store, *Proxy) {
	t.Helper()
	dir, db := t.TempDir(), server(t)
	cfg, err := driver.ParseDSN(db.DSN())
	require.NoError(t, err)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { l.Close() })
	p := &Proxy{addr: cfg.Addr, conns: map[net.Conn]bool{}}
	t.Cleanup(p.Resume)
	go p.serve(l)
	cfg.Addr = l.Addr().String()
	blobs, err := blob.Open(filepath.Join(dir, "blobs"))
	require.NoError(t, err)
	s, err := store.Open(context.Background(), cfg.FormatDSN(), blobs)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return s, p
}

// LoseCommit lets the next so many commits happen, and breaks the connection before their
// answer comes back.
func (p *Proxy) LoseCommit(n int) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.commits = n
}

// Stall holds everything back, as a database that has stopped answering does.
func (p *Proxy) Stall() {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.stalled == nil {
		p.stalled = make(chan struct{})
	}
}

// Resume lets everything through again.
func (p *Proxy) Resume() {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.stalled != nil {
		close(p.stalled)
		p.stalled = nil
	}
	p.refuse = false
}

// Down breaks all connections and lets no new one in.
func (p *Proxy) Down() {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.refuse = true
	for c := range p.conns {
		c.Close()
	}
}

func (p *Proxy) serve(l net.Listener) {
	for {
		c, err := l.Accept()
		if err != nil {
			return
		}
		p.mu.Lock()
		refuse := p.refuse
		p.conns[c] = true
		p.mu.Unlock()
		if refuse {
			c.Close()
			continue
		}
		go p.through(c)
	}
}

func (p *Proxy) hold() {
	p.mu.Lock()
	stalled := p.stalled
	p.mu.Unlock()
	if stalled != nil {
		<-stalled
	}
}

func (p *Proxy) through(c net.Conn) {
	defer func() {
		c.Close()
		p.mu.Lock()
		delete(p.conns, c)
		p.mu.Unlock()
	}()
	server, err := net.Dial("tcp", p.addr)
	if err != nil {
		return
	}
	defer server.Close()
	var lose sync.Mutex
	losing := false
	go func() { // what the server answers
		defer c.Close()
		b := make([]byte, 64<<10)
		for {
			n, err := server.Read(b)
			p.hold()
			lose.Lock()
			gone := losing
			lose.Unlock()
			if err != nil || gone { // the act has happened, and its answer is lost
				return
			}
			if _, err := c.Write(b[:n]); err != nil {
				return
			}
		}
	}()
	for { // what the client asks: packets of the MySQL protocol
		head := make([]byte, 4)
		if _, err := io.ReadFull(c, head); err != nil {
			return
		}
		size := binary.LittleEndian.Uint32(append(head[:3:3], 0))
		body := make([]byte, size)
		if _, err := io.ReadFull(c, body); err != nil {
			return
		}
		p.hold()
		if size > 1 && body[0] == 3 && strings.EqualFold(strings.TrimSpace(string(body[1:])), "COMMIT") {
			p.mu.Lock()
			if p.commits > 0 {
				p.commits--
				lose.Lock()
				losing = true
				lose.Unlock()
			}
			p.mu.Unlock()
		}
		if _, err := server.Write(append(head, body...)); err != nil {
			return
		}
	}
}
