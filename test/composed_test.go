package test

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/test/sweep"
)

// composedCopy is copy that a composition has to sort out: several things of different weight.
func composedCopy() map[string]brief.Brief {
	one := func(purpose string, c brief.Card) brief.Brief {
		return brief.Brief{FormatVersion: 1, Purpose: purpose, Signature: "both", Cards: []brief.Card{c}}
	}
	german := one("announce", brief.Card{Headline: str("Sprechstunde jetzt auch samstags"), Subheading: str("Impfen, Zähne, Krallen und ein ruhiges Wartezimmer"), Body: str("Bitte melden Sie sich vorher telefonisch an."), CallToAction: str("Termin vereinbaren")})
	german.Language = "de"
	return map[string]brief.Brief{
		"event":   one("event", brief.Card{Headline: str("Talk so the back row hears you"), Subheading: str("A two-day workshop for people who hate microphones"), When: &brief.When{Date: "2027-03-18", Weekday: "Thursday", From: "09:30"}, Where: str("Mill Hall"), CallToAction: str("Take a chair")}),
		"offer":   one("offer", brief.Card{Headline: str("Second cup, half price"), Subheading: str("Every weekday before nine"), Offer: &brief.Offer{Percent: 50, Until: "2027-01-31"}, Terms: str("One a person and day."), CallToAction: str("Find us")}),
		"quote":   one("quote", brief.Card{Headline: str("Nine days on foot"), Quote: &brief.Quote{Text: "We walked for nine days and never once looked at a clock.", Source: "Hedda, guest in October"}, CallToAction: str("See the route")}),
		"product": one("product", brief.Card{Headline: str("The long-haul pannier"), Subheading: str("Waxed canvas, one buckle, twenty litres"), Offer: &brief.Offer{Price: "£ 148"}, CallToAction: str("Have a look")}),
		"german":  german,
	}
}

// composition is counted over the first looks of several briefs.
type composition struct {
	feed, small, smallBesideHole int
	vital, lost                  int
	quotes, sourceFirst          int
	logos, largePlates           int
	looks, kinds                 int
	pieces, veiled               int
	sets, poor                   int
	why                          []string
}

func (c *composition) note(format string, args ...any) {
	c.why = append(c.why, fmt.Sprintf(format, args...))
}

// count looks at a piece as somebody does on a screen 390 px wide.
func (c *composition) count(at, vital string, pc *piece.Piece) {
	element := func(slot string) *scene.Part {
		if i := slices.IndexFunc(pc.Scene.Parts, func(p scene.Part) bool { return p.Slot == slot }); i >= 0 {
			return &pc.Scene.Parts[i]
		}
		return nil
	}
	hole := largestHole(pc.Scene)
	if vital != "" {
		c.vital++
		if element(vital) == nil {
			c.lost++
			c.note("%s: no %s", at, vital)
		}
	}
	c.pieces++
	if pc.Worth.Light < 1 {
		c.veiled++
		c.note("%s: of the light of its picture %.2f is kept", at, pc.Worth.Light)
	}
	if quote, source := element("quote"), element("source"); quote != nil && source != nil {
		c.quotes++
		if source.Box.Y < quote.Box.Y {
			c.sourceFirst++
			c.note("%s: the source stands before its quote", at)
		}
	}
	if logo := element("logo"); logo != nil {
		c.logos++
		if plate := element("plate"); plate != nil && plate.Box.W*plate.Box.H > 2.2*logo.Box.W*logo.Box.H {
			c.largePlates++
			c.note("%s: a plate of %.0f x %.0f for a logo of %.0f x %.0f", at, plate.Box.W, plate.Box.H, logo.Box.W, logo.Box.H)
		}
	}
	if class := pc.Placement.Class(); class != spec.Square && class != spec.Tall {
		return
	}
	c.feed++
	least := math.Inf(1)
	for _, p := range pc.Scene.Parts {
		if p.Words() && p.Slot != "terms" && p.Slot != "website" {
			least = min(least, p.SizePx*390/float64(pc.Scene.W))
		}
	}
	if least < 12 {
		c.small++
	}
	if least < 12.5 && hole > 0.125 {
		c.smallBesideHole++
		c.note("%s: words of %.1f px beside %.0f%% of nothing", at, least, 100*hole)
	}
}

