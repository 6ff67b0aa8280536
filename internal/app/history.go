package app

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/store"
)

// Past is a change of a brief as people read it.
type Past struct {
	Seq    int64
	At     time.Time
	By     string
	What   string // "Headline: place"
	Reach  string // "this piece", "tall ones"; empty for the whole set
	Undone bool   // it was taken back and can be put back
}

// PastAtOnce is how many changes a list of them shows more each time, and mostPast how many
// can be gone back over at most.
const (
	PastAtOnce = 200
	mostPast   = 10_000
)

// Past lists what was done to a set, the latest first: what can be put back, then what can
// be taken back, most at most.
func (a Documents) Past(ctx context.Context, m Member, s *Set, most int) ([]Past, error) {
	list, err := a.store.Past(ctx, m.Workspace, s.Doc.ID, max(1, min(mostPast, most)))
	out := make([]Past, len(list))
	for i, p := range list {
		out[i] = Past{Seq: p.Seq, At: p.At, By: p.By, Undone: p.Undone}
		out[i].What, out[i].Reach = s.describe(p.Op, p.Inverse)
	}
	return out, err
}

// wayTo is the changes of a document, the latest first, and which of them are to be taken back,
// from first to before last, or where last lies before first put back, until the one named is
// the last that is done; 0 takes all back. No more are read than the way needs, about.
func (a *house) wayTo(ctx context.Context, m Member, id ID, seq int64) (list []store.Past, from, to int, err error) {
	for _, most := range []int{PastAtOnce, mostPast} {
		if list, err = a.store.Past(ctx, m.Workspace, id, most); err != nil {
			return nil, 0, 0, err
		}
		if seq == 0 && len(list) == most && most < mostPast {
			continue
		}
		if from, to, err = within(list, seq); err == nil {
			break
		}
	}
	return list, from, to, err
}

func within(list []store.Past, seq int64) (from, to int, err error) {
	to = slices.IndexFunc(list, func(p store.Past) bool { return p.Seq == seq })
	from = slices.IndexFunc(list, func(p store.Past) bool { return !p.Undone }) // the last that is done
	if from < 0 {
		from = len(list)
	}
	switch {
	case seq == 0:
		to = len(list)
	case to < 0:
		return 0, 0, fmt.Errorf("%w: that change is not among the last %d", ErrInvalid, mostPast)
	}
	return from, to, nil
}

// GoTo takes back, or puts back, changes one after the other until the one named is the
// last that is done; 0 takes all back. All of it is done or none of it, and everything can be put
// back again. base is the number of the document whose list of changes was seen, or [Latest]: where
// somebody else has changed it since it is a [*Conflict].
func (a Documents) GoTo(ctx context.Context, m Member, id ID, client string, seq, base int64) error {
	if err := a.mayWrite(ctx, m, id); err != nil {
		return err
	}
	err := a.store.RevertTo(ctx, m.Workspace, id, m, client, seq, base)
	if errors.Is(err, store.ErrNothing) {
		return fmt.Errorf("%w: that change is not among the last %d", ErrInvalid, mostPast)
	}
	if err != nil && !errors.As(err, new(*Conflict)) {
		return fmt.Errorf("going back: %w", err)
	}
	return err
}

// AtPast is a set as it was when one of the changes listed was the last that was done; 0
// for before all of them.
func (a Sets) AtPast(ctx context.Context, m Member, s *Set, seq int64) (*Set, error) {
	list, from, to, err := a.wayTo(ctx, m, s.Doc.ID, seq)
	if err != nil {
		return nil, err
	}
	doc, err := edit.ParseObject(s.Doc.Doc)
	if err != nil {
		return nil, err
	}
	var ops []edit.Op
	for i := from; i < to; i++ {
		ops = append(ops, list[i].Inverse)
	}
	for i := from - 1; i >= to; i-- {
		ops = append(ops, list[i].Op)
	}
	for _, op := range ops {
		if _, err := edit.Do(doc, op); err != nil {
			return nil, fmt.Errorf("%w: it cannot be seen how it was then: %v", ErrInvalid, err)
		}
	}
	return a.otherwise(ctx, s, doc)
}

