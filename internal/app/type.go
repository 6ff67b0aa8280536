package app

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"

	"aspenridge/assets"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/typeset"
	"aspenridge/internal/store"
)

// editLevels changes levels of a type set in one step; every level is written
// out, so that one level's change does not move those that followed it.
func (a *house) editLevels(ctx context.Context, m Member, kit ID, client, set string, change func(*Kit, brand.TypeSet) error) error {
	d, op, err := a.levelsOp(ctx, m, kit, set, change)
	if err != nil {
		return err
	}
	_, err = a.documents.Edit(ctx, m, kit, Change{Kind: "kit", Client: client, Base: d.Seq, Op: op})
	return err
}

func (a *house) levelsOp(ctx context.Context, m Member, kit ID, set string, change func(*Kit, brand.TypeSet) error) (d store.Document, op edit.Op, err error) {
	k, err := a.kits.Kit(ctx, m, kit)
	if err != nil {
		return d, op, err
	}
	d, stands, err := a.kitDocument(ctx, m, kit)
	if err != nil {
		return d, op, err
	}
	from := k.TypeSet(set)
	levels := brand.TypeSet{ID: from.ID, Name: from.Name, Levels: map[brand.Level]brand.Style{}}
	for l, s := range from.Levels {
		levels.Levels[l] = s
	}
	if err := change(k, levels); err != nil {
		return d, op, err
	}
	v, _ := edit.Lookup(stands.own, brand.TypePath(from.ID))
	group, _ := v.(*edit.Object)
	if group == nil {
		group = edit.NewObject()
	}
	for _, l := range brand.Levels {
		tok := group.Object(string(l))
		_, said := edit.Lookup(stands.whole, brand.TypePath(from.ID)+"/"+string(l))
		if tok == nil && said && levels.Levels[l] == from.Levels[l] {
			continue // the parent's, and still as it is there
		}
		if tok == nil {
			tok = edit.NewObject()
			group.Set(string(l), tok)
		}
		brand.WriteStyle(tok, levels.Levels[l])
	}
	return d, edit.Op{Path: brand.TypePath(from.ID), Value: raw(group)}, nil
}

// usualWeights is what a level is set in until somebody says otherwise.
var usualWeights = map[brand.Level]int{brand.Headline: 800, brand.Subheading: 600, brand.Body: 500, brand.Caption: 500, brand.Button: 700}

// SetFamilies sets the families of the headlines and of all running text in one
// step, in the nearest weights they have; an empty one stays. Buttons go with
// the headline unless it joins its letters.
func (a Brand) SetFamilies(ctx context.Context, m Member, kit ID, client, set, head, text string) error {
	return a.editLevels(ctx, m, kit, client, set, inFamilies(head, text))
}

func inFamilies(head, text string) func(*Kit, brand.TypeSet) error {
	return func(k *Kit, t brand.TypeSet) error {
		for _, l := range brand.Levels {
			family := text
			if l == brand.Headline || (l == brand.Button && head != "" && !joins(k, head)) {
				family = head
			} else if l == brand.Button {
				family = ""
			}
			if family == "" {
				continue
			}
			s := t.Levels[l]
			s.Weight = usualWeights[l]
			if err := putFamily(k, &s, family); err != nil {
				return err
			}
			t.Levels[l] = s
		}
		return nil
	}
}

func joins(k *Kit, family string) bool {
	face, err := k.Library.Face(family, 400, false)
	return err == nil && face.Character().Structure == typeset.ScriptStructure
}

// putFamily sets a style in a family: in its nearest weight, not in capitals
// when its letters join.
func putFamily(k *Kit, s *brand.Style, family string) error {
	if !k.Library.Has(family) {
		return fmt.Errorf("%w: no font family %q", ErrInvalid, family)
	}
	s.Family, s.Weight = family, nearest(k.Library.Weights(family), s.Weight)
	s.Upper = s.Upper && !joins(k, family)
	return nil
}

func nearest(weights []int, want int) int {
	if len(weights) == 0 { // italics only
		return want
	}
	best := weights[0]
	for _, have := range weights {
		if max(have-want, want-have) < max(best-want, want-best) {
			best = have
		}
	}
	return best
}

