package test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestADeliveryIsRepeatedWithAnswersFromAFile(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	dir := t.TempDir()
	sealed(t, s, "0.1.0")
	file := filepath.Join(dir, "answers.yaml")
	out := s.Must("deliver", "hut-basics@0.1.0", "larch-saddle", "--answers-template", file)
	assert.Contains(t, out, "A template of the answers is in "+file)
	r := s.Client("deliver", "hut-basics@0.1.0", "larch-saddle", "--answers-template", file)
	assert.Contains(t, r.Err, "nothing was overwritten")
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	filled := strings.NewReplacer("  # menu/main: both", "  menu/main: both", "  # hut-name: Sample Hut",
		"  hut-name: A hut of ours").
		Replace(string(text))
	require.NoError(t, os.WriteFile(file, []byte(filled), 0o600))
	for _, site := range []string{"larch-saddle", "blackwater-bothy"} {
		r := s.Client("deliver", "hut-basics@0.1.0", site, "--answers", file, "--decide",
			"seat:header:everywhere=site", "--live")
		if site == "larch-saddle" { // said by a flag, for this site: nobody else wants to be the header there
			assert.Equal(t, 2, r.Code)
			assert.Contains(t, r.Err, "nothing of this name to decide")
			r = s.Client("deliver", "hut-basics@0.1.0", site, "--answers", file, "--live")
		}
		require.Equal(t, 0, r.Code, r.Out+r.Err)
		assert.Contains(t, r.Out, "is live as revision 2")
		var d api.Delivery
		list := s.Must("delivery", "list")
		s.JSON(&d, "delivery", "show", strings.Fields(strings.Split(list, "\n")[2])[0])
		assert.Equal(t, map[string]string{"hut-name": "A hut of ours"}, d.Fills)
	}
	kit := filepath.Join(dir, "kit.bin")
	s.Must("kit", "get", "hut-basics@0.1.0", "-f", kit)
	assert.Equal(t, 0, s.Client("deliver", kit, "kestrel-refuge", "--policy", "unattended").Code,
		"a file is delivered as well")
	other := filepath.Join(dir, "other.yaml") // written for a site that stands otherwise
	require.NoError(t, os.WriteFile(other, []byte("format: 1\ndecisions:\n  need:x-clock: accept\n"+
		"  menu/main: blend\nfills:\n  hut-name: Another\n"), 0o600))
	more := []string{"deliver", "hut-basics@0.1.0", "kestrel-refuge", "--policy", "unattended", "--answers", other,
		"--live"}
	r = s.Client(more...)
	require.Equal(t, 0, r.Code, r.Out+r.Err)
	assert.Contains(t, r.Out, "Left out: the answer need:x-clock=accept, since there is nothing of this name")
	assert.Contains(t, r.Out, "Left out: the answer menu/main=blend, since ")
	assert.Contains(t, r.Err, "It is not live yet", "an answer stands otherwise than was said")
	assert.Contains(t, r.Out, "is staged")
	r = s.Client(append(more, "--decide", "menu/main=keep")...)
	require.Equal(t, 0, r.Code, r.Out+r.Err)
	assert.NotContains(t, r.Err, "not live yet", "what fits nowhere holds nothing up")
	bad := filepath.Join(dir, "bad.yaml")
	for text, says := range map[string]string{"format: 1\nkit: dusk\n": "the answers are for the kit dusk",
		"format: 1\ncolour: red\n": "line 2", "format: 1\nfills:\n  none: x\n": "no fill-in of this name",
		"format: 1\ndecisions:\n  page/nowhere: skip\n": "nothing of this name to decide"} {
		require.NoError(t, os.WriteFile(bad, []byte(text), 0o600))
		r := s.Client("deliver", "hut-basics@0.1.0", "larch-saddle", "--answers", bad)
		assert.Equal(t, 2, r.Code, text)
		assert.Contains(t, r.Err, says)
	}
}

// On a terminal the open questions are asked one by one.
func TestQuestionsAreAskedOnATerminal(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	sealed(t, s, "0.1.0")
	script, err := exec.LookPath("script")
	require.NoError(t, err, "util-linux's script makes a terminal")
	cmd := exec.Command(script, "-qec",
		filepath.Join(harness.Binaries(t), "cparcel")+" deliver hut-basics@0.1.0 larch-saddle", "/dev/null")
	cmd.Env = append(os.Environ(), "CPARCEL_SERVER="+s.Console, "CPARCEL_TOKEN="+s.Token, "NO_COLOR=1")
	in, err := cmd.StdinPipe()
	require.NoError(t, err)
	var said strings.Builder
	cmd.Stdout = &said
	require.NoError(t, cmd.Start())
	_, err = in.Write([]byte("nonsense\n1\nLarch Saddle\n"))
	require.NoError(t, err)
	require.NoError(t, cmd.Wait(), said.String())
	for _, want := range []string{"the site's: menu/main", "That is not possible", "Hut name is to be filled in",
		"is staged; the live site is as it was"} {
		assert.Contains(t, said.String(), want)
	}
}
