package app_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
)

// TestGoingBackBesideAnother: going back takes back nothing of what somebody else changed since the
// list was seen, and says what that was; it is done as a whole or not at all.
func TestGoingBackBesideAnother(t *testing.T) {
	t.Parallel()
	a, m, kit, id := open(t)
	ctx := t.Context()
	ida := colleague(t, a, m, "ida@two.example", "editor")
	named := func(p app.Member, name string) {
		t.Helper()
		c := app.Change{Kind: "brief", Client: p.Name, Base: app.Latest, Op: edit.Op{Path: "/name", Value: json.RawMessage(strconv.Quote(name))}}
		if _, err := a.Documents.Edit(ctx, p, id, c); err != nil {
			t.Fatal(err)
		}
	}
	stands := func() (string, int64) {
		t.Helper()
		s, err := a.Sets.Set(ctx, m, id)
		if err != nil {
			t.Fatal(err)
		}
		return s.Brief.Name, s.Doc.Seq
	}
	began, _ := stands()
	for i := range 5 {
		named(m, fmt.Sprint("mine ", i))
	}
	_, seen := stands()
	named(ida, "hers")
	_, now := stands()
	var conflict *app.Conflict
	if err := a.Documents.GoTo(ctx, m, id, "tab", 0, seen); !errors.As(err, &conflict) || conflict.Path != "/name" || string(conflict.Theirs) != `"hers"` {
		t.Fatalf("over what somebody else changed meanwhile: %v", err)
	}
	if name, seq := stands(); name != "hers" || seq != now {
		t.Errorf("it is called %q at %d then, it was at %d", name, seq, now)
	}
	if err := a.Documents.GoTo(ctx, m, id, "tab", 0, now); err != nil {
		t.Fatal(err)
	}
	if name, _ := stands(); name != began {
		t.Errorf("at its beginning it is called %q, it was %q", name, began)
	}
	if err := a.Documents.GoTo(ctx, m, id, "tab", 10_000, app.Latest); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("to a change nobody made: %v", err)
	}

	// a step on the way that may not be said any more does not matter, where it ends does
	if _, err := a.Documents.Edit(ctx, m, kit, app.Change{Base: app.Latest, Op: edit.Op{Path: "/$extensions/aspenridge/voice/neverSays", Value: json.RawMessage(`["extreme"]`)}}); err != nil {
		t.Fatal(err)
	}
	said := func(words string) {
		t.Helper()
		c := app.Change{Kind: "brief", Client: "x", Base: app.Latest, Op: edit.Op{Path: "/cards/0/headline", Value: json.RawMessage(strconv.Quote(words))}}
		if _, err := a.Documents.Edit(ctx, ida, id, c); err != nil {
			t.Fatal(err)
		}
	}
	said("Calm water")
	said("Extreme water")
	said("Slow water")
	if _, err := a.Documents.Edit(ctx, m, kit, app.Change{Base: app.Latest, Op: edit.Op{Path: "/$extensions/aspenridge/rails", Value: json.RawMessage(`{"voice":true}`)}}); err != nil {
		t.Fatal(err)
	}
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	past, err := a.Documents.Past(ctx, m, s, app.PastAtOnce)
	past = slices.DeleteFunc(past, func(p app.Past) bool { return p.Undone })
	if err != nil || len(past) < 3 {
		t.Fatal(len(past), err)
	}
	var rail *app.Railed
	if err := a.Documents.GoTo(ctx, ida, id, "Ida", past[1].Seq, app.Latest); !errors.As(err, &rail) {
		t.Errorf("to words the kit never says: %v", err)
	}
	if _, seq := stands(); seq != s.Doc.Seq {
		t.Errorf("what was refused left the brief at %d, it was at %d", seq, s.Doc.Seq)
	}
	if err := a.Documents.GoTo(ctx, ida, id, "Ida", past[2].Seq, app.Latest); err != nil {
		t.Errorf("past words the kit never says: %v", err)
	}
}

