package app_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"image"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	_ "golang.org/x/image/webp"

	"aspenridge/internal/account"
	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
)

// TestAProof: somebody without an account approves and says where something is wrong; the
// comment moves with the part it is about; a piece that changes after it was approved loses it
// and says why; what is decided stays.
func TestAProof(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	token, err := a.Proofs.Link(ctx, m, id, app.WishedLink{For: "Anna", Days: 7})
	if err != nil || len(token) < 22 { // 128 bits in base 32 and more
		t.Fatal(token, err)
	}
	g, err := a.Proofs.Guest(ctx, token)
	if err != nil || g.Link.Brief != id || g.Role != "commenter" {
		t.Fatalf("%+v, %v", g, err)
	}
	room := func() *app.Room {
		t.Helper()
		r, err := a.Proofs.Room(ctx, g.Member, id, 0)
		if err != nil {
			t.Fatal(err)
		}
		return r
	}
	r := room()
	key, anna := r.Pieces[0].Key, g.Who("Anna\u202e Quist\x07")
	var headline [2]float64
	for _, p := range r.Pieces[0].Piece.Scene.Parts {
		if p.Slot == "headline" {
			headline = [2]float64{(p.Box.X + 0.2*p.Box.W) / float64(r.Pieces[0].Piece.Scene.W), (p.Box.Y + 0.5*p.Box.H) / float64(r.Pieces[0].Piece.Scene.H)}
		}
	}
	thread := uuid.New()
	said := app.Remark{ID: thread, Piece: key, Spot: true, X: headline[0], Y: headline[1], Words: "Is it \u202eloud?\n<script>alert(1)</script> 🛶"}
	for range 2 { // it arrives twice
		if err := a.Proofs.Say(ctx, g.Member, anna, id, said); err != nil {
			t.Fatal(err)
		}
	}
	if err := a.Proofs.Say(ctx, m, a.Proofs.Who(m), id, app.Remark{Piece: key, About: &thread, Words: "Quiet, I think."}); err != nil {
		t.Fatal(err)
	}
	if err := a.Proofs.Decide(ctx, g.Member, anna, id, app.Approved, nil); err != nil {
		t.Fatal(err)
	}
	r = room()
	if c := r.Comments; len(c) != 2 || c[0].Part != "headline" || c[0].By.Name != "Anna Quist" || c[0].Words != "Is it loud?\n<script>alert(1)</script> 🛶" || *c[1].About != thread || c[1].By.Name != "Nell" {
		t.Errorf("%+v", c)
	}
	if w := r.Waiting(); w.Approved != len(r.Pieces) || w.Open != 1 {
		t.Errorf("%+v of %d pieces", w, len(r.Pieces))
	}
	if at, ok := app.SpotOf(r.Pieces[0].Piece, r.Comments[0]); !ok || abs(at[0]-headline[0]) > at[2]/2+0.001 || abs(at[1]-headline[1]) > at[3]/2+0.001 {
		t.Errorf("the spot is at %v, %v, want %v", at[0], at[1], headline)
	}

	// the headline changes
	if _, err := a.Briefs.EditBrief(ctx, m, id, app.Change{Base: app.Latest, Op: edit.Op{Path: "/cards/@" + r.Set.Brief.Cards[0].ID + "/headline", Value: json.RawMessage(`"Still water"`)}}); err != nil {
		t.Fatal(err)
	}
	r = room()
	p := r.Pieces[0]
	if p.State != app.Changed || len(p.Why) == 0 || !strings.Contains(strings.Join(p.Why, " "), "Still water") || !strings.Contains(p.Why[0], "headline") {
		t.Errorf("it stands as %q because of %q", p.State, p.Why)
	}
	shot, err := a.Proofs.Then(ctx, g.Member, id, p.Last[0].Shot)
	if err != nil {
		t.Fatal(err)
	}
	now, err := a.Proofs.Picture(ctx, g.Member, id, key, true)
	if err != nil || bytes.Equal(now, shot) {
		t.Errorf("it looks as it did when it was approved (%v)", err)
	}
	for _, data := range [][]byte{shot, now} {
		if cfg, kind, err := image.DecodeConfig(bytes.NewReader(data)); err != nil || kind != "webp" || cfg.Width != 1080 {
			t.Errorf("%s of %d px, %v", kind, cfg.Width, err)
		}
	}
	// who saw it as it was before decides nothing
	if err := a.Proofs.Decide(ctx, g.Member, anna, id, app.Approved, map[string]string{key: p.Last[0].Hash}); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("a drawing that is not there any more is approved: %v", err)
	}
	// changes asked for outweigh what another one approves
	if err := a.Proofs.Decide(ctx, g.Member, anna, id, app.Changes, map[string]string{key: ""}); err != nil {
		t.Fatal(err)
	}
	if err := a.Proofs.Decide(ctx, m, a.Proofs.Who(m), id, app.Approved, map[string]string{key: ""}); err != nil {
		t.Fatal(err)
	}
	if p := room().Pieces[0]; p.State != app.Changes || len(p.Last) != 2 {
		t.Errorf("%s by %d people", p.State, len(p.Last))
	}
	if err := a.Proofs.Decide(ctx, g.Member, g.Who("anna quist"), id, app.Approved, map[string]string{key: ""}); err != nil {
		t.Fatal(err)
	}
	if p := room().Pieces[0]; p.State != app.Approved {
		t.Errorf("it is %q when she changed her mind", p.State)
	}
	for _, done := range []bool{true, false, true} {
		if err := a.Proofs.Settle(ctx, g.Member, anna, id, thread, done); err != nil {
			t.Fatal(err)
		}
	}
	if r := room(); r.Waiting().Open != 0 || !strings.HasSuffix(r.Comments[0].Resolver, "Anna Quist") {
		t.Errorf("%d open, resolved by %q", r.Waiting().Open, r.Comments[0].Resolver)
	}

	// it ends
	links, err := a.Proofs.Links(ctx, m, id)
	if err != nil || len(links) != 1 || links[0].Seen == nil {
		t.Fatalf("%+v, %v", links, err)
	}
	if err := a.Proofs.End(ctx, m, id, links[0].ID); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Proofs.Guest(ctx, token); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("a link that was ended: %v", err)
	}
	if r := room(); len(r.Comments) != 2 || r.Pieces[0].State != app.Approved {
		t.Error("what was said went with the link")
	}
}

