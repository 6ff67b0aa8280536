package photo

import (
	"cmp"
	_ "embed"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"sync"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/spec"
)

// FaceSide is the long side in px of the picture faces are looked for in: a face of a
// fourteenth of it is found.
const FaceSide = 448

// faceSides are the sizes a picture is looked at in; what one misses, the other may
// find.
var faceSides = [...]int{FaceSide, 352}

// The kinds of subjects: somebody's face, the one thing a picture shows, what somebody
// said matters, a logo or a page of words in place of a photograph.
const (
	Face  = "face"
	Thing = "thing"
	Said  = "said"
	Drawn = "drawn"
)

// Subject is something a picture shows.
type Subject struct {
	Box    [4]float64 `json:"box"` // x, y, w, h as fractions (0-1) of the picture
	Kind   string     `json:"kind"`
	Weight float64    `json:"weight"` // how sure it is, 0-1
	// Turn is how far a face is turned, -1 to 1: towards the left of the picture, to
	// the camera, towards the right.
	Turn float64 `json:"turn,omitempty"`
	// Ground is the colour (#RRGGBB) around what is drawn, "" where it is clear.
	Ground string `json:"ground,omitempty"`
}

// FacesIn are the faces of a picture as they lie in a frame that shows a crop of it,
// in the frame's px; those beside it lie beside it.
func (p Picture) FacesIn(crop, frame spec.Rect) []spec.Rect { return p.in(Face, crop, frame) }

// ThingIn is the thing a picture shows, or what somebody said matters in it, as it lies
// in a frame; false where it has none.
func (p Picture) ThingIn(crop, frame spec.Rect) (spec.Rect, bool) {
	for _, kind := range []string{Said, Drawn, Thing} {
		if list := p.in(kind, crop, frame); len(list) > 0 {
			return list[0], true
		}
	}
	return spec.Rect{}, false
}

func (p Picture) in(kind string, crop, frame spec.Rect) []spec.Rect {
	var out []spec.Rect
	kx, ky := frame.W/crop.W, frame.H/crop.H
	for _, s := range p.Subjects {
		if s.Kind == kind {
			out = append(out, spec.Rect{
				X: frame.X + (s.Box[0]*float64(p.W)-crop.X)*kx, Y: frame.Y + (s.Box[1]*float64(p.H)-crop.Y)*ky,
				W: s.Box[2] * float64(p.W) * kx, H: s.Box[3] * float64(p.H) * ky,
			})
		}
	}
	return out
}

// FindFaces looks for faces, the largest first, and how the largest are turned, in a picture of at most [FaceSide] px:
// a small convolutional network that proposes boxes on a grid (after Redmon and
// Farhadi, YOLO9000, CVPR 2017, with separable convolutions), with the trained weights
// in faces/. Faces may be tilted and turned by about a third.
func FindFaces(p colour.Pixels) []Subject {
	if p.Empty() || max(p.W, p.H) < 48 {
		return nil
	}
	var found [len(faceSides)][]Subject
	var wg sync.WaitGroup
	for i, side := range faceSides {
		if i > 0 && max(p.W, p.H) < side { // as small as it is, once is enough
			continue
		}
		wg.Go(func() { found[i] = detector().boxes(scaledTo(p, side)) })
	}
	wg.Wait()
	faces := distinct(slices.Concat(found[:]...))
	slices.SortStableFunc(faces, func(a, b Subject) int { return cmp.Compare(b.Box[2]*b.Box[3], a.Box[2]*a.Box[3]) })
	for i := range min(len(faces), turnedFaces) {
		wg.Go(func() { faces[i].Turn = turnOf(p, faces[i].Box) })
	}
	wg.Wait()
	return faces
}

// surely is the least certainty of a face (0-1; set on photographs with and without),
// alike the overlap (intersection over union) from which two boxes are one face.
const (
	surely = 0.52
	alike  = 0.3
)

// distinct keeps the surest of boxes that overlap.
func distinct(list []Subject) []Subject {
	slices.SortStableFunc(list, func(a, b Subject) int { return cmp.Compare(b.Weight, a.Weight) })
	var out []Subject
	for _, s := range list {
		if !slices.ContainsFunc(out, func(o Subject) bool { return overlap(s.Box, o.Box) > alike }) {
			out = append(out, s)
		}
	}
	return out
}

func overlap(a, b [4]float64) float64 {
	w := math.Min(a[0]+a[2], b[0]+b[2]) - math.Max(a[0], b[0])
	h := math.Min(a[1]+a[3], b[1]+b[3]) - math.Max(a[1], b[1])
	if w <= 0 || h <= 0 {
		return 0
	}
	return w * h / (a[2]*a[3] + b[2]*b[3] - w*h)
}

