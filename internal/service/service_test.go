package service_test

import (
	"bytes"
	"context"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"testing"

	"compactparcel/internal/service"

	"github.com/spf13/pflag"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var quiet = slog.New(slog.DiscardHandler)

func configOf(dir string) service.Config {
	return service.Config{Data: dir, Listen: "127.0.0.1:0", Previews: "127.0.0.1:0", Log: "info", Output: "text"}
}

func TestAServiceStartsStopsAndKeepsOthersOut(t *testing.T) {
	dir := t.TempDir()
	var out bytes.Buffer
	s, err := service.Start(context.Background(), configOf(dir), quiet, &out)
	require.NoError(t, err)
	at := regexp.MustCompile(`Console:  (http://\S+)`).FindStringSubmatch(out.String())
	require.NotNil(t, at, out.String())
	assert.Contains(t, out.String(), at[1]+"/set-up#", "there is no user yet")
	for path, want := range map[string]int{"/readyz": 200, "/healthz": 200, "/": 200, "/api/v1/sites": 401,
		"/api/v1/none": 404} {
		t.Run(path, func(t *testing.T) {
			r, err := http.Get(at[1] + path)
			require.NoError(t, err)
			r.Body.Close()
			assert.Equal(t, want, r.StatusCode, path)
		})
	}

	_, err = service.Start(context.Background(), configOf(dir), quiet, io.Discard)
	assert.ErrorContains(t, err, "another service works in the data folder")
	secret, err := os.ReadFile(filepath.Join(dir, "secret"))
	require.NoError(t, err)
	s.Stop()
	_, err = http.Get(at[1] + "/healthz")
	assert.Error(t, err, "it is down")

	s, err = service.Start(context.Background(), configOf(dir), quiet, io.Discard)
	require.NoError(t, err, "the folder is free again")
	s.Stop()
	again, err := os.ReadFile(filepath.Join(dir, "secret"))
	require.NoError(t, err)
	assert.Equal(t, secret, again, "sign-ins and previews outlive a restart")
}

func TestAnAddressThatIsTakenIsTold(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	cfg := configOf(t.TempDir())
	cfg.Previews = l.Addr().String()
	_, err = service.Start(context.Background(), cfg, quiet, io.Discard)
	assert.ErrorContains(t, err, "name another address with --previews")
	left, err := os.ReadDir(cfg.Data)
	require.NoError(t, err)
	assert.Empty(t, left, "nothing was begun")
}

func TestSettingsComeFromFlagsTheEnvironmentAndTheFile(t *testing.T) {
	file := filepath.Join(t.TempDir(), "c.yaml")
	require.NoError(t, os.WriteFile(file, []byte("listen: 127.0.0.1:1\npreviews: 127.0.0.1:2\nlog: debug\n"), 0o600))
	t.Setenv("CPARCEL_PREVIEWS", "127.0.0.1:3")
	load := func(args ...string) (service.Config, error) {
		var c service.Config
		f := pflag.NewFlagSet("x", pflag.ContinueOnError)
		c.Flags(f)
		require.NoError(t, f.Parse(append([]string{"--config", file}, args...)))
		return c, c.Load(f)
	}
	c, err := load("--log", "warn")
	require.NoError(t, err)
	assert.Equal(t, []string{"127.0.0.1:1", "127.0.0.1:3", "warn"}, []string{c.Listen, c.Previews, c.Log},
		"the file, the environment before it, a flag before both")
	require.NoError(t, os.WriteFile(file, []byte("lisen: x\n"), 0o600))
	_, err = load()
	assert.ErrorContains(t, err, `there is no setting "lisen"`)
	require.NoError(t, os.WriteFile(file, nil, 0o600))
	_, err = load("--log", "loud")
	assert.Error(t, err)
}
