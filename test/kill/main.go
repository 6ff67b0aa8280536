// Command kill ends the server and the database over and over while people edit,
// and counts what is lost and what is made twice: nothing may be. The people
// send as the pages do: one change at a time, each with an id, tried again until
// it is answered.
//
//	go run ./test/kill -servers 200 -databases 40
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
	servers := flag.Int("servers", 200, "how often the server is killed")
	databases := flag.Int("databases", 40, "how often the database is killed")
	flag.Parse()
	if err := run(*servers, *databases); err != nil {
		log.Fatal("kill: ", err)
	}
}

// writers is how many people edit at once, each a brief of their own.
const writers = 4

func run(servers, databases int) error {
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	root, err := stage.Root()
	if err != nil {
		return err
	}
	dir, err := os.MkdirTemp("", "aspenridge-kill-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	binary, err := stage.Binary(dir)
	if err != nil {
		return err
	}
	database, drop, err := stage.NewDatabase(ctx)
	if err != nil {
		return err
	}
	defer drop()
	files := filepath.Join(dir, "files")
	server, err := stage.Serve(ctx, binary, database, files, "127.0.0.1:0")
	if err != nil {
		return err
	}
	defer func() { // whatever ends this ends the server too
		if server != nil {
			server.Kill()
		}
	}()
	address := strings.TrimPrefix(server.URL, "http://")
	var people []*person
	for n := range writers {
		p, err := newPerson(server.URL, n)
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
	every := 1
	if databases > 0 {
		every = max(1, servers/databases)
	}
	recovered := 0
	for n := range max(servers, databases*every) {
		time.Sleep(time.Duration(150+(n*37)%300) * time.Millisecond)
		if n < servers {
			server.Kill()
			if server, err = again(ctx, binary, database, files, address); err != nil {
				return err
			}
		}
		if databases > 0 && n%every == every-1 && recovered < databases {
			if err := killDatabase(root); err != nil {
				return err
			}
			before := answered.Load()
			for limit := time.Now().Add(time.Minute); answered.Load() < before+writers; {
				if time.Now().After(limit) {
					return fmt.Errorf("after the database was killed the %dth time nothing is answered any more", recovered+1)
				}
				time.Sleep(20 * time.Millisecond)
			}
			recovered++
		}
	}
	close(stop)
	editing.Wait()
	server.Kill()
	st, err := store.Open(ctx, database, 10*time.Second)
	if err != nil {
		return err
	}
	defer st.Close()
	lost, doubled := 0, 0
	for _, p := range people {
		l, d, err := p.compare(ctx, st)
		if err != nil {
			return err
		}
		lost, doubled = lost+l, doubled+d
	}
	fmt.Printf("%d changes answered in %s, %d tries in all; the server killed %d times, the database %d times (%d recoveries); %d lost, %d doubled\n",
		answered.Load(), time.Since(start).Round(time.Second), tries.Load(), servers, databases, recovered, lost, doubled)
	if lost > 0 || doubled > 0 || recovered < databases {
		return errors.New("that is too many")
	}
	return nil
}

// again starts the server where it was.
func again(ctx context.Context, binary, database, files, address string) (*stage.Server, error) {
	var err error
	for range 50 {
		var s *stage.Server
		if s, err = stage.Serve(ctx, binary, database, files, address); err == nil {
			return s, nil
		}
		time.Sleep(100 * time.Millisecond)
	}
	return nil, err
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
	at     string
	client *http.Client
	brief  string
	id     store.ID
	n      int
	lines  []string // those that were answered, in order
	name   string
	names  []string // what undo goes back to
}

func newPerson(at string, n int) (*person, error) {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, err
	}
	p := &person{at: at, client: &http.Client{Jar: jar, Timeout: 30 * time.Second}}
	r, err := p.client.PostForm(at+"/sign-up", url.Values{"name": {"Writer"}, "email": {fmt.Sprintf("w%d@one.example", n)}, "password": {"ten or more letters"}})
	if err != nil {
		return nil, err
	}
	r.Body.Close()
	r, err = p.client.PostForm(at+"/briefs", url.Values{})
	if err != nil {
		return nil, err
	}
	r.Body.Close()
	p.brief = strings.TrimSuffix(r.Request.URL.Path, "/start")
	p.id, err = uuid.Parse(strings.TrimPrefix(p.brief, "/briefs/"))
	return p, err
}

// send makes a change, trying until it is answered.
func (p *person) send(path string, body any) {
	data, err := json.Marshal(body)
	if err != nil {
		panic(err) // plain values
	}
	id := uuid.NewString()
	for wait := 20 * time.Millisecond; ; wait = min(2*wait, time.Second) {
		tries.Add(1)
		q, err := http.NewRequest(http.MethodPost, p.at+path, bytes.NewReader(data))
		if err != nil {
			panic(err)
		}
		q.Header.Set("Accept", "application/json")
		q.Header.Set("X-Change", id)
		r, err := p.client.Do(q)
		if err == nil {
			words, readErr := io.ReadAll(r.Body)
			r.Body.Close()
			switch {
			case r.StatusCode == http.StatusOK && readErr == nil:
				return
			case r.StatusCode < 500 && r.StatusCode != http.StatusTooManyRequests:
				log.Fatalf("%s is answered %s: %s", path, r.Status, words)
			}
		}
		time.Sleep(wait)
	}
}

func (p *person) step() {
	p.n++
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
		p.send(p.brief+"/edit", map[string]any{"path": "/written/-", "value": line, "client": "kill", "base": 1 << 40})
		p.lines = append(p.lines, line)
	}
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
	list, _ := o.Get("written").([]any)
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