// largestHole is the share of the largest rectangle in which there are no words, no logo, no
// button and no picture.
func largestHole(s *scene.Scene) float64 {
	const across = 40
	down := int(math.Round(across * float64(s.H) / float64(s.W)))
	grid := make([][]bool, down)
	for y := range grid {
		grid[y] = make([]bool, across)
	}
	for _, p := range s.Parts {
		if !p.Words() && p.Kind != scene.KindLogo && p.Kind != scene.KindPicture && p.Kind != scene.KindIcon && p.Slot != "button" && p.Slot != "plate" {
			continue
		}
		cell := func(v float64, whole, n int) int {
			return max(0, min(n-1, int(v/float64(whole)*float64(n))))
		}
		for y := cell(p.Box.Y, s.H, down); y <= cell(p.Box.Bottom(), s.H, down); y++ {
			for x := cell(p.Box.X, s.W, across); x <= cell(p.Box.Right(), s.W, across); x++ {
				grid[y][x] = true
			}
		}
	}
	best, up := 0, make([]int, across)
	for _, row := range grid {
		for x, taken := range row {
			up[x]++
			if taken {
				up[x] = 0
			}
		}
		for from := range up {
			for least, to := up[from], from; to < across; to++ {
				least = min(least, up[to])
				best = max(best, least*(to-from+1))
			}
		}
	}
	return float64(best) / float64(across*down)
}

// TestComposed: the first eight looks of brands that could not be less alike keep what the
// purpose lives on, set no small words beside an empty part, put a quote before its source, box
// no logo in a slab, and are composed differently (craft.md; the limits are those of the house).
func TestComposed(t *testing.T) {
	vital := map[string]string{"event": "when", "offer": "offer", "quote": "quote", "product": "offer"}
	var all composition
	copies := composedCopy()
	n := 0
	for _, kit := range []string{"gym", "roaster", "winery", "bakery", "yoga", "museum", "lawyers", "florist"} {
		for _, name := range []string{"event", "offer", "quote", "product", "german"} {
			if n++; !sweep.Turn(n, 6) {
				continue
			}
			job := kitJob(t, kit, n%3%2)
			br := copies[name]
			br.Cards = slices.Clone(br.Cards)
			br.Cards[0].Pictures = job.Brief.Cards[0].Pictures
			br.Placements = []string{"feed-square", "feed-tall", "story", "feed-wide", "video-thumbnail"}
			job.Brief = &br
			kinds := map[string]bool{}
			looks := job.Looks(8)
			for _, look := range looks {
				for _, id := range br.Placements {
					p, _ := spec.Find(id)
					pc := job.Compose(look, p, 0)
					all.count(fmt.Sprintf("%s, %s, %s on %s", kit, name, look.Layout, id), vital[br.Purpose], &pc)
					if id == "feed-square" {
						kinds[standsAt(pc.Scene)] = true
					}
				}
			}
			all.choice(fmt.Sprintf("%s, %s", kit, name), job, looks, len(br.Cards[0].Pictures) > 0)
			all.looks, all.kinds = all.looks+len(looks), all.kinds+len(kinds)
		}
	}
	share := func(part, whole int) float64 { return float64(part) / float64(max(whole, 1)) }
	for _, c := range []struct {
		what      string
		got, most float64
	}{
		{"pieces of a feed with words under 12 px as seen", share(all.small, all.feed), 0.05},
		{"small words beside an empty eighth", share(all.smallBesideHole, all.feed), 0.02},
		{"pieces without what their purpose lives on", share(all.lost, all.vital), 0},
		{"sources before their quotes", share(all.sourceFirst, all.quotes), 0},
		{"plates over 2.2 times their logo", share(all.largePlates, all.logos), 0},
		{"pieces that take their picture's light", share(all.veiled, all.pieces), 0.03},
		{"first looks that are no choice", share(all.poor, all.sets), 0.05},
		{"looks composed like another", 1 - share(all.kinds, all.looks), 0.25},
	} {
		t.Logf("%s: %.3f", c.what, c.got)
		if c.got > c.most {
			t.Errorf("%s: %.3f, at most %.2f", c.what, c.got, c.most)
		}
	}
	if t.Failed() {
		for _, w := range all.why {
			t.Log(w)
		}
	}
}

