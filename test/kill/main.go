// Command kill ends servers, the worker and the database over and over while people edit
// (words, lists, their order, undo), have parcels packed, approve pieces, comment and invite
// others by mail, and counts what is lost and what is made twice: nothing may be.
// The people send as the pages do: one change at a time, each with an id, tried again
// until it is answered, by whichever server answers.
//
//	go run ./test/kill -kills 400 -databases 40 -videos 10
package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"log"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/google/uuid"

	"aspenridge/internal/core/edit"
	"aspenridge/internal/store"
	"aspenridge/test/stage"
)

func main() {
	log.SetFlags(0)
	kills := flag.Int("kills", 400, "how often a server or the worker is killed")
	databases := flag.Int("databases", 40, "how often the database is killed")
	videos := flag.Int("videos", 10, "how often the worker is killed while it makes a video")
	flag.Parse()
	if err := films(*videos); err != nil {
		log.Fatal("kill: ", err)
	}
	if *kills+*databases == 0 {
		return
	}
	if err := run(*kills, *databases); err != nil {
		log.Fatal("kill: ", err)
	}
}

// writers is how many people edit at once, each a brief of their own.
const writers = 4

// slot is a place a program runs in, started anew each time it is killed.
type slot struct {
	start func() (*stage.Program, error)
	now   *stage.Program
}

func (s *slot) again() error {
	if s.now != nil {
		s.now.Kill()
	}
	var err error
	for range 100 {
		if s.now, err = s.start(); err == nil {
			return nil
		}
		time.Sleep(100 * time.Millisecond)
	}
	return err
}

// open starts two servers that do no jobs and a worker that does.
func open(ctx context.Context, dir, database string) (slots []*slot, urls []string, err error) {
	binary, err := stage.Binary(dir)
	if err != nil {
		return nil, nil, err
	}
	at := stage.Data{Database: database, Files: filepath.Join(dir, "files")}
	for range 2 {
		listen := "127.0.0.1:0"
		s := &slot{start: func() (*stage.Program, error) { return stage.Serve(ctx, binary, at, listen, "-workers", "0") }}
		slots = append(slots, s)
		if err := s.again(); err != nil {
			return slots, nil, err
		}
		listen = strings.TrimPrefix(s.now.URL, "http://") // it comes back where it was
		urls = append(urls, s.now.URL)
	}
	s := &slot{start: func() (*stage.Program, error) { return stage.Work(ctx, binary, at) }}
	return append(slots, s), urls, s.again()
}

// ground is two servers, a worker and the database they share.
type ground struct {
	slots []*slot
	urls  []string // of the servers
	st    *store.Store
	close func()
}

// worker is the slot of the program that does jobs.
func (g *ground) worker() *slot { return g.slots[len(g.slots)-1] }

func newGround(ctx context.Context) (g *ground, err error) {
	dir, err := os.MkdirTemp("", "aspenridge-kill-")
	if err != nil {
		return nil, err
	}
	database, drop, err := stage.NewDatabase(ctx)
	if err != nil {
		os.RemoveAll(dir)
		return nil, err
	}
	g = &ground{}
	g.close = func() { // whatever ends this ends them too
		for _, s := range g.slots {
			if s.now != nil {
				s.now.Kill()
			}
		}
		if g.st != nil {
			g.st.Close()
		}
		drop()
		os.RemoveAll(dir)
	}
	if g.slots, g.urls, err = open(ctx, dir, database); err == nil {
		g.st, err = store.Open(ctx, database, 10*time.Second)
	}
	if err == nil {
		err = countDone(ctx, g.st)
	}
	if err != nil {
		g.close()
	}
	return g, err
}