// TestWhoMayProof: nobody reaches another brief or another workspace by a link, viewers say
// nothing, and what cannot be is refused in words.
func TestWhoMayProof(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	r, err := a.Proofs.Room(ctx, m, id, 0)
	if err != nil {
		t.Fatal(err)
	}
	key := r.Pieces[0].Key
	stranger, err := a.People.SignUp(ctx, "Other", "other@two.example", "ten or more letters")
	if err != nil {
		t.Fatal(err)
	}
	viewer := m
	viewer.Role = "viewer"
	by := a.Proofs.Who(m)
	for name, c := range map[string]struct {
		do   func() error
		want error
	}{
		"a stranger looks":       {func() error { _, err := a.Proofs.Room(ctx, stranger, id, 0); return err }, app.ErrNotFound},
		"a stranger makes links": {func() error { _, err := a.Proofs.Link(ctx, stranger, id, app.WishedLink{For: "me"}); return err }, app.ErrNotFound},
		"a stranger comments":    {func() error { return a.Proofs.Say(ctx, stranger, by, id, app.Remark{Piece: key, Words: "x"}) }, app.ErrNotFound},
		"a stranger resolves":    {func() error { return a.Proofs.Settle(ctx, stranger, by, id, uuid.New(), true) }, app.ErrNotFound},
		"a viewer comments":      {func() error { return a.Proofs.Say(ctx, viewer, by, id, app.Remark{Piece: key, Words: "x"}) }, app.ErrNotAllowed},
		"a viewer approves":      {func() error { return a.Proofs.Decide(ctx, viewer, by, id, app.Approved, nil) }, app.ErrNotAllowed},
		"a viewer makes links":   {func() error { _, err := a.Proofs.Link(ctx, viewer, id, app.WishedLink{For: "x"}); return err }, app.ErrNotAllowed},
		"nothing is said":        {func() error { return a.Proofs.Say(ctx, m, by, id, app.Remark{Piece: key, Words: " \n\u202e "}) }, app.ErrInvalid},
		"too much is said": {func() error {
			return a.Proofs.Say(ctx, m, by, id, app.Remark{Piece: key, Words: strings.Repeat("é", 100_000)})
		}, app.ErrInvalid},
		"of no piece": {func() error { return a.Proofs.Say(ctx, m, by, id, app.Remark{Piece: "nowhere", Words: "x"}) }, app.ErrInvalid},
		"beside the piece": {func() error {
			return a.Proofs.Say(ctx, m, by, id, app.Remark{Piece: key, Spot: true, X: 2, Words: "x"})
		}, app.ErrInvalid},
		"without a name": {func() error { return a.Proofs.Say(ctx, m, app.By{Name: " "}, id, app.Remark{Piece: key, Words: "x"}) }, app.ErrInvalid},
		"to no thread": {func() error {
			no := uuid.New()
			return a.Proofs.Say(ctx, m, by, id, app.Remark{Piece: key, About: &no, Words: "x"})
		}, app.ErrNotFound},
		"a verdict nobody knows": {func() error { return a.Proofs.Decide(ctx, m, by, id, "fine", nil) }, app.ErrInvalid},
		"of a piece that is out": {func() error { return a.Proofs.Decide(ctx, m, by, id, app.Approved, map[string]string{"nowhere": ""}) }, app.ErrInvalid},
		"a link for nobody":      {func() error { _, err := a.Proofs.Link(ctx, m, id, app.WishedLink{}); return err }, app.ErrInvalid},
		"a link for ever":        {func() error { _, err := a.Proofs.Link(ctx, m, id, app.WishedLink{For: "x", Days: 4000}); return err }, app.ErrInvalid},
		"a password of a letter": {func() error { _, err := a.Proofs.Link(ctx, m, id, app.WishedLink{For: "x", Password: "a"}); return err }, app.ErrInvalid},
	} {
		if err := c.do(); !errors.Is(err, c.want) {
			t.Errorf("%s: %v, want %v", name, err, c.want)
		}
	}
	// by a link to one brief another one is not seen
	token, err := a.Proofs.Link(ctx, m, id, app.WishedLink{For: "Anna", Password: "otter pond"})
	if err != nil {
		t.Fatal(err)
	}
	g, err := a.Proofs.Guest(ctx, token)
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Proofs.Unlock(ctx, g, "otter lake"); !errors.Is(err, account.ErrSignIn) {
		t.Errorf("another password: %v", err)
	}
	if err := a.Proofs.Unlock(ctx, g, "otter pond"); err != nil {
		t.Errorf("its password: %v", err)
	}
	if slices.Contains([]string{"editor", "owner"}, g.Role) || g.ID != (app.ID{}) {
		t.Errorf("a guest is %+v", g.Member)
	}
}

