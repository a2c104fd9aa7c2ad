package archive

import (
	"crypto/rand"
	"sync"

	"golang.org/x/crypto/chacha20poly1305"
	"golang.org/x/crypto/scrypt"
)

// sealed is a text under a pass phrase: the key is derived by scrypt (RFC 7914), the text sealed by
// XChaCha20-Poly1305.
type sealed struct {
	KDF   string `json:"kdf"`
	N     int    `json:"n"`
	R     int    `json:"r"`
	P     int    `json:"p"`
	Salt  []byte `json:"salt"`
	Nonce []byte `json:"nonce"`
	Box   []byte `json:"box"`
}

// The cost of deriving a key: what is written, and nothing else is believed of a file. One takes 32 MB.
const scryptN, scryptR, scryptP = 1 << 15, 8, 1

// deriving lets one key be derived at a time.
var deriving sync.Mutex

func (s *sealed) key(pass string) ([]byte, error) {
	deriving.Lock()
	defer deriving.Unlock()
	return scrypt.Key([]byte(pass), s.Salt, scryptN, scryptR, scryptP, chacha20poly1305.KeySize)
}

func seal(text []byte, pass string) (*sealed, error) {
	s := &sealed{KDF: "scrypt", N: scryptN, R: scryptR, P: scryptP, Salt: make([]byte, 16),
		Nonce: make([]byte, chacha20poly1305.NonceSizeX)}
	rand.Read(s.Salt)
	rand.Read(s.Nonce)
	key, err := s.key(pass)
	if err != nil {
		return nil, err
	}
	a, err := chacha20poly1305.NewX(key)
	if err != nil {
		return nil, err
	}
	s.Box = a.Seal(nil, s.Nonce, text, nil)
	return s, nil
}

// open gives the text, or ErrPass.
func (s *sealed) open(pass string) ([]byte, error) {
	if s.KDF != "scrypt" || s.N != scryptN || s.R != scryptR || s.P != scryptP ||
		len(s.Nonce) != chacha20poly1305.NonceSizeX {
		return nil, ErrNewer
	}
	key, err := s.key(pass)
	if err != nil {
		return nil, ErrNewer
	}
	a, err := chacha20poly1305.NewX(key)
	if err != nil {
		return nil, err
	}
	text, err := a.Open(nil, s.Nonce, s.Box, nil)
	if err != nil {
		return nil, ErrPass
	}
	return text, nil
}
