package reel

import (
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"

	"aspenridge/internal/core/brief"
)

// What is taken in, as a film says it of itself before anything of it is decoded: what goes
// beyond that would cost more to read than a person waits for.
const (
	mostSide   = 4096 // px
	leastSide  = 64
	mostRefs   = 10   // pictures a frame is made of, at most
	mostRate   = 60.5 // frames a second
	mostPixels = 60e9 // of all frames together: 15 min of 1920 x 1080 at 30
)

// header is what a film says of itself before any of it is decoded.
type header struct {
	w, h    int // px, the larger of what the container and the stream say
	refs    int // pictures a frame is made of; 0 where it is not said
	rate    float64
	seconds float64
	picture bool
}

// readHeader reads what ffprobe writes without looking into the stream.
func readHeader(out []byte) (h header, err error) {
	var got struct {
		Streams []struct {
			Type     string `json:"codec_type"`
			Codec    string `json:"codec_name"`
			Width    int    `json:"width"`
			Height   int    `json:"height"`
			Rate     string `json:"avg_frame_rate"`
			Frames   string `json:"nb_frames"`
			Duration string `json:"duration"`
			Extra    string `json:"extradata"`
			Still    struct {
				Attached int `json:"attached_pic"`
			} `json:"disposition"`
		} `json:"streams"`
		Format struct {
			Duration string `json:"duration"`
		} `json:"format"`
	}
	if err := json.Unmarshal(out, &got); err != nil {
		return h, fmt.Errorf("%w: %w", ErrClip, err)
	}
	h.seconds, _ = strconv.ParseFloat(got.Format.Duration, 64)
	for _, s := range got.Streams {
		long, _ := strconv.ParseFloat(s.Duration, 64)
		h.seconds = math.Max(h.seconds, long)
		if s.Type != "video" || s.Still.Attached != 0 {
			continue
		}
		h.picture = true
		h.w, h.h = max(h.w, s.Width), max(h.h, s.Height)
		if s.Codec == "h264" {
			for _, p := range parameterSets(hexDump(s.Extra)) {
				h.w, h.h, h.refs = max(h.w, p.w), max(h.h, p.h), max(h.refs, p.refs)
			}
		}
		frames, _ := strconv.ParseFloat(s.Frames, 64)
		if frames > 0 && long > 0 {
			h.rate = math.Max(h.rate, frames/long)
		} else if over, under, ok := strings.Cut(s.Rate, "/"); ok {
			a, _ := strconv.ParseFloat(over, 64)
			if b, _ := strconv.ParseFloat(under, 64); b > 0 {
				h.rate = math.Max(h.rate, a/b)
			}
		}
	}
	return h, nil
}

// check says what goes beyond what is taken in; nil where nothing does.
func (h header) check() error {
	pixels := float64(h.w) * float64(h.h) * math.Max(h.rate, 1) * h.seconds
	switch {
	case h.seconds > brief.MostClip:
		return fmt.Errorf("%w runs %.0f min, at most %.0f are taken: cut out what is needed", ErrClip, h.seconds/60, brief.MostClip/60)
	case !h.picture:
		return nil
	case h.w > mostSide || h.h > mostSide:
		return fmt.Errorf("%w is %d x %d px, at most %d are taken: save it smaller", ErrClip, h.w, h.h, mostSide)
	case h.refs > mostRefs:
		return fmt.Errorf("%w makes each frame of up to %d others, at most %d are taken: save it anew as MP4", ErrClip, h.refs, mostRefs)
	case h.rate > mostRate:
		return fmt.Errorf("%w has %.0f frames a second, at most %.0f are taken: save it with fewer", ErrClip, h.rate, math.Floor(mostRate))
	case pixels > mostPixels:
		return fmt.Errorf("%w is too long for its size of %d x %d px: save it at 1920 x 1080, or cut out what is needed", ErrClip, h.w, h.h)
	}
	return nil
}

// cost is how many bytes of memory reading a frame takes at most: frames of half as many colours
// as places, as many as a frame is made of and those that are being made.
func (h header) cost() int {
	refs := h.refs
	if refs == 0 {
		refs = mostRefs
	}
	return 60<<20 + h.w*h.h*3/2*(refs+4)
}

