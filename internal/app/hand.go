package app

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/spec"
)

// HandEdit changes a property of a part by hand within a reach; without a value it gives
// the property back to the rule there.
type HandEdit struct {
	Reach    string          `json:"reach"` // set, channel:<id>, class:<aspect>, piece:<placement>
	Slot     string          `json:"slot"`
	Property string          `json:"property"`
	Value    json.RawMessage `json:"value"`
}

// mostHandEdits is how many properties are changed in one step.
const mostHandEdits = 5000

// ByHand changes properties of parts as one step. What was changed on the same piece
// within a narrower reach gives way, so that the change is seen; a brief without a kept
// look keeps the one it has, so that what was changed stays what it was.
func (a Sets) ByHand(ctx context.Context, m Member, id ID, c Change, placement string, edits []HandEdit) (int64, error) {
	if len(edits) == 0 || len(edits) > mostHandEdits {
		return 0, fmt.Errorf("%w: %d changes by hand in one step: want 1 to %d", ErrInvalid, len(edits), mostHandEdits)
	}
	for i := range edits {
		if string(edits[i].Value) == "null" {
			edits[i].Value = nil
		}
		e := edits[i]
		adj := e.adjustment()
		if _, ok := brief.PropertyOf(e.Property); !ok {
			return 0, fmt.Errorf("%w: %q is nothing that is changed by hand", ErrInvalid, e.Property)
		}
		if e.Value == nil {
			continue
		}
		if err := adj.Check(); err != nil {
			return 0, fmt.Errorf("%w: %v", ErrInvalid, err)
		}
	}
	return a.fromSet(ctx, m, id, func(s *Set) (Change, error) {
		p, err := s.Channels.Parse(placement)
		if err != nil {
			return c, fmt.Errorf("%w: %v", ErrInvalid, err)
		}
		c := c
		c.Kind, c.Op = "brief", edit.Op{All: s.handOps(p, edits)}
		if len(c.Op.All) == 0 {
			return c, fmt.Errorf("%w: it is as the rule has it already", ErrInvalid)
		}
		return c, nil
	})
}

func (e HandEdit) adjustment() brief.Adjustment {
	return brief.Adjustment{Reach: e.Reach, Slot: e.Slot, Property: e.Property, Value: e.Value}
}

// handOps are the operations of changes by hand that were made on a placement.
func (s *Set) handOps(p spec.Placement, edits []HandEdit) []edit.Op {
	var ops []edit.Op
	if s.Look == nil {
		look := s.CurrentLook()
		ops = append(ops, keep(&look))
	}
	first := len(ops)
	gone := map[string]bool{}
	lift := func(a brief.Adjustment) {
		if !gone[a.ID] {
			gone[a.ID] = true
			ops = append(ops, edit.Op{Path: "/adjustments/@" + a.ID})
		}
	}
	for _, e := range edits {
		for _, a := range s.Brief.Adjustments {
			if a.Slot != e.Slot || a.Property != e.Property {
				continue
			}
			if e.Value == nil && a.Reach == e.Reach || e.Value != nil && a.Reaches(p) > e.adjustment().Reaches(p) {
				lift(a)
			}
		}
		if e.Value != nil {
			ops = append(ops, s.adjustOps(e.adjustment())...)
		}
	}
	if len(ops) == first {
		return nil
	}
	return ops
}

// at is a set and one of its places.
func (a Sets) at(ctx context.Context, m Member, id ID, placement string) (*Set, spec.Placement, error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return nil, spec.Placement{}, err
	}
	p, err := s.Channels.Parse(placement)
	if err != nil {
		err = fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	return s, p, err
}

// ReachFurther gives what was changed by hand of a part another reach, as one step: all
// of it that reaches from, as far as its properties can.
func (a Sets) ReachFurther(ctx context.Context, m Member, id ID, c Change, placement, slot, from, to string) (int64, error) {
	s, p, err := a.at(ctx, m, id, placement)
	if err != nil {
		return 0, err
	}
	var edits []HandEdit
	for _, adj := range s.Brief.Adjustments {
		if adj.Slot != slot || adj.Reach != from || from == to {
			continue
		}
		moved := adj
		moved.Reach = to
		if moved.Check() != nil { // as far as it can
			if moved.Reach = "class:" + string(p.Class()); moved.Reach == from {
				continue
			}
		}
		edits = append(edits, HandEdit{from, slot, adj.Property, nil}, HandEdit{moved.Reach, slot, adj.Property, adj.Value})
	}
	if len(edits) == 0 {
		return 0, fmt.Errorf("%w: nothing of this part reaches %s and could reach %s", ErrInvalid, from, to)
	}
	return a.ByHand(ctx, m, id, c, placement, edits)
}

