package reel

import (
	"bufio"
	"bytes"
	"cmp"
	"encoding/binary"
	"io"
	"math"
	"os"

	"aspenridge/internal/core/sound"
)

// WAV is a track as a WAV file.
func WAV(t sound.Track) []byte {
	var b bytes.Buffer
	_ = writeWAV(&b, t) // a buffer takes all
	return b.Bytes()
}

// keepWAV writes a track as a file.
func keepWAV(path string, t sound.Track) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	w := bufio.NewWriter(f)
	return cmp.Or(writeWAV(w, t), w.Flush(), f.Close())
}

// writeWAV writes a track as a WAV file of 16 bits (RIFF, PCM).
func writeWAV(w io.Writer, t sound.Track) error {
	size := uint32(2 * len(t))
	head := struct {
		RIFF    [4]byte
		Size    uint32
		WAVEfmt [8]byte
		FmtSize uint32
		Format  uint16
		Sides   uint16
		Rate    uint32
		Bytes   uint32
		Block   uint16
		Bits    uint16
		Data    [4]byte
		Length  uint32
	}{[4]byte{'R', 'I', 'F', 'F'}, 36 + size, [8]byte{'W', 'A', 'V', 'E', 'f', 'm', 't', ' '}, 16, 1, 2, sound.Rate, 4 * sound.Rate, 4, 16, [4]byte{'d', 'a', 't', 'a'}, size}
	if err := binary.Write(w, binary.LittleEndian, head); err != nil {
		return err
	}
	samples := make([]int16, len(t))
	for i, v := range t {
		samples[i] = int16(max(-32768, min(32767, 32767*v)))
	}
	return binary.Write(w, binary.LittleEndian, samples)
}

// trackOf reads samples of 32 bits in two channels.
func trackOf(data []byte) sound.Track {
	t := make(sound.Track, len(data)/8*2)
	for i := range t {
		v := math.Float32frombits(binary.LittleEndian.Uint32(data[4*i:]))
		if v != v { // not a number, of a broken file
			v = 0
		}
		t[i] = max(-4, min(4, v))
	}
	return t
}