// hexDump is what a dump of bytes as ffprobe writes them stands for: lines of an offset, groups of
// four digits, and the characters.
func hexDump(s string) (out []byte) {
	for line := range strings.Lines(s) {
		_, rest, ok := strings.Cut(line, ": ")
		if !ok {
			continue
		}
		digits, _, _ := strings.Cut(rest, "  ")
		data, err := hex.DecodeString(strings.ReplaceAll(strings.TrimSpace(digits), " ", ""))
		if err != nil {
			return out
		}
		out = append(out, data...)
	}
	return out
}

// parameters are what a sequence of H.264 says of its frames.
type parameters struct{ w, h, refs int }

// parameterSets reads the sequence parameter sets of a decoder configuration record (ISO/IEC
// 14496-15, 5.3.3.1).
func parameterSets(avcc []byte) (out []parameters) {
	if len(avcc) < 7 || avcc[0] != 1 {
		return nil
	}
	n, rest := int(avcc[5]&0x1f), avcc[6:]
	for range n {
		if len(rest) < 2 {
			break
		}
		size := int(rest[0])<<8 | int(rest[1])
		if len(rest) < 2+size {
			break
		}
		if p, ok := parameterSet(rest[2 : 2+size]); ok {
			out = append(out, p)
		}
		rest = rest[2+size:]
	}
	return out
}

// parameterSet reads one sequence parameter set (ITU-T H.264, 7.3.2.1.1); false for one that
// breaks off.
func parameterSet(nal []byte) (p parameters, ok bool) {
	if len(nal) < 4 || nal[0]&0x1f != 7 {
		return p, false
	}
	b := &bits{data: unescaped(nal[1:])}
	profile := b.read(8)
	b.read(16) // constraints and level
	b.golomb() // id
	switch profile {
	case 100, 110, 122, 244, 44, 83, 86, 118, 128, 138, 139, 134, 135:
		chroma := b.golomb()
		if chroma == 3 {
			b.read(1)
		}
		b.golomb() // depth of light and of colour
		b.golomb()
		b.read(1)
		if b.read(1) == 1 { // scaling matrices
			lists := 8
			if chroma == 3 {
				lists = 12
			}
			for i := range lists {
				if b.read(1) == 1 {
					b.scalingList(i)
				}
			}
		}
	}
	b.golomb() // length of frame numbers
	switch b.golomb() {
	case 0:
		b.golomb()
	case 1:
		b.read(1)
		b.golomb()
		b.golomb()
		for range min(b.golomb(), 256) {
			b.golomb()
		}
	}
	p.refs = b.golomb()
	b.read(1)
	p.w, p.h = 16*(b.golomb()+1), 16*(b.golomb()+1)
	if b.read(1) == 0 { // fields: half as high
		p.h *= 2
	}
	return p, !b.over
}

// unescaped takes out the bytes that keep a start code from standing in a unit (7.3.1).
func unescaped(data []byte) []byte {
	out := make([]byte, 0, len(data))
	zeros := 0
	for _, c := range data {
		if zeros >= 2 && c == 3 {
			zeros = 0
			continue
		}
		if zeros++; c != 0 {
			zeros = 0
		}
		out = append(out, c)
	}
	return out
}

// bits reads a string of bits.
type bits struct {
	data []byte
	at   int
	over bool // it was read past its end
}

func (b *bits) read(n int) (v int) {
	for range n {
		if b.at>>3 >= len(b.data) {
			b.over = true
			return 0
		}
		v = v<<1 | int(b.data[b.at>>3]>>(7-b.at&7))&1
		b.at++
	}
	return v
}

// golomb reads a number as H.264 writes most of them (9.1): zeros say how long it is. Signed ones
// are as long.
func (b *bits) golomb() int {
	zeros := 0
	for b.read(1) == 0 && !b.over {
		if zeros++; zeros > 31 {
			b.over = true
			return 0
		}
	}
	return 1<<zeros - 1 + b.read(zeros)
}

// scalingList passes over a list (7.3.2.1.1.1).
func (b *bits) scalingList(i int) {
	size, last, next := 16, 8, 8
	if i >= 6 {
		size = 64
	}
	for range size {
		if next != 0 {
			v := b.golomb()
			delta := (v + 1) / 2
			if v%2 == 0 {
				delta = -v / 2
			}
			next = ((last+delta)%256 + 256) % 256
		}
		if next != 0 {
			last = next
		}
	}
}
