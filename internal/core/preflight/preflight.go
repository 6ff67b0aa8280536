// Package preflight checks a computed piece the way a careful colleague does
// before it goes out. What the machine placed is right by construction; the
// checks run all the same, so that a fault of ours is said and not shipped.
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
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// Severity of a finding.
type Severity string

// Error means unreadable, clipped, overlapping, or outside where it may be.
const (
	Error   Severity = "error"
	Warning Severity = "warning"
	Note    Severity = "note"
)

// Finding is one thing to look at.
type Finding struct {
	Code     string   `json:"code"`
	Severity Severity `json:"severity"`
	Slot     string   `json:"slot"`
	Message  string   `json:"message"`
	Value    float64  `json:"value"`
	Limit    float64  `json:"limit"`
	Fixes    []string `json:"fixes"`
}

// Input is what is checked.
type Input struct {
	Placement spec.Placement
	Scene     *scene.Scene
	Kit       *brand.Kit
	Words     map[string]string
	Pictures  []photo.Picture
	Dropped   []string // slots with words that are not shown
	Carries   []string // slots the brief's purpose lives on
	Shortened []string
	Plain     bool
	CapHeight func(family string, weight int) float64 // em

	// Smallest is the least size in px as seen at which a face holds together;
	// nil skips the check.
	Smallest func(family string, weight int) float64
	Card     *brief.Card       // as written; nil skips what looks at the copy itself
	Middle   bool              // a page of a post that has more after it: the last one says where to go
	Sample   map[string]string // copy that came with an example, by field
	Today    time.Time         // dates before it are over; zero skips that
	Types    brand.TypeSet
}

// adder takes a finding in.
type adder func(code string, sev Severity, slot, message string, value, limit float64, fixes ...string)

