package item

import (
	"crypto/sha256"
	"crypto/sha3"
	"encoding/binary"
	"encoding/hex"
	"sort"
	"strings"
)

// CollectionScheme is the scheme of a collection's digest, which begins with it.
const CollectionScheme = "lt1"

// lanes is the number of sixteen-bit sums of a CollectionSum.
const lanes = 1024

// CollectionSum is a homomorphic hash of a set of items: LtHash16 (Bellare and Micciancio
// 1997; Lewi, Kim, Maykov and Weis 2019), 1024 sums modulo 2^16 of the items' hashes under
// SHAKE256. An item that comes, changes or goes costs two hashes, however many there are, and
// neither the order nor the way by which the set came about matters. A tree of digests would
// do the same with a row for every branch, read and locked at each write; the sum is one
// value of 2 KB. Finding another set with the same sum is as hard as a short vector in a
// lattice: about 200 bits.
type CollectionSum [lanes]uint16

// Add takes an item in a state into the set.
func (s *CollectionSum) Add(a Address, state Digest) { s.combine(a, state, false) }

// Remove takes an item out that was added.
func (s *CollectionSum) Remove(a Address, state Digest) { s.combine(a, state, true) }

func (s *CollectionSum) combine(a Address, state Digest, out bool) {
	var buf [2 * lanes]byte
	h := sha3.NewSHAKE256()
	h.Write([]byte(a.String() + "\x00" + string(state)))
	h.Read(buf[:])
	for i := range s {
		x := binary.LittleEndian.Uint16(buf[2*i:])
		if out {
			s[i] -= x
		} else {
			s[i] += x
		}
	}
}

// Bytes gives the sum as it is kept: 2048 bytes, the sums in little endian.
func (s *CollectionSum) Bytes() []byte {
	out := make([]byte, 0, 2*lanes)
	for _, x := range s {
		out = binary.LittleEndian.AppendUint16(out, x)
	}
	return out
}

// CollectionSumOf reads a sum as it is kept; nothing at all is that of no items. ok is false
// for what is none.
func CollectionSumOf(b []byte) (s CollectionSum, ok bool) {
	if len(b) == 0 {
		return s, true
	}
	if len(b) != 2*lanes {
		return s, false
	}
	for i := range s {
		s[i] = binary.LittleEndian.Uint16(b[2*i:])
	}
	return s, true
}

// Digest is the collection's digest: the scheme, and the SHA-256 of the sum in hex.
func (s *CollectionSum) Digest() Digest {
	d := sha256.Sum256(s.Bytes())
	return Digest(CollectionScheme + "-" + hex.EncodeToString(d[:]))
}

// IsDigestOf tells whether a digest is that of a collection, by the scheme that it carries. One
// without a scheme is of before they had any: what was published then says so.
func (d Digest) IsDigestOf(heads []Head) bool {
	if !d.Valid() {
		return d == CollectionDigest(heads)
	}
	states := make(map[Address]Digest, len(heads))
	for _, h := range heads {
		states[h.Address] = h.State()
	}
	return d == DigestOfStates(states)
}

// DigestOfStates is the digest of a collection of before digests carried their scheme: the
// SHA-256 of its items' addresses and states, a line each, sorted.
func DigestOfStates(states map[Address]Digest) Digest {
	lines := make([]string, 0, len(states))
	for a, s := range states {
		lines = append(lines, a.String()+" "+string(s)+"\n")
	}
	sort.Strings(lines)
	return DigestOf([]byte(strings.Join(lines, "")))
}

// CollectionDigest is over address, content and metadata of the items, settings
// included, and nothing else. The order in which they come does not matter.
func CollectionDigest(heads []Head) Digest {
	var s CollectionSum
	for _, h := range heads {
		s.Add(h.Address, h.State())
	}
	return s.Digest()
}
