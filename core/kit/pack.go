package kit

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"hash/crc32"
	"io"
	"runtime"
	"sync"

	"compactparcel/core/item"

	"github.com/klauspost/compress/flate"
)

// wholeBytes is the largest content that is packed in memory; larger ones stream.
const wholeBytes = 1 << 20

// packed is one entry, ready to be written.
type packed struct {
	header *zip.FileHeader
	body   []byte
	used   []*bytes.Buffer // to be given back when it is written
}

// buffers are reused: to have new memory cleared for each content takes longer than to
// copy it.
var buffers = sync.Pool{New: func() any { return &bytes.Buffer{} }}

func buffer() *bytes.Buffer {
	b := buffers.Get().(*bytes.Buffer)
	b.Reset()
	return b
}

func (p packed) done() {
	for _, b := range p.used {
		if b.Cap() <= 2*wholeBytes {
			buffers.Put(b)
		}
	}
}

// squeezers are reused: one takes a megabyte of tables.
var squeezers = sync.Pool{New: func() any {
	w, err := flate.NewWriter(io.Discard, 6)
	if err != nil {
		panic(err) // the level is one
	}
	return w
}}

// pack makes an entry of a content.
func pack(name string, b []byte) packed {
	h := header(name)
	h.CRC32, h.UncompressedSize64 = crc32.ChecksumIEEE(b), uint64(len(b))
	body := b
	var used []*bytes.Buffer
	if h.Method == zip.Deflate {
		out := buffer()
		used = append(used, out)
		w := squeezers.Get().(*flate.Writer)
		w.Reset(out)
		_, _ = w.Write(b) // into memory
		_ = w.Close()
		squeezers.Put(w)
		body = out.Bytes()
	}
	h.CompressedSize64 = uint64(len(body))
	return packed{h, body, used}
}

func writeRaw(z *zip.Writer, p packed) error {
	f, err := z.CreateRaw(p.header)
	if err != nil {
		return err
	}
	_, err = f.Write(p.body)
	return err
}

// writeFiles packs small contents ahead on all cores and writes all in order.
func writeFiles(z *zip.Writer, paths []string, files map[string]File, open Opener) error {
	type result struct {
		packed
		err error
	}
	ready := make([]chan result, len(paths))
	ahead := make(chan struct{}, 4*runtime.GOMAXPROCS(0))
	stop := make(chan struct{})
	defer close(stop)
	var next sync.Mutex
	at := 0
	for i := range ready {
		ready[i] = make(chan result, 1)
	}
	for range runtime.GOMAXPROCS(0) {
		go func() {
			for {
				select {
				case ahead <- struct{}{}:
				case <-stop:
					return
				}
				next.Lock()
				i := at
				at++
				next.Unlock()
				if i >= len(paths) {
					return
				}
				var r result
				if want := files[paths[i]]; want.Bytes <= wholeBytes {
					var b *bytes.Buffer
					if b, r.err = readWhole(want, open); r.err == nil {
						r.packed = pack(want.Path, b.Bytes())
						r.used = append(r.used, b)
					}
				}
				ready[i] <- r
			}
		}()
	}
	for i, p := range paths {
		r := <-ready[i]
		<-ahead
		if r.err == nil && r.header == nil {
			r.err = stream(z, files[p], open)
		} else if r.err == nil {
			r.err = writeRaw(z, r.packed)
			r.done()
		}
		if r.err != nil {
			return r.err
		}
	}
	return nil
}

func readWhole(want File, open Opener) (*bytes.Buffer, error) {
	r, err := open(want.Path, want.SHA256)
	if err != nil {
		return nil, fmt.Errorf("packing %s: %w", want.Path, err)
	}
	defer r.Close()
	buf := buffer()
	buf.Grow(int(want.Bytes) + bytes.MinRead) // so that it does not grow at its end
	if _, err := buf.ReadFrom(io.LimitReader(r, wholeBytes+1)); err != nil {
		return nil, fmt.Errorf("packing %s: %w", want.Path, err)
	}
	if _, sure := r.(item.Sure); sure {
		return buf, want.holdSize(int64(buf.Len()))
	}
	sum := sha256.Sum256(buf.Bytes())
	return buf, want.hold(int64(buf.Len()), sum[:])
}

// holdSize is hold for a content whose digest is known to be right.
func (f File) holdSize(n int64) error {
	if n != f.Bytes {
		return fmt.Errorf("packing %s: its content changed while it was packed (%d bytes; expected %d)", f.Path, n,
			f.Bytes)
	}
	return nil
}

// hold tells whether what was packed is what the list promises.
func (f File) hold(n int64, sum []byte) error {
	if got := item.Digest(hex.EncodeToString(sum)); got != f.SHA256 || n != f.Bytes {
		return fmt.Errorf("packing %s: its content changed while it was packed (%d bytes, digest %s; expected %d, %s)",
			f.Path, n, got.Short(), f.Bytes, f.SHA256.Short())
	}
	return nil
}

// stream packs one large content; its digest is worked out beside the writing.
func stream(z *zip.Writer, want File, open Opener) error {
	r, err := open(want.Path, want.SHA256)
	if err != nil {
		return fmt.Errorf("packing %s: %w", want.Path, err)
	}
	defer r.Close()
	f, err := z.CreateHeader(header(want.Path))
	if err != nil {
		return err
	}
	const blocks = 4
	free, full := make(chan []byte, blocks), make(chan []byte, blocks)
	for range blocks {
		free <- make([]byte, 256<<10)
	}
	sum := sha256.New()
	_, sure := r.(item.Sure)
	done := make(chan struct{})
	hashed := make(chan []byte, blocks)
	go func() {
		defer close(done)
		for b := range hashed {
			if !sure {
				sum.Write(b)
			}
			free <- b[:cap(b)]
		}
	}()
	var n int64
	var failed error
	go func() {
		defer close(full)
		for {
			b := <-free
			k, err := io.ReadFull(r, b)
			if k > 0 {
				full <- b[:k]
			}
			if err != nil {
				if err != io.EOF && err != io.ErrUnexpectedEOF {
					failed = err
				}
				return
			}
		}
	}()
	for b := range full {
		n += int64(len(b))
		if err == nil {
			_, err = f.Write(b)
		}
		hashed <- b
	}
	close(hashed)
	<-done
	if err == nil {
		err = failed
	}
	if err != nil {
		return fmt.Errorf("packing %s: %w", want.Path, err)
	}
	if sure {
		return want.holdSize(n)
	}
	return want.hold(n, sum.Sum(nil))
}
