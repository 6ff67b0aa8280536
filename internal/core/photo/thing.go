package photo

import (
	"image"
	"math"
	"slices"

	"aspenridge/internal/core/colour"
)

// thingSide is the long side in px of the picture a thing is looked for in.
const thingSide = 256

// What makes a thing (set by eye on photographs: of eighteen, the four with one clear
// subject are found, and a crash barrier).
const (
	sharpMost  = 0.15 // of OKLab's range: sharper than that is no more of a subject
	thingFrom  = 0.3  // of the peak: what is as detailed as that belongs to it
	thingShare = 0.38 // of all detail that lies in it at least
	thingLeast = 0.006
	thingMost  = 0.45 // of the picture's area
	elsewhere  = 0.3  // detail outside over detail inside, at most
	detailMid  = 0.45 // how far from the middle (0-1) a thing is as likely as not
)

// FindThing is the one thing a picture shows, if it shows one: a compact part full of
// detail in a picture that is plain or out of focus around it, like what stands on a
// table, or a flower before a meadow. Textures and scenes have none.
func FindThing(p colour.Pixels) (thing Subject, ok bool) {
	if p.Empty() || min(p.W, p.H) < 24 {
		return Subject{}, false
	}
	p = scaledTo(p, thingSide)
	w, h := p.W, p.H
	detail := details(p)
	v := slices.Clone(detail)
	blur(v, w, h, max(1, max(w, h)/28))
	for i := range v {
		nx, ny := (float64(i%w)+0.5)/float64(w)-0.5, (float64(i/w)+0.5)/float64(h)-0.5
		v[i] *= math.Exp(-(nx*nx + ny*ny) / (2 * detailMid * detailMid))
	}
	sorted := slices.Clone(v)
	slices.Sort(sorted)
	plain, all := 1.3*sorted[len(v)*35/100], 0.0
	for i := range v {
		v[i] = math.Max(0, v[i]-plain)
		all += v[i]
	}
	at := peak(v)
	if v[at] <= 0 {
		return Subject{}, false
	}
	box, mass := connected(v, w, h, at, thingFrom*v[at])
	in, out, inside := 0.0, 0.0, box.Dx()*box.Dy()
	for i, d := range detail {
		if x, y := i%w, i/w; x >= box.Min.X && x < box.Max.X && y >= box.Min.Y && y < box.Max.Y {
			in += d
		} else {
			out += d
		}
	}
	in, out = in/float64(inside), out/math.Max(1, float64(w*h-inside))
	area := float64(inside) / float64(w*h)
	thing = Subject{Kind: Thing, Weight: mass / all, Box: [4]float64{
		float64(box.Min.X) / float64(w), float64(box.Min.Y) / float64(h), float64(box.Dx()) / float64(w), float64(box.Dy()) / float64(h),
	}}
	return thing, area >= thingLeast && area <= thingMost && thing.Weight >= thingShare && out <= elsewhere*in
}

// details is how much each px differs from a small surroundings, 0 to sharpMost.
func details(p colour.Pixels) []float64 {
	sum := make([]float64, p.W*p.H)
	var lab [3][]float64
	for k := range lab {
		lab[k] = make([]float64, len(sum))
	}
	for i := range sum {
		l := colour.RGB{R: p.Pix[4*i], G: p.Pix[4*i+1], B: p.Pix[4*i+2]}.OKLab()
		alpha := float64(p.Pix[4*i+3]) / 255
		lab[0][i], lab[1][i], lab[2][i] = l.L*alpha, 2*l.A*alpha, 2*l.B*alpha
	}
	for k := range lab {
		soft := slices.Clone(lab[k])
		blur(soft, p.W, p.H, 2)
		for i := range sum {
			d := lab[k][i] - soft[i]
			sum[i] += d * d
		}
	}
	for i := range sum {
		sum[i] = math.Min(sharpMost, math.Sqrt(sum[i]))
	}
	return sum
}

// connected is the box of the connected part around a px where values are at least least,
// and their sum.
func connected(v []float64, w, h, at int, least float64) (box image.Rectangle, mass float64) {
	seen := make([]bool, len(v))
	seen[at] = true
	for queue := []int{at}; len(queue) > 0; {
		i := queue[len(queue)-1]
		queue = queue[:len(queue)-1]
		x, y := i%w, i/w
		box = box.Union(image.Rect(x, y, x+1, y+1))
		mass += v[i]
		for _, n := range [4]image.Point{{x - 1, y}, {x + 1, y}, {x, y - 1}, {x, y + 1}} {
			if k := n.Y*w + n.X; n.X >= 0 && n.Y >= 0 && n.X < w && n.Y < h && !seen[k] && v[k] >= least {
				seen[k] = true
				queue = append(queue, k)
			}
		}
	}
	return box, mass
}
