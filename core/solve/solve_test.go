package solve

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"sort"
	"strings"
	"sync"
	"testing"

	"github.com/Masterminds/semver/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Each scenario is a text file: releases, what the site has, what is asked for, and
// the choice or the failure that is wanted.
func TestScenarios(t *testing.T) {
	files, err := filepath.Glob("testdata/*.txt")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, f := range files {
		t.Run(strings.TrimSuffix(filepath.Base(f), ".txt"), func(t *testing.T) {
			b, err := os.ReadFile(f)
			require.NoError(t, err)
			in, want, ok := strings.Cut(string(b), "\n---\n")
			require.True(t, ok, "a scenario has a line of --- before what is wanted")
			list, q, err := ParseWorld(in)
			require.NoError(t, err)
			w, err := NewWorld(list)
			require.NoError(t, err)
			got, err := w.Solve(q)
			assert.Equal(t, strings.TrimSpace(want), strings.TrimSpace(say(got, err)))
		})
	}
}

func say(a *Answer, err error) string {
	if err != nil {
		return err.Error()
	}
	var out []string
	for _, n := range sortedNames(a.Kits) {
		out = append(out, n+"@"+a.Kits[n])
	}
	for _, n := range sortedNames(a.Components) {
		out = append(out, "component "+n+" "+a.Components[n])
	}
	for _, d := range a.Unmet {
		out = append(out, "unmet: "+d.By+" wants "+d.What+" "+d.Range)
	}
	return strings.Join(out, "\n")
}

func TestWorldsThatCannotBeRead(t *testing.T) {
	for text, says := range map[string]string{
		"kit a@1": "a@1", "kit a@1.0.0\n  needs b >>1": "range", "kit a@1.0.0\nkit a@1.0.0": "twice",
		"kit a@1.0.0\n  brings x 1": "brings x", "  needs b ^1": "line 1", "kit a@1.0.0\n  likes b": "line 2",
		"want": "line 1", "kit a@1.0.0\n  engine >>": "engine",
	} {
		t.Run(text, func(t *testing.T) {
			list, _, err := ParseWorld(text)
			if err == nil {
				_, err = NewWorld(list)
			}
			assert.ErrorContains(t, err, says, text)
		})
	}
	assert.NoError(t, CheckRange(">=1.0 <3 || ^4"))
	assert.ErrorContains(t, CheckRange("one"), "not a range")
}

// holds tells whether a choice meets every demand.
func holds(list []Release, q Question, kits, components map[string]string) bool {
	fits := func(text, version string) bool {
		c, err := semver.NewConstraint(text)
		return err == nil && version != "" && c.Check(semver.MustParse(version))
	}
	for k, r := range q.Want {
		if !fits(r, kits[k]) {
			return false
		}
	}
	supported := map[string]map[string]bool{}
	for c, v := range q.SiteComponents {
		supported[c] = map[string]bool{v: true}
	}
	for _, r := range list {
		if kits[r.Kit] == r.Version {
			for c, v := range r.Brings {
				if supported[c] == nil {
					supported[c] = map[string]bool{}
				}
				supported[c][v] = true
			}
		}
	}
	for c, v := range components {
		if !supported[c][v] {
			return false
		}
	}
	for _, r := range list {
		if kits[r.Kit] != r.Version {
			continue
		}
		for k, text := range r.Needs {
			if !fits(text, kits[k]) {
				return false
			}
		}
		for k, text := range r.Wants {
			if kits[k] != "" && !fits(text, kits[k]) {
				return false
			}
		}
		for c, text := range r.Components {
			if !fits(text, components[c]) {
				return false
			}
		}
		if r.Engine != "" && q.Engine != "" && !fits(r.Engine, q.Engine) {
			return false
		}
	}
	return true
}