// TestLinksEndByThemselves: after its days a link is not there any more.
func TestLinksEndByThemselves(t *testing.T) {
	now := time.Now()
	a, m := newcomerAt(t, func() time.Time { return now })
	kit, err := a.Kits.NewKit(t.Context(), m, "Otter")
	if err != nil {
		t.Fatal(err)
	}
	id, err := a.Briefs.NewBrief(t.Context(), m, kit)
	if err != nil {
		t.Fatal(err)
	}
	token, err := a.Proofs.Link(t.Context(), m, id, app.WishedLink{For: "Anna", Days: 7})
	if err != nil {
		t.Fatal(err)
	}
	now = now.AddDate(0, 0, 6)
	if _, err := a.Proofs.Guest(t.Context(), token); err != nil {
		t.Errorf("after six days: %v", err)
	}
	now = now.AddDate(0, 0, 2)
	if _, err := a.Proofs.Guest(t.Context(), token); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("after eight days: %v", err)
	}
	if links, err := a.Proofs.Links(t.Context(), m, id); err != nil || len(links) != 0 {
		t.Errorf("%d links are listed, %v", len(links), err)
	}
}

func abs(v float64) float64 { return max(v, -v) }

// TestWhatWasSaidIsOnTheDesk: the last thing said of each brief, until it is done with or the
// brief is put away.
func TestWhatWasSaidIsOnTheDesk(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	r, err := a.Proofs.Room(ctx, m, id, 0)
	if err != nil {
		t.Fatal(err)
	}
	threads := []uuid.UUID{uuid.New(), uuid.New()}
	for i, words := range []string{"First", "Second"} {
		if err := a.Proofs.Say(ctx, m, a.Proofs.Who(m), id, app.Remark{ID: threads[i], Piece: r.Pieces[i].Key, Words: words}); err != nil {
			t.Fatal(err)
		}
	}
	said := func() []app.Discussed {
		t.Helper()
		out, err := a.Team.Today(ctx, m)
		if err != nil {
			t.Fatal(err)
		}
		return out.Said
	}
	if got := said(); len(got) != 1 || got[0].Words != "Second" || got[0].Open != 2 || got[0].Brief != id || got[0].Piece != r.Pieces[1].Key {
		t.Errorf("%+v", got)
	}
	if err := a.Proofs.Settle(ctx, m, a.Proofs.Who(m), id, threads[1], true); err != nil {
		t.Fatal(err)
	}
	if got := said(); len(got) != 1 || got[0].Words != "First" || got[0].Open != 1 {
		t.Errorf("%+v", got)
	}
	if err := a.Documents.Archive(ctx, m, id, true); err != nil {
		t.Fatal(err)
	}
	if got := said(); len(got) != 0 {
		t.Errorf("of a brief that is put away: %+v", got)
	}
}

