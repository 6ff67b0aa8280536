package test

import (
	"context"
	"encoding/json"
	"fmt"
	"github.com/google/uuid"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"aspenridge/demo"
	"aspenridge/internal/app"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/spec"
	"aspenridge/test/stage"
)

// loadKits and loadBriefs are how much there is in the workspace under load.
const loadKits, loadBriefs = 200, 200

// under is an application under load: the program in a process of its own, a
// workspace with much in it, and one with somebody who types.
type under struct {
	*stage.Stage
	member        app.Member // of the heavy workspace
	server        *stage.Program
	heavy, typing *http.Client
	kits, briefs  []string
	typed, card   string // the brief of the one who types, and its card
}

func signedIn(b testing.TB, at, email string) *http.Client {
	b.Helper()
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar, Transport: &http.Transport{MaxIdleConnsPerHost: 100}}
	r, err := c.PostForm(at+"/sign-in", url.Values{"email": {email}, "password": {"ten or more letters"}})
	if err != nil || r.StatusCode != http.StatusOK {
		b.Fatal(r, err)
	}
	r.Body.Close()
	return c
}

func putUnderLoad(b *testing.B) *under {
	b.Helper()
	ctx := b.Context()
	s, err := stage.Open(ctx, stage.Options{})
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(s.Close)
	u := &under{Stage: s}
	must := func(err error) {
		b.Helper()
		if err != nil {
			b.Fatal(err)
		}
	}
	fill := func(email string, kits, briefs int) (m app.Member, kitIDs, briefIDs []app.ID) {
		m, err := s.App.People.SignUp(ctx, "Somebody", email, "ten or more letters")
		must(err)
		first, err := demo.LoadKit(ctx, s.App, m)
		must(err)
		kitIDs = append(kitIDs, first)
		for range kits - 1 {
			id, err := s.App.Kits.DuplicateKit(ctx, m, first)
			must(err)
			kitIDs = append(kitIDs, id)
		}
		one, err := demo.LoadBrief(ctx, s.App, m, first, "beginners.json", "shoreline")
		must(err)
		briefIDs = append(briefIDs, one)
		set, err := s.App.Sets.Set(ctx, m, one)
		must(err)
		for n := range briefs - 1 {
			id, err := s.App.Briefs.ImportBrief(ctx, m, kitIDs[n%len(kitIDs)], set.Doc.Doc)
			must(err)
			briefIDs = append(briefIDs, id)
		}
		return m, kitIDs, briefIDs
	}
	heavy, kits, briefs := fill("heavy@one.example", loadKits, loadBriefs)
	u.member = heavy
	m, _, mine := fill("typing@two.example", 1, 1)
	for _, id := range kits {
		u.kits = append(u.kits, id.String())
	}
	for _, id := range briefs {
		u.briefs = append(u.briefs, id.String())
	}
	set, err := s.App.Sets.Set(ctx, m, mine[0])
	must(err)
	u.typed, u.card = mine[0].String(), set.Brief.Cards[0].ID
	// its places at most 13, as the downloads'
	_, err = s.App.Documents.Edit(ctx, m, mine[0], app.Change{Base: app.Latest, Op: edit.Op{Path: "/name", Value: []byte(`"Typed"`)}})
	must(err)
	binary, err := stage.Binary(b.TempDir())
	must(err)
	u.server, err = stage.Serve(ctx, binary, stage.Data{Database: s.Database, Files: s.Files}, "127.0.0.1:0")
	must(err)
	b.Cleanup(u.server.Kill)
	u.heavy, u.typing = signedIn(b, u.server.URL, "heavy@one.example"), signedIn(b, u.server.URL, "typing@two.example")
	return u
}

