package layout

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// tilesPart is the items of a slot, each in a frame or on a flat of its own: answers to a question,
// tips, facts under their icons. Where a layout says so they share all the room there is, and
// their words grow into it. Where they do not fit they are a list.
type tilesPart struct{}

func (tilesPart) name() string { return "tiles" }
func (tilesPart) words() bool  { return true }
func (tilesPart) lint(_ *checker, n *Node, at string, _ colourway.Seat, _ bool) error {
	if n.Tiles != "lines" && n.Tiles != "facts" {
		return fmt.Errorf("%s.tiles %q: want lines or facts", at, n.Tiles)
	}
	return nil
}
func (tilesPart) present(t *trial, n *Node) bool { return t.words(n.Tiles) != "" }

func (tilesPart) measure(t *trial, n *Node, w float64) (box, bool) {
	if s, ok := t.setTiles(n, w, 0); ok {
		return s.box, true
	}
	return t.measure(n.asList(), w)
}

func (tilesPart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	room := 0.0
	if n.Fill {
		room = r.H
	}
	s, ok := t.setTiles(n, r.W, room)
	if !ok {
		return t.place(n.asList(), r, seat)
	}
	if s.box.h > r.H+0.5 {
		return false
	}
	on := colourway.Panel
	if seat == colourway.Panel {
		on = colourway.Ground
	}
	framed := n.Framed || colour.DeltaE(t.colour(on), t.colour(seat)) < tileApart
	if framed {
		on = seat
	}
	from := spec.Rect{X: t.startX(r, s.box.w), Y: r.Y, W: s.box.w, H: s.box.h}
	for _, f := range s.frames {
		f.X, f.Y = f.X+from.X, f.Y+from.Y
		part := scene.Part{Slot: "card", Kind: scene.KindShape, Box: f, Radius: t.cardRadius(), Fill: t.colour(on)}
		if framed {
			part.Radius, part.Stroke, part.Fill = t.radius(f.H), s.stroke, t.colour(colourway.InkOn(seat))
			part.Path = roundedPath(f, part.Radius)
		}
		t.cards = append(t.cards, part)
	}
	for i, icon := range s.icons {
		icon.X, icon.Y = math.Round(icon.X+from.X), math.Round(icon.Y+from.Y)
		t.drawIcon(i, icon, t.inkFor(s.style, on), on)
	}
	t.drawFigure(n.Tiles, s.figureSetting, from, on)
	return true
}

// asList is what tiles are where they do not fit.
func (n *Node) asList() *Node { return &Node{Text: n.Tiles, Lines: n.Lines} }

// What is set by eye on sheets: in times the size of their words where nothing else is said.
const (
	tilesMost   = 6
	framedMost  = 4 // answers; more are a list
	tilePad     = 0.9
	tilePadY    = 0.8
	framePadY   = 0.62
	tightPadY   = 0.5
	tileGap     = 0.55
	tileLines   = 4
	tileLeading = 1.24
	tileIcon    = 1.6
	tileUnder   = 0.55 // between an icon and what stands under it
	tileHigh    = 3.2  // times what its words need a tile is at most
	tileApart   = 12   // CIEDE2000 between a tile and what it stands on; less is framed
	tileMost    = 0.62 // of what is first, its words are at most
)

// tileTimes are how much larger than usual the words of tiles are tried, the largest first.
var tileTimes = []float64{2.4, 2, 1.7, 1.45, 1.25, 1.1, 1}

// tilesSetting is tiles at the current size in a width.
type tilesSetting struct {
	figureSetting
	frames, icons []spec.Rect // px from where they begin
	stroke        float64     // px
	size          float64     // px, of their words
	tall          float64     // px a tile needs
}

// setTiles sets the items of a slot as large as a room of a width and a height, px, allows; at
// their usual size where the height is 0. False where one does not fit, for one alone, and for
// more than [tilesMost].
func (t *trial) setTiles(n *Node, w, h float64) (best tilesSetting, ok bool) {
	items := strings.Split(t.words(n.Tiles), "\n")
	if len(items) < 2 || len(items) > tilesMost || n.Framed && len(items) > framedMost || t.runsOn() {
		return best, false
	}
	if hand := t.in.Hands[n.Tiles]; hand != nil && len(hand.Breaks)+len(hand.Runs) > 0 { // lines by hand are those of a list
		return best, false
	}
	part := t.partOf(n.Tiles)
	style, face, size := t.sized(&Node{Scale: t.roomy(n.Scale)}, part)
	times := tileTimes
	if h == 0 {
		times = tileTimes[len(tileTimes)-1:]
	}
	for _, k := range times {
		if k > 1 && k*size > tileMost*t.headline() {
			continue
		}
		for _, lines := range []int{1, 2, tileLines} { // in fewer columns sooner than in broken lines
			for _, columns := range tileColumns(len(items)) {
				s := tilesSetting{figureSetting: figureSetting{style: style, face: face}, size: math.Round(10*k*size) / 10}
				s.least = s.size
				set := typeset.Style{Face: face, Tracking: t.tracked(n.Tiles, style, part.Level, s.size), Figures: typeset.Lining}
				if s.in(t, n, items, set, w, columns, lines) && (h == 0 || s.box.h <= h+0.5) && (!ok || s.box.h < best.box.h) {
					best, ok = s, true
				}
			}
			if ok && h > 0 {
				break
			}
		}
		if ok {
			break
		}
	}
	if ok && h > best.box.h {
		best.stretch(h)
	}
	return best, ok
}