func run(kills, databases int) error {
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	root, err := stage.Root()
	if err != nil {
		return err
	}
	g, err := newGround(ctx)
	if err != nil {
		return err
	}
	defer g.close()
	var people []*person
	for n := range writers {
		p, err := newPerson(g.urls, n)
		if err != nil {
			return err
		}
		people = append(people, p)
	}
	stop := make(chan struct{})
	var editing sync.WaitGroup
	var answered atomic.Int64
	for _, p := range people {
		editing.Go(func() {
			for {
				select {
				case <-stop:
					return
				default:
					p.step()
					answered.Add(1)
				}
			}
		})
	}
	start := time.Now()
	recovered, err := g.kill(root, kills, databases, &answered)
	if err != nil {
		return err
	}
	took := time.Since(start)
	close(stop)
	editing.Wait()
	asked, undone, twice, cutShort, err := parcels(ctx, g.st, people)
	if err != nil {
		return err
	}
	lost, doubled := 0, 0
	for _, p := range people {
		l, d, err := p.compare(ctx, g.st)
		if err != nil {
			return err
		}
		lost, doubled = lost+l, doubled+d
		if l, d, err = p.told(ctx, g.st); err != nil {
			return err
		}
		lost, doubled = lost+l, doubled+d
	}
	fmt.Printf("%d changes answered in %s, %d tries in all; servers and worker killed %d times, the database %d times (%d recoveries); %d lost, %d doubled; %d parcels asked for, %d cut short at least once, %d not packed, %d packed twice\n",
		answered.Load(), took.Round(time.Second), tries.Load(), kills, databases, recovered, lost, doubled, asked, cutShort, undone, twice)
	if lost+doubled+undone+twice > 0 || recovered < databases || asked == 0 {
		return errors.New("that is too many")
	}
	return nil
}

// kill ends servers and worker at random moments, and the database now and then, while
// people edit; it says how often they were answered again after that.
func (g *ground) kill(root string, kills, databases int, answered *atomic.Int64) (recovered int, err error) {
	every := 0
	if databases > 0 {
		every = max(1, kills/databases)
	}
	for n := range max(kills, databases*every) {
		time.Sleep(time.Duration(150+rand.IntN(900)) * time.Millisecond)
		if n < kills {
			if err := g.slots[rand.IntN(len(g.slots))].again(); err != nil {
				return recovered, err
			}
		}
		if every > 0 && n%every == every-1 && recovered < databases {
			if err := killDatabase(root); err != nil {
				return recovered, err
			}
			before := answered.Load()
			for limit := time.Now().Add(time.Minute); answered.Load() < before+writers; {
				if time.Now().After(limit) {
					return recovered, fmt.Errorf("after the database was killed the %dth time nothing is answered any more", recovered+1)
				}
				time.Sleep(20 * time.Millisecond)
			}
			recovered++
		}
	}
	return recovered, nil
}

// countDone has the database note every time a job becomes done.
func countDone(ctx context.Context, st *store.Store) error {
	_, err := st.Pool.Exec(ctx, `
		create table became_done (job uuid not null);
		create function note_done() returns trigger language plpgsql as 'begin insert into became_done values (new.id); return new; end';
		create trigger note_done after update on jobs for each row when (new.state = 'done') execute function note_done()`)
	return err
}

// parcels waits until all that were asked for are over and counts what became of them.
func parcels(ctx context.Context, st *store.Store, people []*person) (asked, undone, twice, cutShort int, err error) {
	var ids []string
	for _, p := range people {
		ids = append(ids, p.parcels...)
	}
	left, limit := -1, time.Time{}
	for ; ; time.Sleep(200 * time.Millisecond) {
		open := 0
		if err := st.Pool.QueryRow(ctx, `select count(*) from jobs where state in ('waiting', 'working')`).Scan(&open); err != nil {
			return 0, 0, 0, 0, err
		}
		if open == 0 {
			break
		}
		if open != left {
			left, limit = open, time.Now().Add(time.Minute)
		}
		if time.Now().After(limit) {
			return 0, 0, 0, 0, fmt.Errorf("%d jobs are never done", open)
		}
	}
	err = st.Pool.QueryRow(ctx, `select count(*), count(*) filter (where not exists (select from jobs j where j.id = a.id and j.state = 'done')),
		(select count(*) from (select job from became_done group by job having count(*) > 1) d), (select count(*) from jobs where attempt > 1)
		from unnest($1::uuid[]) a(id)`, ids).Scan(&asked, &undone, &twice, &cutShort)
	return asked, undone, twice, cutShort, err
}