// brute tries every choice of a small world.
func brute(list []Release, q Question) bool {
	versions, names := map[string][]string{}, []string{}
	add := func(key, v string) {
		if versions[key] == nil {
			versions[key] = []string{""}
			names = append(names, key)
		}
		versions[key] = append(versions[key], v)
	}
	for _, r := range list {
		add("kit "+r.Kit, r.Version)
		for c, v := range r.Brings {
			add("component "+c, v)
		}
	}
	for c, v := range q.SiteComponents {
		add("component "+c, v)
	}
	sort.Strings(names)
	kits, components := map[string]string{}, map[string]string{}
	var try func(i int) bool
	try = func(i int) bool {
		if i == len(names) {
			return holds(list, q, kits, components)
		}
		kind, name, _ := strings.Cut(names[i], " ")
		for _, v := range versions[names[i]] {
			to := kits
			if kind == "component" {
				to = components
			}
			to[name] = v
			if v == "" {
				delete(to, name)
			}
			if try(i + 1) {
				return true
			}
		}
		return false
	}
	return try(0)
}

// The solver finds a choice exactly when there is one; what it finds holds; and the
// demands that it names in a failure fail by themselves.
func TestCompleteOnSmallWorlds(t *testing.T) {
	ranges := []string{"^1", "~1.0", ">=1.1", "<2", "^2", ">=1 <3", "^1.1 || ^2", "*", "1.0.0", ">=9"}
	solved, failed := 0, 0
	rapid.Check(t, func(rt *rapid.T) {
		var list []Release
		kits := []string{"a", "b", "c", "d"}[:rapid.IntRange(2, 4).Draw(rt, "kits")]
		for _, k := range kits {
			for _, v := range []string{"1.0.0", "1.1.0", "2.0.0"}[:rapid.IntRange(1, 3).Draw(rt, "versions")] {
				r := Release{
					Kit:        k,
					Version:    v,
					Needs:      map[string]string{},
					Wants:      map[string]string{},
					Components: map[string]string{},
					Brings:     map[string]string{},
				}
				for _, o := range append(kits, "none") {
					if o == k || rapid.IntRange(0, 3).Draw(rt, "?") > 0 {
						continue
					}
					m := r.Needs
					if rapid.IntRange(0, 4).Draw(rt, "soft") == 0 {
						m = r.Wants
					}
					m[o] = rapid.SampledFrom(ranges).Draw(rt, "range")
				}
				if rapid.IntRange(0, 4).Draw(rt, "component") == 0 {
					r.Components["x"] = rapid.SampledFrom(ranges).Draw(rt, "component range")
				}
				if rapid.IntRange(0, 4).Draw(rt, "brings") == 0 {
					r.Brings["x"] = rapid.SampledFrom([]string{"1.0.0", "2.1.0"}).Draw(rt, "brought")
				}
				if rapid.IntRange(0, 6).Draw(rt, "engine") == 0 {
					r.Engine = ">=2"
				}
				list = append(list, r)
			}
		}
		q := Question{
			Want:           map[string]string{"a": rapid.SampledFrom(ranges).Draw(rt, "want")},
			Engine:         rapid.SampledFrom([]string{"", "1.0.0", "2.0.0"}).Draw(rt, "has engine"),
			SiteComponents: map[string]string{},
			Installed:      map[string]string{"b": "1.0.0"},
		}
		if rapid.Bool().Draw(rt, "site has x") {
			q.SiteComponents["x"] = "1.0.0"
		}
		w, err := NewWorld(list)
		require.NoError(rt, err)
		got, err := w.Solve(q)
		if err == nil {
			solved++
			require.True(rt, holds(list, q, got.Kits, got.Components), "%v %v does not hold", got.Kits, got.Components)
			again, err := w.Solve(q)
			require.NoError(rt, err)
			require.Equal(rt, got, again, "the same question has the same answer")
			return
		}
		failed++
		require.False(rt, brute(list, q), "there is a choice, and the solver says: %v", err)
		var f *Failure
		require.ErrorAs(rt, err, &f)
		require.NotEmpty(rt, f.Chain)
		require.NotEqual(rt, "the site", f.Chain[0].By)
	})
	if solved == 0 || failed == 0 {
		t.Fatalf("the worlds were too easy or too hard: %d solved, %d failed", solved, failed)
	}
}