func (u *under) get(c *http.Client, path string) (time.Duration, int) {
	start := time.Now()
	q, _ := http.NewRequest(http.MethodGet, u.server.URL+path, nil)
	q.Header.Set("Accept-Encoding", "gzip") // as a browser does; unpacking is not the server's work
	r, err := c.Do(q)
	if err != nil {
		return time.Since(start), 0
	}
	_, _ = io.Copy(io.Discard, r.Body)
	r.Body.Close()
	return time.Since(start), r.StatusCode
}

func share(list []time.Duration, of float64) time.Duration {
	slices.Sort(list)
	return list[min(len(list)-1, int(of*float64(len(list))))]
}

// keys types words, a key after the other, and says how long each was answered after;
// between two each is called.
func (u *under) keys(b *testing.B, words string, each func()) (took []time.Duration) {
	b.Helper()
	for i := range words {
		body := fmt.Sprintf(`{"client":"load","base":%d,"have":{},"write":{"card":%q,"field":"headline","reach":"set","text":%q}}`, 1<<40, u.card, words[:i+1])
		start := time.Now()
		r, err := u.typing.Post(u.server.URL+"/briefs/"+u.typed+"/sync", "application/json", strings.NewReader(body))
		if err != nil || r.StatusCode != http.StatusOK {
			b.Fatal(r, err)
		}
		_, _ = io.Copy(io.Discard, r.Body)
		r.Body.Close()
		took = append(took, time.Since(start))
		if each != nil {
			each()
		}
		time.Sleep(60 * time.Millisecond)
	}
	return took
}

// page is a page somebody asks for.
func (u *under) page(rng *rand.Rand) string {
	kit, brief := "/kits/"+u.kits[rng.IntN(len(u.kits))], "/briefs/"+u.briefs[rng.IntN(len(u.briefs))]
	return []string{"/desk", "/kits", kit, kit, brief + "/mat", brief + "/mat", brief + "/mat", brief + "/start", brief + "/handover", "/channels"}[rng.IntN(10)]
}

// BenchmarkLoad asks for 50 pages a second over 200 kits and 200 briefs for
// twenty-five seconds. Bar: 95 in a hundred within twice the reference, after the first five,
// in which a server that has just started reads everything for the first time;
// those are reported apart.
func BenchmarkLoad(b *testing.B) {
	u := putUnderLoad(b)
	rng := rand.New(rand.NewPCG(4, 2))
	page := func() string { return u.page(rng) }
	var mu sync.Mutex
	const cold, pages = 250, 1250
	ref := newReference()
	var took, first []time.Duration
	failed := 0
	for b.Loop() {
		var wg sync.WaitGroup
		tick := time.NewTicker(20 * time.Millisecond)
		for n := range pages {
			<-tick.C
			path := page()
			wg.Go(func() {
				d, status := u.get(u.heavy, path)
				mu.Lock()
				defer mu.Unlock()
				if n < cold {
					first = append(first, d)
				} else {
					took = append(took, d)
				}
				if status != http.StatusOK {
					failed++
				}
			})
		}
		tick.Stop()
		wg.Wait()
	}
	p95 := share(took, 0.95)
	b.ReportMetric(p95.Seconds()*1000, "ms-p95")
	b.ReportMetric(share(took, 0.5).Seconds()*1000, "ms-median")
	b.ReportMetric(share(first, 0.95).Seconds()*1000, "ms-p95-cold")
	b.ReportMetric(float64(stage.Resident(u.server.Pid)>>20), "MB")
	if failed > 0 {
		b.Errorf("%d of %d pages failed", failed, pages)
	}
	ref.bar(b, "a page at p95", p95, 2)
}

