package kit

import (
	"archive/zip"
	"bytes"
	"encoding/base64"
	"encoding/json"
	"io"
	"strings"
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// made gives a kit of some texts and a picture, signed with keys.
func made(t *testing.T, version string, texts map[string]string, keys ...[]byte) []byte {
	t.Helper()
	set := item.NewSet()
	for a, text := range texts {
		h := item.Head{Address: item.MustAddress(a), NormalizedDigest: item.DigestOf([]byte(text))}
		if h.Address.Kind == item.Page {
			h.Meta.Slug = "/" + h.Address.Key + "/"
		}
		set.Put(h, []byte(text))
	}
	list := &PackingList{Kit: "hut-test", Version: version, Title: "Hut test", Terms: Terms{License: "CC-BY-4.0"}}
	docs := map[item.Digest]item.Head{}
	for _, h := range set.Heads() {
		docs[h.Doc] = h
		list.Items = append(
			list.Items,
			Entry{
				Kind:             h.Address.Kind,
				Key:              h.Address.Key,
				SHA256:           h.Doc,
				NormalizedDigest: h.NormalizedDigest,
				Bytes:            h.Bytes,
				Meta:             h.Meta,
			},
		)
	}
	list.Settle()
	var seal *Seal
	for _, text := range keys {
		key, err := ParsePrivateKey(text)
		require.NoError(t, err)
		seal, err = list.Sign(seal, key)
		require.NoError(t, err)
	}
	var out bytes.Buffer
	_, err := WriteSealed(
		&out,
		list,
		seal,
		func(_ string, d item.Digest) (io.ReadCloser, error) { return set.Open(docs[d]) },
	)
	require.NoError(t, err)
	return out.Bytes()
}

var someTexts = map[string]string{
	"page/home":       "<p>home</p>",
	"section/hours":   "<section class=\"h\">open</section>",
	"media/a.png":     "png",
	"stylesheet/base": ".h{color:red}",
}

func opened(t *testing.T, b []byte) *Kit {
	t.Helper()
	k, err := Open(bytes.NewReader(b), int64(len(b)))
	require.NoError(t, err)
	return k
}

func TestSignaturesAreOverThePackingList(t *testing.T) {
	priv, pub, err := NewKey()
	require.NoError(t, err)
	other, otherPub, err := NewKey()
	require.NoError(t, err)
	trust, err := ParseTrust(append([]byte("Highmoor web room\n"), pub...))
	require.NoError(t, err)
	assert.Equal(t, "Highmoor web room", trust.Keys[0].Name)
	text, err := json.Marshal(trust)
	require.NoError(t, err)
	again, err := ParseTrust(text)
	require.NoError(t, err)
	assert.Equal(t, trust, again)
	strangers, err := ParseTrust(otherPub)
	require.NoError(t, err)

	k := opened(t, made(t, "1.0.0", someTexts, priv, other))
	signers, err := k.Signers(trust)
	require.NoError(t, err)
	require.Len(t, signers, 1)
	assert.Equal(t, "Highmoor web room", signers[0].Name)
	signers, err = k.Signers(strangers)
	require.NoError(t, err)
	assert.Len(t, signers, 1, "two keys signed it")
	signers, err = opened(t, made(t, "1.0.0", someTexts)).Signers(trust)
	require.NoError(t, err)
	assert.Empty(t, signers, "an unsigned kit has no signers, and is no error")
	signers, err = opened(t, made(t, "1.0.0", someTexts, other)).Signers(trust)
	require.NoError(t, err)
	assert.Empty(t, signers, "a stranger's signature is nobody's")

	key, err := ParsePrivateKey(priv)
	require.NoError(t, err)
	twice, err := k.List.Sign(k.Seal, key)
	require.NoError(t, err)
	assert.Len(t, twice.Signatures, 2, "signing again does not sign twice")

	k.Seal.Signatures[0].Sig = base64.StdEncoding.EncodeToString(make([]byte, 64))
	_, err = k.Signers(trust)
	assert.ErrorIs(t, err, ErrBadSeal)
	moved := opened(t, made(t, "1.0.0", someTexts, priv))
	moved.List.Version = "2.0.0"
	_, err = moved.Signers(trust)
	assert.ErrorIs(t, err, ErrBadSeal, "the seal of another list")
	for _, bad := range []string{"", "{", `{"keys":[{"name":"x","key":"eA=="}]}`,
		"-----BEGIN PUBLIC KEY-----\nAAAA\n-----END PUBLIC KEY-----\n"} {
		t.Run(bad, func(t *testing.T) {
			_, err := ParseTrust([]byte(bad))
			assert.Error(t, err, bad)
		})
	}
	_, err = ParsePrivateKey(pub)
	assert.ErrorContains(t, err, "not a private key")
}

// A signed kit is refused when one byte of it is another, wherever that is.
func TestOneByteAnywhere(t *testing.T) {
	priv, pub, err := NewKey()
	require.NoError(t, err)
	trust, err := ParseTrust(pub)
	require.NoError(t, err)
	good := made(t, "1.0.0", someTexts, priv)
	believed := func(b []byte) bool {
		k, err := Open(bytes.NewReader(b), int64(len(b)))
		if err != nil || k.Verify() != nil {
			return false
		}
		signers, err := k.Signers(trust)
		return err == nil && len(signers) == 1
	}
	require.True(t, believed(good))
	for i := range good {
		b := bytes.Clone(good)
		b[i] ^= 1
		if believed(b) {
			t.Fatalf("byte %d of %d was changed, and the kit is believed", i, len(good))
		}
	}
	assert.False(t, believed(append(bytes.Clone(good), 'x')), "after its end")
	assert.False(t, believed(append([]byte("x"), good...)), "before its beginning")
}

func TestAContainerOfASignedKitIsInCanonicalForm(t *testing.T) {
	priv, _, err := NewKey()
	require.NoError(t, err)
	good := made(t, "1.0.0", someTexts, priv)
	repacked := func(change func(w *zip.Writer, files []*zip.File)) error {
		r, err := zip.NewReader(bytes.NewReader(good), int64(len(good)))
		require.NoError(t, err)
		var out bytes.Buffer
		w := zip.NewWriter(&out)
		change(w, r.File)
		require.NoError(t, w.Close())
		_, err = Open(bytes.NewReader(out.Bytes()), int64(out.Len()))
		return err
	}
	copyAll := func(w *zip.Writer, files []*zip.File) {
		for _, f := range files {
			require.NoError(t, w.Copy(f))
		}
	}
	require.NoError(t, repacked(copyAll))
	assert.ErrorContains(
		t,
		repacked(func(w *zip.Writer, files []*zip.File) { copyAll(w, files); w.SetComment("x") }),
		"after its end",
	)
	assert.ErrorContains(t, repacked(func(w *zip.Writer, files []*zip.File) {
		files[2], files[3] = files[3], files[2]
		copyAll(w, files)
	}), "it is out of order")
	assert.ErrorContains(t, repacked(func(w *zip.Writer, files []*zip.File) {
		copyAll(w, files[:2])
		for _, f := range files[2:] {
			r, err := f.Open()
			require.NoError(t, err)
			to, err := w.CreateHeader(&zip.FileHeader{Name: f.Name, Method: zip.Store})
			require.NoError(t, err)
			_, err = io.Copy(to, r)
			require.NoError(t, err)
		}
	}), "its method")
}

func TestLargeContentsStreamAndAreHeldToo(t *testing.T) {
	large := strings.Repeat("0123456789abcdef", 200_000)
	b := made(t, "1.0.0", map[string]string{"media/large.bin": large, "media/large.mp4": large, "page/home": "<p>x"})
	k := opened(t, b)
	require.NoError(t, k.Verify())
	assert.Equal(t, b,
		made(t, "1.0.0", map[string]string{"media/large.bin": large, "media/large.mp4": large, "page/home": "<p>x"}),
		"the same items give the same bytes")
	list := k.List
	_, err := Write(io.Discard, &list, func(p string, _ item.Digest) (io.ReadCloser, error) {
		return io.NopCloser(strings.NewReader(large + "x")), nil
	})
	assert.ErrorContains(t, err, "changed while it was packed")
	_, err = Write(
		io.Discard,
		&list,
		func(p string, _ item.Digest) (io.ReadCloser, error) { return nil, io.ErrUnexpectedEOF },
	)
	assert.ErrorIs(t, err, io.ErrUnexpectedEOF)
}

func TestSignaturesOverOneListAreAdded(t *testing.T) {
	list := &PackingList{Kit: "x", Version: "1.0.0"}
	list.Settle()
	seal := func(l *PackingList) *Seal {
		private, _, err := NewKey()
		require.NoError(t, err)
		key, err := ParsePrivateKey(private)
		require.NoError(t, err)
		s, err := l.Sign(nil, key)
		require.NoError(t, err)
		return s
	}
	one, two := seal(list), seal(list)
	both, err := one.Add(two)
	require.NoError(t, err)
	assert.Len(t, both.Signatures, 2)
	again, err := both.Add(one)
	require.NoError(t, err)
	assert.Len(t, again.Signatures, 2, "nobody signs twice")
	assert.Len(t, one.Signatures, 1)
	other := *list
	other.Title = "Another"
	_, err = one.Add(seal(&other))
	assert.ErrorIs(t, err, ErrBadSeal)
}
