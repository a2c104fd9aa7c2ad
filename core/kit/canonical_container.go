package kit

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"fmt"
	"io"
)

// checkCanonical refuses a container that this format would not write so, to the byte:
// all headers and the directory are made again and compared. Of files beyond four
// gigabytes the headers are compared by their fields alone.
func (k *Kit) checkCanonical(r io.ReaderAt, size int64, z *zip.Reader) error {
	var directory []byte
	end, large := int64(0), size >= 1<<32-1 || len(z.File) >= 1<<16-1
	for i, f := range z.File {
		at, err := f.DataOffset()
		if err != nil {
			return fmt.Errorf("reading the header of %s: %w", f.Name, err)
		}
		want := header(f.Name)
		wide := f.CompressedSize64 >= 1<<32-1 || f.UncompressedSize64 >= 1<<32-1
		large = large || wide
		local := headerBytes(f, true)
		switch {
		case i == 0 && f.Name != ListName, i == 1 && f.Name != SealName, i > 2 && z.File[i-1].Name >= f.Name:
			k.refuse(f.Name,
				"it is out of order; a signed kit has the packing list, the seal, then all by path")
		case f.Method != want.Method || !f.Modified.UTC().Equal(epoch) || f.Comment != "":
			k.refuse(f.Name, "its method, time or comment differs from a signed kit's")
		case !large && at-int64(len(local)) != end:
			k.refuse(f.Name, "there are stray bytes before it")
		case !large && !holds(r, end, local):
			k.refuse(f.Name, "its local header differs from a signed kit's")
		}
		directory = append(directory, headerBytes(f, false)...)
		binary.LittleEndian.PutUint32(directory[len(directory)-len(f.Name)-4:], uint32(end))
		end = at + int64(f.CompressedSize64)
		if f.Flags&8 != 0 {
			var descriptor [16]byte
			binary.LittleEndian.PutUint32(descriptor[:], 0x08074b50)
			binary.LittleEndian.PutUint32(descriptor[4:], f.CRC32)
			binary.LittleEndian.PutUint32(descriptor[8:], uint32(f.CompressedSize64))
			binary.LittleEndian.PutUint32(descriptor[12:], uint32(f.UncompressedSize64))
			if !large && !holds(r, end, descriptor[:]) {
				k.refuse(f.Name, "what follows it differs from a signed kit's")
			}
			if end += 16; wide {
				end += 8
			}
		}
	}
	last := make([]byte, 22)
	binary.LittleEndian.PutUint32(last, 0x06054b50)
	binary.LittleEndian.PutUint16(last[8:], uint16(len(z.File)))
	binary.LittleEndian.PutUint16(last[10:], uint16(len(z.File)))
	binary.LittleEndian.PutUint32(last[12:], uint32(len(directory)))
	binary.LittleEndian.PutUint32(last[16:], uint32(end))
	if directory = append(directory, last...); z.Comment != "" {
		k.refuse(ListName, "the file carries a comment, and a signed kit has none")
	} else if !large && (end+int64(len(directory)) != size || !holds(r, end, directory)) {
		k.refuse(ListName, "the file's directory differs from a signed kit's")
	}
	return nil
}

func holds(r io.ReaderAt, at int64, want []byte) bool {
	got := make([]byte, len(want))
	_, err := r.ReadAt(got, at)
	return (err == nil || err == io.EOF) && bytes.Equal(got, want)
}

// headerBytes writes an entry's header as Write does: local, or of the directory.
func headerBytes(f *zip.File, local bool) []byte {
	var b []byte
	u16 := func(v uint16) { b = binary.LittleEndian.AppendUint16(b, v) }
	u32 := func(v uint32) { b = binary.LittleEndian.AppendUint32(b, v) }
	crc, packed, whole := f.CRC32, uint32(f.CompressedSize64), uint32(f.UncompressedSize64)
	if local {
		u32(0x04034b50)
		if f.Flags&8 != 0 {
			crc, packed, whole = 0, 0, 0
		}
	} else {
		u32(0x02014b50)
		u16(20)
	}
	u16(20)
	u16(f.Flags & 8)
	u16(f.Method)
	u16(0)
	u16(epochDate)
	u32(crc)
	u32(packed)
	u32(whole)
	u16(uint16(len(f.Name)))
	u16(0)
	if !local {
		u16(0)
		u16(0)
		u16(0)
		u32(0)
		u32(0) // its place is put in by the caller
	}
	return append(b, f.Name...)
}