// otherwise is a set with another document.
func (a *house) otherwise(ctx context.Context, s *Set, doc *edit.Object) (*Set, error) {
	d := s.Doc
	d.Doc = raw(doc)
	then, err := a.loadSet(ctx, d, s.Kit, s)
	if err == nil {
		then.Channels = s.Channels
	}
	return then, err
}

// TakePart makes one part of a piece as it was when a change was the last that was done:
// what was changed by hand of it, and its words. All else stays.
func (a Sets) TakePart(ctx context.Context, m Member, id ID, c Change, placement, slot string, seq int64) (int64, error) {
	now, p, err := a.at(ctx, m, id, placement)
	if err != nil {
		return 0, err
	}
	then, err := a.AtPast(ctx, m, now, seq)
	if err != nil {
		return 0, err
	}
	values := func(s *Set) map[string]brief.Adjustment {
		out := map[string]brief.Adjustment{}
		for _, adj := range s.Brief.Adjustments {
			if adj.Slot == slot && adj.Reaches(p) > 0 {
				out[adj.Key()] = adj
			}
		}
		return out
	}
	have, want := values(now), values(then)
	var ops []edit.Op
	for _, key := range slices.Sorted(maps.Keys(have)) {
		if _, ok := want[key]; !ok {
			ops = append(ops, edit.Op{Path: "/adjustments/@" + have[key].ID})
		}
	}
	for _, key := range slices.Sorted(maps.Keys(want)) {
		if old, ok := have[key]; !ok || string(old.Value) != string(want[key].Value) {
			adj := want[key]
			adj.ID = ""
			ops = append(ops, now.adjustOps(adj)...)
		}
	}
	ops = append(ops, now.wordsOf(then, p, slot)...)
	if len(ops) == 0 {
		return 0, fmt.Errorf("%w: it is as it was then", ErrInvalid)
	}
	c.Kind, c.Op = "brief", edit.Op{All: ops}
	return a.documents.Edit(ctx, m, id, c)
}

// wordsOf are the operations that give a slot of a placement the words it had then.
func (s *Set) wordsOf(then *Set, p spec.Placement, slot string) []edit.Op {
	if !slices.Contains(brief.CopyFields, slot) {
		return nil
	}
	card := s.Brief.Cards[min(p.Card, len(s.Brief.Cards)-1)]
	was, err := then.cardOf(card.ID)
	if err != nil {
		return nil
	}
	old, words := was.Field(slot), card.Field(slot)
	switch {
	case old == nil && words == nil || old != nil && words != nil && *old == *words:
		return nil
	case old == nil:
		return []edit.Op{{Path: cardPath(card.ID, slot)}}
	}
	return []edit.Op{{Path: cardPath(card.ID, slot), Value: raw(*old)}}
}

// describe says in words what a change of a brief did.
func (s *Set) describe(op, inverse edit.Op) (what, where string) {
	if len(op.All) > 0 {
		last := len(op.All) - 1
		inv := edit.Op{}
		if last < len(inverse.All) {
			inv = inverse.All[len(inverse.All)-1-last]
		}
		what, where = s.describe(op.All[last], inv)
		if n := last; n > 0 && strings.HasPrefix(op.All[0].Path, "/adjustments") {
			what = fmt.Sprintf("%s and %d more", what, n)
		}
		return what, where
	}
	parts := strings.Split(strings.TrimPrefix(op.Path, "/"), "/")
	switch parts[0] {
	case "adjustments":
		return s.describeByHand(op, inverse)
	case "cards":
		if len(parts) > 2 {
			return cardWords(parts[2], op.Value), ""
		}
		return "A card", ""
	case "looks", "shown":
		return "The look", ""
	case "placements":
		return "Where it goes", ""
	case "logo", "signature":
		return "The " + parts[0], ""
	}
	return strings.ToUpper(parts[0][:min(1, len(parts[0]))]) + parts[0][min(1, len(parts[0])):], ""
}

