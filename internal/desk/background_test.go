package desk

import (
	"bytes"
	"context"
	"log/slog"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What panics in the background ends alone, and is told; closing ends what waits, and waits for it.
func TestTheBackgroundEndsWithTheDesk(t *testing.T) {
	var log bytes.Buffer
	d := &Desk{Log: slog.New(slog.NewTextHandler(&log, nil))}
	d.GoOn(func(context.Context) { panic("a folder of nothing") })
	ended := false
	d.GoOn(func(ctx context.Context) { <-ctx.Done(); ended = true })
	ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
	defer cancel()
	require.NoError(t, d.Close(ctx))
	assert.True(t, ended)
	assert.Contains(t, log.String(), "a folder of nothing")
}