// scaledTo is a picture with at most side px on its long side (bilinear; a picture
// that is small stays as it is).
func scaledTo(p colour.Pixels, side int) colour.Pixels {
	k := float64(side) / float64(max(p.W, p.H))
	if k >= 1 {
		return p
	}
	out := colour.Pixels{W: max(1, int(k*float64(p.W)+0.5)), H: max(1, int(k*float64(p.H)+0.5))}
	out.Pix = make([]byte, 4*out.W*out.H)
	kx, ky := float64(p.W)/float64(out.W), float64(p.H)/float64(out.H)
	for y := range out.H {
		v := math.Max(0, (float64(y)+0.5)*ky-0.5)
		y0 := min(int(v), p.H-1)
		y1, fy := min(y0+1, p.H-1), v-float64(y0)
		for x := range out.W {
			u := math.Max(0, (float64(x)+0.5)*kx-0.5)
			x0 := min(int(u), p.W-1)
			x1, fx := min(x0+1, p.W-1), u-float64(x0)
			for c := range 4 {
				at := func(x, y int) float64 { return float64(p.Pix[4*(y*p.W+x)+c]) }
				top, bottom := at(x0, y0)*(1-fx)+at(x1, y0)*fx, at(x0, y1)*(1-fx)+at(x1, y1)*fx
				out.Pix[4*(y*out.W+x)+c] = byte(top*(1-fy) + bottom*fy + 0.5)
			}
		}
	}
	return out
}

// network is the trained network: a convolution, five that are separable, each with a
// pooling after it, and one that reads boxes off.
type network struct{ weights map[string][]float32 }

// planes are the values of a layer, by row, column and channel.
type planes struct {
	h, w, c int
	v       []float32
}

// What the network was trained with: the mean red, green and blue it counts from, the
// step in px of the grid it proposes on, and the sizes of boxes in steps.
var (
	meanRGB = [3]float32{117.001, 114.697, 97.404}
	anchors = [...][2]float64{{1.603231, 2.094468}, {6.041143, 7.080126}, {2.882459, 3.518061}, {4.266906, 5.178857}, {9.041765, 10.66308}}
)

const gridStep = 32

//go:embed faces/weights.bin
var weightBytes []byte

//go:embed faces/weights.json
var weightList []byte

// detector finds boxes around faces.
var detector = sync.OnceValue(func() *network { return readNetwork(weightList, weightBytes) })

// readNetwork reads weights: bytes, with the scale and the least of each list.
func readNetwork(manifest, data []byte) *network {
	var groups []struct {
		Weights []struct {
			Name         string
			Shape        []int
			Quantization struct{ Scale, Min float64 }
		}
	}
	if err := json.Unmarshal(manifest, &groups); err != nil {
		panic(fmt.Errorf("the weights of faces: %w", err)) // embedded at build time
	}
	n := &network{weights: map[string][]float32{}}
	for _, g := range groups {
		for _, w := range g.Weights {
			size := 1
			for _, s := range w.Shape {
				size *= s
			}
			list := make([]float32, size)
			for i, b := range data[:size] {
				list[i] = float32(float64(b)*w.Quantization.Scale + w.Quantization.Min)
			}
			n.weights[w.Name], data = list, data[size:]
		}
	}
	return n
}

// boxes are the faces the network proposes in a picture.
func (n *network) boxes(p colour.Pixels) []Subject {
	in := input(p)
	l := pooled(leaky(n.full(in, "conv0", 1, 0)), 2)
	for _, name := range []string{"conv1", "conv2", "conv3", "conv4"} {
		l = pooled(leaky(n.separable(l, name, 1)), 2)
	}
	l = n.last(pooled(leaky(n.separable(l, "conv5", 1)), 1))
	var out []Subject
	w, h := float64(p.W)/gridStep, float64(p.H)/gridStep // of the picture, in steps
	for row := range l.h {
		for col := range l.w {
			for i, a := range anchors {
				v := l.v[(row*l.w+col)*l.c+5*i:][:5]
				sure := sigmoid(v[4])
				if sure < surely {
					continue
				}
				bw, bh := math.Exp(float64(v[2]))*a[0], math.Exp(float64(v[3]))*a[1]
				x, y := float64(col)+sigmoid(v[0])-bw/2, float64(row)+sigmoid(v[1])-bh/2
				x0, y0, x1, y1 := math.Max(0, x), math.Max(0, y), math.Min(w, x+bw), math.Min(h, y+bh)
				if x1 > x0 && y1 > y0 {
					out = append(out, Subject{Kind: Face, Weight: math.Round(sure*1000) / 1000, Box: [4]float64{x0 / w, y0 / h, (x1 - x0) / w, (y1 - y0) / h}})
				}
			}
		}
	}
	return out
}

func sigmoid(v float32) float64 { return 1 / (1 + math.Exp(-float64(v))) }