// roomy is a scale where there is room for one, 0 for none.
func (t *trial) roomy(scale float64) float64 {
	if t.st.tight {
		return 0
	}
	return scale
}

// tileColumns is in how many columns so many tiles may stand: rows are full.
func tileColumns(items int) []int {
	return [tilesMost + 1][]int{2: {2, 1}, 3: {3, 1}, 4: {2, 1}, 5: {1}, 6: {3, 2, 1}}[items]
}

// in sets the items in so many columns of tiles, in at most so many lines each.
func (s *tilesSetting) in(t *trial, n *Node, items []string, set typeset.Style, w float64, columns, lines int) bool {
	size := s.size
	gap, pad := tileGap*size, tilePad*size
	wide := (w - float64(columns-1)*gap) / float64(columns)
	icon := 0.0
	if n.Tiles == "facts" && t.iconForEach(len(items)) {
		icon = math.Round(tileIcon * size)
	}
	above := icon > 0 && columns > 1 // else beside
	room := wide - 2*pad
	if icon > 0 && !above {
		room -= icon + pad
	}
	var broken []*typeset.Setting
	high := 0.0
	capped, leading := s.face.CapHeight*size, tileLeading*size
	for _, item := range items {
		p := t.in.Shaper.Paragraph(item, set).Narrowest(room/size, lines)
		if p == nil {
			return false
		}
		broken = append(broken, p)
		high = math.Max(high, capped+float64(len(p.Lines)-1)*leading)
	}
	if above {
		high += icon + tileUnder*size
	}
	high = math.Max(high, icon)
	s.tall = high + 2*tilePadY*size
	switch {
	case t.st.tight:
		s.tall = high + 2*tightPadY*size
	case n.Framed:
		s.tall = high + 2*framePadY*size
	}
	s.stroke = math.Max(1, math.Round(size/14))
	centred := t.in.Purpose == "question" || t.align() == "center"
	for i, p := range broken {
		column := i % columns
		if t.rtl {
			column = columns - 1 - column
		}
		f := spec.Rect{X: float64(column) * (wide + gap), Y: float64(i/columns) * (s.tall + gap), W: wide, H: s.tall}
		s.frames = append(s.frames, f)
		words := capped + float64(len(p.Lines)-1)*leading
		x, y := f.X+pad, f.Y+(s.tall-words)/2
		if icon > 0 {
			at := spec.Rect{X: x, Y: f.Y + (s.tall-icon)/2, W: icon, H: icon}
			if above {
				at.Y = f.Y + (s.tall-high)/2
				y = at.Y + icon + tileUnder*size
			} else {
				x += icon + pad
			}
			if t.rtl {
				at.X = f.Right() - (at.X - f.X) - icon
			}
			if above && centred {
				at.X = f.X + (wide-icon)/2
			}
			s.icons = append(s.icons, at)
		}
		for k, l := range p.Lines {
			if s.text != "" {
				s.text += "\n"
			}
			ink := (l.Ink.X1 - l.Ink.X0) * size
			left := x
			switch {
			case centred:
				left += (room - ink) / 2
			case t.rtl:
				left = f.Right() - (x - f.X) - ink
			}
			s.lines = append(s.lines, figureLine{scene.TextLine{
				Line: l, X: left - l.Ink.X0*size, Y: y + capped + float64(k)*leading, From: len([]rune(s.text)), SizePx: size,
			}, w})
			s.text += l.Text
		}
	}
	last := slices.MaxFunc(s.frames, func(a, b spec.Rect) int { return int(a.Bottom() - b.Bottom()) })
	s.box = box{w, last.Bottom()}
	return true
}

// stretch makes the tiles share a height, px, their words in the middle of each.
func (s *tilesSetting) stretch(h float64) {
	rows := 1
	for _, f := range s.frames[1:] {
		if f.Y > s.frames[0].Y && f.X == s.frames[0].X {
			rows++
		}
	}
	more := math.Min((h-s.box.h)/float64(rows), (tileHigh-1)*s.tall)
	moved := func(y float64) float64 { // how far what stands in a row moves
		row := math.Floor((y + 0.5) / (s.tall + tileGap*s.size))
		return (row + 0.5) * more
	}
	for i := range s.lines {
		s.lines[i].Y += moved(s.lines[i].Y)
	}
	for i := range s.icons {
		s.icons[i].Y += moved(s.icons[i].Y)
	}
	for i := range s.frames {
		f := &s.frames[i]
		f.Y += moved(f.Y) - more/2
		f.H += more
	}
	s.box.h += float64(rows) * more
}