// cardWords says what a field of a card says now.
func cardWords(field string, value json.RawMessage) string {
	label := brief.PartOf(field).Label
	if label == "" {
		label = strings.ToUpper(field[:1]) + field[1:]
	}
	var words string
	if json.Unmarshal(value, &words) != nil || words == "" {
		return label
	}
	if r := []rune(words); len(r) > 40 {
		words = string(r[:39]) + "…"
	}
	return label + ": “" + words + "”"
}

// adjustmentIn is the adjustment a change of the list of them is about, empty where it cannot be told.
func (s *Set) adjustmentIn(op, inverse edit.Op) (adj brief.Adjustment) {
	for _, v := range []json.RawMessage{op.Value, inverse.Value} {
		var all []brief.Adjustment // the first one of all makes the list
		if json.Unmarshal(v, &all) == nil && len(all) > 0 {
			return all[len(all)-1]
		}
		if json.Unmarshal(v, &adj) == nil && adj.Property != "" {
			return adj
		}
	}
	id, _, _ := strings.Cut(strings.TrimPrefix(op.Path, "/adjustments/@"), "/")
	if i := slices.IndexFunc(s.Brief.Adjustments, func(a brief.Adjustment) bool { return a.ID == id }); i >= 0 {
		adj = s.Brief.Adjustments[i]
	}
	return adj
}

// LeadsAway says in words what an undo, or a redo, would do where nothing of that is seen on a
// piece, and "" where it is, or where there is nothing to do.
func (a Documents) LeadsAway(ctx context.Context, m Member, s *Set, redo bool, p spec.Placement) (string, error) {
	st, err := a.store.Next(ctx, m.Workspace, s.Doc.ID, store.Reverting{By: m, Redo: redo})
	if errors.Is(err, ErrNothing) {
		return "", nil
	}
	if err != nil {
		return "", err
	}
	ops, inverses := st.Op.All, st.Inverse.All
	if ops == nil {
		ops, inverses = []edit.Op{st.Op}, []edit.Op{st.Inverse}
	}
	for i, op := range ops {
		if !strings.HasPrefix(op.Path, "/adjustments") || len(inverses) != len(ops) {
			return "", nil
		}
		if adj := s.adjustmentIn(op, inverses[len(ops)-1-i]); adj.Property == "" || adj.Reaches(p) > 0 {
			return "", nil
		}
	}
	did := [2]edit.Op{st.Inverse, st.Op}
	if redo {
		did = [2]edit.Op{st.Op, st.Inverse}
	}
	what, where := s.describe(did[0], did[1])
	return what + ", on " + where, nil
}

// describeByHand says what was changed by hand: the adjustment is in the change, in what it
// replaced, or still in the brief.
func (s *Set) describeByHand(op, inverse edit.Op) (what, where string) {
	adj := s.adjustmentIn(op, inverse)
	p, ok := brief.PropertyOf(adj.Property)
	if !ok {
		return "By hand", ""
	}
	name := slotName(adj.Slot)
	if name == "" {
		name = adj.Slot
	}
	if strings.HasPrefix(adj.Slot, brief.AddedSlot) {
		name = "added part"
	}
	what = strings.ToUpper(name[:1]) + name[1:] + ": " + p.Label
	var added brief.Added
	if p.Name == "part" && json.Unmarshal(adj.Value, &added) == nil && added.Kind != "" {
		what = "Added: " + cmp.Or(added.Name, added.Kind)
	}
	if op.Value == nil || string(op.Value) == "null" {
		what += " back to the rule"
	}
	kind, id, _ := strings.Cut(adj.Reach, ":")
	switch kind {
	case "set":
	case "piece":
		where = id
		if pl, err := s.Channels.Parse(id); err == nil {
			where = pl.Name
		}
	case "class":
		where = id + " ones"
	default:
		where = strings.ReplaceAll(id, "-", " ")
	}
	return what, where
}
