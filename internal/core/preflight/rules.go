package preflight

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/phrase"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// rule looks for one kind of thing, part by part or on the piece as a whole. It names
// what it may find, with why that matters and what can be done.
type rule struct {
	why   map[string]string // by code
	part  func(c *check, i int, p scene.Part)
	piece func(c *check)
}

// check is a piece while its rules are gone through.
type check struct {
	Input
	out      []Finding
	solid    []scene.Part    // words and logos
	families map[string]bool // of words
	words    float64         // px they cover
}

// add takes a finding in. What a person did by hand is respected and pointed out: it is
// never an error.
func (c *check) add(code string, sev Severity, slot, message string, value, limit float64, fixes ...string) {
	if c.byHand(slot) || code == "contrast" && c.groundByHand(slot) {
		fixes = append(fixes, "lift")
		if sev == Error {
			sev = Warning
		}
	}
	c.out = append(c.out, Finding{code, sev, slot, message, round2(value), limit, append([]string{}, fixes...)})
}

// byHand reports whether where or how a part is drawn was changed by hand.
func (c *check) byHand(slot string) bool {
	return strings.HasPrefix(slot, brief.AddedSlot) || slices.ContainsFunc(c.Hands[slot].Changed(), func(p brief.Property) bool { return p.Drawn })
}

// groundByHand reports whether what words stand on was changed by hand.
func (c *check) groundByHand(slot string) bool {
	return slices.ContainsFunc(c.Scene.Parts, func(p scene.Part) bool { return p.Slot == slot && p.GroundByHand })
}

// shown reports whether a slot is on the piece.
func (c *check) shown(slot string) bool {
	return slices.ContainsFunc(c.Scene.Parts, func(q scene.Part) bool { return q.Slot == slot })
}

// Why says in a sentence why a finding matters and what can be done.
func Why(code string) string {
	for _, r := range rules {
		if why, ok := r.why[code]; ok {
			return why
		}
	}
	return elsewhere[code]
}

// elsewhere are findings of other checks: of files, of a font while it is used, of a post
// of several pages.
var elsewhere = map[string]string{
	"format":      "The channel takes other kinds of files.",
	"font-broken": "The font file is damaged where it matters. Replace it in the kit with a sound copy; until then a shipped font stands in.",
	"weight":      "The channel refuses heavier files.",
	"cards":       "Pages of one post should look and sign alike.",
	"size":        "No placement of the catalogue has this size.",
	"live-text":   "Words that are still text are shown in whatever font the next machine has.",
	"outside":     "The file asks for something that lies elsewhere.",
}

// rounding is how far boxes may be off, px.
const rounding = 0.6

// rules are all that is looked at. A new one is a value here.
var rules = []rule{
	words, signs, logos, pictureRule, edges, colours, inside, overlaps, smallView, asksAndSays,
	handWork, leftOut, described, copyItself, dates, openOffer, needs, voice, muchText, fonts,
}

var words = rule{
	why: map[string]string{
		"contrast":   "Words need a contrast of 4.5 to 1 against what they stand on (WCAG 2.2), or part of the audience cannot read them. Choose another colour or another ground.",
		"too-small":  "Capitals under 7 px cannot be read on the screen this is seen on. Shorten the words, or let a part go.",
		"small-seen": "The channel also shows this smaller, in a grid or a list. Nothing has to be done if the picture says enough there.",
		"frail":      "Thin strokes vanish at this size. Give the level a stand-in face for small sizes in the kit.",
	},
	part: func(c *check, _ int, part scene.Part) {
		if !part.Words() {
			return
		}
		p := c.Placement
		if part.Contrast < colourway.InkContrast {
			c.add("contrast", Error, part.Slot, "the words are too close in lightness to what they stand on", part.Contrast, colourway.InkContrast, "colour")
		}
		caps := part.SeenPx() * c.CapHeight(part.Family, part.Weight)
		if v := caps * p.SeenScale(); v < 6.95 {
			c.add("too-small", Error, part.Slot, "the capitals are under 7 px high as seen", v, 7, "shorten")
		} else if v := caps * p.SmallestSeenScale(); v < 7 {
			c.add("small-seen", Note, part.Slot, fmt.Sprintf("at its smallest, %.0f px wide, this is hard to read", p.Seen[len(p.Seen)-1]), v, 7)
		}
		if c.Smallest == nil {
			return
		}
		if v, least := part.SeenPx()*p.SeenScale(), c.Smallest(part.Family, part.Weight); v < least {
			c.add("frail", Note, part.Slot, fmt.Sprintf("%s breaks up this small: its thin strokes are under a px as seen", part.Family), v, least, "smallFace")
		}
	},
}

