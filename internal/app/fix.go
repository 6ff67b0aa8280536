package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/preflight"
)

// ErrNoFix is returned when a finding has no fix that can be made in one step.
var ErrNoFix = errors.New("nothing here can be put right in one step")

// Fixable reports whether a finding can be put right in one step.
func (s *Set) Fixable(card int, f preflight.Finding) bool {
	r, err := s.fix(card, f)
	return err == nil && len(r.ops) > 0
}

// Repair is what a fix does, in words.
type Repair struct {
	Will string // "set “SALE” as “Sale”"
	Did  string // "“SALE” is set as “Sale”"
	ops  []edit.Op
}

// Fix puts findings right: those of a code and slot, or with an empty code all
// that can be, as one change that one undo takes back. It returns what it did,
// part by part.
func (a Sets) Fix(ctx context.Context, m Member, id ID, client, code, slot string) ([]string, error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return nil, err
	}
	var ops []edit.Op
	var did []string
	done := map[string]bool{}
	for _, pc := range s.Pieces() {
		for _, f := range pc.Findings {
			key := fmt.Sprint(f.Code, " ", f.Slot, " ", pc.Card)
			if done[key] || code != "" && (f.Code != code || f.Slot != slot) || code == "" && f.Severity == preflight.Note {
				continue
			}
			made, err := s.fix(pc.Card, f)
			if err != nil || len(made.ops) == 0 {
				continue
			}
			done[key] = true
			did = append(did, made.Did)
			for _, op := range made.ops {
				// a later fix of the same field replaces an earlier one
				ops = slices.DeleteFunc(ops, func(o edit.Op) bool { return o.Path == op.Path && !strings.HasSuffix(o.Path, "/-") })
				ops = append(ops, op)
			}
		}
	}
	if len(ops) == 0 {
		return nil, fmt.Errorf("%w: %w", ErrInvalid, ErrNoFix)
	}
	_, err = a.documents.Edit(ctx, m, id, Change{Client: client, Base: s.Doc.Seq, Op: edit.Op{All: ops}})
	return did, err
}

// fix is the change that puts a finding right.
func (s *Set) fix(card int, f preflight.Finding) (Repair, error) {
	c := s.Brief.Cards[card]
	put := func(field string, v any) edit.Op {
		op := edit.Op{Path: cardPath(c.ID, field), Value: raw(v)}
		if v == nil {
			op.Value = nil
		}
		return op
	}
	field := f.Slot
	written := c.Field(field)
	name := slotName(field)
	switch f.Code {
	case "capitals":
		if written == nil {
			return Repair{}, ErrNoFix
		}
		small := preflight.SentenceCase(*written)
		r := Repair{fmt.Sprintf("set “%s” as “%s”", *written, small), fmt.Sprintf("“%s” is set as “%s”", *written, small), []edit.Op{put(field, small)}}
		if field == "headline" && c.ShortHeadline != nil && preflight.Shouted(*c.ShortHeadline) {
			r.ops = append(r.ops, put("shortHeadline", preflight.SentenceCase(*c.ShortHeadline)))
			r.Will += ", and the shorter one"
			r.Did += ", and so is the shorter one"
		}
		return r, nil
	case "sample":
		if written != nil && *written != "" {
			return Repair{fmt.Sprintf("empty the %s: “%s”", name, *written), fmt.Sprintf("the %s is empty; it said “%s”", name, *written), []edit.Op{put(field, nil)}}, nil
		}
	case "short-stale":
		if c.Headline == nil || c.ShortHeadline == nil {
			return Repair{}, ErrNoFix
		}
		to := brief.ShortFor(*c.Headline)
		of := put("shortOf", *c.Headline)
		if to == "" { // short itself
			return Repair{fmt.Sprintf("let the headline stand for the shorter one, “%s”", *c.ShortHeadline), fmt.Sprintf("the headline stands for the shorter one, which said “%s”", *c.ShortHeadline), []edit.Op{put("shortHeadline", ""), of}}, nil
		}
		return Repair{fmt.Sprintf("let the shorter headline say “%s”", to), fmt.Sprintf("the shorter headline says “%s”; it said “%s”", to, *c.ShortHeadline), []edit.Op{put("shortHeadline", to), of}}, nil
	case "weekday":
		if d, err := time.Parse(time.DateOnly, c.When.Date); err == nil {
			day := c.In(s.Kit.Kit, s.Brief.Language).Weekday(d)
			return Repair{fmt.Sprintf("write %s in place of %s", day, c.When.Weekday), fmt.Sprintf("it says %s in place of %s", day, c.When.Weekday), []edit.Op{put("when/weekday", day)}}, nil
		}
	case "past":
		if f.Slot == "offer" {
			said := c.Words(s.Kit.Kit, s.Brief.Language)["offer"]
			return Repair{fmt.Sprintf("take the offer out: “%s”", said), fmt.Sprintf("the offer is out; it said “%s”", said), []edit.Op{put("offer", nil)}}, nil
		}
	case "no-action":
		if len(s.Kit.CallsToAction) > 0 && c.CallToAction != nil && *c.CallToAction == "" {
			first := s.Kit.CallsToAction[0] // nothing of one's own: the kit's first
			return Repair{fmt.Sprintf("put the kit’s “%s” in", first), fmt.Sprintf("it asks “%s”, as the kit does", first), []edit.Op{put("callToAction", nil)}}, nil
		}
	case "no-address":
		if s.Kit.Website != "" && s.Brief.Signature != "both" && s.Brief.Signature != "address" {
			sign := "both"
			if s.Brief.Signature == "none" {
				sign = "address"
			}
			return Repair{"sign with " + s.Kit.Website, "it is signed with " + s.Kit.Website, []edit.Op{{Path: "/signature", Value: raw(sign)}}}, nil
		}
	case "much-text":
		if c.Body != nil && *c.Body != "" {
			return Repair{"leave the body out of advertisements", "advertisements go without the body; everything else keeps it", s.adjustOps(brief.Adjustment{Reach: "channel:display-ads", Slot: "body", Property: "text", Value: raw("")})}, nil
		}
	}
	if slices.Contains(f.Fixes, "lift") {
		return s.lifting(f.Slot)
	}
	return Repair{}, ErrNoFix
}

