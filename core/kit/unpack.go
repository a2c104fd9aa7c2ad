package kit

import (
	"archive/zip"
	"bufio"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"hash"
	"hash/crc32"
	"io"
	"sync"

	"compactparcel/core/item"

	"github.com/klauspost/compress/flate"
)

func (k *Kit) openFile(want File) (io.ReadCloser, error) {
	rc, err := unpack(k.files[want.Path])
	if err != nil {
		return nil, err
	}
	return &checked{r: rc, sum: sha256.New(), want: want}, nil
}

// expanders are reused: one takes forty kilobytes of tables.
var expanders sync.Pool

// unpack gives an entry's content. Its end is only reached when all packed bytes were
// used up and size and CRC-32 are those of the directory.
func unpack(f *zip.File) (io.ReadCloser, error) {
	raw, err := f.OpenRaw()
	if err != nil {
		return nil, err
	}
	u := &unpacked{f: f, in: bufio.NewReaderSize(raw, 64<<10)}
	switch f.Method {
	case zip.Store:
		u.r = u.in
	case zip.Deflate:
		if old, ok := expanders.Get().(io.ReadCloser); ok {
			if err := old.(flate.Resetter).Reset(u.in, nil); err != nil {
				return nil, err
			}
			u.r = old
		} else {
			u.r = flate.NewReader(u.in)
		}
	default:
		return nil, fmt.Errorf("compression method %d; only stored and deflated are read", f.Method)
	}
	return u, nil
}

type unpacked struct {
	f   *zip.File
	in  *bufio.Reader
	r   io.Reader
	crc uint32
	n   uint64
}

func (u *unpacked) Read(p []byte) (int, error) {
	n, err := u.r.Read(p)
	u.crc = crc32.Update(u.crc, crc32.IEEETable, p[:n])
	if u.n += uint64(n); u.n > u.f.UncompressedSize64 {
		return 0, fmt.Errorf("it unpacks to more than the %d bytes it says", u.f.UncompressedSize64)
	}
	if !errors.Is(err, io.EOF) {
		return n, err
	}
	switch _, more := u.in.ReadByte(); {
	case more == nil:
		return n, fmt.Errorf("there are bytes after its content")
	case u.n != u.f.UncompressedSize64 || u.crc != u.f.CRC32:
		return n, fmt.Errorf("its size or CRC-32 is not what the directory says")
	}
	return n, io.EOF
}

func (u *unpacked) Close() error {
	if u.f.Method == zip.Deflate {
		if r, ok := u.r.(io.ReadCloser); ok {
			expanders.Put(r)
			u.r = nil
		}
	}
	return nil
}

// checked passes content on and fails at its end when it is not what was promised.
type checked struct {
	r    io.ReadCloser
	sum  hash.Hash
	n    int64
	want File
}

func (c *checked) Read(p []byte) (int, error) {
	n, err := c.r.Read(p)
	c.sum.Write(p[:n])
	if c.n += int64(n); c.n > c.want.Bytes {
		return 0, fmt.Errorf("%s is longer than its %d bytes", c.want.Path, c.want.Bytes)
	}
	if errors.Is(err, io.EOF) {
		if got := item.Digest(hex.EncodeToString(c.sum.Sum(nil))); got != c.want.SHA256 {
			return n, fmt.Errorf("its content has the digest %s; the packing list says %s", got.Short(),
				c.want.SHA256.Short())
		}
	} else if err != nil {
		return n, fmt.Errorf("its content is damaged: %w", err)
	}
	return n, err
}

func (c *checked) Close() error { return c.r.Close() }
