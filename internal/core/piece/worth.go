package piece

import (
	"math"
	"slices"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// Worth is how good a solved piece is, part by part, each 0 to 1:
//
//   - Subject: 1 less what is cut off or covered of the faces, times 1.5, the largest
//     one counting as much as all, or 0.9 times what is beyond 0.15 of a thing; 1 without
//     either, 0.5 where the picture is not shown.
//   - Presence: the headline's size over what its class asks for (craft.md: a tenth of
//     the short side in square and tall, 0.12 in stories, 0.14 in wide, a third of the
//     height in ribbons), at most 1.
//   - Hierarchy: what is first over the next size, 1 from 1.6 times, 0 at 1.
//   - Fill: 1 where the ink of all words covers 12 to 34% of the canvas, less beyond.
//   - Balance: 1 less twice how far the middle of what has weight lies from that of the
//     canvas, over the canvas, beyond an eighth.
//   - Order: 1 less the share over 15% that the accent covers; a piece is not one accent.
//   - Kept: what is shown of what there is to say; what the purpose lives on counts
//     thrice.
//   - Logo: 1, 0.6 on a plate, 0 where it was left out.
//   - Picture: the share of the canvas on which pictures are clearly seen over 0.45, at
//     most 1: a toned one counts a third, one under a fade less the stronger that is.
//     Where the brief has none, the share in another colour than the ground over 0.25.
//   - Lines: 1 less a third for each broken word and for a short last line.
//   - Seen: the least words as seen on a screen 390 px wide, in a feed: 1 from 12 px, 0 at 9.
//   - Room: 1 less four times what the largest empty rectangle covers beyond an eighth.
//   - Second: 0.5 where what the purpose puts second is under 1.3 times the least words.
//   - Light: 1 less twice what veils take of the pictures' light beyond 0.15 of what they show
//     and 0.45 of the rest, times the tonal range of a toned one over 0.6 of its own, at most 1.
//   - Action: 0 where there is a call to action and it was left out.
//   - Bold: how much larger the headline is than Presence asks for, 1 from 1.8 times.
//   - Sign: 1 less, in the mean over logo, address and button, how far each stands above or below the
//     nearest of the others (a button: or other words) beyond a tenth of the short side, over 0.4 of it.
//   - Apart: the gap under what is first over 0.35 of the next size, at most 1.
type Worth struct {
	Total     float64 `json:"total"`
	Subject   float64 `json:"subject"`
	Presence  float64 `json:"presence"`
	Hierarchy float64 `json:"hierarchy"`
	Fill      float64 `json:"fill"`
	Balance   float64 `json:"balance"`
	Order     float64 `json:"order"`
	Whole     float64 `json:"kept"`
	Logo      float64 `json:"logo"`
	Picture   float64 `json:"picture"`
	Lines     float64 `json:"lines"`
	Seen      float64 `json:"seen"`
	Room      float64 `json:"room"`
	Second    float64 `json:"second"`
	Apart     float64 `json:"apart"`
	Light     float64 `json:"light"`
	Action    float64 `json:"action"`
	Bold      float64 `json:"bold"`
	Sign      float64 `json:"sign"`
}

// weights say how much each part counts; they were tuned on pairs of pieces judged by
// eye (testdata/pairs.json and composed.json, by logistic regression, then rounded; parts that
// hardly differed there keep more than it gave them). Sign came later: the pairs do not have it.
var weights = Worth{Subject: 0.8, Presence: 0.3, Hierarchy: 0.3, Fill: 0.9, Balance: 1.2, Order: 0.5, Whole: 1.1, Logo: 0.4, Picture: 0.6, Lines: 1.8, Seen: 1.2, Room: 1.2, Second: 0.3, Apart: 0.4, Light: 1.4, Action: 1.1, Bold: 1.6, Sign: 0.4}

func (w *Worth) fields() []*float64 {
	return []*float64{&w.Subject, &w.Presence, &w.Hierarchy, &w.Fill, &w.Balance, &w.Order, &w.Whole, &w.Logo, &w.Picture, &w.Lines, &w.Seen, &w.Room, &w.Second, &w.Apart, &w.Light, &w.Action, &w.Bold, &w.Sign}
}

// weigh is the weighted mean of the parts.
func (w Worth) weigh(by Worth) float64 {
	sum, all := 0.0, 0.0
	for i, k := range by.fields() {
		sum, all = sum+*k**w.fields()[i], all+*k
	}
	return sum / all
}

// judged is what the worth of a piece is told from.
type judged struct {
	placement spec.Placement
	scene     *scene.Scene
	kit       *brand.Kit
	pictures  map[string]shown
	words     brief.Words
	purpose   string
	first     string // the slot that is seen first
	signature string
	dropped   []string
	shortened []string
	has       int // pictures of the brief
}

func (j judged) worth() Worth {
	picture := func(hash string) photo.Picture { return j.pictures[hash].Picture }
	w := Worth{Subject: 1 - layout.Harm(j.scene.Parts, picture), Light: layout.LightOf(j.scene.Parts, picture).Worth(), Whole: j.kept(), Logo: 1, Picture: 1, Lines: 1, Presence: 1, Hierarchy: 1, Action: 1, Fill: 1, Order: 1}
	canvas := float64(j.scene.W * j.scene.H)
	m := j.measure(&w)
	if m.head > 0 {
		times := m.head / shortSide(j.placement) / layout.Presence(j.placement)
		w.Presence = math.Min(1, times)
		w.Bold = math.Max(0, math.Min(1, (times-1)/(boldFrom-1)))
		if m.next > 0 {
			w.Hierarchy = math.Max(0, math.Min(1, (m.head/m.next-1)/0.6))
		}
	}
	if share := m.ink / canvas; share < 0.12 {
		w.Fill = share / 0.12
	} else if share > 0.34 {
		w.Fill = math.Max(0, 1-(share-0.34)*3)
	}
	if m.mass > 0 {
		off := math.Max(math.Abs(m.x/m.mass/float64(j.scene.W)-0.5), math.Abs(m.y/m.mass/float64(j.scene.H)-0.5))
		w.Balance = math.Max(0, 1-2*math.Max(0, off-0.125))
	}
	w.Order = math.Max(0, 1-math.Max(0, m.accent/canvas-0.15)*1.5)
	if slices.Contains(j.dropped, "callToAction") {
		w.Action = 0
	}
	if j.signature == "logo" || j.signature == "both" {
		switch {
		case !m.logo && len(j.kit.Logos) > 0:
			w.Logo = 0
		case m.plate:
			w.Logo = 0.6
		}
	}
	switch {
	case j.placement.Class() == spec.Ribbon, j.placement.Tiny():
	case j.has == 0:
		w.Picture = math.Min(1, m.shapes/canvas/shapeShare)
	default:
		w.Picture = math.Max(0, math.Min(1, m.pictures/canvas/pictureShare))
	}
	if j.has > 0 && !slices.ContainsFunc(j.scene.Parts, func(p scene.Part) bool { return p.Kind == scene.KindPicture && p.Slot != "pattern" }) {
		w.Subject = 0.5
	}
	j.room(&w)
	j.ranked(&w)
	w.Sign = j.signed()
	w.Total = w.weigh(weights)
	for _, f := range append(w.fields(), &w.Total) {
		*f = math.Round(*f*1000) / 1000
	}
	return w
}

// measures are what worth is told by: sizes in px, areas in px², and where the weight
// lies.
type measures struct {
	head, next, ink, accent, pictures, shapes float64
	mass, x, y                                float64
	logo, plate                               bool
}

func (j judged) measure(w *Worth) (m measures) {
	for _, p := range j.scene.Parts {
		area := p.Box.W * p.Box.H
		switch {
		case p.Words():
			m.ink += area
			if p.Slot == j.first {
				m.head = largest(p)
				w.Lines = lines(p)
			} else {
				m.next = math.Max(m.next, p.SizePx)
			}
		case p.Kind == scene.KindLogo:
			m.logo = true
		case p.Slot == "pattern":
			m.shapes += area
		case p.Kind == scene.KindPicture:
			if p.Tone.On() {
				area *= tonedClear
			}
			m.pictures += area
		case p.Fade != nil, p.Slot == "fade":
			m.pictures -= faded(p) * area
		case p.Slot == "plate":
			m.plate = true
		case p.Kind == scene.KindShape && p.Stroke == 0 && p.Fade == nil && p.Alpha == 0:
			if p.Fill != j.ground() {
				m.shapes += area
			}
			if slices.ContainsFunc(j.kit.Colours(), func(c brand.Colour) bool { return c.Value == p.Fill && c.Role == brand.Accent }) {
				m.accent += area
			}
		}
		if heavy := weightOf(p); heavy > 0 {
			m.mass += heavy * area
			m.x += heavy * area * (p.Box.X + p.Box.W/2)
			m.y += heavy * area * (p.Box.Y + p.Box.H/2)
		}
	}
	return m
}

// ground is the colour the canvas has under everything.
func (j judged) ground() colour.RGB {
	if i := slices.IndexFunc(j.scene.Parts, func(p scene.Part) bool { return p.Slot == "ground" }); i >= 0 {
		return j.scene.Parts[i].Fill
	}
	return colour.RGB{}
}

// What was set by eye on pairs of pieces.
const (
	pictureShare = 0.45 // of the canvas a picture needs to be seen
	shapeShare   = 0.25 // and what stands in for one
	boldFrom     = 1.8  // times what a placement asks of a headline
	tonedClear   = 1.0 / 3
)

// faded is how much of what a fade lies over it takes away, 0 to 1.
func faded(p scene.Part) float64 {
	f := p.Fade
	if f == nil {
		return p.Alpha
	}
	long, box := math.Hypot(f.X1-f.X0, f.Y1-f.Y0), p.Box.W
	if f.Radius > 0 {
		long, box = f.Radius, math.Hypot(p.Box.W, p.Box.H)
	} else if f.X0 == f.X1 {
		box = p.Box.H
	}
	hold := math.Min(box, f.Hold*long)
	return (hold*(f.Edge+p.Alpha)/2 + math.Min(box, long)*p.Alpha*0.5 - hold*p.Alpha*0.5) / box
}

// largest is the largest size of a part's lines.
func largest(p scene.Part) float64 {
	size := p.SizePx
	for _, l := range p.Lines {
		size = math.Max(size, p.Size(l))
	}
	return size
}

// lines judges how a headline is broken.
func lines(p scene.Part) float64 {
	runes, v, longest := []rune(p.Text), 1.0, 0.0
	for i, l := range p.Lines {
		longest = math.Max(longest, l.Line.Advance)
		if i > 0 && l.From > 0 && l.From < len(runes) && runes[l.From-1] != ' ' && runes[l.From-1] != '-' && l.Y > p.Lines[i-1].Y {
			v -= 1.0 / 3
		}
	}
	if n := len(p.Lines); n > 1 && p.Lines[n-1].SizePx == 0 && p.Lines[n-1].Line.Advance < 0.4*longest && p.Lines[n-1].Y > p.Lines[n-2].Y {
		v -= 1.0 / 3
	}
	return math.Max(0, v)
}

// weightOf is how heavy a part is to the eye, per px: words and marks more than
// pictures, flat grounds not at all.
func weightOf(p scene.Part) float64 {
	switch {
	case p.Words():
		return 1
	case p.Kind == scene.KindLogo, p.Slot == "button":
		return 1.2
	case p.Kind == scene.KindPicture:
		return 0.35
	case p.Slot == "card", p.Slot == "ornament":
		return 0.3
	}
	return 0
}

// kept is the share of what there is to say that is shown.
func (j judged) kept() float64 {
	carries := layout.Carries(j.purpose)
	weight := func(slot string) float64 {
		if slices.Contains(carries, slot) {
			return 3
		}
		return brief.PartOf(slot).Weight
	}
	shown, all := 0.0, 0.0
	for slot, text := range j.words {
		if text == "" || weight(slot) == 0 {
			continue
		}
		all += weight(slot)
		switch {
		case slices.Contains(j.dropped, slot):
		case slices.Contains(j.shortened, slot):
			shown += 0.7 * weight(slot)
		default:
			shown += weight(slot)
		}
	}
	if all == 0 {
		return 1
	}
	return shown / all
}

// shortSide of a placement in px.
func shortSide(p spec.Placement) float64 { return float64(min(p.Width, p.Height)) }