var handWork = rule{
	why: map[string]string{
		"added-gone":  "A part was added with a picture, a logo or an icon that is no longer there, so it is not drawn. Delete it, or bring the file back.",
		"colour-gone": "A colour was chosen by hand that the kit no longer has, so the rule's is drawn. Choose another one.",
		"hand-lost":   "A line was ended, or words were set, by hand where the words say something else now. They are set by the rule; write the words again, or clear it.",
	},
	part: func(c *check, _ int, part scene.Part) {
		if h := c.Hands[part.Slot]; h != nil && part.Words() {
			_, lost := h.Broken(part.Text)
			if lost += h.LostRuns(part.Text); lost > 0 {
				c.add("hand-lost", Note, part.Slot, fmt.Sprintf("%d line breaks or styles made by hand find their words no more", lost), float64(lost), 0, "lift")
			}
		}
	},
	piece: func(c *check) {
		for _, slot := range slices.Sorted(maps.Keys(c.Hands)) {
			for _, value := range c.Hands[slot].Colours() {
				token, named := strings.CutPrefix(value, "color.")
				known := func(k brand.Colour) bool { return k.Token == token }
				if named && c.shown(slot) && !slices.ContainsFunc(c.Kit.Colours(), known) {
					c.add("colour-gone", Note, slot, "the kit has no colour "+token+" any more", 0, 0, "lift")
				}
			}
		}
		for _, d := range c.Added {
			if !c.shown(d.Slot) {
				c.add("added-gone", Warning, d.Slot, "the "+d.Kind+" that was added has nothing to show any more", 0, 0)
			}
		}
	},
}

var signs = rule{
	why: map[string]string{
		"missing-glyph":  "No font here has this sign; people would see an empty box.",
		"borrowed-glyph": "The brand's font has no such sign, so a shipped one lends it.",
	},
	part: func(c *check, _ int, part scene.Part) {
		for _, l := range part.Lines {
			if len(l.Line.Missing) > 0 {
				c.add("missing-glyph", Warning, part.Slot, "no font has the sign "+string(l.Line.Missing), 0, 0)
			} else if len(l.Line.Borrowed) > 0 {
				c.add("borrowed-glyph", Note, part.Slot, "the brand's font lacks "+string(l.Line.Borrowed)+"; a shipped font lends it", 0, 0)
			}
		}
	},
}

var logos = rule{
	why: map[string]string{
		"logo-small":   "Under its least width a logo becomes a smudge. A symbol or a stacked version holds better.",
		"logo-crowded": "The kit asks for clear space around the logo.",
		"logo-soft":    "The file of the logo has fewer pixels than are drawn of it. Bring in a drawing (SVG), or a larger file.",
		"logo-photo":   "A logo that fills a rectangle with many colours reads as a picture. Bring in a drawing, or a PNG on clear ground.",
	},
	part: func(c *check, _ int, part scene.Part) {
		if part.Kind != scene.KindLogo {
			return
		}
		least := 16.0
		if i := slices.IndexFunc(c.Kit.Logos, func(l brand.Logo) bool { return l.File == part.File }); i >= 0 {
			least = math.Max(least, c.Kit.Logos[i].MinWidth)
			asPicture(c, part, c.Kit.Logos[i].Art)
		}
		if w := part.Box.W * c.Placement.SeenScale(); w < least-0.05 {
			c.add("logo-small", Warning, part.Slot, fmt.Sprintf("the logo is under %.0f px wide as seen", least), w, least)
		}
		crowded(c.Kit, part, c.solid, c.add)
	},
}

