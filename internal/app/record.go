package app

import (
	"context"
	"encoding/csv"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"

	"aspenridge/internal/act"
	"aspenridge/internal/core/plain"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/store"
)

// What the record tells apart.
const (
	noteComment  = "comment"
	noteVerdict  = "verdict"
	noteRequest  = "request"
	noteAnswer   = "answer"
	noteMention  = "mention"
	noteLink     = "link"
	noteTeam     = "team"
	noteFiles    = "files"
	noteFinished = "finished"
	noteVersion  = "version"
	noteAway     = "away"
	noteRails    = "rails"
)

// NoteKinds are the kinds of things in the record, with what they are called.
var NoteKinds = [][2]string{
	{"change", "changes"}, {noteComment, "comments"}, {noteVerdict, "verdicts"}, {noteRequest, "requests"}, {noteAnswer, "answers"},
	{noteFinished, "finished"}, {noteFiles, "files handed over"}, {noteLink, "links"}, {noteVersion, "versions"}, {noteAway, "archived, restored, deleted"}, {noteTeam, "team"},
}

// note keeps that somebody did something, with a kit or a brief (zero for neither).
func (a *house) note(ctx context.Context, m Member, by By, kind string, about ID, format string, args ...any) error {
	n := store.Note{User: by.Person, Name: by.Shown(), Kind: kind, Words: fmt.Sprintf(format, args...)}
	if about != (ID{}) {
		n.Document = &about
	}
	return a.store.PutNote(ctx, m.Workspace, n)
}

// noteOf is [house.note] of somebody with an account.
func (a *house) noteOf(ctx context.Context, m Member, kind string, about ID, format string, args ...any) error {
	return a.note(ctx, m, By{Name: m.Name, Person: &m.ID}, kind, about, format, args...)
}

// noteTo is something that is for one person alone.
func (a *house) noteTo(ctx context.Context, m Member, by By, kind string, about, to ID, format string, args ...any) error {
	return a.store.PutNote(ctx, m.Workspace, store.Note{User: by.Person, Name: by.Shown(), Kind: kind, Document: &about, Words: fmt.Sprintf(format, args...), To: &to})
}

// Entry is a line of the record.
type Entry = store.Entry

// RecordQuery asks for a page of the record.
type RecordQuery = store.RecordQuery

// MostEntries is how many lines of the record are read at a time.
const MostEntries = 200

// Record is a page of who did what when, the newest first, as far as somebody sees it.
func (a Team) Record(ctx context.Context, m Member, q RecordQuery) ([]Entry, error) {
	if err := act.May(m, roles.WriteBriefs); err != nil {
		return nil, err
	}
	if q.Limit <= 0 || q.Limit > MostEntries {
		q.Limit = MostEntries
	}
	if q.Before.IsZero() {
		q.Before = a.now().Add(time.Minute)
	}
	q.In = m.Scope
	return a.store.Record(ctx, m.Workspace, q)
}

// RecordCSV writes all of the record that is asked for as CSV (RFC 4180).
func (a Team) RecordCSV(ctx context.Context, m Member, q RecordQuery, w io.Writer) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	if err := out.Write([]string{"from", "to", "who", "what", "about", "name", "words", "times"}); err != nil {
		return err
	}
	for q.Limit = MostEntries; ; {
		page, err := a.Record(ctx, m, q)
		if err != nil {
			return err
		}
		for _, e := range page {
			row := []string{e.At.UTC().Format(time.RFC3339), e.Until.UTC().Format(time.RFC3339), e.Name, e.Kind, e.Of, e.Title, e.Words, strconv.Itoa(e.Times)}
			for i := range row {
				row[i] = plainCell(row[i])
			}
			if err := out.Write(row); err != nil {
				return err
			}
		}
		if len(page) < MostEntries {
			out.Flush()
			return out.Error()
		}
		q.Before = page[len(page)-1].At
	}
}

// plainCell keeps a spreadsheet from taking words for a formula (OWASP, CSV injection).
func plainCell(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}

// --- who is told -------------------------------------------------------------

