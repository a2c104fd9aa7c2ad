package mail

import (
	"context"
	"io"
	"mime"
	"net"
	"net/mail"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// received gives the one mail that a stand-in has put into its folder.
func received(t *testing.T, dir string) *mail.Message {
	t.Helper()
	all, err := filepath.Glob(filepath.Join(dir, "*.eml"))
	require.NoError(t, err)
	require.Len(t, all, 1)
	info, err := os.Stat(all[0])
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), "what visitors wrote is nobody else's")
	b, err := os.ReadFile(all[0])
	require.NoError(t, err)
	m, err := mail.ReadMessage(strings.NewReader(string(b)))
	require.NoError(t, err)
	return m
}

func TestAMailComesAsItWasSent(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "mails")
	server, err := StartStandIn(dir)
	require.NoError(t, err)
	defer server.Close()
	s := &SMTP{Address: server.Address, From: "Kestrel Refuge <forms@kestrel.example>"}
	require.NoError(t, s.Send(context.Background(), Message{
		To: []string{"ida@kestrel.example", "warden@kestrel.example"}, ReplyTo: "mara@quill.example",
		Subject: "Höhe: =?utf-8?B?U3B5?=", Text: "We come over the ridge.\n.\nA dot alone ends nothing.\n"}))
	m := received(t, dir)
	to, err := m.Header.AddressList("To")
	require.NoError(t, err)
	assert.Len(t, to, 2)
	assert.Contains(t, m.Header.Get("Reply-To"), "mara@quill.example")
	subject, err := (&mime.WordDecoder{}).DecodeHeader(m.Header.Get("Subject"))
	require.NoError(t, err)
	assert.Equal(t, "Höhe: =?utf-8?B?U3B5?=", subject)
	b, err := io.ReadAll(m.Body)
	require.NoError(t, err)
	assert.Contains(t, strings.ReplaceAll(string(b), "\r", ""), "ridge.\n.\nA dot alone ends nothing.")
}

// What a visitor wrote into a form comes into a header: it makes no further one.
func TestALineBreakMakesNoHeader(t *testing.T) {
	dir := t.TempDir()
	server, err := StartStandIn(dir)
	require.NoError(t, err)
	defer server.Close()
	s := &SMTP{Address: server.Address, From: "forms@kestrel.example"}
	require.NoError(t, s.Send(context.Background(), Message{To: []string{"ida@kestrel.example"},
		Subject: "A bunk\r\nBcc: all@elsewhere.example\r\n\r\nother words", Text: "words"}))
	m := received(t, dir)
	assert.Empty(t, m.Header.Get("Bcc"))
	for _, bad := range []string{"mara@quill.example\r\nBcc: all@elsewhere.example", "no address"} {
		err := s.Send(context.Background(), Message{To: []string{"ida@kestrel.example"}, ReplyTo: bad, Subject: "x"})
		assert.Error(t, err, bad)
	}
	received(t, dir) // still the one
}

func TestAMailThatCannotBeSentSaysWhy(t *testing.T) {
	silent, err := net.Listen("tcp", "127.0.0.1:0") // takes connections, and says nothing
	require.NoError(t, err)
	defer silent.Close()
	gone, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	nobody := gone.Addr().String()
	require.NoError(t, gone.Close())
	plain, err := StartStandIn(t.TempDir())
	require.NoError(t, err)
	defer plain.Close()
	for name, s := range map[string]*SMTP{
		"no port":                 {Address: "mail.kestrel.example", From: "a@kestrel.example"},
		"a port in words":         {Address: "127.0.0.1:smtp", From: "a@kestrel.example"},
		"no sender":               {Address: plain.Address, From: "nobody"},
		"nobody there":            {Address: nobody, From: "a@kestrel.example"},
		"a server that is silent": {Address: silent.Addr().String(), From: "a@kestrel.example"},
		"a password over an open connection": {Address: plain.Address, From: "a@kestrel.example", User: "a",
			Password: "b"},
	} {
		t.Run(name, func(t *testing.T) {
			s.within = 300 * time.Millisecond
			m := Message{To: []string{"ida@kestrel.example"}, Subject: "x", Text: "y"}
			assert.Error(t, s.Send(context.Background(), m))
		})
	}
}