// A logo that is a bitmap is soft from so many times its pixels on, and a photograph from so many colours
// on where it cannot be cut in one.
const (
	softFrom  = 1.5
	photoInks = 4
)

// asPicture notes a logo of too few pixels, and one that is a photograph.
func asPicture(c *check, part scene.Part, art *brand.Art) {
	if art == nil || len(art.Bitmap) == 0 {
		return
	}
	if has := art.View[2]; has > 0 && part.Box.W > softFrom*has {
		c.add("logo-soft", Warning, part.Slot, fmt.Sprintf("the logo’s file is %.0f px wide, and it is drawn %.0f px wide", has, part.Box.W), part.Box.W, has)
	}
	if art.Cut == nil && len(art.Inks) >= photoInks {
		c.add("logo-photo", Note, part.Slot, "the logo looks like a photograph", float64(len(art.Inks)), photoInks)
	}
}

// crowded finds parts inside the clear space the kit asks for around a logo.
func crowded(k *brand.Kit, logo scene.Part, parts []scene.Part, add adder) {
	i := slices.IndexFunc(k.Logos, func(l brand.Logo) bool { return l.File == logo.File })
	if i < 0 || k.Logos[i].ClearSpace == 0 {
		return
	}
	clear := k.Logos[i].ClearSpace * logo.Box.H
	for _, b := range parts {
		if b.Kind == scene.KindLogo {
			continue
		}
		dx := math.Max(0, math.Max(b.Box.X-logo.Box.X-logo.Box.W, logo.Box.X-b.Box.X-b.Box.W))
		dy := math.Max(0, math.Max(b.Box.Y-logo.Box.Y-logo.Box.H, logo.Box.Y-b.Box.Y-b.Box.H))
		if gap := math.Hypot(dx, dy); gap < clear-1 {
			add("logo-crowded", Warning, logo.Slot, b.Slot+" stands in the clear space of the logo", gap, clear)
			return
		}
	}
}

var pictureRule = rule{
	why: map[string]string{
		"enlarged":        "An enlarged picture looks soft. Choose one with more pixels, or a layout with a smaller place for it.",
		"stretched":       "A picture's proportions are not its own here.",
		"picture-drawn":   "A logo in place of a picture is cropped and says nothing new: it belongs into the kit, and stands on every piece. Words in a picture are too small to read and nobody can change them.",
		"subject-cut":     "What the picture is about touches the edge. Move its focus.",
		"subject-covered": "Something lies on what the picture is about. Move its focus, or choose a look that leaves it free.",
	},
	part: func(c *check, i int, part scene.Part) {
		if part.Kind == scene.KindPicture {
			pictures(c.Input, i, c.add)
		}
	},
}

var edges = rule{
	why: map[string]string{
		"sliver": "A part that was meant to reach the edge leaves a thin line.",
	},
	part: func(c *check, _ int, part scene.Part) { sliver(c.Scene, part, c.add) },
}

var colours = rule{
	why: map[string]string{
		"near-miss":      "Two nearly equal colours look like a mistake. Take the kit's, or make this one the kit's.",
		"brief-colour":   "It was chosen for this brief and is not in the kit. Add it there if it is to come again.",
		"off-kit-colour": "Foreign colours make a brand hard to recognise. Take the nearest of the kit's, or add this one to it.",
	},
	part: func(c *check, _ int, part scene.Part) { offKit(c.Kit, part, c.add) },
}

