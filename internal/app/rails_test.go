package app_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
)

// colleague is an editor of somebody's workspace.
func colleague(t *testing.T, a *app.App, m app.Member, email, role string) app.Member {
	t.Helper()
	name, _, _ := strings.Cut(email, "@")
	p, err := a.People.SignUp(t.Context(), strings.ToUpper(name[:1])+name[1:], email, "quiet water 2027")
	if err != nil {
		t.Fatal(err)
	}
	token, err := a.Team.Invite(t.Context(), m, app.Asked{Role: role}, "")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Team.Join(t.Context(), p, token); err != nil {
		t.Fatal(err)
	}
	if p, err = a.People.Member(t.Context(), p.ID, m.Workspace); err != nil {
		t.Fatal(err)
	}
	return p
}

// TestRails: what a kit leaves to its owners is refused to an editor and not to an owner; asked
// for, an owner sees it before and after and says yes for the piece, for the brief, or no; with
// a yes for the brief the rail holds it no more. What was there before the rail stays.
func TestRails(t *testing.T) {
	a, m, kit, id := open(t)
	ctx := t.Context()
	ida := colleague(t, a, m, "ida@two.example", "editor")
	rails := func(p app.Member, v string) error {
		_, err := a.Documents.Edit(ctx, p, kit, app.Change{Base: app.Latest, Op: edit.Op{Path: "/$extensions/aspenridge/rails", Value: []byte(v)}})
		return err
	}
	adjust := func(slot, property, reach, value string) app.Change {
		adj := brief.Adjustment{Reach: reach, Slot: slot, Property: property, Value: []byte(value)}
		adj.ID = adj.Key()
		data, err := json.Marshal(adj)
		if err != nil {
			t.Fatal(err)
		}
		return app.Change{Kind: "brief", Base: app.Latest, Client: "x", Op: edit.Op{Path: "/adjustments/@" + adj.ID, Value: data}}
	}
	red := adjust("headline", "fill", "set", `"#FF0000"`)
	if _, err := a.Documents.Edit(ctx, ida, id, adjust("body", "fill", "set", `"#00FF00"`)); err != nil {
		t.Fatal(err)
	}
	if err := rails(ida, `{"colours": true}`); !errors.Is(err, app.ErrNotAllowed) {
		t.Errorf("an editor puts rails up: %v", err)
	}
	if err := rails(m, `{"colours": true, "voice": true}`); err != nil {
		t.Fatal(err)
	}
	if err := rails(ida, `{}`); !errors.Is(err, app.ErrNotAllowed) {
		t.Errorf("an editor takes rails down: %v", err)
	}
	var rail *app.Railed
	if _, err := a.Documents.Edit(ctx, ida, id, red); !errors.As(err, &rail) || rail.Rail != "colours" {
		t.Fatalf("a colour that is none of the kit's: %v", err)
	}
	if _, err := a.Documents.Edit(ctx, ida, id, app.Change{Kind: "brief", Base: app.Latest, Op: edit.Op{Path: "/name", Value: []byte(`"Otter"`)}}); err != nil {
		t.Errorf("beside a colour from before the rail: %v", err)
	}
	headline := func() string {
		t.Helper()
		s, err := a.Sets.Set(ctx, m, id)
		if err != nil {
			t.Fatal(err)
		}
		return *s.Brief.Cards[0].Headline
	}
	before := headline()
	never := app.Change{Kind: "brief", Base: app.Latest, Client: "x", Op: edit.Op{Path: "/cards/0/headline", Value: []byte(`"Extreme rapids"`)}}
	if _, err := a.Documents.Edit(ctx, ida, id, never); !errors.As(err, &rail) || rail.Rail != "voice" || headline() != before {
		t.Errorf("what is never said: %v, %q", err, headline())
	}

	// asked for
	asking := app.Asking(ctx, "  the client\nwants it ")
	for i, c := range []app.Change{red, red, never} { // a request that arrives twice asks once
		if _, err := a.Documents.Edit(app.AsChange(asking, fmt.Sprint("ask", max(i, 1))), ida, id, c); !errors.Is(err, app.ErrAsked) {
			t.Fatalf("asking: %v", err)
		}
	}
	if headline() != before {
		t.Error("what is asked for is done")
	}
	if _, err := a.Documents.Edit(asking, ida, id, app.Change{Kind: "brief", Base: app.Latest, Op: edit.Op{Path: "/name", Value: []byte(`"Heron"`)}}); err != nil {
		t.Errorf("asking for what is free: %v", err)
	}
	ofMe, _, err := a.Team.Asked(ctx, m)
	if err != nil || len(ofMe) != 2 {
		t.Fatalf("%+v, %v", ofMe, err)
	}
	q := ofMe[0]
	if q.Why != "the client wants it" || q.Name != "Ida" || q.Rail != "colours" || q.Placement == "" || q.Pieces < 2 {
		t.Errorf("%+v", q)
	}
	was, err := a.Team.Snapshot(ctx, m, q.ID, "was")
	if err != nil || !strings.HasPrefix(http.DetectContentType(was), "image/") {
		t.Fatalf("%.20q, %v", was, err)
	}
	becomes, err := a.Team.Snapshot(ctx, ida, q.ID, "becomes")
	if err != nil || string(becomes) == string(was) {
		t.Errorf("the picture of what is asked for: %v", err)
	}
	other := colleague(t, a, m, "otto@two.example", "editor")
	for what, err := range map[string]error{
		"another editor's picture":  func() error { _, err := a.Team.Snapshot(ctx, other, q.ID, "was"); return err }(),
		"an answer from elsewhere":  a.Team.Answer(ctx, app.Member{User: m.User, Workspace: kit, Role: "owner"}, q.ID, "no", ""),
		"a picture there is not":    func() error { _, err := a.Team.Snapshot(ctx, m, q.ID, "then"); return err }(),
		"an answer to nothing":      a.Team.Answer(ctx, m, kit, "no", ""),
		"an answer by who has none": nil,
	} {
		if what == "an answer by who has none" {
			if err := a.Team.Answer(ctx, ida, q.ID, "brief", ""); !errors.Is(err, app.ErrNotAllowed) {
				t.Errorf("%s: %v", what, err)
			}
			continue
		}
		if !errors.Is(err, app.ErrNotFound) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if err := a.Team.Answer(ctx, m, q.ID, "maybe", ""); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("maybe: %v", err)
	}

	// yes for the piece: there and nowhere else
	if err := a.Team.Answer(ctx, m, q.ID, "piece", "only here"); err != nil {
		t.Fatal(err)
	}
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range s.Placements() {
		fill := ""
		if h := s.Brief.Hands(p)["headline"]; h != nil {
			fill = h.Fill
		}
		if (fill == "#FF0000") != (p.ID == q.Placement) {
			t.Errorf("%s is set in %q", p.ID, fill)
		}
	}
	if err := a.Team.Answer(ctx, m, q.ID, "no", ""); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("a second answer: %v", err)
	}
	if _, err := a.Documents.Edit(ctx, ida, id, red); !errors.As(err, &rail) {
		t.Errorf("after a yes for one piece all of them: %v", err)
	}

	// yes for the brief: its voice is free there
	if err := a.Team.Answer(ctx, m, ofMe[1].ID, "brief", ""); err != nil {
		t.Fatal(err)
	}
	if headline() != "Extreme rapids" {
		t.Errorf("after a yes it says %q", headline())
	}
	again := never
	again.Op.Value = []byte(`"Extreme falls"`)
	if _, err := a.Documents.Edit(ctx, ida, id, again); err != nil || headline() != "Extreme falls" {
		t.Errorf("after a yes for the brief: %v", err)
	}
	if _, mine, err := a.Team.Asked(ctx, ida); err != nil || len(mine) != 2 || mine[1].Answer != "piece" || mine[1].Said != "only here" || mine[1].AnsweredBy != m.Name {
		t.Errorf("who asked sees %+v, %v", mine, err)
	}

	// no
	if _, err := a.Documents.Edit(asking, ida, id, red); !errors.Is(err, app.ErrAsked) {
		t.Fatal(err)
	}
	if ofMe, _, err = a.Team.Asked(ctx, m); err != nil || len(ofMe) != 1 {
		t.Fatal(ofMe, err)
	}
	if err := a.Team.Answer(ctx, m, ofMe[0].ID, "no", "never red"); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Documents.Edit(ctx, m, id, red); err != nil {
		t.Errorf("an owner is held: %v", err)
	}
}