// TestWordsThatAreSuggested: other words for a part are taken by who may change the set, once,
// as a change that can be taken back; where there are no words none can be suggested.
func TestWordsThatAreSuggested(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	r, err := a.Proofs.Room(ctx, m, id, 0)
	if err != nil {
		t.Fatal(err)
	}
	first := r.Pieces[0]
	at := func(slot string) (x, y float64) {
		for _, p := range first.Piece.Scene.Parts {
			if p.Slot == slot {
				return (p.Box.X + p.Box.W/2) / float64(first.Piece.Scene.W), (p.Box.Y + p.Box.H/2) / float64(first.Piece.Scene.H)
			}
		}
		t.Fatalf("there is no %s", slot)
		return 0, 0
	}
	suggest := func(slot, words string) (uuid.UUID, error) {
		thread := uuid.New()
		x, y := at(slot)
		return thread, a.Proofs.Say(ctx, m, app.By{Name: "Anna"}, id, app.Remark{ID: thread, Piece: first.Key, Spot: true, X: x, Y: y, Suggests: words})
	}
	thread, err := suggest("headline", "Still\u202e water")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := suggest("logo", "Larkmoor"); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("other words for a logo: %v", err)
	}
	if _, err := suggest("headline", strings.Repeat("x", 3000)); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("too many words: %v", err)
	}
	commenter := m
	commenter.Role = "commenter"
	if err := a.Proofs.Take(ctx, commenter, id, thread, "c"); !errors.Is(err, app.ErrNotAllowed) {
		t.Errorf("a commenter takes them: %v", err)
	}
	for range 2 {
		if err := a.Proofs.Take(ctx, m, id, thread, "c"); err != nil {
			t.Fatal(err)
		}
	}
	if got := shown(t, a, m, id, "feed-square", "headline"); got != "Still water" {
		t.Errorf("the headline is %q", got)
	}
	if r, err = a.Proofs.Room(ctx, m, id, 0); err != nil || r.Comments[0].Taken == nil || r.Comments[0].Resolver != "Nell" {
		t.Errorf("%+v, %v", r.Comments, err)
	}
	if _, _, err := a.Documents.Undo(ctx, m, id, "c", false); err != nil {
		t.Fatal(err)
	}
	if got := shown(t, a, m, id, "feed-square", "headline"); got == "Still water" {
		t.Error("it cannot be taken back")
	}
	if err := a.Proofs.Take(ctx, m, id, uuid.New(), "c"); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("what nobody said: %v", err)
	}
}