var inside = rule{
	why: map[string]string{
		"clipped":  "Part of it is cut off.",
		"unsafe":   "The channel covers this part with its own controls.",
		"keep-out": "The channel puts its own signs here.",
	},
	piece: func(c *check) {
		p := c.Placement
		for _, a := range c.solid {
			if !p.Canvas().Contains(a.Box, rounding) {
				c.add("clipped", Error, a.Slot, "it runs over the edge of the piece", 0, 0)
			} else if !p.SafeBox().Contains(a.Box, rounding) {
				c.add("unsafe", Error, a.Slot, "it leaves the safe area", 0, 0)
			}
			for _, k := range p.KeepOuts() {
				if a.Box.Overlaps(k, rounding) {
					c.add("keep-out", Error, a.Slot, "the channel covers this corner with its own signs", 0, 0)
				}
			}
		}
	},
}

var overlaps = rule{
	why: map[string]string{
		"overlap": "One part lies on another.",
	},
	piece: func(c *check) {
		for i, a := range c.solid {
			for _, b := range c.solid[i+1:] {
				if !a.Box.Overlaps(b.Box, rounding) {
					continue
				}
				slot, other := a.Slot, b.Slot
				if c.byHand(other) { // what was moved is what can be put back
					slot, other = other, slot
				}
				c.add("overlap", Error, slot, "it overlaps "+other, 0, 0)
			}
		}
	},
}

var smallView = rule{
	why: map[string]string{
		"keep-in": "In the channel's small view only the middle is seen.",
	},
	part: func(c *check, _ int, part scene.Part) {
		k := c.Placement.KeepIn
		if k != nil && part.Slot == "headline" && !(spec.Rect{X: k[0], Y: k[1], W: k[2], H: k[3]}).Contains(part.Box, rounding) {
			c.add("keep-in", Note, "headline", "the small view of this channel cuts part of the headline off", 0, 0)
		}
	},
}

var asksAndSays = rule{
	why: map[string]string{
		"no-action":  "An advertisement that asks for nothing gets nothing. The kit's first call to action can be put in.",
		"no-address": "Every piece should say where to go: an address or a call to action.",
	},
	piece: func(c *check) {
		for _, need := range c.Placement.Needs {
			switch {
			case c.Middle:
			case need == "action" && !c.shown("callToAction"):
				c.add("no-action", Warning, "callToAction", "an advertisement asks people to do something; there is no call to action", 0, 0, "callToAction")
			case need == "address-or-action" && !c.shown("callToAction") && !c.shown("website"):
				c.add("no-address", Warning, "website", "nothing says where to go: no call to action and no address", 0, 0, "callToAction", "website")
			}
		}
	},
}

var leftOut = rule{
	why: map[string]string{
		"left-out":  "Everything larger comes before it here. Shorter words, another look or a larger place make room for it; if the piece says enough without it, leave it.",
		"shortened": "There was no room for all of it. Write a shorter headline yourself, or leave it.",
		"plain":     "The layout had no room for this copy in this shape, so the plain one stepped in.",
	},
	piece: func(c *check) {
		for _, slot := range c.Shortened {
			c.add("shortened", Note, slot, "fewer words are shown here than you wrote", 0, 0, "shortHeadline")
		}
		for _, slot := range c.Dropped {
			if c.Placement.Icon { // a picture of who somebody is has no room for what is on
				continue
			}
			sev := Note
			if slices.Contains(c.Carries, slot) {
				sev = Warning
			}
			c.add("left-out", sev, slot, "there is no room for this here", 0, 0)
		}
		if c.Plain {
			c.add("plain", Note, "", "the layout could not hold this copy here, so the plain one does", 0, 0)
		}
	},
}

var described = rule{
	why: map[string]string{
		"no-alt": "People who cannot see the picture hear its description instead.",
	},
	piece: func(c *check) {
		for i, pic := range c.Pictures {
			slot := "picture"
			if i > 0 {
				slot = fmt.Sprintf("picture%d", i+1)
			}
			if pic.Alt == "" && c.shown(slot) {
				c.add("no-alt", Note, slot, "the picture has no description for people who cannot see it", 0, 0, "alt")
			}
		}
	},
}