// Variant puts another try at a piece beside it, with all that was changed by hand of it
// alone, as one step; its id is answered.
func (a Sets) Variant(ctx context.Context, m Member, id ID, c Change, placement string) (made string, err error) {
	_, err = a.fromSet(ctx, m, id, func(s *Set) (Change, error) {
		c := c
		p, err := s.Channels.Parse(placement)
		if err != nil {
			return c, fmt.Errorf("%w: %v", ErrInvalid, err)
		}
		places := s.Placements()
		first, err := s.Channels.Parse(p.First())
		if err != nil {
			return c, err
		}
		made = ""
		for _, letter := range spec.Variants {
			if id := first.AsVariant(letter).ID; !slices.ContainsFunc(places, func(q spec.Placement) bool { return q.ID == id }) {
				made = id
				break
			}
		}
		if made == "" {
			return c, fmt.Errorf("%w: %s has %d variants already; take one out of the set", ErrInvalid, first.Name, len(spec.Variants))
		}
		ids := []string{}
		for _, q := range places {
			if q.Card == 0 || q.Variant != "" {
				ids = append(ids, q.ID)
			}
		}
		c.Kind, c.Op = "brief", edit.Op{All: append(s.asPiece(p.ID, made), edit.Op{Path: "/placements", Value: raw(append(ids, made))})}
		return c, nil
	})
	return made, err
}

// asPiece are the operations that change a piece as another one was changed by hand; what
// was left of an earlier one of the same name goes.
func (s *Set) asPiece(from, to string) []edit.Op {
	var ops []edit.Op
	made := map[string]bool{}
	for _, adj := range s.Brief.Adjustments {
		if adj.Reach == "piece:"+from {
			adj.Reach, adj.ID = "piece:"+to, ""
			made[adj.Key()] = true
			ops = append(ops, s.adjustOps(adj)...)
		}
	}
	for _, adj := range s.Brief.Adjustments {
		if adj.Reach == "piece:"+to && !made[adj.Key()] {
			ops = append(ops, edit.Op{Path: "/adjustments/@" + adj.ID})
		}
	}
	return ops
}

// ColourIntoKit puts a colour that was chosen by hand into the kit.
func (a Sets) ColourIntoKit(ctx context.Context, m Member, id ID, client, hex string) error {
	c, err := colour.Parse(hex)
	if err != nil {
		return fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return err
	}
	return a.brand.KeepColours(ctx, m, s.Kit.ID, client, NewColour{Value: c})
}

// FaceIntoKit has the kit set a level in a face that was chosen by hand, in the type set the
// brief is in.
func (a Sets) FaceIntoKit(ctx context.Context, m Member, id ID, client string, level brand.Level, family string) error {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return err
	}
	return a.brand.SetLevel(ctx, m, s.Kit.ID, client, s.CurrentLook().TypeSet, level, "family", family)
}

// LiftEverything gives the whole set back to the rule as one step: all that was changed by
// hand of how parts are drawn. What was added stays, and so do words, pictures, layouts and
// colours that were chosen.
func (a Sets) LiftEverything(ctx context.Context, m Member, id ID, c Change) (int64, error) {
	return a.fromSet(ctx, m, id, func(s *Set) (Change, error) {
		c := c
		for _, adj := range s.Brief.Adjustments {
			if p, ok := brief.PropertyOf(adj.Property); ok && (p.Drawn || p.Styles()) && !strings.HasPrefix(adj.Slot, brief.AddedSlot) {
				c.Op.All = append(c.Op.All, edit.Op{Path: "/adjustments/@" + adj.ID})
			}
		}
		if len(c.Op.All) == 0 {
			return c, fmt.Errorf("%w: nothing of this set was changed by hand", ErrInvalid)
		}
		c.Kind = "brief"
		return c, nil
	})
}

// LiftAll gives a piece back to the rule as one step: all that was changed by hand of it
// alone, or of its shape. What reaches further is lifted at its part, since others have it
// too; what was added stays.
func (a Sets) LiftAll(ctx context.Context, m Member, id ID, c Change, placement string) (int64, error) {
	s, p, err := a.at(ctx, m, id, placement)
	if err != nil {
		return 0, err
	}
	var edits []HandEdit
	for _, adj := range s.Brief.Adjustments {
		kind, _, _ := strings.Cut(adj.Reach, ":")
		if adj.Reaches(p) > 0 && (kind == "piece" || kind == "class") && adj.Slot != "look" && !strings.HasPrefix(adj.Slot, brief.AddedSlot) {
			edits = append(edits, HandEdit{adj.Reach, adj.Slot, adj.Property, nil})
		}
	}
	if len(edits) == 0 {
		return 0, fmt.Errorf("%w: nothing was changed by hand of this piece or its shape alone", ErrInvalid)
	}
	return a.ByHand(ctx, m, id, c, placement, edits)
}
