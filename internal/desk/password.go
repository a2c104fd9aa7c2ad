package desk

import (
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"fmt"
	"strings"
	"sync"

	"golang.org/x/crypto/argon2"
)

// MinPassword is the shortest password, in characters.
const MinPassword = 10

// Password hashing parameters: argon2id, RFC 9106 and OWASP's second choice.
const (
	argonTime   = 2
	argonMemory = 19 * 1024
	argonLanes  = 1
)

func hashPassword(password string) string {
	var salt [16]byte
	rand.Read(salt[:])
	key := argon2.IDKey([]byte(password), salt[:], argonTime, argonMemory, argonLanes, 32)
	b64 := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, argonMemory, argonTime, argonLanes,
		b64.EncodeToString(salt[:]), b64.EncodeToString(key))
}

func checkPassword(hash, password string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[1] != "argon2id" {
		return false
	}
	var memory, t uint32
	var lanes uint8
	if _, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &memory, &t, &lanes); err != nil {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	if err1 != nil || err2 != nil {
		return false
	}
	got := argon2.IDKey([]byte(password), salt, t, memory, lanes, uint32(len(want)))
	return subtle.ConstantTimeCompare(got, want) == 1
}

// nobody is checked when a name is unknown, so that the time tells nothing.
var nobody = sync.OnceValue(func() string { return hashPassword("this is no account's password") })