var copyItself = rule{
	why: map[string]string{
		"sample":      "A line that was meant to be replaced is still there.",
		"capitals":    "Capitals typed by hand lose their shapes when the case changes, and shout. Sentence case reads faster.",
		"long":        "Fewer words are read by more people.",
		"short-stale": "Where room is tight the shorter headline shows. It was written for another headline than the one there now: let it follow, or change it yourself.",
	},
	piece: func(c *check) {
		for _, slot := range slices.Sorted(maps.Keys(c.Words)) {
			text := c.Words[slot]
			if !c.shown(slot) {
				continue
			}
			if Placeholder(text) {
				c.add("sample", Warning, slot, "a line was left to be filled in: “"+clip(text)+"”", 0, 0, "clear")
			}
			if Shouted(text) && !upper(c.Types, slot) {
				c.add("capitals", Warning, slot, "capitals typed by hand; the type set has other ways to be loud", 0, 0, "sentenceCase")
			}
			if n, most := len([]rune(text)), long[slot]; most > 0 && n > most {
				c.add("long", Note, slot, fmt.Sprintf("%d characters are more than people read in passing", n), float64(n), float64(most))
			}
		}
		if c.Card == nil {
			return
		}
		for _, field := range slices.Sorted(maps.Keys(c.Sample)) {
			if v := c.Card.Field(field); v != nil && *v == c.Sample[field] && *v != "" && (c.shown(field) || field == "shortHeadline" && c.shown("headline")) {
				c.add("sample", Warning, field, "this line came with what the brief was made from: “"+clip(*v)+"”", 0, 0, "clear")
			}
		}
		if c.Card.ShortIsStale() && slices.ContainsFunc(c.Scene.Parts, func(p scene.Part) bool { return p.Field == "shortHeadline" }) {
			c.add("short-stale", Warning, "shortHeadline", "the headline has changed, and the shorter one still says “"+clip(*c.Card.ShortHeadline)+"”", 0, 0, "follow")
		}
	},
}

// dates checks that the day is the date's, and that neither is over.
var dates = rule{
	why: map[string]string{
		"weekday": "Somebody will come on the wrong day.",
		"past":    "It says something that is no longer so.",
		"hours":   "Check the hours.",
	},
	piece: func(c *check) {
		if c.Card == nil {
			return
		}
		over := func(date string) (time.Time, bool) {
			d, err := time.Parse(time.DateOnly, date)
			return d, err == nil && !c.Today.IsZero() && d.Before(c.Today)
		}
		if w := c.Card.When; w != nil && c.shown("when") {
			d, past := over(w.Date)
			if past {
				c.add("past", Warning, "when", "this day is over", 0, 0)
			}
			if days := phrase.WeekdaysCalled(w.Weekday); w.Date != "" && len(days) > 0 && !slices.Contains(days, d.Weekday()) {
				c.add("weekday", Warning, "when", fmt.Sprintf("%d %s %d is a %s, not a %s", d.Day(), d.Month(), d.Year(), d.Weekday(), w.Weekday), 0, 0, "weekday")
			}
			if from, ok := w.Begins(); ok && w.Ends() >= 0 && w.Ends() < from && w.Ends() > 5*60 {
				c.add("hours", Note, "when", "it ends before it begins", 0, 0)
			}
		}
		if o := c.Card.Offer; o != nil && c.shown("offer") {
			if _, past := over(o.Until); past {
				c.add("past", Warning, "offer", "this offer has ended", 0, 0, "clear")
			}
		}
	},
}

// openOffer finds a reduction that says neither when it ends nor what it is bound to
// (common practice; in many places the law asks for it).
var openOffer = rule{
	why: map[string]string{
		"open-offer": "People ask until when and for what; in many places an advertisement has to say so. Give the offer an end, or small print.",
	},
	piece: func(c *check) {
		if c.Card == nil || c.Card.Offer == nil || !c.shown("offer") {
			return
		}
		o := c.Card.Offer
		if (o.Percent > 0 || o.OldPrice != "") && o.Until == "" && !c.shown("terms") {
			c.add("open-offer", Note, "offer", "the offer says neither when it ends nor what it is bound to", 0, 0)
		}
	},
}