// choice looks at the first looks of a brief as a set: words on the picture in two of them, type
// that fills the piece in one, three grounds where the kit has as many, no neighbours of the same
// shapes.
func (c *composition) choice(at string, job *piece.Job, looks []piece.Look, picture bool) {
	c.sets++
	on, fills, grounds, before := 0, 0, map[string]bool{}, ""
	for _, look := range looks {
		id, _, _ := strings.Cut(look.Layout, "@")
		l := job.Layouts[slices.IndexFunc(job.Layouts, func(l *layout.Layout) bool { return l.ID == id })]
		if l.OnPicture() {
			on++
		}
		if l.Fills() {
			fills++
		}
		grounds[look.Seats[string(l.Dominant())]] = true
		if l.Shapes() == before {
			c.poor++
			c.note("%s: %s beside another look of its shapes", at, id)
		}
		before = l.Shapes()
	}
	possible := map[string]bool{}
	for _, l := range job.Layouts {
		for _, cw := range colourway.Rank(job.Kit.Colours(), l.Needs(), 24) {
			possible[cw.At(l.Dominant()).Token] = true
		}
	}
	if picture && on < 2 || fills < 1 || len(grounds) < min(3, len(possible)) {
		c.poor++
		c.note("%s: %d with words on the picture, %d filled by type, %d grounds of %d", at, on, fills, len(grounds), len(possible))
	}
}

// standsAt says in which thirds of a piece what is first, the logo and the button stand.
func standsAt(s *scene.Scene) string {
	out := ""
	for _, slots := range [][]string{{"quote", "headline"}, {"logo"}, {"button"}} {
		at := "-"
		for _, slot := range slots {
			if i := slices.IndexFunc(s.Parts, func(p scene.Part) bool { return p.Slot == slot }); i >= 0 {
				b := s.Parts[i].Box
				at = fmt.Sprint(int(3*(b.X+b.W/2)/float64(s.W)), int(3*(b.Y+b.H/2)/float64(s.H)))
				break
			}
		}
		out += at + ","
	}
	return out
}

// TestLongHeadlinesAreWhole: a headline of 88 letters, and a text of 250 given as one, is not cut in
// a feed and takes neither the logo nor the call to action with it, also in wide capitals.
func TestLongHeadlinesAreWhole(t *testing.T) {
	long := "What we learned from nine hundred Saturday mornings at the market about bread and people"
	for i, headline := range []string{long, long + " and why the second loaf is always the better one, why children know before we do, what the rain does to a queue, who comes back on Mondays, and how a small oven became our place"} {
		for k, kit := range []string{"gym", "roaster"} {
			if !sweep.Turn(2*i+k, 2) {
				continue
			}
			job := kitJob(t, kit, 1)
			br := *job.Brief
			br.Purpose, br.Signature, br.Cards = "announce", "both", slices.Clone(br.Cards)
			br.Cards[0] = brief.Card{Headline: &headline, CallToAction: str("Read it"), Pictures: br.Cards[0].Pictures}
			br.Placements = []string{"feed-square", "feed-tall", "story"}
			job.Brief = &br
			for _, look := range job.Looks(8) {
				for _, id := range br.Placements {
					p, _ := spec.Find(id)
					pc := job.Compose(look, p, 0)
					if len(pc.Shortened) > 0 || slices.Contains(pc.Dropped, "callToAction") || slices.Contains(pc.Dropped, "logo") {
						t.Errorf("%s, %d letters, %s on %s: shortened %v, left out %v", kit, len(headline), look.Layout, id, pc.Shortened, pc.Dropped)
					}
				}
			}
		}
	}
}

