package web

import (
	"net/http"
	"net/url"
	"time"

	"aspenridge/internal/app"
	"aspenridge/internal/core/roles"
)

// todayPart is what of a workspace needs who looks now.
type todayPart struct {
	app.Today
	Asked   []askedRow
	Mine    []askedRow
	Changes bool
}

// Any reports whether anything does.
func (t todayPart) Any() bool {
	return len(t.Asked)+len(t.Mine)+len(t.ForMe)+len(t.Said)+len(t.Waiting)+len(t.Passed)+len(t.Unseen) > 0
}

// today is the part of the Desk with what needs who looks.
func (s *Server) today(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	now, err := s.app.Team.Today(r.Context(), m)
	if err != nil {
		return err
	}
	p := todayPart{Today: now, Changes: m.May(roles.WriteBriefs)}
	if p.Asked, err = s.askedRows(r, now.Asked); err != nil {
		return err
	}
	if p.Mine, err = s.askedRows(r, now.Mine); err != nil {
		return err
	}
	return s.replyPart(w, r, "desk", "today", p, nil)
}

// recordPage is who did what when.
type recordPage struct {
	Entries []app.Entry
	People  []app.Teammate
	Names   []app.Named
	Kinds   [][2]string
	Person  string
	About   string
	Kind    string
	Next    string // address of the page before
	CSV     string // address of all of it as a file
}

// recordOf reads what of the record is asked for.
func recordOf(q url.Values) (out app.RecordQuery) {
	if id, err := app.ParseID(q.Get("person")); err == nil {
		out.Person = &id
	}
	if id, err := app.ParseID(q.Get("about")); err == nil {
		out.Document = &id
	}
	out.Kind = q.Get("kind")
	out.Before, _ = time.Parse(time.RFC3339Nano, q.Get("before"))
	return out
}

func (s *Server) record(w http.ResponseWriter, r *http.Request) error {
	m, ctx, q := member(r), r.Context(), r.URL.Query()
	p := recordPage{Kinds: app.NoteKinds, Person: q.Get("person"), About: q.Get("about"), Kind: q.Get("kind")}
	var err error
	if p.Entries, err = s.app.Team.Record(ctx, m, recordOf(q)); err != nil {
		return err
	}
	if p.People, err = s.app.Team.People(ctx, m); err != nil {
		return err
	}
	if p.Names, err = s.app.Team.Names(ctx, m); err != nil {
		return err
	}
	q.Del("before")
	p.CSV = "/record.csv?" + q.Encode()
	if n := len(p.Entries); n == app.MostEntries {
		q.Set("before", p.Entries[n-1].At.UTC().Format(time.RFC3339Nano))
		p.Next = "/record?" + q.Encode()
	}
	s.show(w, r, "record", frame{Title: "History", Screen: "record", Page: p})
	return nil
}

func (s *Server) recordCSV(w http.ResponseWriter, r *http.Request) error {
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", attachment("record.csv"))
	return s.app.Team.RecordCSV(r.Context(), member(r), recordOf(r.URL.Query()), w)
}

// setTells says how who asks hears of things.
func (s *Server) setTells(w http.ResponseWriter, r *http.Request) error {
	return s.showMe(w, r, mePage{Said: "That is how you hear of things from now on."}, s.app.Team.SetTells(r.Context(), member(r), r.FormValue("tells")))
}
