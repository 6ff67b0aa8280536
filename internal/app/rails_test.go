package app_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/png"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/store"
	"aspenridge/test/stage"
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
	asking := ida.Asking("  the client\nwants it ")
	for i, c := range []app.Change{red, red, never} { // a request that arrives twice asks once
		if _, err := a.Documents.Edit(ctx, asking.Sending(fmt.Sprint("ask", max(i, 1))), id, c); !errors.Is(err, app.ErrAsked) {
			t.Fatalf("asking: %v", err)
		}
	}
	if headline() != before {
		t.Error("what is asked for is done")
	}
	if _, err := a.Documents.Edit(ctx, asking, id, app.Change{Kind: "brief", Base: app.Latest, Op: edit.Op{Path: "/name", Value: []byte(`"Heron"`)}}); err != nil {
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
	if _, err := a.Documents.Edit(ctx, asking, id, red); !errors.Is(err, app.ErrAsked) {
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
		_, video := a.Files.MakeVideo(ctx, m, s, "video-tall", "mp4")
		_, moves := a.Files.MakeMoving(ctx, m, s, one, "gif", film.Way{Seconds: 3})
		return map[string]error{"a file": file, "a parcel": pack, "a phone": phone, "a video": video, "a moving piece": moves}
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
	approve := func(p app.Member, by app.By) {
		t.Helper()
		if err := a.Proofs.Decide(ctx, p, by, id, app.Approved, nil); err != nil {
			t.Fatal(err)
		}
	}
	guest := func(p app.Member, w app.WishedLink) {
		t.Helper()
		token, err := a.Proofs.Link(ctx, p, id, w)
		if err != nil {
			t.Fatal(err)
		}
		g, err := a.Proofs.Guest(ctx, token)
		if err != nil {
			t.Fatal(err)
		}
		approve(g.Member, g.Who(m.Name))
	}
	rename := func(p app.Member, words string) {
		t.Helper()
		if _, err := a.Documents.Edit(ctx, p, id, app.Change{Kind: "brief", Base: app.Latest, Op: edit.Op{Path: "/cards/0/headline", Value: []byte(`"` + words + `"`)}}); err != nil {
			t.Fatal(err)
		}
		held(true)
	}
	ida, otto := colleague(t, a, m, "ida@two.example", "editor"), colleague(t, a, m, "otto@two.example", "commenter")

	// whoever made it does not approve it: an owner, an editor, or either as a guest of their own
	rename(m, "Made by an owner")
	approve(m, a.Proofs.Who(m))
	guest(m, app.WishedLink{For: "Me", Approves: true})
	held(true)
	rename(ida, "Made by an editor")
	approve(ida, a.Proofs.Who(ida))
	guest(ida, app.WishedLink{For: "The boss"})
	if _, err := a.Proofs.Link(ctx, ida, id, app.WishedLink{For: "The boss", Approves: true}); !errors.Is(err, app.ErrNotAllowed) {
		t.Errorf("an editor makes a link for signing off: %v", err)
	}
	approve(otto, a.Proofs.Who(otto)) // nobody named him
	held(true)
	room, err := a.Proofs.Room(ctx, m, id, 0)
	if err != nil || room.Pieces[0].State != app.Approved || room.Pieces[0].Unsigned == "" {
		t.Errorf("%+v, %v", room.Pieces[0], err)
	}
	for _, d := range room.Pieces[0].Last {
		if d.By.Link != nil && !strings.Contains(d.By.Shown(), "says to be "+m.Name) {
			t.Errorf("a guest is shown as %q", d.By.Shown())
		}
	}
	approve(m, a.Proofs.Who(m)) // an owner who did not make it
	held(false)

	rename(m, "Made by the owner again")
	if _, err := a.Documents.Edit(ctx, ida, kit, app.Change{Base: app.Latest, Op: edit.Op{Path: "/$extensions/aspenridge/rails/signOffBy", Value: raw(t, []string{ida.ID.String()})}}); !errors.Is(err, app.ErrNotAllowed) {
		t.Errorf("an editor names themselves: %v", err)
	}
	if _, err := a.Documents.Edit(ctx, m, kit, app.Change{Base: app.Latest, Op: edit.Op{Path: "/$extensions/aspenridge/rails/signOffBy", Value: raw(t, []string{otto.ID.String()})}}); err != nil {
		t.Fatal(err)
	}
	held(true)
	approve(otto, a.Proofs.Who(otto)) // somebody named
	held(false)
	rename(ida, "Made by an editor again")
	guest(m, app.WishedLink{For: "The client", Approves: true}) // a link an owner made for it
	held(false)
}

// raw is a value as JSON.
func raw(t *testing.T, v any) []byte {
	t.Helper()
	data, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return data
}

// TestNoWayPastTheRails: what an editor may not do is refused by whichever way it comes, and
// however it is spelled.
func TestNoWayPastTheRails(t *testing.T) {
	t.Parallel()
	a, m, kit, id := open(t)
	ctx := t.Context()
	ida := colleague(t, a, m, "ida@two.example", "editor")
	path := func(p string) string { return "/$extensions/aspenridge/" + p }
	do := func(p app.Member, doc app.ID, c app.Change) error {
		c.Base = app.Latest
		_, err := a.Documents.Edit(ctx, p, doc, c)
		return err
	}
	set := func(p app.Member, doc app.ID, path string, v any) error {
		kind := "brief"
		if doc != id {
			kind = "kit"
		}
		return do(p, doc, app.Change{Kind: kind, Client: p.Name, Op: edit.Op{Path: path, Value: raw(t, v)}})
	}
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	refused := func(what string, err error) {
		t.Helper()
		var rail *app.Railed
		if !errors.As(err, &rail) && !errors.Is(err, app.ErrNotAllowed) {
			t.Errorf("%s: %v", what, err)
		}
	}
	red := func() any {
		adj := brief.Adjustment{Reach: "set", Slot: "headline", Property: "fill", Value: []byte(`"#FF0000"`)}
		adj.ID = adj.Key()
		return adj
	}
	free, err := a.Kits.NewKit(ctx, m, "Free of rails")
	must(err)
	child, err := a.Kits.NewKit(ctx, m, "Child")
	must(err)
	must(a.Kits.Follow(ctx, m, child, "", kit.String()))

	// from before the rails: undone, and then put back
	key := brief.Adjustment{Reach: "set", Slot: "headline", Property: "fill"}.Key()
	must(set(ida, id, "/adjustments/@"+key, red()))
	must(set(ida, id, "/cards/0/headline", "Extreme rapids"))
	must(set(m, kit, path("rails"), map[string]bool{"colours": true, "voice": true}))
	for range 2 {
		_, _, err := a.Documents.Undo(ctx, ida, id, "Ida", false)
		must(err)
	}
	for _, what := range []string{"putting back words", "putting them back again"} {
		_, _, err := a.Documents.Undo(ctx, ida, id, "Ida", true)
		refused(what, err)
	}
	past, err := a.Documents.Past(ctx, ida, standing(t, a, ida, id)(), app.PastAtOnce)
	must(err)
	refused("going to how it was", a.Documents.GoTo(ctx, ida, id, "Ida", past[0].Seq, app.Latest))

	// words, however typed, wherever they are said
	for what, word := range map[string]string{
		"capitals": "EXTREME rapids", "a soft hyphen": "ex\u00adtreme", "a zero-width space": "ex\u200btreme", "a joiner": "ex\u2060treme", "full width": "ｅｘｔｒｅｍｅ",
		"letters of a style": "𝐞𝐱𝐭𝐫𝐞𝐦𝐞", "letters of another script": "ехtrеmе", "a mark of direction": "ex\u200etreme", "a tag": "ex\U000e0041treme",
	} {
		refused("a word with "+what, set(ida, id, "/cards/0/headline", "So "+word))
	}
	for what, at := range map[string]struct {
		path string
		v    any
	}{
		"a fact":        {"/cards/0/facts", []any{map[string]string{"icon": "star", "text": "extreme"}}},
		"alt text":      {"/cards/0/pictures", []any{map[string]string{"file": "", "alt": "extreme water"}}},
		"a quote":       {"/cards/0/quote", map[string]string{"text": "It was extreme", "source": "Hedda"}},
		"a shot":        {"/video", map[string]any{"shots": []any{map[string]string{"role": "hook", "headline": "Extreme"}}}},
		"what is said":  {"/video", map[string]any{"shots": []any{map[string]string{"role": "hook", "headline": "Calm", "say": "extremely calm"}}}},
		"a caption":     {"/video", map[string]any{"shots": []any{}, "cues": []any{map[string]any{"from": 0, "to": 2, "text": "extreme"}}}},
		"a line":        {"/cards/0/lines", []string{"calm", "ex\u00adtreme"}},
		"a call":        {"/cards/0/callToAction", "Go extreme"},
		"small print":   {"/cards/0/terms", "extreme conditions"},
		"the next card": {"/cards/-", map[string]string{"headline": "Extreme"}},
	} {
		if err := set(ida, id, at.path, at.v); what != "alt text" || !errors.Is(err, app.ErrInvalid) {
			refused("a word in "+what, err)
		}
	}
	// colours, however written
	for _, c := range []string{"#ff00ee", "#F0E", "rgb(255,0,238)", "magenta", "hsl(304 100% 50%)"} {
		refused("a colour of the brief written "+c, set(ida, id, "/palette", []any{map[string]string{"name": "Mine", "hex": c}}))
	}
	for property, v := range map[string]string{
		"fill": `"#ff00ee"`, "highlight": `"#F0E"`, "outline": `{"fill":"#ff00ee","width":0.1}`, "shadow": `{"fill":"#ff00ee","x":0.1,"y":0.1}`, "border": `{"fill":"#ff00ee","width":0.05}`,
		"duotone": `{"dark":"#ff00ee","light":"#ffffff"}`, "runs": `[{"from":0,"to":1,"fill":"#ff00ee"}]`, "band": `"neutral.white"`,
	} {
		adj := brief.Adjustment{Reach: "set", Slot: "headline", Property: property, Value: []byte(v)}
		adj.ID = adj.Key()
		if property != "band" {
			refused("a colour as "+property, set(ida, id, "/adjustments/@"+adj.ID, adj))
		}
	}

	// away from the rails
	refused("another kit", a.Briefs.UseKit(ctx, ida, id, free))
	must(a.Briefs.UseKit(ctx, m, id, kit))
	for what, of := range map[string]app.ID{"the kit": kit, "a kit that follows it": child} {
		refused("the voice of "+what, set(ida, of, path("voice/neverSays"), []string{}))
		refused("all of the voice of "+what, set(ida, of, path("voice"), map[string]any{"neverSays": []string{"calm"}}))
		refused("a colour of "+what, set(ida, of, "/color/extra", map[string]any{"$type": "color", "pink": map[string]any{"$value": map[string]any{"colorSpace": "srgb", "components": []float64{1, 0, 1}, "hex": "#ff00ff"}}}))
		refused("no rails in "+what, set(ida, of, path("rails"), map[string]bool{"colours": false, "voice": false}))
	}
	refused("a kit that follows nobody any more", a.Kits.Follow(ctx, ida, child, "", ""))
	refused("a kit that follows another", a.Kits.Follow(ctx, ida, child, "", free.String()))
	refused("a kit that takes over no rails", do(ida, child, app.Change{Kind: "kit", Op: edit.Op{Path: path("without/-"), Value: raw(t, path("rails"))}}))
	must(set(ida, kit, path("tagline"), "Calm water")) // what no rail holds

	// a brief that comes under rails
	other, err := a.Briefs.NewBrief(ctx, ida, free)
	must(err)
	if _, err := a.Documents.Edit(ctx, ida, other, app.Change{Kind: "brief", Base: app.Latest, Op: edit.Op{Path: "/cards/0/headline", Value: raw(t, "Extreme")}}); err != nil {
		t.Fatal(err)
	}
	refused("a brief that goes beyond them", a.Briefs.UseKit(ctx, ida, other, kit))
	must(a.Briefs.UseKit(ctx, m, other, kit))
	copied, err := a.Briefs.MakeAgain(ctx, ida, other, app.ToTry)
	if err != nil {
		t.Errorf("a copy of what an owner let be: %v", err)
	}
	if copied != (app.ID{}) {
		_, err := a.Documents.Edit(ctx, ida, copied, app.Change{Kind: "brief", Base: app.Latest, Op: edit.Op{Path: "/cards/0/body", Value: raw(t, "Extreme too")}})
		refused("more of it in the copy", err)
	}
	// an earlier version of the kit
	must(set(m, kit, "/color/main/extra9", map[string]any{"$value": map[string]any{"colorSpace": "srgb", "components": []float64{0, 1, 1}, "hex": "#00ffff"}, "$type": "color"}))
	must(a.Kits.NameVersion(ctx, m, kit, 0, "With nine"))
	must(set(m, kit, "/color/main/extra9", nil))
	versions, err := a.Kits.Versions(ctx, m, kit)
	must(err)
	refused("a version with other colours", a.Kits.Restore(ctx, ida, kit, "", versions[0].ID))
	// nobody at all
	if err := do(app.Member{Workspace: m.Workspace, Role: "editor"}, id, app.Change{Kind: "brief", Op: edit.Op{Path: "/name", Value: raw(t, "x")}}); !errors.Is(err, store.ErrNobody) {
		t.Errorf("a change by nobody: %v", err)
	}
}

// TestSomebodyNarrowedReachesNothingElse: by no path, file or copy does somebody who sees one kit
// read another.
func TestSomebodyNarrowedReachesNothingElse(t *testing.T) {
	t.Parallel()
	a, m, kit, id := open(t)
	ctx := t.Context()
	own, err := a.Kits.NewKit(ctx, m, "Theirs")
	if err != nil {
		t.Fatal(err)
	}
	ida := colleague(t, a, m, "ida@two.example", "editor")
	if err := a.Team.SetScope(ctx, m, ida.ID, []app.ID{own}); err != nil {
		t.Fatal(err)
	}
	if ida, err = a.People.Member(ctx, ida.ID, m.Workspace); err != nil {
		t.Fatal(err)
	}
	k, err := a.Kits.Kit(ctx, m, kit)
	if err != nil {
		t.Fatal(err)
	}
	parent := edit.Op{Path: "/$extensions/aspenridge/parent", Value: raw(t, kit.String())}
	for what, c := range map[string]app.Change{
		"a parent by its path":      {Kind: "kit", Op: parent},
		"a parent by a named path":  {Kind: "kit", Named: true, Op: parent},
		"a parent among others":     {Kind: "kit", Op: edit.Op{All: []edit.Op{{Path: "/$extensions/aspenridge/tagline", Value: raw(t, "x")}, parent}}},
		"a parent with all of it":   {Kind: "kit", Op: edit.Op{Path: "/$extensions/aspenridge", Value: raw(t, map[string]any{"formatVersion": 1, "name": "x", "parent": kit.String()})}},
		"a logo of another kit":     {Kind: "kit", Op: edit.Op{Path: "/$extensions/aspenridge/logos/-", Value: raw(t, map[string]any{"file": k.Logos[0].File, "lockup": "symbol", "tone": "full-colour"})}},
		"its logo as a picture":     {Kind: "kit", Op: edit.Op{Path: "/$extensions/aspenridge/pictures/-", Value: raw(t, map[string]any{"file": k.Logos[0].File, "kind": "picture"})}},
		"the version of the format": {Kind: "kit", Named: true, Op: edit.Op{Path: "/$extensions/aspenridge/formatVersion", Value: raw(t, 1)}},
		"all of the document":       {Kind: "kit", Named: true, Op: edit.Op{Path: "", Value: raw(t, map[string]any{})}},
	} {
		c.Base = app.Latest
		if _, err := a.Documents.Edit(ctx, ida, own, c); !errors.Is(err, app.ErrNotFound) && !errors.Is(err, app.ErrInvalid) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if err := a.Kits.Follow(ctx, ida, own, "", kit.String()); err == nil {
		t.Error("following another kit")
	}
	brief, err := a.Briefs.NewBrief(ctx, ida, own)
	if err != nil {
		t.Fatal(err)
	}
	for what, err := range map[string]error{
		"another kit for a brief":        a.Briefs.UseKit(ctx, ida, brief, kit),
		"a picture of another, by a way": a.Briefs.UsePicture(ctx, ida, brief, "", "", k.Logos[0].File, ""),
		"another brief":                  func() error { _, err := a.Sets.Set(ctx, ida, id); return err }(),
	} {
		if !errors.Is(err, app.ErrNotFound) && !errors.Is(err, app.ErrInvalid) {
			t.Errorf("%s: %v", what, err)
		}
	}
	// their own files are theirs to use
	var moss bytes.Buffer
	if err := png.Encode(&moss, image.NewGray(image.Rect(0, 0, 640, 480))); err != nil {
		t.Fatal(err)
	}
	if err := a.Briefs.AddPicture(ctx, ida, brief, "", "", "moss.png", moss.Bytes()); err != nil {
		t.Error(err)
	}
}

// TestEveryForeignColourThatIsDrawnIsSeen: whatever property puts a colour on a piece that is none
// of the kit's, the rail knows of it.
func TestEveryForeignColourThatIsDrawnIsSeen(t *testing.T) {
	t.Parallel()
	a, m, kit, id := open(t)
	ctx := t.Context()
	if _, err := a.Documents.Edit(ctx, m, kit, app.Change{Base: app.Latest, Op: edit.Op{Path: "/$extensions/aspenridge/rails/colours", Value: raw(t, true)}}); err != nil {
		t.Fatal(err)
	}
	k, err := a.Kits.Kit(ctx, m, kit)
	if err != nil {
		t.Fatal(err)
	}
	const foreign = "#FF00EE"
	hex := regexp.MustCompile(`#[0-9A-Fa-f]{6}|TOKEN`)
	drawn := 0
	for _, adj := range stage.ByHand(foreign, k.Logos[0].File, k.Logos[0].File) {
		adj.Value = hex.ReplaceAll(adj.Value, []byte(foreign))
		adj.ID = adj.Key()
		ops := edit.Op{Path: "/adjustments", Value: raw(t, []brief.Adjustment{adj})}
		if _, err := a.Documents.Edit(ctx, m, id, app.Change{Kind: "brief", Base: app.Latest, Op: ops}); err != nil {
			t.Fatalf("%s of %s: %v", adj.Property, adj.Slot, err)
		}
		s := standing(t, a, m, id)()
		seen := false
		for _, pc := range s.Pieces() {
			svg := strings.ToUpper(pc.Scene.SVG(scene.Options{Href: func(p scene.PictureRef) string { return fmt.Sprint(p.Tone) }}))
			seen = seen || strings.Contains(svg, foreign)
		}
		crosses := slices.ContainsFunc(s.Brief.Crosses(k.Kit), func(c brief.Crossing) bool { return c.Rail == "colours" })
		if seen && !crosses {
			t.Errorf("%s of %s draws %s unseen", adj.Property, adj.Slot, foreign)
		}
		if seen {
			drawn++
		}
	}
	if drawn < 8 {
		t.Errorf("only %d of the properties draw a colour", drawn)
	}
}
