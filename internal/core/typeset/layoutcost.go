package typeset

import (
	"fmt"

	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/font/opentype/tables"
)

// The limits of a face's layout tables (GSUB, GPOS). Nothing can be shaped that
// shows what every text would cost, so what a glyph can cost at most is added up
// over the rules. The heaviest shipped face (Noto Sans Devanagari) costs 5,200
// steps a glyph.
const (
	maxSequence  = 12 // glyphs one glyph is replaced by
	maxCallDepth = 4  // lookups that call lookups
	maxSteps     = 250_000
	maxLookups   = 3000
)

// rules is what shaping may have to look at where a lookup starts: how many
// steps at the most, and which lookups it calls.
type rules struct {
	steps int
	calls []int
}

// checkLayout refuses layout tables that could make much of little: lookups
// that call themselves or each other deeply, long replacements, more rules than
// a text of 2,000 characters can be held against in a second.
func checkLayout(f *font.Font) error {
	if len(f.GSUB.Lookups)+len(f.GPOS.Lookups) > maxLookups {
		return fmt.Errorf("%w: %d lookups, at most %d", ErrFont, len(f.GSUB.Lookups)+len(f.GPOS.Lookups), maxLookups)
	}
	gsub, gpos := make([]rules, len(f.GSUB.Lookups)), make([]rules, len(f.GPOS.Lookups))
	for i, l := range f.GSUB.Lookups {
		for _, sub := range l.Subtables {
			if m, ok := sub.(tables.MultipleSubs); ok && longestSequence(m) > maxSequence {
				return fmt.Errorf("%w: a glyph is replaced by %d, at most %d", ErrFont, longestSequence(m), maxSequence)
			}
			gsub[i].add(sub)
		}
	}
	for i, l := range f.GPOS.Lookups {
		for _, sub := range l.Subtables {
			gpos[i].add(sub)
		}
	}
	for _, list := range [][]rules{gsub, gpos} {
		if err := checkCalls(list); err != nil {
			return err
		}
	}
	return nil
}

// checkCalls adds up what the lookups cost with those they call.
func checkCalls(list []rules) error {
	type cost struct{ steps, depth int }
	known := make(map[int]cost, len(list))
	open := map[int]bool{}
	var of func(i int) (cost, error)
	of = func(i int) (cost, error) {
		if c, ok := known[i]; ok || i < 0 || i >= len(list) {
			return c, nil
		}
		if open[i] {
			return cost{}, fmt.Errorf("%w: lookup %d calls itself", ErrFont, i)
		}
		open[i] = true
		defer delete(open, i)
		c := cost{steps: list[i].steps}
		dearest := 0
		for _, called := range list[i].calls {
			d, err := of(called)
			if err != nil {
				return c, err
			}
			c.depth = max(c.depth, d.depth+1)
			dearest = max(dearest, d.steps)
			if c.depth > maxCallDepth {
				return c, fmt.Errorf("%w: lookups call each other more than %d deep", ErrFont, maxCallDepth)
			}
		}
		// one rule holds at a place; it may call a handful of lookups
		c.steps = min(c.steps+8*dearest, maxSteps+1)
		known[i] = c
		return c, nil
	}
	total := 0
	for i := range list {
		c, err := of(i)
		if err != nil {
			return err
		}
		if total += c.steps; total > maxSteps {
			return fmt.Errorf("%w: its rules for ligatures and places cost more than %d steps a glyph", ErrFont, maxSteps)
		}
	}
	return nil
}

// add counts a subtable: the most rules that can start with the same glyph,
// times their length.
func (r *rules) add(sub any) {
	most := 2 // to find out that nothing starts here
	switch s := sub.(type) {
	case tables.LigatureSubs:
		for _, ls := range s.LigatureSets {
			n := 0
			for _, l := range ls.Ligatures {
				n += 1 + len(l.ComponentGlyphIDs)
			}
			most = max(most, n)
		}
	case tables.ContextualSubs:
		most = max(most, r.context(s.Data))
	case tables.ContextualPos:
		most = max(most, r.context(s.Data))
	case tables.ChainedContextualSubs:
		most = max(most, r.context(s.Data))
	case tables.ChainedContextualPos:
		most = max(most, r.context(s.Data))
	case tables.ReverseChainSingleSubs:
		most = max(most, 8*(len(s.BacktrackCoverages)+len(s.LookaheadCoverages)))
	}
	r.steps += most
}

// context is the cost of a rule in context; what it calls is noted.
func (r *rules) context(data any) int {
	switch d := data.(type) {
	case tables.ContextualSubs1:
		return r.plain(d.SeqRuleSet)
	case tables.ContextualPos1:
		return r.plain(d.SeqRuleSet)
	case tables.ContextualSubs2:
		return r.plain(d.ClassSeqRuleSet)
	case tables.ContextualPos2:
		return r.plain(d.ClassSeqRuleSet)
	case tables.ContextualSubs3:
		r.call(d.SeqLookupRecords)
		return 8 * len(d.Coverages)
	case tables.ContextualPos3:
		r.call(d.SeqLookupRecords)
		return 8 * len(d.Coverages)
	case tables.ChainedContextualSubs1:
		return r.chained(d.ChainedSeqRuleSet)
	case tables.ChainedContextualPos1:
		return r.chained(d.ChainedSeqRuleSet)
	case tables.ChainedContextualSubs2:
		return r.chained(d.ChainedClassSeqRuleSet)
	case tables.ChainedContextualPos2:
		return r.chained(d.ChainedClassSeqRuleSet)
	case tables.ChainedContextualSubs3:
		r.call(d.SeqLookupRecords)
		return 8 * (len(d.BacktrackCoverages) + len(d.InputCoverages) + len(d.LookaheadCoverages))
	case tables.ChainedContextualPos3:
		r.call(d.SeqLookupRecords)
		return 8 * (len(d.BacktrackCoverages) + len(d.InputCoverages) + len(d.LookaheadCoverages))
	}
	return 0
}

func (r *rules) call(records []tables.SequenceLookupRecord) {
	for _, c := range records {
		r.calls = append(r.calls, int(c.LookupListIndex))
	}
}

func (r *rules) plain(sets []tables.SequenceRuleSet) (most int) {
	for _, s := range sets {
		n := 0
		for _, rule := range s.SeqRule {
			n += 1 + len(rule.InputSequence)
			r.call(rule.SeqLookupRecords)
		}
		most = max(most, n)
	}
	return most
}

func (r *rules) chained(sets []tables.ChainedSequenceRuleSet) (most int) {
	for _, s := range sets {
		n := 0
		for _, rule := range s.ChainedSeqRules {
			n += 1 + len(rule.InputSequence) + len(rule.BacktrackSequence) + len(rule.LookaheadSequence)
			r.call(rule.SeqLookupRecords)
		}
		most = max(most, n)
	}
	return most
}

// longestSequence is how many glyphs at most stand for one.
func longestSequence(m tables.MultipleSubs) (most int) {
	for _, s := range m.Sequences {
		most = max(most, len(s.SubstituteGlyphIDs))
	}
	return most
}
