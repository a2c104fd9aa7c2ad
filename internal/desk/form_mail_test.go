package desk

import (
	"context"
	"errors"
	"testing"
	"time"

	"compactparcel/internal/mail"

	"github.com/stretchr/testify/assert"
)

type sender func() error

func (s sender) Send(context.Context, mail.Message) error { return s() }

// A mail server that is silent is left alone, longer each time; one that refuses a mail is there.
func TestASilentMailServerIsLeftAlone(t *testing.T) {
	now := time.Date(2027, 5, 1, 6, 0, 0, 0, time.UTC)
	answer := context.DeadlineExceeded
	d := &Desk{Now: func() time.Time { return now }, Mails: sender(func() error { return answer })}
	var waits []time.Duration
	for range 9 {
		assert.Error(t, d.send(context.Background(), mail.Message{}))
		paused := d.send(context.Background(), mail.Message{})
		assert.ErrorContains(t, paused, context.DeadlineExceeded.Error())
		until := d.mailPause.over
		waits = append(waits, until.Sub(now))
		now = until
		assert.Nil(t, d.mailPause.paused(now), "then it is asked again")
	}
	minute := time.Minute
	assert.Equal(t, []time.Duration{minute, 2 * minute, 4 * minute, 8 * minute, 16 * minute, 32 * minute, time.Hour,
		time.Hour, time.Hour}, waits)
	answer = errors.New("550 no such mailbox")
	assert.Error(t, d.send(context.Background(), mail.Message{}))
	assert.Nil(t, d.mailPause.paused(now))
	answer = context.DeadlineExceeded
	assert.Error(t, d.send(context.Background(), mail.Message{}))
	assert.Equal(t, minute, d.mailPause.over.Sub(now), "it begins anew")
}
