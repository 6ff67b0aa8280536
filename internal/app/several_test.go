package app_test

import (
	"archive/zip"
	"bytes"
	"errors"
	"io"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/piece"
)

// Twelve briefs of a list get looks of which no two beside one another share layout and ground, nor
// does the first with the last brief of the kit; a step back is where the step began.
func TestBriefsOnAWall(t *testing.T) {
	a, m, kit, _ := open(t)
	ctx := t.Context()
	last, err := a.Briefs.ImportBrief(ctx, m, kit, []byte(`{"formatVersion":1,"cards":[{"headline":"What stood there last"}],"placements":["feed-square"]}`))
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Sets.LookOnWall(ctx, m, "tab", []app.ID{last}, last, 0); err != nil {
		t.Fatal(err)
	}
	rows, err := brief.ReadRows(strings.Repeat("Calm water every day\nBring a friend on Friday. Two boards for one.\n", 6))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Briefs.Begin(ctx, m, kit, []string{"no-such-place"}, rows); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("a place that is not there: %v", err)
	}
	if _, err := a.Briefs.Begin(ctx, m, kit, nil, rows); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("no place: %v", err)
	}
	const change = "one-list-of-twelve"
	wall, err := a.Briefs.Begin(ctx, m.Sending(change), kit, []string{"feed-square", "story"}, rows)
	if err != nil {
		t.Fatal(err)
	}
	if twice, err := a.Briefs.Begin(ctx, m.Sending(change), kit, []string{"feed-square", "story"}, rows); err != nil || !slices.Equal(twice, wall) {
		t.Errorf("sent twice they are %v, %v; want %v", twice, err, wall)
	}
	for _, id := range wall {
		if err := a.Sets.LookOnWall(ctx, m, "tab", wall, id, 0); err != nil {
			t.Fatal(err)
		}
	}
	sights := func(ids ...app.ID) (out []piece.Sight) {
		for _, id := range ids {
			s := setOf(t, a, m, id)
			view, _ := s.Seen()
			out = append(out, s.Piece(s.CurrentLook(), view).Sight())
		}
		return out
	}
	seen := sights(append([]app.ID{last}, wall...)...)
	for i := 1; i < len(seen); i++ {
		if seen[i].Layout == seen[i-1].Layout || seen[i].Ground == seen[i-1].Ground {
			t.Errorf("%d and the one before it look alike: %+v, %+v", i, seen[i], seen[i-1])
		}
	}
	if s := setOf(t, a, m, wall[0]); len(s.Brief.Placements) != 2 || s.Brief.Purpose != "announce" {
		t.Errorf("the first: %v for %s", s.Brief.Placements, s.Brief.Purpose)
	}
	for _, by := range []int{1, -1} {
		if err := a.Sets.LookOnWall(ctx, m, "tab", wall, wall[4], by); err != nil {
			t.Fatal(err)
		}
		if same := sights(wall[4])[0] == seen[5]; same != (by < 0) {
			t.Errorf("a step by %d: %+v, at first %+v", by, sights(wall[4])[0], seen[5])
		}
	}
}

// Several briefs come as one archive, a folder for each.
func TestSeveralBriefsInOneArchive(t *testing.T) {
	a, m, kit, _ := open(t)
	ctx := t.Context()
	rows := []brief.Row{{Headline: "Twice", Purpose: "announce"}, {Headline: "Twice", Purpose: "announce"}, {Headline: "Once", Purpose: "announce"}}
	ids, err := a.Briefs.Begin(ctx, m, kit, []string{"feed-square"}, rows)
	if err != nil {
		t.Fatal(err)
	}
	sets, err := a.Sets.Together(ctx, m, ids)
	if err != nil {
		t.Fatal(err)
	}
	job, err := a.Files.Bundle(ctx, m, sets, app.HandOver{})
	if err != nil {
		t.Fatal(err)
	}
	works(t, a)
	if j := isOver(t, a, m, job); j.State != "done" {
		t.Fatalf("%+v", j)
	}
	_, r, err := a.Files.Parcel(ctx, m, job)
	if err != nil {
		t.Fatal(err)
	}
	data, err := io.ReadAll(r)
	if err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	var folders []string
	for _, f := range z.File {
		if dir, _, ok := strings.Cut(f.Name, "/"); ok {
			folders = append(folders, dir)
		}
	}
	if len(z.File) != 4 || len(slices.Compact(slices.Sorted(slices.Values(folders)))) != 3 {
		t.Errorf("in folders %v", folders)
	}
	if _, err := a.Files.Bundle(ctx, m, nil, app.HandOver{}); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("none: %v", err)
	}
	if _, err := a.Files.Bundle(ctx, m, sets, app.HandOver{Format: "docx"}); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("another format: %v", err)
	}
}