// needs finds what a purpose asks for and the copy does not say (common practice).
var needs = rule{
	why: map[string]string{
		"needs":         "People who stop here look for it first.",
		"hours":         "Two rows say different hours for one day; people believe the wrong one.",
		"other-purpose": "The brief was made with a later version. Choose the purpose that comes nearest, or leave it.",
	},
	piece: func(c *check) {
		if c.Other != "" {
			c.add("other-purpose", Note, "", "the purpose “"+clip(c.Other)+"” is not known here; the piece is composed as an announcement", 0, 0)
		}
		if c.Card == nil {
			return
		}
		none := func(slots ...string) bool {
			return !slices.ContainsFunc(slots, func(s string) bool { return c.Words[s] != "" })
		}
		missing := func(slot, what string) { c.add("needs", Note, slot, what, 0, 0) }
		switch c.Purpose {
		case "hiring":
			if none("where", "lines", "facts", "offer", "body") {
				missing("where", "it does not say where the work is, when, or what it pays")
			}
			if none("callToAction", "website") {
				missing("callToAction", "it does not say how to apply")
			}
		case "hours":
			if none("hours") {
				missing("hours", "there are no opening hours yet")
			}
		case "question":
			if n := len(c.Card.Lines); n < 2 || n > 4 {
				missing("lines", fmt.Sprintf("a question has two to four answers, this one has %d: write them as lines", n))
			}
		case "behind the scenes":
			if len(c.Pictures) == 0 {
				missing("picture", "there is no picture to see behind the scenes in")
			}
		}
		if days := brief.OverlappingHours(c.Card.Hours, phrase.In("")); len(days) > 0 && c.shown("hours") {
			c.add("hours", Warning, "hours", "the hours of "+strings.Join(days, ", ")+" overlap", 0, 0)
		}
	},
}

var voice = rule{
	why: map[string]string{
		"never-says": "The kit's voice never says this.",
	},
	piece: func(c *check) {
		for slot, text := range c.Words {
			for _, w := range c.Kit.Voice.NeverSaid(text) {
				if c.shown(slot) {
					c.add("never-says", Warning, slot, "the kit never says “"+w+"”", 0, 0)
				}
			}
		}
	},
}

var muchText = rule{
	why: map[string]string{
		"much-text": "Advertisements with more than about a fifth of words are shown less. The body text can stay away from advertisements.",
	},
	piece: func(c *check) {
		if area := c.Placement.Canvas().W * c.Placement.Canvas().H; strings.HasPrefix(c.Placement.ID, "ad-") && c.words/area > 0.2 {
			c.add("much-text", Note, "", "words cover more than a fifth of the advertisement", c.words/area, 0.2)
		}
	},
}

var fonts = rule{
	why: map[string]string{
		"font-rights":  "Somebody has to confirm that the brand may use the font.",
		"font-kerning": "The font's kerning cannot be read, so pairs of letters may stand too far apart.",
		"off-kit-font": "This family is not one of the type set's.",
		"many-fonts":   "More than three families make a piece restless.",
	},
	piece: func(c *check) {
		for _, f := range c.Kit.Fonts {
			if f.ConfirmedBy == "" && c.families[f.Family] {
				c.add("font-rights", Note, "", "nobody has confirmed the right to use "+f.Family, 0, 0, "confirm")
			}
			if f.Facts.Unkerned && c.families[f.Family] {
				c.add("font-kerning", Note, "", "the kerning of "+f.Family+" cannot be read from its file; letters stand at their plain widths", 0, 0)
			}
		}
		for _, family := range slices.Sorted(maps.Keys(c.families)) {
			if len(c.Types.Levels) > 0 && !uses(c.Types, family) {
				c.add("off-kit-font", Warning, "", family+" is not in the type set", 0, 0)
			}
		}
		if len(c.families) > 3 {
			c.add("many-fonts", Warning, "", "more than three font families", float64(len(c.families)), 3)
		}
	},
}