// TestAnArea: what a comment is about has a width and height of the part it is on, and goes with
// that; one that leads out of the piece is refused.
func TestAnArea(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	r, err := a.Proofs.Room(ctx, m, id, 0)
	if err != nil {
		t.Fatal(err)
	}
	pc := r.Pieces[0].Piece
	var box [4]float64 // of the headline, 0-1 of the piece
	for _, p := range pc.Scene.Parts {
		if p.Slot == "headline" {
			w, h := float64(pc.Scene.W), float64(pc.Scene.H)
			box = [4]float64{(p.Box.X + p.Box.W/2) / w, (p.Box.Y + p.Box.H/2) / h, p.Box.W / w, p.Box.H / h}
		}
	}
	say := func(x, y, w, h float64) error {
		return a.Proofs.Say(ctx, m, a.Proofs.Who(m), id, app.Remark{Piece: r.Pieces[0].Key, Words: "Here", Spot: true, X: x, Y: y, W: w, H: h})
	}
	if err := say(box[0], box[1], box[2]/2, box[3]/2); err != nil {
		t.Fatal(err)
	}
	for _, bad := range [][4]float64{{0.5, 0.5, 2, 0.1}, {0.5, 0.5, -0.1, 0.1}, {1.5, 0.5, 0.1, 0.1}} {
		if err := say(bad[0], bad[1], bad[2], bad[3]); !errors.Is(err, app.ErrInvalid) {
			t.Errorf("%v: %v", bad, err)
		}
	}
	if r, err = a.Proofs.Room(ctx, m, id, 0); err != nil || len(r.Comments) != 1 {
		t.Fatal(err)
	}
	near := func(at, want [4]float64) bool {
		for i := range at {
			if abs(at[i]-want[i]) > 0.001 {
				return false
			}
		}
		return true
	}
	if at, ok := app.SpotOf(pc, r.Comments[0]); !ok || !near(at, [4]float64{box[0], box[1], box[2] / 2, box[3] / 2}) {
		t.Errorf("it lies at %v, the headline at %v", at, box)
	}
	moved := *pc
	scene := *pc.Scene
	scene.Parts = nil
	for _, p := range pc.Scene.Parts {
		if p.Slot == "headline" {
			p.Box.Y += 300
			p.Box.W, p.Box.H = p.Box.W/2, p.Box.H/2
		}
		scene.Parts = append(scene.Parts, p)
	}
	moved.Scene = &scene
	if at, ok := app.SpotOf(&moved, r.Comments[0]); !ok || abs(at[2]-box[2]/4) > 0.001 || abs(at[3]-box[3]/4) > 0.001 || abs(at[1]-box[1]) < 0.01 {
		t.Errorf("with its part it goes to %v", at)
	}
}

// TestAWord: a comment pressed onto a word is about that word: it is found where that is said
// after others come before it, and falls back to its part where it is said no more.
func TestAWord(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	headline := func(s string) *app.Room {
		t.Helper()
		data, err := json.Marshal(s)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := a.Documents.Edit(ctx, m, id, app.Change{Base: app.Latest, Op: edit.Op{Path: "/cards/0/headline", Value: data}}); err != nil {
			t.Fatal(err)
		}
		r, err := a.Proofs.Room(ctx, m, id, 0)
		if err != nil {
			t.Fatal(err)
		}
		return r
	}
	r := headline("Quiet water, quiet mind")
	key := r.Pieces[0].Key
	// the second line or the second "quiet": the last word's left neighbour, found by its letters
	var spot [2]float64
	for _, p := range r.Pieces[0].Piece.Scene.Parts {
		if p.Slot != "headline" {
			continue
		}
		for _, l := range p.Lines {
			runes := []rune(strings.ToLower(l.Line.Text))
			at := strings.LastIndex(string(runes), "quiet")
			if at < 0 {
				continue
			}
			from := len([]rune(string(runes)[:at]))
			for _, c := range l.Line.Clusters {
				if c.Rune == from+1 { // its second letter; the last line wins
					spot = [2]float64{(l.X + (c.X+c.Advance/2)*p.Size(l)) / float64(r.Pieces[0].Piece.Scene.W), (l.Y - 0.3*p.Size(l)) / float64(r.Pieces[0].Piece.Scene.H)}
				}
			}
		}
	}
	if err := a.Proofs.Say(ctx, m, a.Proofs.Who(m), id, app.Remark{Piece: key, Words: "Twice?", Spot: true, X: spot[0], Y: spot[1]}); err != nil {
		t.Fatal(err)
	}
	room := func() (*app.Room, [4]float64, bool) {
		t.Helper()
		r, err := a.Proofs.Room(ctx, m, id, 0)
		if err != nil || len(r.Comments) != 1 {
			t.Fatal(err)
		}
		at, ok := app.SpotOf(r.Pieces[0].Piece, r.Comments[0])
		return r, at, ok
	}
	r, at, ok := room()
	if c := r.Comments[0]; c.Word != "quiet" || c.Nth != 1 || !ok || at[2] <= 0 || abs(at[0]-spot[0]) > at[2] || abs(at[1]-spot[1]) > at[3] {
		t.Fatalf("%+v lies at %v, said at %v", c, at, spot)
	}
	headline("Water that is quiet, a mind that is quiet")
	if _, moved, ok := room(); !ok || moved[2] <= 0 || moved == at {
		t.Errorf("said elsewhere it lies at %v, it was %v", moved, at)
	}
	headline("Something else")
	if _, gone, ok := room(); !ok || gone[2] != 0 {
		t.Errorf("said no more it lies at %v, %v", gone, ok)
	}
}