// killDatabase ends every process of the database at once and starts it again.
func killDatabase(root string) error {
	for _, how := range []string{"kill", "start"} {
		if out, err := exec.Command(filepath.Join(root, "scripts", "postgres"), how).CombinedOutput(); err != nil {
			return fmt.Errorf("scripts/postgres %s: %w: %s", how, err, out)
		}
	}
	return nil
}

var tries atomic.Int64

// person edits a brief: puts lines at the end of a list, renames it, takes the
// renaming back.
type person struct {
	at     []string // servers
	client *http.Client
	brief  string
	id     store.ID
	n      int
	lines  []string // those that were answered, in order
	name   string
	names  []string // what undo goes back to

	parcels  []string // the jobs of those that were asked for
	verdicts int      // on one piece
	said     int      // comments
	asked    int      // people, by mail
}

func newPerson(at []string, n int) (*person, error) {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, err
	}
	p := &person{at: at, client: &http.Client{Jar: jar, Timeout: 30 * time.Second}}
	r, err := p.client.PostForm(at[0]+"/sign-up", url.Values{"name": {"Writer"}, "email": {fmt.Sprintf("w%d@one.example", n)}, "password": {"ten or more letters"}})
	if err != nil {
		return nil, err
	}
	r.Body.Close()
	r, err = p.client.PostForm(at[0]+"/briefs", url.Values{})
	if err != nil {
		return nil, err
	}
	r.Body.Close()
	p.brief = strings.TrimSuffix(r.Request.URL.Path, "/start")
	p.id, err = uuid.Parse(strings.TrimPrefix(p.brief, "/briefs/"))
	return p, err
}

// send makes a change, trying one server after the other until it is answered.
func (p *person) send(path string, body any) (answer []byte) {
	data, err := json.Marshal(body)
	if err != nil {
		panic(err) // plain values
	}
	return p.post(path, "application/json", data)
}

// post sends something until it is answered, as the same change every time.
func (p *person) post(path, kind string, data []byte) (answer []byte) {
	id := uuid.NewString()
	for wait, n := 20*time.Millisecond, p.n; ; wait, n = min(2*wait, time.Second), n+1 {
		tries.Add(1)
		q, err := http.NewRequest(http.MethodPost, p.at[n%len(p.at)]+path, bytes.NewReader(data))
		if err != nil {
			panic(err)
		}
		q.Header.Set("Accept", "application/json")
		q.Header.Set("Content-Type", kind)
		q.Header.Set("X-Change", id)
		r, err := p.client.Do(q)
		if err == nil {
			words, readErr := io.ReadAll(r.Body)
			r.Body.Close()
			switch {
			case r.StatusCode == http.StatusOK && readErr == nil:
				return words
			case r.StatusCode < 500 && r.StatusCode != http.StatusTooManyRequests:
				log.Fatalf("%s is answered %s: %s", path, r.Status, words)
			}
		}
		time.Sleep(wait)
	}
}