// SetLevel changes one thing of a level. Fields: family, weight (1-1000), size
// (px at a short side of 1080 px), line (times the size, 0 for the rule),
// tracking (hundredths of an em), capitals and italic ("yes" or ""), role and
// small (the family for small sizes), both "" for none. Capitals are refused
// for a face that joins its letters.
func (a Brand) SetLevel(ctx context.Context, m Member, kit ID, client, set string, level brand.Level, field, value string) error {
	if !slices.Contains(brand.Levels, level) {
		return fmt.Errorf("%w: level %q", ErrInvalid, level)
	}
	number := func(from, to float64) (float64, error) {
		v, err := strconv.ParseFloat(strings.TrimSpace(value), 64)
		if err != nil || v < from || v > to {
			return 0, fmt.Errorf("%w: %s %q: want a number from %g to %g", ErrInvalid, field, value, from, to)
		}
		return v, nil
	}
	return a.editLevels(ctx, m, kit, client, set, func(k *Kit, t brand.TypeSet) (err error) {
		s := t.Levels[level]
		var n float64
		switch field {
		case "family":
			err = putFamily(k, &s, value)
		case "weight":
			n, err = number(1, 1000)
			s.Weight = int(n)
		case "size":
			s.SizePx, err = number(8, 400)
		case "line":
			if s.LineHeight = 0; strings.TrimSpace(value) != "" && value != "0" {
				s.LineHeight, err = number(0.7, 3)
			}
		case "tracking":
			n, err = number(-20, 50)
			s.Tracking = n / 100
		case "capitals":
			s.Upper = value == "yes"
			if s.Upper && joins(k, s.Family) {
				err = fmt.Errorf("%w: %s joins its letters; capitals set in it run into each other and cannot be read", ErrInvalid, s.Family)
			}
		case "italic":
			s.Italic = value == "yes"
		case "role":
			s.Role = brand.Role(value)
		case "small":
			s.Small = nil
			if value != "" {
				small := s
				if err = putFamily(k, &small, value); err == nil {
					s.Small = &small
				}
			}
		default:
			err = fmt.Errorf("%w: field %q", ErrInvalid, field)
		}
		t.Levels[level] = s
		return err
	})
}

// SwapLevels exchanges the faces of two levels: family, weight, style, case,
// tracking and line height. Sizes stay, so that the order of the levels does.
func (a Brand) SwapLevels(ctx context.Context, m Member, kit ID, client, set string, one, other brand.Level) error {
	return a.editLevels(ctx, m, kit, client, set, func(_ *Kit, t brand.TypeSet) error {
		x, ok := t.Levels[one]
		y, ok2 := t.Levels[other]
		if !ok || !ok2 || one == other {
			return fmt.Errorf("%w: levels %q and %q", ErrInvalid, one, other)
		}
		x.SizePx, y.SizePx = y.SizePx, x.SizePx
		x.Role, y.Role = y.Role, x.Role
		t.Levels[one], t.Levels[other] = y, x
		return nil
	})
}

// AddTypeSet adds a type set that starts as a copy of one of the kit's, and
// returns its id.
func (a Brand) AddTypeSet(ctx context.Context, m Member, kit ID, client, from, name string) (string, error) {
	k, err := a.kits.Kit(ctx, m, kit)
	if err != nil {
		return "", err
	}
	if name = strings.TrimSpace(name); name == "" {
		name = fmt.Sprintf("Type set %d", len(k.TypeSets)+1)
	}
	id := freeName(tokenName(name), func(s string) bool {
		return slices.ContainsFunc(k.TypeSets, func(t brand.TypeSet) bool { return t.ID == s })
	})
	group := brand.TypeSetGroup(k.TypeSet(from), name)
	_, err = a.documents.Edit(ctx, m, kit, Change{Client: client, Base: k.Seq, Op: edit.Op{Path: brand.TypePath(id), Value: raw(group)}})
	return id, err
}

// Pairings proposes families that go together, the kit's own first.
func (a Brand) Pairings(ctx context.Context, m Member, kit ID, n int) ([]brand.Pair, error) {
	k, err := a.kits.Kit(ctx, m, kit)
	if err != nil {
		return nil, err
	}
	list := shippedCandidates()
	seen := map[string]bool{}
	for _, f := range k.Fonts {
		if f.Family == "" || seen[f.Family] {
			continue
		}
		seen[f.Family] = true
		c, err := candidate(k.Library, f.Family)
		if err != nil {
			continue // a face that cannot be measured is not proposed
		}
		c.Own = true
		list = append(slices.DeleteFunc(slices.Clone(list), func(o brand.Candidate) bool { return o.Family == f.Family }), c)
	}
	return brand.Pairings(list, n), nil
}

func candidate(lib *typeset.Library, family string) (brand.Candidate, error) {
	c := brand.Candidate{Family: family}
	heavy, err := lib.Face(family, usualWeights[brand.Headline], false)
	if err != nil {
		return c, err
	}
	text, err := lib.Face(family, 400, false)
	if err != nil {
		return c, err
	}
	c.Heavy, c.Text = heavy.Character(), text.Character()
	return c, nil
}

// shippedCandidates measures the shipped families once.
var shippedCandidates = sync.OnceValue(func() []brand.Candidate {
	var out []brand.Candidate
	for _, f := range assets.Families() {
		if f.Kind == "fallback" {
			continue
		}
		c, err := candidate(assets.Library(), f.Family)
		if err != nil {
			panic(err) // embedded, and read by a test
		}
		out = append(out, c)
	}
	return out
})