// lifting takes back how a part is drawn by hand.
func (s *Set) lifting(slot string) (Repair, error) {
	r := Repair{Will: "take the " + slotName(slot) + " back to the rule", Did: "the " + slotName(slot) + " is as the rule has it"}
	for _, a := range s.Brief.Adjustments {
		if p, ok := brief.PropertyOf(a.Property); ok && p.Drawn && a.Slot == slot {
			r.ops = append(r.ops, edit.Op{Path: "/adjustments/@" + a.ID})
		}
	}
	if len(r.ops) == 0 {
		return r, ErrNoFix
	}
	return r, nil
}

// adjustOps sets an adjustment.
func (s *Set) adjustOps(adj brief.Adjustment) []edit.Op {
	at := slices.IndexFunc(s.Brief.Adjustments, func(o brief.Adjustment) bool {
		return o.Reach == adj.Reach && o.Slot == adj.Slot && o.Property == adj.Property
	})
	if at >= 0 {
		return []edit.Op{{Path: "/adjustments/@" + s.Brief.Adjustments[at].ID + "/value", Value: raw(adj.Value)}}
	}
	// two tabs that set the same thing set one adjustment
	return []edit.Op{{Path: "/adjustments/@" + adj.Key(), Value: raw(adj)}}
}

// SetFinding is a finding with the pieces it stands on.
type SetFinding struct {
	preflight.Finding
	Slots   []string // the parts it is about, as people call them
	Places  []string // placements
	Fixable bool
	Will    string // what the fix does
	Why     string
}

// slotName is what people call a part of a piece.
func slotName(slot string) string {
	if slot == "picture2" {
		return "second picture"
	}
	return strings.ToLower(brief.PartOf(slot).Label)
}

// Findings gathers the findings of pieces: one entry for each kind, with those
// that can be put right apart by slot; what is gravest and most frequent first.
func (s *Set) Findings(pieces []*piece.Piece) []SetFinding {
	var out []SetFinding
	at := map[string]int{}
	for _, pc := range pieces {
		for _, f := range pc.Findings {
			repair, err := s.fix(pc.Card, f)
			fixable := err == nil && len(repair.ops) > 0
			key := string(f.Severity) + f.Code + f.Message
			if fixable {
				key += fmt.Sprint(" ", f.Slot, " ", pc.Card)
			}
			i, ok := at[key]
			if !ok {
				i = len(out)
				at[key] = i
				out = append(out, SetFinding{Finding: f, Fixable: fixable, Will: repair.Will, Why: preflight.Why(f.Code)})
			}
			name := slotName(f.Slot)
			if name != "" && !slices.Contains(out[i].Slots, name) {
				out[i].Slots = append(out[i].Slots, name)
			}
			if !slices.Contains(out[i].Places, pc.Placement.ID) {
				out[i].Places = append(out[i].Places, pc.Placement.ID)
			}
		}
	}
	out = append(out, s.uneven(pieces)...)
	order := map[preflight.Severity]int{preflight.Error: 0, preflight.Warning: 1, preflight.Note: 2}
	slices.SortStableFunc(out, func(a, b SetFinding) int {
		if d := order[a.Severity] - order[b.Severity]; d != 0 {
			return d
		}
		return len(b.Places) - len(a.Places)
	})
	return out
}

// ToLookAt is how many things there are to look at before the set goes out: what is
// more than a note, each counted once however many pieces show it. It is the number
// every screen says.
func (s *Set) ToLookAt() int {
	return Once(s, "to look at", func() int {
		n := 0
		for _, m := range s.Findings(s.Pieces()) {
			if m.Severity != preflight.Note {
				n++
			}
		}
		return n
	})
}

// uneven finds pages of a post that do not go together: too few or too many for
// their place, some with pictures and some without.
func (s *Set) uneven(pieces []*piece.Piece) []SetFinding {
	n := len(s.Brief.Cards)
	if n < 2 {
		return nil
	}
	var out []SetFinding
	say := func(places []string, message string) {
		out = append(out, SetFinding{
			Finding: preflight.Finding{Code: "cards", Severity: preflight.Warning, Message: message, Fixes: []string{}}, Places: places, Why: preflight.Why("cards"),
		})
	}
	var swipes []string
	for _, pc := range pieces {
		p := pc.Placement
		if len(p.Cards) == 0 {
			continue
		}
		swipes = append(swipes, p.ID)
		if p.Card == 0 && len(p.Cards) == 2 && (n < p.Cards[0] || n > p.Cards[1]) {
			say([]string{p.ID}, fmt.Sprintf("%s takes %d to %d cards; there are %d", p.Name, p.Cards[0], p.Cards[1], n))
		}
	}
	with := 0
	for _, c := range s.Brief.Cards {
		if len(c.Pictures) > 0 {
			with++
		}
	}
	if len(swipes) > 0 && with > 0 && with < n {
		say(swipes, fmt.Sprintf("%d of the %d cards have a picture", with, n))
	}
	return out
}
