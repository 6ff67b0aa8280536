package photo

import (
	_ "embed"
	"math"
	"sync"

	"aspenridge/internal/core/colour"
)

// turnedFaces is for how many faces of a picture it is found out how they are turned.
const turnedFaces = 3

//go:embed faces/points.bin
var pointBytes []byte

//go:embed faces/points.json
var pointList []byte

// pointer finds the points of a face: a small densely connected network (after Huang et
// al., CVPR 2017, with separable convolutions).
var pointer = sync.OnceValue(func() *network { return readNetwork(pointList, pointBytes) })

// What the network was trained with: the side in px of the picture it looks at and the
// mean red, green and blue it counts from.
const pointSide = 112

var pointMean = [3]float32{122.782, 117.001, 104.298}

// Points of a face among the 68 of the network (Sagonas et al., 300 Faces in-the-Wild,
// ICCV 2013): the ends of the outline beside the ears, the tip of the nose.
const (
	leftEar  = 0
	rightEar = 16
	noseTip  = 30
)

// turnOf is how far the face in a box of a picture is turned, -1 to 1: where the tip of
// the nose lies between what is seen of the sides of the face.
func turnOf(p colour.Pixels, box [4]float64) float64 {
	at := pointer().points(faceIn(p, box))
	left, right, nose := at[leftEar][0], at[rightEar][0], at[noseTip][0]
	if right <= left {
		return 0
	}
	turn := math.Max(-1, math.Min(1, (2*nose-left-right)/(right-left)))
	return math.Round(turn*100) / 100
}

// faceIn is what a box of a picture shows, on a black square in its middle.
func faceIn(p colour.Pixels, box [4]float64) planes {
	x0, y0 := box[0]*float64(p.W), box[1]*float64(p.H)
	w, h := box[2]*float64(p.W), box[3]*float64(p.H)
	side := math.Max(w, h)
	x0, y0 = x0-(side-w)/2, y0-(side-h)/2
	out := planes{pointSide, pointSide, 3, make([]float32, pointSide*pointSide*3)}
	k := side / pointSide
	inside := func(v, from, size float64) bool { return v >= from && v < from+size }
	for y := range pointSide {
		v := y0 + (float64(y)+0.5)*k
		for x := range pointSide {
			u := x0 + (float64(x)+0.5)*k
			px, py := int(math.Floor(u)), int(math.Floor(v))
			for c := range 3 {
				tone := float32(0)
				if px >= 0 && py >= 0 && px < p.W && py < p.H && inside(u, x0+(side-w)/2, w) && inside(v, y0+(side-h)/2, h) {
					tone = float32(p.Pix[4*(py*p.W+px)+c])
				}
				out.v[3*(y*pointSide+x)+c] = (tone - pointMean[c]) / 255
			}
		}
	}
	return out
}

// points are the 68 points of a face, as shares (0-1) of the square it lies in.
func (n *network) points(in planes) [68][2]float64 {
	l := n.dense(in, "dense0")
	l = n.dense(l, "dense1")
	l = n.dense(l, "dense2")
	mean := make([]float32, l.c)
	for i, v := range l.v {
		mean[i%l.c] += v / float32(l.h*l.w)
	}
	weights, values := n.weights["fc/weights"], append([]float32(nil), n.weights["fc/bias"]...)
	addRows(values, weights, mean)
	var out [68][2]float64
	for i := range out {
		out[i] = [2]float64{float64(values[2*i]), float64(values[2*i+1])}
	}
	return out
}

// dense is a block of three convolutions, each of which sees what those before it saw;
// it halves what it looks at.
func (n *network) dense(in planes, name string) planes {
	var first planes
	if in.c == 3 {
		first = rectified(n.full(in, name+"/conv0", 2, 1), 0)
	} else {
		first = rectified(n.separable(in, name+"/conv0", 2), 0)
	}
	second := n.separable(first, name+"/conv1", 1)
	both := rectified(sum(first, second), 0)
	return rectified(sum(sum(first, second), n.separable(both, name+"/conv2", 1)), 0)
}

// sum adds two layers of one size.
func sum(a, b planes) planes {
	out := planes{a.h, a.w, a.c, make([]float32, len(a.v))}
	for i := range a.v {
		out.v[i] = a.v[i] + b.v[i]
	}
	return out
}