// TestSignedOffFirst: where a kit wants it, no file leaves before its piece is approved as it is.
func TestSignedOffFirst(t *testing.T) {
	a, m, kit, id := open(t)
	ctx := t.Context()
	if _, err := a.Documents.Edit(ctx, m, kit, app.Change{Base: app.Latest, Op: edit.Op{Path: "/$extensions/aspenridge/rails/signOff", Value: []byte("true")}}); err != nil {
		t.Fatal(err)
	}
	ways := func() map[string]error {
		t.Helper()
		s, err := a.Sets.Set(ctx, m, id)
		if err != nil {
			t.Fatal(err)
		}
		one := s.Placements()[0].ID
		_, _, file := a.Files.Download(ctx, m, id, one, "png")
		_, pack := a.Files.Pack(ctx, m, s, app.HandOver{})
		_, _, phone := a.Files.ToPhone(ctx, m, id, app.HandOver{})
		_, film := a.Files.MakeVideo(ctx, m, s, "video-tall", "mp4")
		_, moves := a.Files.MakeMoving(ctx, m, s, one, "gif", 3)
		return map[string]error{"a file": file, "a parcel": pack, "a phone": phone, "a video": film, "a moving piece": moves}
	}
	held := func(want bool) {
		t.Helper()
		for what, err := range ways() {
			var rail *app.Railed
			if errors.As(err, &rail) != want || !want && err != nil {
				t.Errorf("%s: %v, want it held: %v", what, err, want)
			}
		}
	}
	held(true)
	if err := a.Proofs.Decide(ctx, m, a.Proofs.Who(m), id, app.Approved, nil); err != nil {
		t.Fatal(err)
	}
	held(false)
	if _, err := a.Documents.Edit(ctx, m, id, app.Change{Kind: "brief", Base: app.Latest, Op: edit.Op{Path: "/cards/0/headline", Value: []byte(`"Another word"`)}}); err != nil {
		t.Fatal(err)
	}
	held(true)
}
