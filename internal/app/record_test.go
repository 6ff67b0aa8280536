package app_test

import (
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/post"
)

// TestToday: the Desk says what needs somebody: where they are named, what was said, sign-offs
// that wait or were lost, what is over, changes of a kit that finished pieces have not seen.
// Who only comments is told what waits for them, and nothing of the others' work.
func TestToday(t *testing.T) {
	a, m, kit, id := open(t)
	ctx := t.Context()
	ida := colleague(t, a, m, "ida@two.example", "commenter")
	day := func(p app.Member) app.Today {
		t.Helper()
		d, err := a.Team.Today(ctx, p)
		if err != nil {
			t.Fatal(err)
		}
		return d
	}
	if d := day(m); len(d.ForMe)+len(d.Said)+len(d.Waiting)+len(d.Passed)+len(d.Unseen) > 0 {
		t.Errorf("nothing has happened: %+v", d)
	}
	r, err := a.Proofs.Room(ctx, m, id, 0)
	if err != nil {
		t.Fatal(err)
	}
	key := r.Pieces[0].Key
	say := func(p app.Member, words string) {
		t.Helper()
		if err := a.Proofs.Say(ctx, p, a.Proofs.Who(p), id, app.Remark{Piece: key, Words: words}); err != nil {
			t.Fatal(err)
		}
	}
	say(m, "Is that loud enough, @Ida?")
	say(ida, "no @idas here, and ida@two.example is none")
	if d := day(ida); len(d.ForMe) != 1 || d.ForMe[0].Kind != "mention" || !strings.Contains(d.ForMe[0].Words, "loud enough") || len(d.Said) != 1 || len(d.Lately) > 0 {
		t.Errorf("who was named sees %+v", d)
	}
	if d := day(m); len(d.ForMe) != 0 {
		t.Errorf("who was not named is told %+v", d.ForMe)
	}
	if _, err := a.Proofs.Link(ctx, m, id, app.WishedLink{For: "The boathouse"}); err != nil {
		t.Fatal(err)
	}
	n := len(r.Pieces)
	if d := day(m); len(d.Waiting) != 1 || d.Waiting[0].Open != n || !slices.Equal(d.Waiting[0].For, []string{"The boathouse"}) {
		t.Errorf("shown and not decided: %+v", d.Waiting)
	}
	if err := a.Proofs.Decide(ctx, ida, a.Proofs.Who(ida), id, app.Approved, nil); err != nil {
		t.Fatal(err)
	}
	if d := day(m); len(d.Waiting) != 0 {
		t.Errorf("all approved: %+v", d.Waiting)
	}
	if _, err := a.Sets.Finish(ctx, m, id); err != nil {
		t.Fatal(err)
	}
	change := func(doc app.ID, path, value string) {
		t.Helper()
		if _, err := a.Documents.Edit(ctx, m, doc, app.Change{Base: app.Latest, Op: edit.Op{Path: path, Value: []byte(value)}}); err != nil {
			t.Fatal(err)
		}
	}
	change(id, "/cards/0/headline", `"Another word"`)
	change(id, "/cards/0/offer", `{"price": "29", "until": "2020-05-01"}`)
	change(id, "/cards/0/when", `{"date": "2020-04-01"}`)
	change(kit, "/$extensions/aspenridge/tagline", `"Otter"`)
	for range 61 { // newer ones do not hide it
		if _, err := a.Briefs.NewBrief(ctx, m, kit); err != nil {
			t.Fatal(err)
		}
	}
	d := day(m)
	if len(d.Waiting) != 1 || d.Waiting[0].Lost == 0 || d.Waiting[0].Lost+d.Waiting[0].Approved != n {
		t.Errorf("changed since: %+v", d.Waiting)
	}
	if len(d.Passed) != 1 || d.Passed[0].What != "offer" || d.Passed[0].On.Year() != 2020 {
		t.Errorf("what is over: %+v", d.Passed)
	}
	if len(d.Unseen) != 1 || d.Unseen[0].Brief != id || d.Unseen[0].Pieces == 0 {
		t.Errorf("what finished pieces have not seen: %+v", d.Unseen)
	}
	if d := day(ida); len(d.Passed)+len(d.Unseen) > 0 || len(d.Waiting) != 1 {
		t.Errorf("a commenter is told %+v", d)
	}
}

