package store_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"sync"
	"testing"
	"time"

	"aspenridge/internal/core/edit"
	"aspenridge/internal/store"
	"aspenridge/test/stage"
)

// open makes a store on a database of its own with one member and one brief.
func open(t *testing.T) (*store.Store, store.Member, store.ID) {
	t.Helper()
	s, _, drop, err := stage.NewStore(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(drop)
	m, err := s.CreateUser(t.Context(), "a@one.example", "Ada", "hash", "Ada's", time.Time{})
	if err != nil {
		t.Fatal(err)
	}
	d, err := s.CreateDocument(t.Context(), m, store.Document{Workspace: m.Workspace, Kind: "brief", Doc: []byte(`{"name":"","cards":[{"id":"c"}],"unknown":{"kept":[1,2.50]}}`)}, nil)
	if err != nil {
		t.Fatal(err)
	}
	return s, m, d.ID
}

func set(path, value string) edit.Op { return edit.Op{Path: path, Value: json.RawMessage(value)} }

func read(t *testing.T, s *store.Store, m store.Member, id store.ID) (string, int64) {
	t.Helper()
	d, err := s.Document(t.Context(), m.Workspace, id)
	if err != nil {
		t.Fatal(err)
	}
	return string(d.Doc), d.Seq
}

func TestEditsUndoAndRedoRoundTrip(t *testing.T) {
	s, m, id := open(t)
	states := []string{}
	note := func() { doc, _ := read(t, s, m, id); states = append(states, doc) }
	note()
	for i, op := range []edit.Op{set("/name", `"Spring"`), set("/cards/0/headline", `"Quiet"`), set("/cards/0/pictures/-", `{"file":"a"}`), {Path: "/cards/0/headline"}, set("/cards/0/when", `{"date":"2027-05-01"}`)} {
		if _, err := s.Edit(t.Context(), m.Workspace, store.Change{ID: id, Op: op, Base: int64(i), Client: "tab", By: m}); err != nil {
			t.Fatalf("%s: %v", op.Path, err)
		}
		note()
	}
	revert := func(redo bool, want string) {
		t.Helper()
		if _, _, err := s.Revert(t.Context(), m.Workspace, id, store.Reverting{By: m, Client: "tab", Redo: redo}); err != nil {
			t.Fatal(err)
		}
		if doc, _ := read(t, s, m, id); doc != want {
			t.Errorf("the document is %s\nwant %s", doc, want)
		}
	}
	for i := len(states) - 2; i >= 0; i-- {
		revert(false, states[i])
	}
	if _, _, err := s.Revert(t.Context(), m.Workspace, id, store.Reverting{By: m, Client: "tab"}); !errors.Is(err, store.ErrNothing) {
		t.Errorf("undoing past the start: %v", err)
	}
	for i := 1; i < len(states); i++ {
		revert(true, states[i])
	}
	revert(false, states[len(states)-2])
	if _, err := s.Edit(t.Context(), m.Workspace, store.Change{ID: id, Op: set("/name", `"New"`), Base: 1 << 40, Client: "tab", By: m}); err != nil {
		t.Fatal(err)
	}
	if d, err := s.Document(t.Context(), m.Workspace, id); err != nil || d.Steps().Redo || !d.Steps().Undo {
		t.Errorf("after something new: %+v %v", d.Steps(), err)
	}
	// undo appends: nothing of the log is ever taken away
	var rows int
	if err := s.Pool.QueryRow(t.Context(), `select count(*) from edits where document_id = $1`, id).Scan(&rows); err != nil || rows != 5+5+5+1+1 {
		t.Errorf("%d rows in the log, want 17 (%v)", rows, err)
	}
}

func TestTypingIsOneStepOfUndo(t *testing.T) {
	s, m, id := open(t)
	before, _ := read(t, s, m, id)
	word := "Chanterelles"
	for i := range word {
		if _, err := s.Edit(t.Context(), m.Workspace, store.Change{ID: id, Op: set("/cards/0/headline", fmt.Sprintf("%q", word[:i+1])), Base: int64(i), Client: "tab", By: m, Typing: true}); err != nil {
			t.Fatal(err)
		}
	}
	doc, seq := read(t, s, m, id)
	if seq != int64(len(word)) {
		t.Errorf("seq %d after %d keys", seq, len(word))
	}
	if _, _, err := s.Revert(t.Context(), m.Workspace, id, store.Reverting{By: m, Client: "tab"}); err != nil {
		t.Fatal(err)
	}
	if got, _ := read(t, s, m, id); got != before {
		t.Errorf("one undo leaves %s", got)
	}
	if _, _, err := s.Revert(t.Context(), m.Workspace, id, store.Reverting{By: m, Client: "tab", Redo: true}); err != nil {
		t.Fatal(err)
	}
	if got, _ := read(t, s, m, id); got != doc {
		t.Errorf("redo gives %s, want %s", got, doc)
	}
	// another tab's keys are a step of their own
	if _, err := s.Edit(t.Context(), m.Workspace, store.Change{ID: id, Op: set("/cards/0/headline", `"Other"`), Base: 1 << 40, Client: "other", By: m, Typing: true}); err != nil {
		t.Fatal(err)
	}
	if _, _, err := s.Revert(t.Context(), m.Workspace, id, store.Reverting{By: m, Client: "other"}); err != nil {
		t.Fatal(err)
	}
	if got, _ := read(t, s, m, id); got != doc {
		t.Errorf("undoing the other tab's keys leaves %s", got)
	}
}

func TestConflictsAndMerges(t *testing.T) {
	s, m, id := open(t)
	edits := func(client, path, value string, base int64) error {
		_, err := s.Edit(t.Context(), m.Workspace, store.Change{ID: id, Op: set(path, value), Base: base, Client: client, By: m})
		return err
	}
	if err := edits("one", "/cards/0/headline", `"First"`, 0); err != nil {
		t.Fatal(err)
	}
	for what, c := range map[string]struct {
		path     string
		conflict bool
	}{
		"another field":         {"/cards/0/body", false},
		"the same field":        {"/cards/0/headline", true},
		"all the cards":         {"/cards", true},
		"a name that starts so": {"/cards/0/headlineNote", false},
	} {
		err := edits("two", c.path, `"x"`, 0)
		var conflict *store.Conflict
		if errors.As(err, &conflict) != c.conflict || (err != nil && !c.conflict) {
			t.Errorf("%s: %v", what, err)
		}
		if c.conflict && what == "the same field" && (string(conflict.Theirs) != `"First"` || string(conflict.Yours) != `"x"`) {
			t.Errorf("the conflict names %s and %s", conflict.Theirs, conflict.Yours)
		}
	}
}

// TestManyWritersLoseNothing lets twenty tabs write different fields at once.
func TestManyWritersLoseNothing(t *testing.T) {
	s, m, id := open(t)
	var wg sync.WaitGroup
	for i := range 20 {
		wg.Go(func() {
			if _, err := s.Edit(context.Background(), m.Workspace, store.Change{ID: id, Op: set(fmt.Sprintf("/f%d", i), `true`), Base: 0, Client: fmt.Sprint(i), By: m}); err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	doc, seq := read(t, s, m, id)
	o, err := edit.ParseObject([]byte(doc))
	if err != nil || seq != 20 {
		t.Fatalf("seq %d, %v", seq, err)
	}
	for i := range 20 {
		if o.Get(fmt.Sprintf("f%d", i)) != true {
			t.Errorf("f%d is lost", i)
		}
	}
}

func TestRefusedEditsLeaveNoTrace(t *testing.T) {
	s, m, id := open(t)
	before, _ := read(t, s, m, id)
	for _, op := range []edit.Op{set("/cards/7/headline", `"x"`), set("/name/deeper", `"x"`), set("", `"x"`)} {
		if _, err := s.Edit(t.Context(), m.Workspace, store.Change{ID: id, Op: op, Client: "tab", By: m}); err == nil {
			t.Errorf("%q was taken", op.Path)
		}
	}
	if after, seq := read(t, s, m, id); after != before || seq != 0 {
		t.Errorf("the document became %s at %d", after, seq)
	}
}

func TestUnknownFieldsAndOrderSurvive(t *testing.T) {
	s, m, id := open(t)
	if _, err := s.Edit(t.Context(), m.Workspace, store.Change{ID: id, Op: set("/name", `"x"`), Client: "tab", By: m}); err != nil {
		t.Fatal(err)
	}
	if doc, _ := read(t, s, m, id); doc != `{"name":"x","cards":[{"id":"c"}],"unknown":{"kept":[1,2.50]}}` {
		t.Errorf("stored as %s", doc)
	}
}

func TestWorkspacesDoNotMix(t *testing.T) {
	s, m, id := open(t)
	other, err := s.CreateUser(t.Context(), "b@two.example", "Bo", "hash", "Bo's", time.Time{})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Document(t.Context(), other.Workspace, id); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("reading: %v", err)
	}
	if _, err := s.Edit(t.Context(), other.Workspace, store.Change{ID: id, Op: set("/name", `"x"`), Client: "tab", By: other}); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("changing: %v", err)
	}
	if err := s.Archive(t.Context(), other.Workspace, id, true); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("archiving: %v", err)
	}
	if err := s.PutFile(t.Context(), m.ID, store.File{Workspace: m.Workspace, Hash: "h", Kind: "logo", Name: "n", Type: "image/png", Facts: []byte(`{}`)}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.File(t.Context(), other.Workspace, "logo", "h"); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a file of another workspace: %v", err)
	}
}

func TestListenersHearOfChanges(t *testing.T) {
	s, m, id := open(t)
	ctx, stop := context.WithCancel(t.Context())
	defer stop()
	heard := make(chan int64, 64)
	done := make(chan struct{})
	go func() {
		defer close(done)
		s.Listen(ctx, func(got store.ID, seq int64) {
			if got == id {
				heard <- seq
			}
		}, func(store.ID, string) {})
	}()
	// the listener may come up after the first changes: change until it hears
	for i := 0; ; i++ {
		docs, err := s.Edit(t.Context(), m.Workspace, store.Change{ID: id, Op: set("/name", fmt.Sprint(i)), Base: 1 << 40, Client: "tab", By: m})
		if err != nil {
			t.Fatal(err)
		}
		select {
		case got := <-heard:
			if got > docs[0].Seq {
				t.Errorf("heard of %d before it was made", got)
			}
			stop()
			<-done
			return
		case <-time.After(50 * time.Millisecond):
			if i > 200 {
				t.Fatal("nobody hears of changes")
			}
		}
	}
}

// TestStepsAreCounted: whatever is done, taken back and put back, a document says as its
// log does whether there is something to take back or to put back.
func TestStepsAreCounted(t *testing.T) {
	s, m, id := open(t)
	rng := rand.New(rand.NewPCG(6, 1))
	var undo, redo []int // as an editor would keep them
	for i := range 120 {
		d, err := s.Document(t.Context(), m.Workspace, id)
		if err != nil {
			t.Fatal(err)
		}
		if got := d.Steps(); got.Undo != (len(undo) > 0) || got.Redo != (len(redo) > 0) || d.Undoable != len(undo) || d.Redoable != len(redo) {
			t.Fatalf("after %d steps: %d to take back and %d to put back, want %d and %d", i, d.Undoable, d.Redoable, len(undo), len(redo))
		}
		kind := rng.IntN(4)
		switch {
		case kind == 0 && len(undo) > 0:
			redo, undo = append(redo, undo[len(undo)-1]), undo[:len(undo)-1]
			_, _, err = s.Revert(t.Context(), m.Workspace, id, store.Reverting{By: m, Client: "tab"})
		case kind == 1 && len(redo) > 0:
			undo, redo = append(undo, redo[len(redo)-1]), redo[:len(redo)-1]
			_, _, err = s.Revert(t.Context(), m.Workspace, id, store.Reverting{By: m, Client: "tab", Redo: true})
		default:
			// keys in one field join the step before, where that was keys in it as well
			path := []string{"/a", "/b"}[rng.IntN(2)]
			var docs []store.Document
			docs, err = s.Edit(t.Context(), m.Workspace, store.Change{ID: id, Op: set(path, fmt.Sprint(i)), Base: 1 << 40, Client: "tab", By: m, Typing: true})
			if err == nil {
				if docs[0].Undoable > len(undo) {
					undo = append(undo, i)
				} else if last := len(undo) - 1; last < 0 || len(redo) > 0 {
					t.Fatalf("step %d joined one that is not there", i)
				}
				redo = nil
			}
		}
		if err != nil {
			t.Fatal(err)
		}
	}
}

// TestAChangeMadeUpOfOldNews is refused, and the same change may be made again.
func TestAChangeMadeUpOfOldNews(t *testing.T) {
	s, m, id := open(t)
	_, seq := read(t, s, m, id)
	if _, err := s.Edit(t.Context(), m.Workspace, store.Change{ID: id, Op: set("/name", `"Theirs"`), Base: 1 << 40, Client: "other", By: m}); err != nil {
		t.Fatal(err)
	}
	c := store.Change{ID: id, Kind: "brief", Op: set("/a", `1`), Base: 1 << 40, Client: "tab", By: m.Sending("a change"), Seen: &seq}
	if _, err := s.Edit(t.Context(), m.Workspace, c); !errors.Is(err, store.ErrMoved) {
		t.Errorf("made of what stood there before: %v", err)
	}
	seq++
	if _, err := s.Edit(t.Context(), m.Workspace, c); err != nil {
		t.Errorf("made of what stands there: %v", err)
	}
	c.By = m.Sending("a change")
	if _, err := s.Edit(t.Context(), m.Workspace, c); !errors.Is(err, store.ErrRepeated) {
		t.Errorf("once more: %v", err)
	}
}

// Two people on one document: each takes back their own steps, the last first, and puts
// them back; what somebody else changed since stays as they have it. Going back to a point
// takes back whatever came after it.
func TestUndoIsOnesOwn(t *testing.T) {
	s, m, id := open(t)
	ann, annes := m.ID, m
	ben, err := s.CreateUser(t.Context(), "ben@larkmoor.example", "Ben", "x", "Ben's", time.Time{})
	if err != nil {
		t.Fatal(err)
	}
	do := func(who store.ID, path, value string) {
		t.Helper()
		if _, err := s.Edit(t.Context(), m.Workspace, store.Change{ID: id, Op: set(path, value), Base: 1 << 40, Client: who.String(), By: store.Member{User: store.User{ID: who}, Role: "owner"}}); err != nil {
			t.Fatal(err)
		}
	}
	revert := func(r store.Reverting) error {
		_, _, err := s.Revert(t.Context(), m.Workspace, id, r)
		return err
	}
	says := func(when string, want ...string) {
		t.Helper()
		doc, _ := read(t, s, m, id)
		for _, w := range want {
			if !strings.Contains(doc, w) {
				t.Errorf("%s it is %s, without %s", when, doc, w)
			}
		}
	}
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	do(ann, "/name", `"A1"`)
	do(ben.ID, "/cards/0/headline", `"B1"`)
	do(ann, "/cards/0/body", `"A2"`)
	do(ben.ID, "/cards/0/body", `"B2"`)
	// Ann's last step was written over by Ben: the one before it goes
	must(revert(store.Reverting{By: annes}))
	says("after Ann's undo", `"B1"`, `"body":"B2"`)
	if doc, _ := read(t, s, m, id); strings.Contains(doc, "A1") {
		t.Errorf("Ann's first step is still there: %s", doc)
	}
	if err := revert(store.Reverting{By: annes}); !errors.Is(err, store.ErrNothing) {
		t.Errorf("what is left of Ann lies under what Ben wrote: %v", err)
	}
	// something new of Ben's leaves Ann's redo alone
	do(ben.ID, "/cards/0/website", `"b.example"`)
	must(revert(store.Reverting{By: annes, Redo: true}))
	says("after Ann's redo", `"A1"`, `"B1"`, `"B2"`, "b.example")
	// Ben takes two of his back, and Ann's body shows again; then hers can go
	must(revert(store.Reverting{By: ben}))
	must(revert(store.Reverting{By: ben}))
	says("after Ben's undo", `"A1"`, `"B1"`, `"body":"A2"`)
	must(revert(store.Reverting{By: annes}))
	must(revert(store.Reverting{By: annes}))
	says("after all of Ann's", `"B1"`)
	must(revert(store.Reverting{By: annes, Redo: true}))
	must(revert(store.Reverting{By: annes, Redo: true}))
	says("put back", `"A1"`, `"B1"`, `"body":"A2"`)
	// anyone's
	must(s.RevertTo(t.Context(), m.Workspace, id, annes, "tab", 0, math.MaxInt64))
	if doc, _ := read(t, s, m, id); strings.Contains(doc, "B1") || strings.Contains(doc, "A1") || strings.Contains(doc, "A2") {
		t.Errorf("gone back to the start it is %s", doc)
	}
}
