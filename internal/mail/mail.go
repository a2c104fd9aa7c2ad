// Package mail sends mails by SMTP, and has a stand-in that receives them where nothing may be sent.
package mail

import (
	"cmp"
	"context"
	"crypto/tls"
	"encoding/base64"
	"fmt"
	"net"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	gomail "github.com/wneessen/go-mail"
)

// Message is a mail to be sent.
type Message struct {
	To            []string
	ReplyTo       string // may be empty
	Subject, Text string
}

// Sender sends mails. It is safe for use by several goroutines at once.
type Sender interface {
	Send(ctx context.Context, m Message) error
}

// SMTP sends by a server (RFC 5321), over an encrypted connection wherever it offers one.
type SMTP struct {
	Address  string // host:port
	From     string
	User     string // empty: without signing in
	Password string

	within time.Duration // how long one mail may take, where that is not sendFor
}

// sendFor is how long one mail may take.
const sendFor = 30 * time.Second

// Send sends a mail, or tells why it could not be.
func (s *SMTP) Send(ctx context.Context, m Message) error {
	host, port, err := net.SplitHostPort(s.Address)
	if err != nil {
		return fmt.Errorf("the mail server: %w", err)
	}
	n, err := strconv.Atoi(port)
	if err != nil {
		return fmt.Errorf("the mail server: %w", err)
	}
	msg := gomail.NewMsg()
	if err := msg.From(s.From); err != nil {
		return err
	}
	if err := msg.To(m.To...); err != nil {
		return err
	}
	if m.ReplyTo != "" {
		if err := msg.ReplyTo(m.ReplyTo); err != nil {
			return err
		}
	}
	msg.Subject(encodedWords(m.Subject))
	msg.SetBodyString(gomail.TypeTextPlain, m.Text)
	within := cmp.Or(s.within, sendFor)
	options := []gomail.Option{gomail.WithPort(n), gomail.WithTimeout(within),
		gomail.WithTLSPolicy(gomail.TLSOpportunistic),
		gomail.WithTLSConfig(&tls.Config{ServerName: host, MinVersion: tls.VersionTLS12})}
	if n == 465 {
		options = append(options, gomail.WithSSL())
	}
	if s.User != "" {
		options = append(options, gomail.WithSMTPAuth(gomail.SMTPAuthAutoDiscover), gomail.WithUsername(s.User),
			gomail.WithPassword(s.Password), gomail.WithTLSPolicy(gomail.TLSMandatory))
	}
	c, err := gomail.NewClient(host, options...)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(ctx, within)
	defer cancel()
	return c.DialAndSendWithContext(ctx, msg)
}

// encodedWords writes a subject so that nothing in it is read as encoded that was not (RFC 2047): what a visitor
// wrote as "=?utf-8?…?=" is shown as that.
func encodedWords(s string) string {
	if !strings.Contains(s, "=?") {
		return s // the library encodes what needs it
	}
	const most = 45 // bytes of one word, so that it has 75 characters at most
	var words []string
	for s != "" {
		n := min(len(s), most)
		for n > 0 && n < len(s) && !utf8.RuneStart(s[n]) {
			n--
		}
		words = append(words, "=?utf-8?B?"+base64.StdEncoding.EncodeToString([]byte(s[:n]))+"?=")
		s = s[n:]
	}
	return strings.Join(words, " ")
}