// TestRecord: who did what, filtered by person, kit, brief and kind; as CSV whole, and nothing in
// it is a formula. What is for one person alone is in nobody's record.
func TestRecord(t *testing.T) {
	a, m, kit, id := open(t)
	ctx := t.Context()
	ida := colleague(t, a, m, "ida@two.example", "editor")
	other, err := a.Kits.NewKit(ctx, m, "Heron")
	if err != nil {
		t.Fatal(err)
	}
	for i := range 5 {
		if _, err := a.Documents.Edit(ctx, ida, id, app.Change{Base: app.Latest, Client: fmt.Sprint(i), Op: edit.Op{Path: "/name", Value: fmt.Appendf(nil, `"Otter %d"`, i)}}); err != nil {
			t.Fatal(err)
		}
	}
	r, err := a.Proofs.Room(ctx, m, id, 0)
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Proofs.Say(ctx, ida, app.By{Name: "=HYPERLINK(\"x\")", Person: &ida.ID}, id, app.Remark{Piece: r.Pieces[0].Key, Words: "@Nell look"}); err != nil {
		t.Fatal(err)
	}
	if err := a.Documents.Archive(ctx, m, other, true); err != nil {
		t.Fatal(err)
	}
	read := func(q app.RecordQuery) (out []string) {
		t.Helper()
		list, err := a.Team.Record(ctx, m, q)
		if err != nil {
			t.Fatal(err)
		}
		for _, e := range list {
			out = append(out, fmt.Sprint(e.Name, " ", e.Kind, " ", e.Times))
		}
		return out
	}
	if got := read(app.RecordQuery{Person: &ida.ID, Document: &id}); !slices.Contains(got, "Ida change 5") || len(got) != 2 {
		t.Errorf("by Ida of the brief: %q", got)
	}
	if got := read(app.RecordQuery{Kind: "comment"}); len(got) != 1 {
		t.Errorf("comments: %q", got)
	}
	if got := read(app.RecordQuery{Document: &kit}); !slices.Contains(got, "Ida change 5") || slices.ContainsFunc(got, func(s string) bool { return strings.Contains(s, "away") }) {
		t.Errorf("of the kit: %q", got)
	}
	if got := read(app.RecordQuery{Kind: "mention"}); len(got) != 0 {
		t.Errorf("what is for one alone: %q", got)
	}
	var b strings.Builder
	if err := a.Team.RecordCSV(ctx, m, app.RecordQuery{}, &b); err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(strings.NewReader(b.String())).ReadAll()
	if err != nil || len(rows) != len(read(app.RecordQuery{}))+1 {
		t.Fatalf("%d rows, %v", len(rows), err)
	}
	for _, row := range rows {
		for _, cell := range row {
			if cell != "" && strings.ContainsRune("=+-@", rune(cell[0])) {
				t.Errorf("a formula: %q", cell)
			}
		}
	}
	if err := a.Team.SetScope(ctx, m, ida.ID, []app.ID{other}); err != nil {
		t.Fatal(err)
	}
	if ida, err = a.People.Member(ctx, ida.ID, m.Workspace); err != nil {
		t.Fatal(err)
	}
	list, err := a.Team.Record(ctx, ida, app.RecordQuery{})
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range list {
		if e.Document == nil || *e.Document != other {
			t.Errorf("somebody narrowed reads %+v", e)
		}
	}
	viewer := colleague(t, a, m, "otto@two.example", "viewer")
	if _, err := a.Team.Record(ctx, viewer, app.RecordQuery{}); !errors.Is(err, app.ErrNotAllowed) {
		t.Errorf("a viewer: %v", err)
	}
}

// postman takes mail, but not for who it is told.
type postman struct {
	took []string
	fail func(to string) error
}

func (p *postman) Send(_ context.Context, to, subject, _ string) error {
	if p.fail != nil {
		if err := p.fail(to); err != nil {
			return err
		}
	}
	p.took = append(p.took, to+": "+subject)
	return nil
}

