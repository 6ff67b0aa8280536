package app

import (
	"context"
	"slices"

	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/roles"
)

// Where a new brief goes: by what was done before.

// DefaultPlacements is where the first brief of a kit goes until somebody says otherwise.
var DefaultPlacements = []string{
	"feed-square", "feed-tall", "board-tall", "feed-wide", "story", "video-thumbnail",
	"shop-banner", "email-header", "ad-300x250", "ad-728x90", "ad-160x600", "profile-picture",
}

// LastPlaces are where the brief of a kit went that was worked on last.
func (a Briefs) LastPlaces(ctx context.Context, m Member, kit ID) ([]string, error) {
	if err := a.mayOn(ctx, m, roles.WriteBriefs, kit); err != nil {
		return nil, err
	}
	list, err := a.lastPlaces(ctx, m, kit)
	var out []string
	for _, p := range list {
		if id, ok := p.(string); ok {
			out = append(out, id)
		}
	}
	return out, err
}

// lastPlaces are where the brief of a kit went that was worked on last; [DefaultPlacements]
// before there is one.
func (a *house) lastPlaces(ctx context.Context, m Member, kit ID) ([]any, error) {
	last, err := a.store.BriefsOf(ctx, m.Workspace, kit, 1)
	if err != nil {
		return nil, err
	}
	for _, d := range last {
		doc, err := edit.ParseObject(d.Doc)
		if err != nil || !sees(m, d.ID, kit) {
			continue
		}
		if list, ok := doc.Get("placements").([]any); ok && len(list) > 0 {
			return list, nil
		}
	}
	list := make([]any, len(DefaultPlacements))
	for i, p := range DefaultPlacements {
		list[i] = p
	}
	return list, nil
}

// latestOfKit is how many briefs of a kit are looked through for the last of a purpose.
const latestOfKit = 60

// UsualPlaces are where the kit's brief for a purpose went that was worked on last, other than the
// set's own; nil where there is none, and where the set goes there already.
func (a Briefs) UsualPlaces(ctx context.Context, m Member, s *Set, purpose string) ([]string, error) {
	docs, err := a.store.BriefsOf(ctx, m.Workspace, s.Kit.ID, latestOfKit)
	if err != nil {
		return nil, err
	}
	for _, d := range docs {
		doc, err := edit.ParseObject(d.Doc)
		if err != nil || d.ID == s.Doc.ID || !sees(m, d.ID, s.Kit.ID) {
			continue
		}
		b, err := parseBrief(doc)
		if err != nil || b.Purpose != purpose || len(b.Placements) == 0 {
			continue
		}
		if slices.Equal(slices.Sorted(slices.Values(b.Placements)), slices.Sorted(slices.Values(s.Brief.Placements))) {
			return nil, nil
		}
		return b.Placements, nil
	}
	return nil, nil
}
