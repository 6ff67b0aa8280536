// Package hostile makes files that are built to harm whoever reads them: fonts,
// drawings, pictures, archives and lists, a class of harm each. Everything is
// made by small programs from a seed; nothing large is kept. Its tests take them
// in and use them, and damage good files in thousands of ways.
package hostile

import (
	"bytes"
	"encoding/binary"
	"math/rand/v2"
)

// File is a file with the harm it is meant to do.
type File struct {
	Harm string
	Name string
	Data []byte
}

// Damaged is a good file with a few of its bytes changed, taken out or doubled;
// the same number gives the same damage.
func Damaged(good []byte, n uint64) []byte {
	rng := rand.New(rand.NewPCG(n, 0x5eed))
	out := bytes.Clone(good)
	for range 1 + rng.IntN(3) {
		if len(out) < 8 {
			return out
		}
		at := rng.IntN(len(out) - 4)
		if rng.IntN(2) == 0 { // most of what a file says stands near its beginning
			at = rng.IntN(min(len(out)-4, 2048))
		}
		switch rng.IntN(7) {
		case 0:
			out[at] ^= 1 << rng.IntN(8)
		case 1:
			out[at] = byte(rng.IntN(256))
		case 2:
			binary.BigEndian.PutUint16(out[at:], []uint16{0, 1, 0x7fff, 0x8000, 0xffff}[rng.IntN(5)])
		case 3:
			binary.BigEndian.PutUint32(out[at:], []uint32{0, 1, 0x7fffffff, 0xffffffff, uint32(len(out))}[rng.IntN(5)])
		case 4:
			out = out[:at]
		case 5:
			n := min(1+rng.IntN(64), len(out)-at)
			out = append(out[:at], out[at+n:]...)
		case 6:
			n := min(1+rng.IntN(64), len(out)-at)
			out = append(out[:at+n], append(bytes.Clone(out[at:at+n]), out[at+n:]...)...)
		}
	}
	return out
}