// BenchmarkDownloads draws twenty downloads of 13 pieces at 4k at once while
// somebody types in another workspace. Bars: the server under 400 MB, with the
// processes that draw under 1,000, a key answered within once the reference at the median.
func BenchmarkDownloads(b *testing.B) {
	u := putUnderLoad(b)
	ref := newReference()
	for b.Loop() {
		ctx, stop := context.WithCancel(b.Context())
		var wg, begun sync.WaitGroup
		for n := range 20 {
			begun.Add(1)
			wg.Go(func() {
				q, _ := http.NewRequestWithContext(ctx, http.MethodGet, u.server.URL+"/briefs/"+u.briefs[n]+"/set.zip?scale=4k", nil)
				r, err := u.heavy.Do(q)
				begun.Done()
				if err != nil {
					return
				}
				defer r.Body.Close()
				_, _ = io.Copy(io.Discard, r.Body)
			})
		}
		begun.Wait()
		peak, all := 0, 0
		look := func() {
			peak, all = max(peak, stage.Resident(u.server.Pid)), max(all, stage.HeldByAll(u.server.Pid))
		}
		took := u.keys(b, "Written while twenty downloads are drawn beside it, key after key", look)
		for range 50 { // and some time beyond
			look()
			time.Sleep(100 * time.Millisecond)
		}
		stop()
		wg.Wait()
		median := share(took, 0.5)
		b.ReportMetric(median.Seconds()*1000, "ms-key-median")
		b.ReportMetric(share(took, 0.95).Seconds()*1000, "ms-key-p95")
		b.ReportMetric(float64(peak>>20), "MB-peak")
		b.ReportMetric(float64(all>>20), "MB-peak-with-drawers")
		ref.bar(b, "a key at the median", median, 1)
		bar(b, "memory in MB", float64(peak>>20), 400)
		bar(b, "memory with those who draw, in MB", float64(all>>20), 1000)
	}
}

// BenchmarkKeysUnderLoad types in one workspace while another asks for 50 pages a second
// over 200 briefs and has ten parcels packed at 4k. Bar: 95 keys in a hundred answered
// within once the reference, and within ten times what they take in a quiet moment.
func BenchmarkKeysUnderLoad(b *testing.B) {
	u := putUnderLoad(b)
	rng := rand.New(rand.NewPCG(5, 2))
	words := "Written while ten parcels are packed beside it and fifty pages are asked for in every second"
	ref := newReference()
	for b.Loop() {
		quiet := u.keys(b, words, nil)
		done := make(chan struct{})
		var asking, pages sync.WaitGroup
		asking.Go(func() {
			tick := time.NewTicker(20 * time.Millisecond)
			defer tick.Stop()
			for {
				select {
				case <-done:
					return
				case <-tick.C:
					path := u.page(rng)
					pages.Go(func() { u.get(u.heavy, path) })
				}
			}
		})
		time.Sleep(20 * time.Second) // pages are read for the first time
		for range 10 {
			u.pack(b, u.large(b))
		}
		u.drawn(b)
		took := u.keys(b, words, nil)
		drawn, of := u.packing(b)
		close(done)
		asking.Wait()
		pages.Wait()
		p95 := share(took, 0.95)
		b.ReportMetric(share(quiet, 0.5).Seconds()*1000, "ms-key-quiet")
		b.ReportMetric(share(took, 0.5).Seconds()*1000, "ms-key-median")
		b.ReportMetric(p95.Seconds()*1000, "ms-key-p95")
		b.ReportMetric(float64(stage.Resident(u.server.Pid)>>20), "MB")
		b.Logf("%d of %d files were drawn by then", drawn, of)
		ref.bar(b, "a key at p95", p95, 1)
		bar(b, "a key at p95, to a quiet one at p95", p95.Seconds()/share(quiet, 0.95).Seconds(), 10)
	}
}

// pack has the files of a brief drawn at 4k, asking again where too much is asked for.
func (u *under) pack(b *testing.B, id string) {
	b.Helper()
	for range 100 {
		r, err := u.heavy.Post(u.server.URL+"/briefs/"+id+"/parcel?scale=4k&look=all", "application/json", strings.NewReader("{}"))
		if err != nil {
			b.Fatal(err)
		}
		said, _ := io.ReadAll(r.Body)
		r.Body.Close()
		switch r.StatusCode {
		case http.StatusOK:
			return
		case http.StatusServiceUnavailable:
			time.Sleep(100 * time.Millisecond)
		default:
			b.Fatal(r.Status, string(said))
		}
	}
	b.Fatal("the files are not packed, however often one asks")
}

