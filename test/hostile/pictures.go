package hostile

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"hash/crc32"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
)

// Pictures are bitmaps.
func Pictures() []File {
	return []File{
		{"a WebP of 99 megapixels in 30 bytes", "wide.webp", webp(11_000, 9_000)},
		{"a WebP larger than is taken", "larger.webp", webp(16_383, 16_383)},
		{"a PNG of 99 megapixels of one colour", "flat.png", pngOf(11_000, 9_000, true)},
		{"a PNG that says 4,000 million pixels", "lies.png", pngOf(65_500, 65_500, false)},
		{"a PNG without pixels", "none.png", pngOf(400, 400, false)},
		{"a GIF that says 65,535 by 65,535", "lies.gif", append([]byte("GIF89a\xff\xff\xff\xff\x80\x00\x00"), make([]byte, 40)...)},
		{"a GIF of 3,000 frames", "frames.gif", frames(3000)},
		{"a JPEG cut off", "cut.jpg", jpegOf(900, 700)[:4000]},
		{"a JPEG that says 65,000 by 65,000", "lies.jpg", lying(jpegOf(64, 64))},
		{"a picture one pixel high", "line.png", pngOf(20_000, 1, true)},
		{"a text that calls itself a picture", "text.png", []byte("\x89PNG\r\n\x1a\nand then nothing of the kind")},
	}
}

// webp is a lossy picture of a size whose data is missing (RFC 9649, 2.5).
func webp(w, h int) []byte {
	frame := []byte{0x30, 0, 0, 0x9d, 0x01, 0x2a, byte(w), byte(w >> 8), byte(h), byte(h >> 8)}
	frame = append(frame, make([]byte, 20)...)
	out := append([]byte("RIFF"), binary.LittleEndian.AppendUint32(nil, uint32(12+len(frame)))...)
	out = append(append(out, "WEBPVP8 "...), binary.LittleEndian.AppendUint32(nil, uint32(len(frame)))...)
	return append(out, frame...)
}

// pngOf is a grey picture of one bit a pixel, packed as small as it gets; without
// whole its pixels are missing.
func pngOf(w, h int, whole bool) []byte {
	var out bytes.Buffer
	out.WriteString("\x89PNG\r\n\x1a\n")
	chunk := func(kind string, data []byte) {
		_ = binary.Write(&out, binary.BigEndian, uint32(len(data)))
		body := append([]byte(kind), data...)
		out.Write(body)
		_ = binary.Write(&out, binary.BigEndian, crc32.ChecksumIEEE(body))
	}
	chunk("IHDR", append(be32(w, h), 1, 0, 0, 0, 0))
	var data bytes.Buffer
	z, _ := zlib.NewWriterLevel(&data, zlib.BestCompression)
	if whole {
		row := make([]byte, 1+(w+7)/8)
		for range h {
			_, _ = z.Write(row)
		}
	}
	_ = z.Close()
	chunk("IDAT", data.Bytes())
	chunk("IEND", nil)
	return out.Bytes()
}

func frames(n int) []byte {
	g := &gif.GIF{}
	for i := range n {
		p := image.NewPaletted(image.Rect(0, 0, 64, 64), color.Palette{color.Black, color.White, color.RGBA{uint8(i), 90, 90, 255}})
		p.SetColorIndex(i%64, i%64, 2)
		g.Image, g.Delay = append(g.Image, p), append(g.Delay, 1)
	}
	var b bytes.Buffer
	_ = gif.EncodeAll(&b, g)
	return b.Bytes()
}

// jpegOf is a picture with something in it.
func jpegOf(w, h int) []byte {
	var b bytes.Buffer
	_ = jpeg.Encode(&b, Painted(w, h), nil)
	return b.Bytes()
}

// Painted is a picture with something in it, the same for the same size.
func Painted(w, h int) image.Image {
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			img.Set(x, y, color.RGBA{uint8(x * 255 / w), uint8(y * 255 / h), uint8((x ^ y) & 0xff), 255})
		}
	}
	return img
}

// Bitmap is a good picture in a format, to be damaged.
func Bitmap(format string, w, h int) []byte {
	if format == "jpeg" {
		return jpegOf(w, h)
	}
	var b bytes.Buffer
	_ = png.Encode(&b, Painted(w, h))
	return b.Bytes()
}

// lying makes a JPEG say another size.
func lying(data []byte) []byte {
	out := bytes.Clone(data)
	if at := bytes.Index(out, []byte{0xff, 0xc0}); at >= 0 {
		binary.BigEndian.PutUint16(out[at+5:], 65_000)
		binary.BigEndian.PutUint16(out[at+7:], 65_000)
	}
	return out
}
