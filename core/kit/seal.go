package kit

import (
	"bytes"
	"crypto/ed25519"
	"crypto/rand"
	"crypto/sha256"
	"crypto/x509"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"encoding/pem"
	"errors"
	"fmt"
	"strings"

	"github.com/secure-systems-lab/go-securesystemslib/dsse"
)

// PayloadType is what a seal is over: a packing list in canonical form.
const PayloadType = "application/vnd.compact-parcel.packing-list+json"

// Seal is a DSSE envelope (Dead Simple Signing Envelope, protocol version 1) over the
// packing list, which is its payload: a seal is only believed when that is the list of
// the kit that it stands in.
type Seal struct {
	PayloadType string      `json:"payloadType"`
	Payload     string      `json:"payload"` // base64
	Signatures  []Signature `json:"signatures"`
}

// Signature is one signature of a seal.
type Signature struct {
	KeyID string `json:"keyid"`
	Sig   string `json:"sig"` // base64
}

// TrustedKey is a public key and whose it is.
type TrustedKey struct {
	Name string `json:"name"`
	// Key is the Ed25519 public key, 32 bytes in base64.
	Key string `json:"key"`
}

// TrustList names keys that are believed.
type TrustList struct {
	Keys []TrustedKey `json:"keys"`
}

// ErrBadSeal is a seal that does not fit the kit that it stands in.
var ErrBadSeal = errors.New("the kit's seal does not fit it")

// KeyID names a public key: the first 16 hexadecimal digits of its SHA-256.
func KeyID(key ed25519.PublicKey) string {
	sum := sha256.Sum256(key)
	return hex.EncodeToString(sum[:8])
}

// NewKey makes a key pair and gives it as PEM: the private one in PKCS #8, the public
// one in PKIX.
func NewKey() (private, public []byte, err error) {
	pub, priv, err := ed25519.GenerateKey(rand.Reader)
	if err != nil {
		return nil, nil, err
	}
	a, err := x509.MarshalPKCS8PrivateKey(priv)
	if err != nil {
		return nil, nil, err
	}
	b, err := x509.MarshalPKIXPublicKey(pub)
	if err != nil {
		return nil, nil, err
	}
	return pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: a}), pem.EncodeToMemory(
		&pem.Block{Type: "PUBLIC KEY", Bytes: b},
	), nil
}

// ParsePrivateKey reads a private key from PEM.
func ParsePrivateKey(text []byte) (ed25519.PrivateKey, error) {
	block, _ := pem.Decode(text)
	if block == nil || block.Type != "PRIVATE KEY" {
		return nil, fmt.Errorf("this is not a private key in PEM; make one with cparcel file keys new")
	}
	k, err := x509.ParsePKCS8PrivateKey(block.Bytes)
	if err != nil {
		return nil, fmt.Errorf("the private key cannot be read: %w", err)
	}
	key, ok := k.(ed25519.PrivateKey)
	if !ok {
		return nil, fmt.Errorf("the private key is not an Ed25519 key")
	}
	return key, nil
}

// ParseTrust reads public keys: a trust list in JSON, or public keys in PEM. A key in
// PEM is named by the text before it, or by its id.
func ParseTrust(text []byte) (*TrustList, error) {
	if trimmed := bytes.TrimSpace(text); len(trimmed) > 0 && trimmed[0] == '{' {
		var t TrustList
		dec := json.NewDecoder(bytes.NewReader(trimmed))
		dec.DisallowUnknownFields()
		if err := dec.Decode(&t); err != nil {
			return nil, fmt.Errorf("the trust list cannot be read: %w", err)
		}
		for _, k := range t.Keys {
			if _, err := k.public(); err != nil {
				return nil, err
			}
		}
		return &t, nil
	}
	t := &TrustList{}
	for {
		before, _, _ := bytes.Cut(text, []byte("-----BEGIN"))
		block, rest := pem.Decode(text)
		if block == nil {
			break
		}
		k, err := x509.ParsePKIXPublicKey(block.Bytes)
		pub, ok := k.(ed25519.PublicKey)
		if err != nil || !ok {
			return nil, fmt.Errorf("a %s in the file is not an Ed25519 public key", strings.ToLower(block.Type))
		}
		name := strings.TrimSpace(string(before))
		if name == "" {
			name = KeyID(pub)
		}
		t.Keys = append(t.Keys, TrustedKey{Name: name, Key: base64.StdEncoding.EncodeToString(pub)})
		text = rest
	}
	if len(t.Keys) == 0 {
		return nil, fmt.Errorf("there is no public key in the file")
	}
	return t, nil
}