func (p *person) step() {
	p.n++
	if p.n%100 == 1 {
		var got struct{ Job string }
		if err := json.Unmarshal(p.send(p.brief+"/parcel?format=png&names="+fmt.Sprint("{place}-", p.n), map[string]any{}), &got); err != nil || got.Job == "" {
			log.Fatalf("a parcel is answered %v, %v", got, err)
		}
		p.parcels = append(p.parcels, got.Job)
	}
	switch {
	case p.n%37 == 5:
		p.send(p.brief+"/proof/decide", map[string]any{"verdict": "approved", "seen": map[string]string{"feed-square": ""}})
		p.verdicts++
	case p.n%23 == 7:
		p.send(p.brief+"/proof/say", map[string]any{"id": uuid.NewString(), "piece": "feed-square", "words": fmt.Sprint("said ", p.n)})
		p.said++
	case p.n%150 == 60 && p.asked < mostAsked:
		p.post("/team/invite", "application/x-www-form-urlencoded", []byte(url.Values{"email": {fmt.Sprintf("guest%d-%s@two.example", p.n, p.id)}, "role": {"viewer"}}.Encode()))
		p.asked++
	}
	switch p.n % 4 {
	case 3:
		p.names = append(p.names, p.name)
		p.name = fmt.Sprintf("name %d", p.n)
		p.send(p.brief+"/edit", map[string]any{"path": "/name", "value": p.name, "client": "kill", "base": 1 << 40})
	case 0:
		p.send("/documents/"+p.id.String()+"/undo", map[string]any{"client": "kill"})
		p.name = p.names[len(p.names)-1]
		p.names = p.names[:len(p.names)-1]
	default:
		line := fmt.Sprintf("line %d", p.n)
		p.send(p.brief+"/edit", map[string]any{"path": "/cards/0/written/-", "value": line, "client": "kill", "base": 1 << 40})
		p.lines = append(p.lines, line)
	}
}

// mostAsked is how many people each writer invites: a network may a day invite 20.
const mostAsked = 4

// told counts the verdicts, comments and mails that are there more or less often than they were
// answered.
func (p *person) told(ctx context.Context, st *store.Store) (lost, doubled int, err error) {
	for what, c := range map[string]struct {
		query string
		want  int
	}{
		"verdicts":       {`select count(*) from proof_decisions where brief_id = $1`, p.verdicts},
		"verdicts noted": {`select count(*) from record where document_id = $1 and kind = 'verdict'`, p.verdicts},
		"comments":       {`select count(*) from proof_comments where brief_id = $1`, p.said},
		"mails":          {`select count(*) from mails where kind = 'invitation' and workspace_id = (select workspace_id from documents where id = $1)`, p.asked},
		"invitations":    {`select count(*) from invitations where workspace_id = (select workspace_id from documents where id = $1)`, p.asked},
	} {
		var n int
		if err := st.Pool.QueryRow(ctx, c.query, p.id).Scan(&n); err != nil {
			return 0, 0, err
		}
		if n != c.want {
			log.Printf("%d %s, %d were answered", n, what, c.want)
		}
		lost, doubled = lost+max(0, c.want-n), doubled+max(0, n-c.want)
	}
	return lost, doubled, nil
}

// compare counts what of the answered changes is not there, and what is there
// more than once.
func (p *person) compare(ctx context.Context, st *store.Store) (lost, doubled int, err error) {
	var doc []byte
	if err := st.Pool.QueryRow(ctx, `select doc::text::bytea from documents where id = $1`, p.id).Scan(&doc); err != nil {
		return 0, 0, err
	}
	o, err := edit.ParseObject(doc)
	if err != nil {
		return 0, 0, err
	}
	cards, _ := o.Get("cards").([]any)
	var list []any
	if len(cards) > 0 {
		if card, ok := cards[0].(*edit.Object); ok {
			list, _ = card.Get("written").([]any)
		}
	}
	var there []string
	for _, v := range list {
		there = append(there, fmt.Sprint(v))
	}
	seen := map[string]int{}
	for _, l := range there {
		seen[l]++
	}
	for _, l := range p.lines {
		if seen[l] == 0 {
			lost++
		}
		doubled += max(0, seen[l]-1)
	}
	if lost == 0 && doubled == 0 && !slices.Equal(there, p.lines) {
		lost++ // out of order
	}
	if name, _ := o.Get("name").(string); name != p.name {
		log.Printf("the name is %q, want %q: an undo went another number of steps back", name, p.name)
		doubled++
	}
	return lost, doubled, nil
}
