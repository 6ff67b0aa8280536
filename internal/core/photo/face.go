package photo

import (
	"cmp"
	_ "embed"
	"encoding/xml"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/spec"
)

// Grey is a small picture in grey, a byte a px.
type Grey struct {
	W, H int
	Pix  []byte
}

// Greyed is a picture in grey by the luma of Rec. 601.
func Greyed(p colour.Pixels) Grey {
	g := Grey{W: p.W, H: p.H, Pix: make([]byte, p.W*p.H)}
	for i := range g.Pix {
		g.Pix[i] = byte((299*int(p.Pix[4*i]) + 587*int(p.Pix[4*i+1]) + 114*int(p.Pix[4*i+2]) + 500) / 1000)
	}
	return g
}

// FaceSide is the long side in px of the grey picture faces are looked for in: a
// face of a sixteenth of it is found.
const FaceSide = 720

// Face is the kind of a subject that is somebody's face.
const Face = "face"

// Subject is something a picture shows.
type Subject struct {
	Box    [4]float64 `json:"box"` // x, y, w, h as fractions (0-1) of the picture
	Kind   string     `json:"kind"`
	Weight float64    `json:"weight"` // how sure it is: windows that agree
}

// FacesIn are the faces of a picture as they lie in a frame that shows a crop of it,
// in the frame's px; those beside it lie beside it.
func (p Picture) FacesIn(crop, frame spec.Rect) []spec.Rect {
	var out []spec.Rect
	kx, ky := frame.W/crop.W, frame.H/crop.H
	for _, s := range p.Subjects {
		if s.Kind == Face {
			out = append(out, spec.Rect{
				X: frame.X + (s.Box[0]*float64(p.W)-crop.X)*kx, Y: frame.Y + (s.Box[1]*float64(p.H)-crop.Y)*ky,
				W: s.Box[2] * float64(p.W) * kx, H: s.Box[3] * float64(p.H) * ky,
			})
		}
	}
	return out
}

// FindFaces looks for faces seen from the front and upright, the largest first: a
// boosted cascade of local binary patterns (Viola, Jones, CVPR 2001; Liao, Zhu, Lei,
// Zhang, Li, ICB 2007) over a pyramid of scales, with the trained data in cascades/.
// A place counts where several windows agree.
func FindFaces(g Grey) []Subject {
	if g.W <= 0 || g.H <= 0 || len(g.Pix) < g.W*g.H {
		return nil
	}
	faces := group(frontal().hits(g), agreeing)
	slices.SortStableFunc(faces, func(a, b hit) int { return cmp.Compare(b.w*b.h, a.w*a.h) })
	var out []Subject
	for _, r := range faces {
		out = append(out, Subject{Kind: Face, Weight: float64(r.n), Box: [4]float64{
			float64(r.x) / float64(g.W), float64(r.y) / float64(g.H), float64(r.w) / float64(g.W), float64(r.h) / float64(g.H),
		}})
	}
	return out
}

// More than agreeing windows have to hit a face (set on photographs with and
// without faces); from scale to scale the pyramid goes by pyramidStep.
const (
	agreeing    = 5
	pyramidStep = 1.1
)

// scaled is the picture at another size, between its px (bilinear).
func (g Grey) scaled(w, h int) Grey {
	if w == g.W && h == g.H {
		return g
	}
	out := Grey{W: w, H: h, Pix: make([]byte, w*h)}
	kx, ky := float64(g.W)/float64(w), float64(g.H)/float64(h)
	type step struct {
		at, next int
		part     float64
	}
	across := make([]step, w)
	along := func(i int, k float64, n int) step {
		v := math.Max(0, (float64(i)+0.5)*k-0.5)
		at := min(int(v), n-1)
		return step{at, min(at+1, n-1), v - float64(at)}
	}
	for x := range across {
		across[x] = along(x, kx, g.W)
	}
	for y := range h {
		s := along(y, ky, g.H)
		upper, lower := g.Pix[s.at*g.W:], g.Pix[s.next*g.W:]
		for x, c := range across {
			u := float64(upper[c.at]) + c.part*(float64(upper[c.next])-float64(upper[c.at]))
			l := float64(lower[c.at]) + c.part*(float64(lower[c.next])-float64(lower[c.at]))
			out.Pix[y*w+x] = byte(u + s.part*(l-u) + 0.5)
		}
	}
	return out
}

