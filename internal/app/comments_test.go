package app_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"aspenridge/internal/app"
)

// TestCommentsAreBounded: in length, by link and hour, in what a page carries; who made one, and
// an owner, deletes it, and the record keeps that; a link can be closed to them.
func TestCommentsAreBounded(t *testing.T) {
	t.Parallel()
	a, m, _, id := open(t)
	ctx, now := t.Context(), time.Now()
	a.SetClock(func() time.Time { return now })
	token, err := a.Proofs.Link(ctx, m, id, app.WishedLink{For: "Anna"})
	if err != nil {
		t.Fatal(err)
	}
	g, err := a.Proofs.Guest(ctx, token)
	if err != nil {
		t.Fatal(err)
	}
	room := func(threads int) *app.Room {
		t.Helper()
		r, err := a.Proofs.Room(ctx, m, id, threads)
		if err != nil {
			t.Fatal(err)
		}
		return r
	}
	key := room(0).Pieces[0].Key
	say := func(p app.Member, by app.By, words string) (app.ID, error) {
		c := uuid.New()
		return c, a.Proofs.Say(ctx, p, by, id, app.Remark{ID: c, Piece: key, Words: words})
	}
	for n, want := range map[int]error{2000: nil, 2001: app.ErrInvalid} {
		if _, err := say(g.Member, g.Who("Anna"), strings.Repeat("🛶", n)); !errors.Is(err, want) {
			t.Errorf("%d letters: %v", n, err)
		}
	}
	taken := 1
	for i := range 220 {
		_, err := say(g.Member, g.Who(fmt.Sprint("Anna ", i%7)), fmt.Sprint("Words ", i))
		if err == nil {
			taken++
		} else if !errors.Is(err, app.ErrInvalid) {
			t.Fatal(err)
		}
	}
	if taken != 200 {
		t.Errorf("%d comments by a link within an hour", taken)
	}
	mine, err := say(m, a.Proofs.Who(m), "Of the team")
	if err != nil {
		t.Errorf("who has an account is held by a link's limit: %v", err)
	}
	now = now.Add(61 * time.Minute)
	theirs, err := say(g.Member, g.Who("Anna"), "An hour later")
	if err != nil {
		t.Errorf("an hour later: %v", err)
	}
	// pages
	for asked, want := range map[int]int{0: 50, 100: 100, 5000: 202} {
		r := room(asked)
		if len(r.Comments) != want || r.Earlier != (want < 202) || r.Pieces[0].Open != 202 {
			t.Errorf("asked for %d: %d threads, earlier %v, %d open", asked, len(r.Comments), r.Earlier, r.Pieces[0].Open)
		}
		if last := r.Comments[len(r.Comments)-1]; last.ID != theirs {
			t.Errorf("the last is %q", last.Words)
		}
	}
	// deleting
	otto := colleague(t, a, m, "otto@two.example", "editor")
	for what, c := range map[string]struct {
		p     app.Member
		by    app.By
		which app.ID
		want  error
	}{
		"somebody else's":             {otto, a.Proofs.Who(otto), mine, app.ErrNotFound},
		"a guest the team's":          {g.Member, g.Who(m.Name), mine, app.ErrNotFound},
		"a guest under another name":  {g.Member, g.Who("Berta"), theirs, app.ErrNotFound},
		"one's own":                   {m, a.Proofs.Who(m), mine, nil},
		"a guest their own":           {g.Member, g.Who("anna"), theirs, nil},
		"a guest their own once more": {g.Member, g.Who("anna"), uuid.New(), app.ErrNotFound},
	} {
		if err := a.Proofs.Unsay(ctx, c.p, c.by, id, c.which); !errors.Is(err, c.want) {
			t.Errorf("%s: %v", what, err)
		}
	}
	any := room(0).Comments[0]
	if err := a.Proofs.Unsay(ctx, m, a.Proofs.Who(m), id, any.ID); err != nil {
		t.Errorf("an owner: %v", err)
	}
	if n := room(1000).Pieces[0].Open; n != 199 {
		t.Errorf("%d are left", n)
	}
	entries, err := a.Team.Record(ctx, m, app.RecordQuery{})
	if err != nil {
		t.Fatal(err)
	}
	var told int
	for _, e := range entries {
		if strings.Contains(fmt.Sprintf("%+v", e), "deleted a comment") {
			told++
		}
	}
	if told != 3 {
		t.Errorf("the record says of %d that they were deleted", told)
	}
	// closed
	if err := a.Proofs.Close(ctx, m, id, g.Link.ID, true); err != nil {
		t.Fatal(err)
	}
	if g, err = a.Proofs.Guest(ctx, token); err != nil {
		t.Fatal(err)
	}
	if _, err := say(g.Member, g.Who("Anna"), "Once more"); !errors.Is(err, app.ErrNotAllowed) {
		t.Errorf("by a closed link: %v", err)
	}
	if _, err := a.Proofs.Room(ctx, g.Member, id, 0); err != nil {
		t.Errorf("a closed link shows nothing: %v", err)
	}
}
