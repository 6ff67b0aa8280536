// Package preflight checks a computed piece the way a careful colleague does
// before it goes out. What the machine placed is right by construction; the
// checks run all the same, so that a fault of ours is said and not shipped.
package preflight

import (
	"math"
	"slices"
	"strings"
	"time"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
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
	Purpose  string            // what the brief is for
	Other    string            // a purpose it names that is not known, taken as announce
	Card     *brief.Card       // as written; nil skips what looks at the copy itself
	Middle   bool              // a page of a post that has more after it: the last one says where to go
	Sample   map[string]string // copy that came with an example, by field
	Today    time.Time         // dates before it are over; zero skips that
	Types    brand.TypeSet
	Hands    map[string]*brief.Hand // what was changed by hand, by slot
	Added    []brief.Added          // parts added by hand
}

// adder takes a finding in.
type adder func(code string, sev Severity, slot, message string, value, limit float64, fixes ...string)

// Check lists the findings, errors first.
func Check(in Input) []Finding {
	c := &check{Input: in, families: map[string]bool{}}
	for _, p := range in.Scene.Parts {
		switch p.Kind {
		case scene.KindText, scene.KindButton:
			c.words += p.Box.W * p.Box.H
			c.families[p.Family] = true
			c.solid = append(c.solid, p)
		case scene.KindLogo:
			c.solid = append(c.solid, p)
		}
	}
	for _, r := range rules {
		for i, p := range in.Scene.Parts {
			if r.part != nil {
				r.part(c, i, p)
			}
		}
		if r.piece != nil {
			r.piece(c)
		}
	}
	sortFindings(c.out)
	return slices.CompactFunc(c.out, func(a, b Finding) bool { return a.Code == b.Code && a.Slot == b.Slot && a.Message == b.Message })
}

// Worst is the gravest severity among findings, "" for none.
func Worst(findings []Finding) Severity {
	if len(findings) == 0 {
		return ""
	}
	return findings[0].Severity
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