// Check lists the findings, errors first.
func Check(in Input) []Finding {
	var out []Finding
	var add adder = func(code string, sev Severity, slot, message string, value, limit float64, fixes ...string) {
		out = append(out, Finding{code, sev, slot, message, round2(value), limit, append([]string{}, fixes...)})
	}
	p := in.Placement
	safe := p.SafeBox()
	const eps = 0.6 // px: rounding of boxes
	var solid []scene.Part
	words, fontFamilies := 0.0, map[string]bool{}
	for i, part := range in.Scene.Parts {
		switch part.Kind {
		case scene.KindText, scene.KindButton:
			if part.Contrast < colourway.InkContrast {
				add("contrast", Error, part.Slot, "the words are too close in lightness to what they stand on", part.Contrast, colourway.InkContrast, "colour")
			}
			caps := part.SizePx * in.CapHeight(part.Family, part.Weight)
			if v := caps * p.SeenScale(); v < 6.95 {
				add("too-small", Error, part.Slot, "the capitals are under 7 px high as seen", v, 7, "shorten")
			} else if v := caps * p.SmallestSeenScale(); v < 7 {
				add("small-seen", Note, part.Slot, fmt.Sprintf("at its smallest, %.0f px wide, this is hard to read", p.Seen[len(p.Seen)-1]), v, 7)
			}
			if in.Smallest != nil {
				if v, least := part.SizePx*p.SeenScale(), in.Smallest(part.Family, part.Weight); v < least {
					add("frail", Note, part.Slot, fmt.Sprintf("%s breaks up this small: its thin strokes are under a px as seen", part.Family), v, least, "smallFace")
				}
			}
			words += part.Box.W * part.Box.H
			fontFamilies[part.Family] = true
			solid = append(solid, part)
			for _, l := range part.Lines {
				if len(l.Line.Missing) > 0 {
					add("missing-glyph", Warning, part.Slot, "no font has the sign "+string(l.Line.Missing), 0, 0)
				} else if len(l.Line.Borrowed) > 0 {
					add("borrowed-glyph", Note, part.Slot, "the brand's font lacks "+string(l.Line.Borrowed)+"; a shipped font lends it", 0, 0)
				}
			}
		case scene.KindLogo:
			solid = append(solid, part)
			least := 16.0
			if i := slices.IndexFunc(in.Kit.Logos, func(l brand.Logo) bool { return l.File == part.File }); i >= 0 {
				least = math.Max(least, in.Kit.Logos[i].MinWidth)
			}
			if w := part.Box.W * p.SeenScale(); w < least-0.05 {
				add("logo-small", Warning, part.Slot, fmt.Sprintf("the logo is under %.0f px wide as seen", least), w, least)
			}
		case scene.KindPicture:
			pictures(in, i, add)
		}
		sliver(in.Scene, part, add)
		offKit(in.Kit, part, add)
	}
	for i, a := range solid {
		if !p.Canvas().Contains(a.Box, eps) {
			add("clipped", Error, a.Slot, "it runs over the edge of the piece", 0, 0)
		} else if !safe.Contains(a.Box, eps) {
			add("unsafe", Error, a.Slot, "it leaves the safe area", 0, 0)
		}
		for _, k := range p.KeepOuts() {
			if a.Box.Overlaps(k, eps) {
				add("keep-out", Error, a.Slot, "the channel covers this corner with its own signs", 0, 0)
			}
		}
		if a.Kind == scene.KindLogo {
			crowded(in.Kit, a, solid, add)
		}
		for _, b := range solid[i+1:] {
			if a.Box.Overlaps(b.Box, eps) {
				add("overlap", Error, a.Slot, "it overlaps "+b.Slot, 0, 0)
			}
		}
	}
	if p.KeepIn != nil {
		k := p.KeepIn
		for _, part := range in.Scene.Parts {
			if part.Slot == "headline" && !(spec.Rect{X: k[0], Y: k[1], W: k[2], H: k[3]}).Contains(part.Box, eps) {
				add("keep-in", Note, "headline", "the small view of this channel cuts part of the headline off", 0, 0)
			}
		}
	}
	shown := func(slot string) bool {
		return slices.ContainsFunc(in.Scene.Parts, func(q scene.Part) bool { return q.Slot == slot })
	}
	for _, need := range p.Needs {
		switch {
		case in.Middle:
		case need == "action" && !shown("callToAction"):
			add("no-action", Warning, "callToAction", "an advertisement asks people to do something; there is no call to action", 0, 0, "callToAction")
		case need == "address-or-action" && !shown("callToAction") && !shown("website"):
			add("no-address", Warning, "website", "nothing says where to go: no call to action and no address", 0, 0, "callToAction", "website")
		}
	}
	for _, slot := range in.Shortened {
		add("shortened", Note, slot, "fewer words are shown here than you wrote", 0, 0, "shortHeadline")
	}
	for _, slot := range in.Dropped {
		sev := Note
		if slices.Contains(in.Carries, slot) {
			sev = Warning
		}
		add("left-out", sev, slot, "there is no room for this here", 0, 0)
	}
	if in.Plain {
		add("plain", Note, "", "the layout could not hold this copy here, so the plain one does", 0, 0)
	}
	for i, pic := range in.Pictures {
		slot := "picture"
		if i > 0 {
			slot = fmt.Sprintf("picture%d", i+1)
		}
		if pic.Alt == "" && shown(slot) {
			add("no-alt", Note, slot, "the picture has no description for people who cannot see it", 0, 0, "alt")
		}
	}
	copyChecks(in, shown, add)
	for slot, text := range in.Words {
		for _, w := range in.Kit.Voice.NeverSaid(text) {
			if shown(slot) {
				add("never-says", Warning, slot, "the kit never says “"+w+"”", 0, 0)
			}
		}
	}
	if area := p.Canvas().W * p.Canvas().H; strings.HasPrefix(p.ID, "ad-") && words/area > 0.2 {
		add("much-text", Note, "", "words cover more than a fifth of the advertisement", words/area, 0.2)
	}
	for _, f := range in.Kit.Fonts {
		if f.ConfirmedBy == "" && fontFamilies[f.Family] {
			add("font-rights", Note, "", "nobody has confirmed the right to use "+f.Family, 0, 0, "confirm")
		}
	}
	for _, f := range in.Kit.Fonts {
		if f.Facts.Unkerned && fontFamilies[f.Family] {
			add("font-kerning", Note, "", "the kerning of "+f.Family+" cannot be read from its file; letters stand at their plain widths", 0, 0)
		}
	}
	for _, family := range slices.Sorted(maps.Keys(fontFamilies)) {
		if len(in.Types.Levels) > 0 && !uses(in.Types, family) {
			add("off-kit-font", Warning, "", family+" is not in the type set", 0, 0)
		}
	}
	if len(fontFamilies) > 3 {
		add("many-fonts", Warning, "", "more than three font families", float64(len(fontFamilies)), 3)
	}
	sortFindings(out)
	out = slices.CompactFunc(out, func(a, b Finding) bool { return a.Code == b.Code && a.Slot == b.Slot && a.Message == b.Message })
	return out
}

// Worst is the gravest severity among findings, "" for none.
func Worst(findings []Finding) Severity {
	if len(findings) == 0 {
		return ""
	}
	return findings[0].Severity
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

func round2(v float64) float64 { return math.Round(v*100) / 100 }

// sortFindings puts errors first, then warnings, each by code and slot.
func sortFindings(list []Finding) {
	order := map[Severity]int{Error: 0, Warning: 1, Note: 2}
	slices.SortStableFunc(list, func(a, b Finding) int {
		if d := order[a.Severity] - order[b.Severity]; d != 0 {
			return d
		}
		return strings.Compare(a.Code+a.Slot, b.Code+b.Slot)
	})
}