// input is a picture counted from the mean, on a canvas of whole steps; what is beside
// it is black.
func input(p colour.Pixels) planes {
	l := planes{(p.H + gridStep - 1) / gridStep * gridStep, (p.W + gridStep - 1) / gridStep * gridStep, 3, nil}
	l.v = make([]float32, l.h*l.w*3)
	for y := range l.h {
		for x := range l.w {
			for c := range 3 {
				v := float32(0)
				if y < p.H && x < p.W {
					v = float32(p.Pix[4*(y*p.W+x)+c])
				}
				l.v[3*(y*l.w+x)+c] = (v - meanRGB[c]) / 255
			}
		}
	}
	return l
}

// leak is what is left of a value below 0.
const leak = 0.1

func leaky(l planes) planes { return rectified(l, leak) }

// rectified keeps a share of what is below 0.
func rectified(l planes, share float32) planes {
	for i, x := range l.v {
		if x < 0 {
			l.v[i] = share * x
		}
	}
	return l
}

// full is a convolution of 3 x 3 px across all channels, in steps, with so many px of
// margin at the end of rows and columns.
func (n *network) full(in planes, name string, step, margin int) planes {
	f, bias := n.weights[name+"/filters"], n.weights[name+"/bias"]
	k := len(bias)
	out := planes{(in.h+margin-3)/step + 1, (in.w+margin-3)/step + 1, k, nil}
	out.v = make([]float32, out.h*out.w*k)
	for y := range out.h {
		for x := range out.w {
			o := out.v[(y*out.w+x)*k:][:k]
			copy(o, bias)
			for dy := range min(3, in.h-y*step) {
				row := in.v[((y*step+dy)*in.w+x*step)*in.c:][:in.c*min(3, in.w-x*step)]
				addRows(o, f[3*in.c*dy*k:], row)
			}
		}
	}
	return out
}

// separable is a convolution of 3 x 3 px within each channel and one across them, with
// a margin of a px around; in steps of two, as far as there are px, at the end alone.
func (n *network) separable(in planes, name string, step int) planes {
	depth, across, bias := n.weights[name+"/depthwise_filter"], n.weights[name+"/pointwise_filter"], n.weights[name+"/bias"]
	k, before := len(bias), 2-step
	out := planes{(in.h + step - 1) / step, (in.w + step - 1) / step, k, nil}
	out.v = make([]float32, out.h*out.w*k)
	own := make([]float32, in.c)
	for y := range out.h {
		for x := range out.w {
			clear(own)
			top, left := y*step-before, x*step-before
			for dy := max(0, -top); dy < min(3, in.h-top); dy++ {
				for dx := max(0, -left); dx < min(3, in.w-left); dx++ {
					addProducts(own, in.v[((top+dy)*in.w+left+dx)*in.c:], depth[(3*dy+dx)*in.c:])
				}
			}
			o := out.v[(y*out.w+x)*k:][:k]
			copy(o, bias)
			addRows(o, across, own)
		}
	}
	return out
}

// addProducts adds a[i] b[i] to every to[i].
func addProducts(to, a, b []float32) {
	a, b = a[:len(to)], b[:len(to)]
	for i := range to {
		to[i] += a[i] * b[i]
	}
}

// last reads five boxes of five values off each place.
func (n *network) last(in planes) planes {
	f, bias := n.weights["conv8/filters"], n.weights["conv8/bias"]
	k := len(bias)
	out := planes{in.h, in.w, k, make([]float32, in.h*in.w*k)}
	for i := range in.h * in.w {
		o := out.v[i*k:][:k]
		copy(o, bias)
		addRows(o, f, in.v[i*in.c:][:in.c])
	}
	return out
}

// addRows adds to o each row of a, len(o) long, times a value of v; four rows at a
// time, for o to be read and written less often.
func addRows(o, a, v []float32) {
	k := len(o)
	for ; len(v) >= 4; v, a = v[4:], a[4*k:] {
		v0, v1, v2, v3 := v[0], v[1], v[2], v[3]
		a0, a1, a2, a3 := a[:k], a[k:][:k], a[2*k:][:k], a[3*k:][:k]
		for i := range o {
			o[i] += a0[i]*v0 + a1[i]*v1 + a2[i]*v2 + a3[i]*v3
		}
	}
	for j, x := range v {
		row := a[j*k:][:k]
		for i := range o {
			o[i] += row[i] * x
		}
	}
}

// pooled takes the greatest of every 2 x 2 values, in steps of one or two.
func pooled(in planes, step int) planes {
	out := planes{(in.h + step - 1) / step, (in.w + step - 1) / step, in.c, nil}
	out.v = make([]float32, out.h*out.w*out.c)
	for y := range out.h {
		for x := range out.w {
			o := out.v[(y*out.w+x)*out.c:][:out.c]
			copy(o, in.v[(y*step*in.w+x*step)*in.c:][:in.c])
			for _, d := range [3][2]int{{0, 1}, {1, 0}, {1, 1}} {
				yy, xx := y*step+d[0], x*step+d[1]
				if yy >= in.h || xx >= in.w {
					continue
				}
				for c, v := range in.v[(yy*in.w+xx)*in.c:][:in.c] {
					o[c] = max(o[c], v)
				}
			}
		}
	}
	return out
}