// cascade is a trained detector: a window passes a stage when the sum of what its
// weak classifiers say reaches the threshold, and is a hit when it passes all.
type cascade struct {
	w, h     int      // px of the window
	features [][4]int // the first of three by three equal blocks: x, y, w, h
	stages   []stage
}

type stage struct {
	threshold float64
	weak      []weak
}

// weak says one of two things, by whether a feature's pattern is in a set of the
// 256 there are.
type weak struct {
	feature int
	set     [8]uint32
	in, out float64
}

// hit is a window, in px of the picture, with how many agreed on it.
type hit struct{ x, y, w, h, n int }

// hits lists the windows that pass, at all scales and places.
func (c *cascade) hits(g Grey) []hit {
	var out []hit
	corners := make([][16]int, len(c.features))
	for factor := 1.0; ; factor *= pyramidStep {
		w, h := int(math.Round(float64(g.W)/factor)), int(math.Round(float64(g.H)/factor))
		if w <= c.w || h <= c.h {
			return out
		}
		sums := g.scaled(w, h).sums()
		for i, f := range c.features {
			for k := range corners[i] {
				corners[i][k] = (f[1]+k/4*f[3])*(w+1) + f[0] + k%4*f[2]
			}
		}
		step := 2
		if factor > 2 {
			step = 1
		}
		for y := 0; y+c.h <= h; y += step {
			for x := 0; x+c.w <= w; x += step {
				if c.passes(sums[y*(w+1)+x:], corners) {
					at := func(v int) int { return int(math.Round(float64(v) * factor)) }
					out = append(out, hit{at(x), at(y), at(c.w), at(c.h), 1})
				}
			}
		}
	}
}

// sums is the integral image: at x, y the sum of all px above and to the left.
func (g Grey) sums() []int32 {
	w := g.W + 1
	out := make([]int32, w*(g.H+1))
	for y := range g.H {
		row := int32(0)
		for x := range g.W {
			row += int32(g.Pix[y*g.W+x])
			out[(y+1)*w+x+1] = out[y*w+x+1] + row
		}
	}
	return out
}

func (c *cascade) passes(sums []int32, corners [][16]int) bool {
	for i := range c.stages {
		s := &c.stages[i]
		total := 0.0
		for j := range s.weak {
			k := &s.weak[j]
			if p := pattern(sums, &corners[k.feature]); k.set[p>>5]&(1<<(p&31)) != 0 {
				total += k.in
			} else {
				total += k.out
			}
		}
		if total < s.threshold {
			return false
		}
	}
	return true
}

// pattern compares the eight blocks around the middle one with it, written out
// because a loop is slower: a bit each,
// clockwise from the upper left, the first the highest.
func pattern(s []int32, c *[16]int) uint {
	block := func(a, b, d, e int) int32 { return s[c[a]] - s[c[b]] - s[c[d]] + s[c[e]] }
	mid := block(5, 6, 9, 10)
	var p uint
	if block(0, 1, 4, 5) >= mid {
		p |= 128
	}
	if block(1, 2, 5, 6) >= mid {
		p |= 64
	}
	if block(2, 3, 6, 7) >= mid {
		p |= 32
	}
	if block(6, 7, 10, 11) >= mid {
		p |= 16
	}
	if block(10, 11, 14, 15) >= mid {
		p |= 8
	}
	if block(9, 10, 13, 14) >= mid {
		p |= 4
	}
	if block(8, 9, 12, 13) >= mid {
		p |= 2
	}
	if block(4, 5, 8, 9) >= mid {
		p |= 1
	}
	return p
}