// ID is the key's id, or "" when it cannot be read.
func (k TrustedKey) ID() string {
	pub, err := k.public()
	if err != nil {
		return ""
	}
	return KeyID(pub)
}

func (k TrustedKey) public() (ed25519.PublicKey, error) {
	b, err := base64.StdEncoding.DecodeString(k.Key)
	if err != nil || len(b) != ed25519.PublicKeySize {
		return nil, fmt.Errorf("the key of %q is not 32 bytes in base64", k.Name)
	}
	return b, nil
}

// encoded is what a signature is over: the pre-authentication encoding of DSSE.
func encoded(payload []byte) []byte { return dsse.PAE(PayloadType, payload) }

// Sign makes or adds to a seal.
func (l *PackingList) Sign(old *Seal, key ed25519.PrivateKey) (*Seal, error) {
	canon, err := l.Canonical()
	if err != nil {
		return nil, err
	}
	s := &Seal{PayloadType: PayloadType, Payload: base64.StdEncoding.EncodeToString(canon)}
	id := KeyID(key.Public().(ed25519.PublicKey))
	if old != nil && old.Payload == s.Payload {
		for _, x := range old.Signatures {
			if x.KeyID != id {
				s.Signatures = append(s.Signatures, x)
			}
		}
	}
	s.Signatures = append(s.Signatures,
		Signature{KeyID: id, Sig: base64.StdEncoding.EncodeToString(ed25519.Sign(key, encoded(canon)))})
	return s, nil
}

// Add gives a seal with the signatures of another over the same list as well.
func (s *Seal) Add(other *Seal) (*Seal, error) {
	if other.Payload != s.Payload || other.PayloadType != s.PayloadType {
		return nil, fmt.Errorf("%w: the two seals sign different packing lists", ErrBadSeal)
	}
	out := &Seal{PayloadType: s.PayloadType, Payload: s.Payload, Signatures: append([]Signature{}, s.Signatures...)}
	for _, x := range other.Signatures {
		known := false
		for i, y := range out.Signatures {
			if known = y.KeyID == x.KeyID; known {
				out.Signatures[i] = x
				break
			}
		}
		if !known {
			out.Signatures = append(out.Signatures, x)
		}
	}
	return out, nil
}

// Signer is somebody trusted who signed a kit.
type Signer struct {
	Name  string `json:"name"`
	KeyID string `json:"keyId"`
}

// Signers gives the trusted signers of a kit. An unsigned kit has none; a seal over
// another list, or a signature by a trusted key that does not hold, is ErrBadSeal.
func (k *Kit) Signers(trust *TrustList) ([]Signer, error) {
	if k.Seal == nil {
		return nil, nil
	}
	canon, err := k.List.Canonical()
	if err != nil {
		return nil, err
	}
	payload, err := base64.StdEncoding.DecodeString(k.Seal.Payload)
	if err != nil || k.Seal.PayloadType != PayloadType || !bytes.Equal(payload, canon) {
		return nil, fmt.Errorf("%w: it signs another packing list", ErrBadSeal)
	}
	var out []Signer
	for _, t := range trust.Keys {
		pub, err := t.public()
		if err != nil {
			return nil, err
		}
		for _, s := range k.Seal.Signatures {
			if s.KeyID != KeyID(pub) {
				continue
			}
			sig, err := base64.StdEncoding.DecodeString(s.Sig)
			if err != nil || !ed25519.Verify(pub, encoded(canon), sig) {
				return nil, fmt.Errorf("%w: the signature by %s (%s) does not hold", ErrBadSeal, t.Name, s.KeyID)
			}
			out = append(out, Signer{t.Name, s.KeyID})
		}
	}
	return out, nil
}