// TestWhoIsTold: by mail at once, by one a day, or on the Desk alone; several things are one
// mail, nobody hears of what they did themselves, and nothing twice. Mail that cannot be sent
// now is sent later, what is refused is not tried again.
func TestWhoIsTold(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	now := time.Now()
	a.SetClock(func() time.Time { return now })
	ida, otto := colleague(t, a, m, "ida@two.example", "editor"), colleague(t, a, m, "otto@two.example", "commenter")
	p := &postman{}
	a.People.Mailer = p
	if err := a.Post(ctx); err != nil { // invitations to nobody's address write none
		t.Fatal(err)
	}
	p.took = nil
	for who, how := range map[*app.Member]string{&m: "mail", &ida: "digest"} {
		if err := a.Team.SetTells(ctx, *who, how); err != nil {
			t.Fatal(err)
		}
	}
	if err := a.Team.SetTells(ctx, m, "pigeon"); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("by pigeon: %v", err)
	}
	r, err := a.Proofs.Room(ctx, m, id, 0)
	if err != nil {
		t.Fatal(err)
	}
	say := func(by app.Member, words string) {
		t.Helper()
		if err := a.Proofs.Say(ctx, by, a.Proofs.Who(by), id, app.Remark{Piece: r.Pieces[0].Key, Words: words}); err != nil {
			t.Fatal(err)
		}
	}
	round := func(after time.Duration) []string {
		t.Helper()
		now = now.Add(after)
		p.took = nil
		for _, do := range []func(context.Context) error{a.Tell, a.Post} {
			if err := do(ctx); err != nil {
				t.Fatal(err)
			}
		}
		slices.Sort(p.took)
		return p.took
	}
	say(otto, "Is it loud?")
	say(otto, "And is it blue?")
	if got := round(time.Second); len(got) != 0 {
		t.Errorf("while more may come: %q", got)
	}
	if got := round(3 * time.Minute); len(got) != 1 || !strings.HasPrefix(got[0], m.Email) || !strings.Contains(got[0], "2 things") {
		t.Errorf("at once: %q", got)
	}
	if got := round(3 * time.Minute); len(got) != 0 {
		t.Errorf("once more: %q", got)
	}
	say(m, "It is, @Otto")
	if got := round(3 * time.Minute); len(got) != 0 {
		t.Errorf("of what one said oneself: %q", got)
	}
	if got := round(25 * time.Hour); len(got) != 1 || !strings.HasPrefix(got[0], ida.Email) || !strings.Contains(got[0], "3 things") {
		t.Errorf("once a day: %q", got)
	}
	if err := a.Team.SetTells(ctx, otto, "mail"); err != nil {
		t.Fatal(err)
	}
	say(m, "Now, @Otto?")
	say(m, "Nobody is named here")
	if got := round(3 * time.Minute); len(got) != 1 || !strings.HasPrefix(got[0], otto.Email) || !strings.Contains(got[0], "News") {
		t.Errorf("a commenter who is named: %q", got)
	}

	// what cannot be sent
	tries := 0
	p.fail = func(string) error { tries++; return errors.New("nobody answers") }
	say(otto, "Later")
	round(3 * time.Minute)
	round(time.Second)
	if tries != 1 {
		t.Errorf("%d tries within a second", tries)
	}
	p.fail = nil
	if got := round(2 * time.Minute); len(got) == 0 {
		t.Error("it is not tried again")
	}
	p.fail = func(string) error { tries++; return fmt.Errorf("%w: no such box", post.ErrRefused) }
	say(otto, "Never")
	round(3 * time.Minute)
	tries = 0
	round(48 * time.Hour)
	mails, err := a.Team.Mailbox(ctx, m)
	if err != nil || !slices.ContainsFunc(mails, func(e app.Mail) bool {
		return e.To == m.Email && strings.Contains(e.Why, "no such box") && e.Sent == nil
	}) {
		t.Errorf("what was refused: %+v, %v", mails, err)
	}
}

// TestPasswordsNobodyShouldHave: too short, too long, the usual ones with digits around them, one
// letter over and over, rows of keys.
func TestPasswordsNobodyShouldHave(t *testing.T) {
	a, _ := newcomer(t)
	for i, p := range []string{"", "short", strings.Repeat("ab1!", 60), "password123", "Password2026!", "1234567890", "aaaaaaaaaa", "qwertyuiop", "!!Aspenridge2027", "0987654321", "abababababab"} {
		if _, err := a.People.SignUp(t.Context(), "Ida", fmt.Sprintf("p%d@two.example", i), p); !errors.Is(err, app.ErrInvalid) {
			t.Errorf("%q: %v", p, err)
		}
	}
	for i, p := range []string{"quiet water 2027", "чистая вода 27", "heron at dusk 9", "my password is a heron"} {
		if _, err := a.People.SignUp(t.Context(), "Ida", fmt.Sprintf("q%d@two.example", i), p); err != nil {
			t.Errorf("%q: %v", p, err)
		}
	}
}