// group joins hits that are about the same window, keeps those at least so many
// agreed on, and leaves out what lies inside a surer one.
func group(hits []hit, least int) []hit {
	class := make([]int, len(hits)) // index of the first of its class
	root := func(i int) int {
		for class[i] != i {
			i = class[i]
		}
		return i
	}
	for i := range hits {
		class[i] = i
		for j := range i {
			if hits[i].like(hits[j]) {
				a, b := root(i), root(j)
				class[max(a, b)] = min(a, b)
			}
		}
	}
	sums := map[int]*hit{}
	var order []int
	for i, h := range hits {
		r := root(i)
		if sums[r] == nil {
			sums[r] = &hit{}
			order = append(order, r)
		}
		s := sums[r]
		s.x, s.y, s.w, s.h, s.n = s.x+h.x, s.y+h.y, s.w+h.w, s.h+h.h, s.n+1
	}
	var means []hit
	for _, r := range order {
		if s := sums[r]; s.n > least {
			mean := func(v int) int { return int(math.Round(float64(v) / float64(s.n))) }
			means = append(means, hit{mean(s.x), mean(s.y), mean(s.w), mean(s.h), s.n})
		}
	}
	var out []hit
	for i, a := range means {
		inside := false
		for j, b := range means {
			dx, dy := int(math.Round(float64(b.w)*likeness)), int(math.Round(float64(b.h)*likeness))
			if i != j && a.x >= b.x-dx && a.y >= b.y-dy && a.x+a.w <= b.x+b.w+dx && a.y+a.h <= b.y+b.h+dy && (b.n > max(3, a.n) || a.n < 3) {
				inside = true
			}
		}
		if !inside {
			out = append(out, a)
		}
	}
	return out
}

// likeness is how far apart (share of a side, 0-1) two windows of one face are.
const likeness = 0.2

func (a hit) like(b hit) bool {
	d := likeness * float64(min(a.w, b.w)+min(a.h, b.h)) / 2
	near := func(p, q int) bool { return math.Abs(float64(p-q)) <= d }
	return near(a.x, b.x) && near(a.y, b.y) && near(a.x+a.w, b.x+b.w) && near(a.y+a.h, b.y+b.h)
}

//go:embed cascades/frontal.xml
var frontalData []byte

// frontal is the shipped detector, read once.
var frontal = sync.OnceValue(func() *cascade {
	c, err := parseCascade(frontalData)
	if err != nil {
		panic(fmt.Sprintf("the shipped cascade: %v", err))
	}
	return c
})

// parseCascade reads the XML a training program writes.
func parseCascade(data []byte) (*cascade, error) {
	var doc struct {
		Cascade struct {
			W      int `xml:"width"`
			H      int `xml:"height"`
			Stages []struct {
				Threshold float64 `xml:"stageThreshold"`
				Weak      []struct {
					Nodes  string `xml:"internalNodes"`
					Leaves string `xml:"leafValues"`
				} `xml:"weakClassifiers>_"`
			} `xml:"stages>_"`
			Features []struct {
				Rect string `xml:"rect"`
			} `xml:"features>_"`
		} `xml:"cascade"`
	}
	if err := xml.Unmarshal(data, &doc); err != nil {
		return nil, err
	}
	numbers := func(s string, want int) ([]float64, error) {
		var out []float64
		for _, f := range strings.Fields(s) {
			v, err := strconv.ParseFloat(f, 64)
			if err != nil {
				return nil, err
			}
			out = append(out, v)
		}
		if len(out) != want {
			return nil, fmt.Errorf("%d numbers where %d are wanted", len(out), want)
		}
		return out, nil
	}
	c := &cascade{w: doc.Cascade.W, h: doc.Cascade.H}
	for _, f := range doc.Cascade.Features {
		v, err := numbers(f.Rect, 4)
		if err != nil {
			return nil, err
		}
		c.features = append(c.features, [4]int{int(v[0]), int(v[1]), int(v[2]), int(v[3])})
	}
	for _, s := range doc.Cascade.Stages {
		st := stage{threshold: s.Threshold - 1e-5}
		for _, w := range s.Weak {
			n, err := numbers(w.Nodes, 11) // two children that are leaves, the feature, the set
			if err != nil {
				return nil, err
			}
			l, err := numbers(w.Leaves, 2)
			if err != nil {
				return nil, err
			}
			k := weak{feature: int(n[2]), in: l[0], out: l[1]}
			if k.feature < 0 || k.feature >= len(c.features) {
				return nil, fmt.Errorf("feature %d of %d", k.feature, len(c.features))
			}
			for i := range k.set {
				k.set[i] = uint32(int32(n[3+i]))
			}
			st.weak = append(st.weak, k)
		}
		c.stages = append(c.stages, st)
	}
	if c.w <= 0 || c.h <= 0 || len(c.stages) == 0 {
		return nil, fmt.Errorf("no stages")
	}
	return c, nil
}
