package app

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/store"
)

// Past is a change of a brief as people read it.
type Past struct {
	Seq    int64
	At     time.Time
	By     string
	What   string // "Headline: place"
	Where  string // "this piece", "tall ones"; empty for the whole set
	Undone bool   // it was taken back and can be put back
}

// mostPast is how many changes a list of them shows.
const mostPast = 200

// Past lists what was done to a set, the latest first: what can be put back, then what can
// be taken back.
func (a Documents) Past(ctx context.Context, m Member, s *Set) ([]Past, error) {
	list, err := a.store.Past(ctx, m.Workspace, s.Doc.ID, mostPast)
	out := make([]Past, len(list))
	for i, p := range list {
		out[i] = Past{Seq: p.Seq, At: p.At, By: p.By, Undone: p.Undone}
		out[i].What, out[i].Where = s.told(p.Op, p.Inverse)
	}
	return out, err
}

// GoTo takes back, or puts back, changes one after the other until the one named is the
// last that is done; 0 takes all back. Everything can be put back again.
func (a Documents) GoTo(ctx context.Context, m Member, id ID, client string, seq int64) error {
	if err := may(m, change); err != nil {
		return err
	}
	list, err := a.store.Past(ctx, m.Workspace, id, mostPast)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(list, func(p store.Past) bool { return p.Seq == seq })
	now := slices.IndexFunc(list, func(p store.Past) bool { return !p.Undone }) // the last that is done
	if now < 0 {
		now = len(list)
	}
	switch {
	case seq == 0:
		at = len(list)
	case at < 0:
		return fmt.Errorf("%w: that change is not among the last %d", ErrInvalid, mostPast)
	}
	for range max(at-now, now-at) {
		if _, _, err := a.Undo(ctx, m, id, client, at < now); err != nil {
			return err
		}
	}
	return nil
}

// told says in words what a change of a brief did.
func (s *Set) told(op, inverse edit.Op) (what, where string) {
	if len(op.All) > 0 {
		last := len(op.All) - 1
		inv := edit.Op{}
		if last < len(inverse.All) {
			inv = inverse.All[len(inverse.All)-1-last]
		}
		what, where = s.told(op.All[last], inv)
		if n := last; n > 0 && strings.HasPrefix(op.All[0].Path, "/adjustments") {
			what = fmt.Sprintf("%s and %d more", what, n)
		}
		return what, where
	}
	parts := strings.Split(strings.TrimPrefix(op.Path, "/"), "/")
	switch parts[0] {
	case "adjustments":
		return s.toldByHand(op, inverse)
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

// toldByHand says what was changed by hand: the adjustment is in the change, in what it
// replaced, or still in the brief.
func (s *Set) toldByHand(op, inverse edit.Op) (what, where string) {
	var adj brief.Adjustment
	for _, v := range []json.RawMessage{op.Value, inverse.Value} {
		var all []brief.Adjustment // the first one of all makes the list
		if json.Unmarshal(v, &all) == nil && len(all) > 0 {
			adj = all[len(all)-1]
			break
		}
		if json.Unmarshal(v, &adj) == nil && adj.Property != "" {
			break
		}
	}
	if adj.Property == "" {
		id, _, _ := strings.Cut(strings.TrimPrefix(op.Path, "/adjustments/@"), "/")
		if i := slices.IndexFunc(s.Brief.Adjustments, func(a brief.Adjustment) bool { return a.ID == id }); i >= 0 {
			adj = s.Brief.Adjustments[i]
		}
	}
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