// NotifyChoices are how somebody hears of what concerns them: on the Desk alone, by mail at once, by
// one mail a day.
var NotifyChoices = store.NotifyChoices

// NotifyMe is how somebody hears of things in the workspace they are in.
func (a Team) NotifyMe(ctx context.Context, m Member) (string, error) {
	return a.store.NotifyChoiceOf(ctx, m.Workspace, m.ID)
}

// SetTells says how somebody hears of things from now on.
func (a Team) SetTells(ctx context.Context, m Member, how string) error {
	if !slices.Contains(NotifyChoices, how) {
		return fmt.Errorf("%w: %.40q: want %s", ErrInvalid, how, strings.Join(NotifyChoices, ", "))
	}
	return a.store.SetTells(ctx, m.Workspace, m.ID, how, a.now())
}

// When people are told by mail.
const (
	gathered   = 2 * time.Minute // so that ten comments are one mail
	digestHour = 6               // UTC
	tellAtOnce = 100
)

// mailNews writes mails to those who are told by mail, as a routine of the workers.
func (a *house) mailNews(ctx context.Context) error {
	now := a.now()
	today := now.UTC().Truncate(24 * time.Hour).Add(digestHour * time.Hour)
	if now.Before(today) {
		today = today.AddDate(0, 0, -1)
	}
	for how, before := range map[string]time.Time{"mail": now.Add(-gathered), "digest": today} {
		list, err := a.store.Listeners(ctx, how, before, tellAtOnce)
		if err != nil {
			return err
		}
		for _, l := range list {
			if err := a.store.TakeNews(ctx, l, concerns(l.Member), now, func(news []store.News) *store.Mail { return newsMail(l.Member, news) }); err != nil {
				return err
			}
		}
	}
	return nil
}

// concerns are the kinds of things somebody is told of, beside what is for them alone.
func concerns(m Member) []string {
	switch {
	case act.May(m, roles.ManageWorkspace) == nil:
		return []string{noteComment, noteVerdict, noteRequest}
	case act.May(m, roles.WriteBriefs) == nil:
		return []string{noteComment, noteVerdict}
	}
	return []string{}
}

// newsMail is the mail with news, nil for none.
func newsMail(m Member, news []store.News) *store.Mail {
	if len(news) == 0 {
		return nil
	}
	var b strings.Builder
	for _, n := range news {
		about := ""
		if n.Title != "" {
			about = " (" + plain.Quoted(n.Title) + ")"
		}
		fmt.Fprintf(&b, "%s, %s%s: %s\n", n.At.UTC().Format("2 Jan 15:04"), plain.Quoted(n.Name), about, plain.Unlinked(plain.Line(n.Words)))
	}
	subject := fmt.Sprintf("News of %s", plain.Quoted(m.WorkspaceName))
	if n := len(news); n > 1 {
		subject = fmt.Sprintf("%d things of %s that concern you", n, plain.Quoted(m.WorkspaceName))
	}
	b.WriteString("\nHow you hear of things is said at Account.")
	return &store.Mail{Workspace: &m.Workspace, User: &m.ID, To: m.Email, Subject: subject, Body: b.String()}
}

// mentioned are those of a team whose names stand after an @ in a text.
func mentioned(team []Teammate, text string) (out []ID) {
	low := strings.ToLower(text)
	for _, t := range team {
		names := []string{t.Name}
		if first, _, more := strings.Cut(t.Name, " "); more {
			names = append(names, first)
		}
		if t.Suspended == nil && slices.ContainsFunc(names, func(n string) bool { return called(low, "@"+strings.ToLower(n)) }) {
			out = append(out, t.ID)
		}
	}
	return out
}

// called reports whether a name stands in a text as a word.
func called(text, name string) bool {
	for rest := text; ; {
		i := strings.Index(rest, name)
		if i < 0 || len(name) < 2 {
			return false
		}
		after := []rune(rest[i+len(name):])
		if len(after) == 0 || !unicode.IsLetter(after[0]) {
			return true
		}
		rest = rest[i+len(name):]
	}
}