// TestGoingBackIsKilledInTheMiddle: where the database ends the connection between two steps of going
// back nothing of it is done, and the same request sent again does all of it, once.
func TestGoingBackIsKilledInTheMiddle(t *testing.T) {
	t.Parallel()
	a, m, _, id := open(t)
	ctx := t.Context()
	state := func() (string, int64) {
		t.Helper()
		s, err := a.Sets.Set(ctx, m, id)
		if err != nil {
			t.Fatal(err)
		}
		return s.Brief.Name, s.Doc.Seq
	}
	began, _ := state()
	for i := range 5 {
		c := app.Change{Kind: "brief", Client: "tab", Base: app.Latest, Op: edit.Op{Path: "/name", Value: json.RawMessage(fmt.Sprintf("%q", fmt.Sprint("mine ", i)))}}
		if _, err := a.Documents.Edit(ctx, m, id, c); err != nil {
			t.Fatal(err)
		}
	}
	last, seq := state()
	exec := func(sql string) {
		t.Helper()
		if _, err := a.Store().Pool.Exec(ctx, sql); err != nil {
			t.Fatal(err)
		}
	}
	exec(`create function kill() returns trigger language plpgsql as $$ begin perform pg_terminate_backend(pg_backend_pid()); return new; end $$`)
	exec(`create trigger killing after insert on edits for each row when (new.kind = 'undo') execute function kill()`)
	once := m.Sending("back to the beginning")
	if err := a.Documents.GoTo(ctx, once, id, "tab", 0, seq); err == nil {
		t.Fatal("the connection was ended, and nobody noticed")
	}
	if name, at := state(); name != last || at != seq {
		t.Errorf("half done: it is called %q at %d, it was %q at %d", name, at, last, seq)
	}
	exec(`drop trigger killing on edits`)
	if err := a.Documents.GoTo(ctx, once, id, "tab", 0, seq); err != nil {
		t.Fatalf("sent again: %v", err)
	}
	name, done := state()
	if name != began {
		t.Errorf("at its beginning it is called %q, it was %q", name, began)
	}
	if err := a.Documents.GoTo(ctx, once, id, "tab", 0, seq); err != nil && !errors.Is(err, app.ErrRepeated) {
		t.Errorf("sent a third time: %v", err)
	}
	if name, at := state(); name != began || at != done {
		t.Errorf("a third time it moved to %q at %d", name, at)
	}
}

// TestAddedWordsAreWritten: words of an added part are written beside somebody who changes their size,
// and are refused where they say nothing, too much, or are there no more.
func TestAddedWordsAreWritten(t *testing.T) {
	t.Parallel()
	a, m, _, id := open(t)
	ctx := t.Context()
	part := brief.Adjustment{Reach: "piece:story", Slot: "added-x", Property: "part", Value: json.RawMessage(`{"kind":"words","text":"New","level":"body","at":[0.5,0.3],"size":[0.4,0.1]}`)}
	part.ID = part.Key()
	change := func(path string, value any) (int64, error) {
		return a.Documents.Edit(ctx, m, id, app.Change{Kind: "brief", Client: "one", Base: app.Latest, Op: edit.Op{Path: path, Value: raw(t, value)}})
	}
	base, err := change("/adjustments/-", part)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := change("/adjustments/@"+part.ID+"/value/size", []float64{0.6, 0.2}); err != nil {
		t.Fatal(err)
	}
	write := func(slot, text string) error {
		_, err := a.Briefs.Write(ctx, m, id, app.Change{Client: "two", Base: base, Typing: true}, "", slot, "set", text)
		return err
	}
	if err := write("added-x", "Only today"); err != nil {
		t.Fatal(err)
	}
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	p, err := s.Channels.Parse("story")
	if err != nil {
		t.Fatal(err)
	}
	if is := s.Brief.Added(p); len(is) != 1 || is[0].Text != "Only today" || is[0].Size != [2]float64{0.6, 0.2} {
		t.Errorf("%+v", is)
	}
	for slot, text := range map[string]string{"added-x": " ", "added-gone": "Here", "added-x ": strings.Repeat("x", 301)} {
		if err := write(slot, text); !errors.Is(err, app.ErrInvalid) {
			t.Errorf("%q into %q: %v", text, slot, err)
		}
	}
}

// TestAStampTellsKitsApart: a kit that follows another one than before has another stamp, however
// many changes each of them has had.
func TestAStampTellsKitsApart(t *testing.T) {
	t.Parallel()
	a, m, _, _ := open(t)
	ctx := t.Context()
	kit := func(name string, edits int) app.ID {
		t.Helper()
		id, err := a.Kits.NewKit(ctx, m, name)
		if err != nil {
			t.Fatal(err)
		}
		for i := range edits {
			if _, err := a.Documents.Edit(ctx, m, id, app.Change{Base: app.Latest, Op: edit.Op{Path: "/$extensions/aspenridge/tagline", Value: json.RawMessage(strconv.Quote(fmt.Sprint(i)))}}); err != nil {
				t.Fatal(err)
			}
		}
		return id
	}
	one, other, child := kit("One", 5), kit("Other", 4), kit("Child", 0)
	stamp := func() int64 {
		t.Helper()
		k, err := a.Kits.Kit(ctx, m, child)
		if err != nil {
			t.Fatal(err)
		}
		return k.Stamp()
	}
	seen := map[int64]string{stamp(): "alone"}
	for _, parent := range []app.ID{one, other, one} { // a change of the child each, and one less of its parent
		if err := a.Kits.Follow(ctx, m, child, "", parent.String()); err != nil {
			t.Fatal(err)
		}
		now := stamp()
		if was := seen[now]; was != "" || now < 0 || now > 1<<53 {
			t.Errorf("following %s its stamp is %d, as it was: %s", parent, now, was)
		}
		seen[now] = "following " + parent.String()
	}
}