func TestAnInstalledVersionThatFitsStays(t *testing.T) {
	var list []Release
	for _, v := range []string{"1.0.0", "1.5.0", "1.9.0", "2.0.0-beta.1", "2.0.0"} {
		list = append(list, Release{Kit: "b", Version: v})
	}
	list = append(list, Release{Kit: "a", Version: "1.0.0", Needs: map[string]string{"b": "^1"}})
	w, err := NewWorld(list)
	require.NoError(t, err)
	for installed, want := range map[string]string{"": "1.9.0", "1.5.0": "1.5.0", "2.0.0": "1.9.0", "7.0.0": "1.9.0"} {
		t.Run(installed, func(t *testing.T) {
			q := Question{Want: map[string]string{"a": "*"}, Installed: map[string]string{}}
			if installed != "" {
				q.Installed["b"] = installed
			}
			got, err := w.Solve(q)
			require.NoError(t, err)
			assert.Equal(t, want, got.Kits["b"], "installed %q", installed)
		})
	}
	got, err := w.Solve(Question{Want: map[string]string{"b": ">=2.0.0-0"}})
	require.NoError(t, err)
	assert.Equal(t, "2.0.0", got.Kits["b"], "a pre-release is only taken when nothing final fits")
	got, err = w.Solve(Question{Want: map[string]string{"b": ">=2.0.0-0 <2.0.0"}})
	require.NoError(t, err)
	assert.Equal(t, "2.0.0-beta.1", got.Kits["b"])
}

func TestAWorldIsAskedBySeveralAtOnce(t *testing.T) {
	list, _, err := ParseWorld("kit a@1.0.0\n  needs b ^1\nkit a@1.1.0\n  needs b ^2\nkit b@1.0.0\nkit b@2.0.0")
	require.NoError(t, err)
	w, err := NewWorld(list)
	require.NoError(t, err)
	got := make([]string, 40)
	var done sync.WaitGroup
	for i := range got {
		done.Add(1)
		go func() {
			defer done.Done()
			a, err := w.Solve(Question{Want: map[string]string{"a": fmt.Sprintf("<=1.%d.0", i%2)}})
			got[i] = say(a, err)
		}()
	}
	done.Wait()
	for i, s := range got {
		assert.Equal(t, fmt.Sprintf("a@1.%d.0\nb@%d.0.0", i%2, i%2+1), s)
	}
}

// A long way back: the reason for a failure lies before many choices that have nothing
// to do with it.
func TestDeepConflictsAreSolvedByLearning(t *testing.T) {
	var list []Release
	needs := map[string]string{}
	for k := range 60 {
		name := fmt.Sprintf("free-%02d", k)
		needs[name] = "*"
		for v := range 9 {
			list = append(list, Release{Kit: name, Version: fmt.Sprintf("1.%d.0", v)})
		}
	}
	needs["one"], needs["two"] = "*", "*"
	for v := range 9 {
		list = append(
			list,
			Release{
				Kit:     "one",
				Version: fmt.Sprintf("1.%d.0", v),
				Needs:   map[string]string{"base": fmt.Sprintf("<=1.%d.0", v)},
			},
			Release{
				Kit:     "two",
				Version: fmt.Sprintf("1.%d.0", v),
				Needs:   map[string]string{"base": fmt.Sprintf(">=1.%d.0", 8-v)},
			},
			Release{Kit: "base", Version: fmt.Sprintf("1.%d.0", v)},
		)
	}
	list = append(list, Release{Kit: "top", Version: "1.0.0", Needs: needs})
	w, err := NewWorld(list)
	require.NoError(t, err)
	got, err := w.Solve(Question{Want: map[string]string{"top": "*"}})
	require.NoError(t, err)
	assert.Len(t, got.Kits, 64)
}

func FuzzParseWorld(f *testing.F) {
	f.Add("kit a@1.0.0\n  needs b ^1\nwant a *\nsite component x 1.0.0")
	f.Add("engine 1.0.0\ninstalled a@1.0.0")
	f.Fuzz(func(t *testing.T, text string) {
		if len(text) > 2000 {
			return
		}
		list, q, err := ParseWorld(text)
		if err != nil {
			return
		}
		if w, err := NewWorld(list); err == nil {
			w.Solve(q)
		}
	})
}

// A search that nobody waits for ends.
func TestASearchEndsWhenNobodyWaits(t *testing.T) {
	gone := errors.New("nobody waits")
	w, err := NewWorld([]Release{{Kit: "a", Version: "1.0.0"}, {Kit: "a", Version: "2.0.0"}})
	require.NoError(t, err)
	_, err = w.Solve(Question{Want: map[string]string{"a": "*"}, Stop: func() error { return gone }})
	assert.ErrorIs(t, err, gone)
}