// drawn waits until files of a parcel are being drawn.
func (u *under) drawn(b *testing.B) {
	b.Helper()
	for deadline := time.Now().Add(time.Minute); ; time.Sleep(100 * time.Millisecond) {
		if drawn, of := u.packing(b); drawn > 0 && of >= 200 {
			return
		}
		if time.Now().After(deadline) {
			b.Fatal("no file of 200 is drawn after a minute")
		}
	}
}

// packing says how many files of parcels that are not packed yet have been drawn, and of
// how many; it fails where there is none.
func (u *under) packing(b *testing.B) (drawn, of int) {
	b.Helper()
	err := u.Store.Pool.QueryRow(b.Context(), `select coalesce(sum(steps), 0), coalesce(sum(of_steps), 0) from jobs where state in ('waiting', 'working')`).Scan(&drawn, &of)
	if err != nil {
		b.Fatal(err)
	}
	return drawn, of
}

// BenchmarkKeysBesideAnExport types in one workspace while another has a set of over 200
// files packed at 4k. Bar: at the median and at p95 a key takes at most twice what it
// takes in a quiet moment, asked for side by side.
func BenchmarkKeysBesideAnExport(b *testing.B) {
	u := putUnderLoad(b)
	large := u.large(b)
	words := "Written while two hundred files are drawn at 4k for somebody else, key after key after key"
	for b.Loop() {
		quiet := u.keys(b, words, nil)
		u.pack(b, large)
		u.drawn(b)
		took := u.keys(b, words, nil)
		drawn, of := u.packing(b)
		for name, at := range map[string]float64{"median": 0.5, "p95": 0.95} {
			was, is := share(quiet, at), share(took, at)
			b.ReportMetric(is.Seconds()*1000, "ms-key-"+name)
			b.ReportMetric(is.Seconds()/was.Seconds(), "x-quiet-"+name)
			bar(b, "a key at the "+name+", to a quiet one", is.Seconds()/was.Seconds(), 2)
		}
		b.Logf("%d of %d files were drawn by then", drawn, of)
	}
}

// large puts a brief of twenty cards into every place there is, in four looks.
func (u *under) large(b *testing.B) string {
	b.Helper()
	set, err := u.App.Sets.Set(b.Context(), u.member, uuid.MustParse(u.briefs[0]))
	if err != nil {
		b.Fatal(err)
	}
	var doc map[string]any
	if err := json.Unmarshal(set.Doc.Doc, &doc); err != nil {
		b.Fatal(err)
	}
	one := doc["cards"].([]any)[0].(map[string]any)
	delete(one, "id")
	doc["cards"] = slices.Repeat([]any{one}, brief.MaxCards)
	doc["placements"] = spec.AllImages()
	raw, err := json.Marshal(doc)
	if err != nil {
		b.Fatal(err)
	}
	id, err := u.App.Briefs.ImportBrief(b.Context(), u.member, uuid.MustParse(u.kits[0]), raw)
	if err != nil {
		b.Fatal(err)
	}
	for _, look := range set.Job.LooksFor(piece.Wish{Quick: true}, 4) {
		if _, err := u.App.Sets.KeepLook(b.Context(), u.member, id, "", look, true); err != nil {
			b.Fatal(err)
		}
	}
	return id.String()
}

// bar fails a benchmark that misses its bar: at most, or with a negative one at
// least as much.
func bar(b *testing.B, what string, got, most float64) {
	b.Helper()
	if most >= 0 && got > most || most < 0 && got < -most {
		b.Errorf("%s: %.2f, the bar is %.2f", what, got, most)
	}
}