// TestTipsAreRead: the points of a list of tips are at least 14 px as seen in a feed on a phone, in
// 19 of 20 pieces of the first looks of brands that could not be less alike, and 11 in all.
func TestTipsAreRead(t *testing.T) {
	all, small := 0, 0
	for n, kit := range []string{"gym", "winery", "museum", "florist"} {
		job := kitJob(t, kit, n%2)
		br := brief.Brief{FormatVersion: 1, Purpose: "tips", Signature: "both", Placements: []string{"feed-square", "feed-tall", "story"}, Cards: []brief.Card{{
			Headline: str("Before the first ride"), CallToAction: str("Book a service"), Pictures: job.Brief.Cards[0].Pictures,
			Facts: []brief.Fact{{Text: "Check the chain", Icon: "clock"}, {Text: "Two layers, one dry", Icon: "sun"}, {Text: "A litre of water", Icon: "droplets"}, {Text: "Tell somebody where", Icon: "map-pin"}},
		}}}
		job.Brief = &br
		lists := 0
		for _, look := range job.Looks(8) {
			for _, id := range br.Placements {
				p, _ := spec.Find(id)
				for _, part := range job.Compose(look, p, 0).Scene.Parts {
					if part.Slot != "facts" || !part.Words() {
						continue
					}
					lists++
					all++
					if seen := part.SizePx * 390 / float64(p.Width); seen < 11 {
						t.Errorf("%s, %s on %s: points of %.1f px", kit, look.Layout, id, seen)
					} else if seen < 14 {
						small++
					}
				}
			}
		}
		if lists < 20 {
			t.Errorf("%s: %d lists in 24 pieces", kit, lists)
		}
	}
	if small > all/20 {
		t.Errorf("%d of %d lists have points under 14 px", small, all)
	}
}

// TestPurposesHaveLayouts: hiring, opening hours, a question and behind the scenes have a layout made
// for them among the first of many brands, in which a feed shows all they live on.
func TestPurposesHaveLayouts(t *testing.T) {
	cards := map[string]brief.Card{
		"hiring": {Headline: str("Baker for the early shift"), Subheading: str("Part time, from April"), Where: str("Mill Lane, Sennick"), CallToAction: str("Apply by 12 March"),
			Facts: []brief.Fact{{Text: "24 hours a week", Icon: "clock"}, {Text: "Two lines to jobs@larkmoor.example", Icon: "mail"}}},
		"hours":             {Headline: str("Open through the winter"), Hours: []string{"Mo-Fr 07:00-18:00", "Sa 08:00-14:00", "Su closed"}, Where: str("Mill Lane 4"), CallToAction: str("Plan your visit")},
		"question":          {Headline: str("How do you take your first cup?"), Lines: []string{"Black, standing up", "With milk", "Not before ten", "Tea, thank you"}},
		"behind the scenes": {Headline: str("Four in the morning, and the first tray is out"), Subheading: str("Nineteen years of it")},
	}
	turn := 0
	for _, purpose := range slices.Sorted(maps.Keys(cards)) {
		card := cards[purpose]
		early, briefs := 0, 0
		for n, kit := range []string{"gym", "winery", "museum", "florist"} {
			if turn++; !sweep.Turn(turn, 2) {
				continue
			}
			picture := n % 2
			if purpose == "behind the scenes" {
				picture = 1
			}
			job := kitJob(t, kit, picture)
			card.Pictures = job.Brief.Cards[0].Pictures
			job.Brief = &brief.Brief{FormatVersion: 1, Purpose: purpose, Signature: "both", Cards: []brief.Card{card}, Placements: []string{"feed-square", "feed-tall", "story"}}
			briefs++
			for i, look := range job.Looks(8) {
				id, _, _ := strings.Cut(look.Layout, "@")
				l := job.Layouts[slices.IndexFunc(job.Layouts, func(l *layout.Layout) bool { return l.ID == id })]
				if !slices.Contains(l.For, purpose) {
					continue
				}
				if i < 4 {
					early++
				}
				for _, place := range job.Brief.Placements {
					p, _ := spec.Find(place)
					pc := job.Compose(look, p, 0)
					for _, slot := range layout.Carries(purpose) {
						if slices.Contains(pc.Dropped, slot) {
							t.Errorf("%s, %s: %s has no %s on %s", purpose, kit, id, slot, place)
						}
					}
				}
			}
		}
		if early < briefs/2 {
			t.Errorf("%s: its own layout is among the first four looks of %d brands of %d", purpose, early, briefs)
		}
	}
}
