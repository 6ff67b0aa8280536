package test

import (
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"
)

// parcel has the files of the brief of the one who types packed and says how long that took.
func (u *under) parcel(b *testing.B, n int) time.Duration {
	b.Helper()
	start := time.Now()
	r, err := u.typing.Post(fmt.Sprintf("%s/briefs/%s/parcel?format=png&names={place}-%d", u.server.URL, u.typed, n), "application/json", strings.NewReader("{}"))
	if err != nil {
		b.Fatal(err)
	}
	said, _ := io.ReadAll(r.Body)
	r.Body.Close()
	var got struct{ Job string }
	if err := json.Unmarshal(said, &got); err != nil || r.StatusCode != http.StatusOK {
		b.Fatal(r.Status, string(said))
	}
	for deadline := time.Now().Add(3 * time.Minute); ; time.Sleep(20 * time.Millisecond) {
		var state string
		if err := u.Store.Pool.QueryRow(b.Context(), `select state from jobs where id = $1`, got.Job).Scan(&state); err != nil {
			b.Fatal(err)
		}
		if state == "done" {
			return time.Since(start)
		}
		if state == "failed" || time.Now().After(deadline) {
			b.Fatalf("the parcel is %s", state)
		}
	}
}

// BenchmarkBesideAHostileWorkspace fills every queue from one workspace (parcels of 4k and small
// ones, videos, films that come in, pages) and has parcels packed and pages shown in another, as
// it has without it.
// Bars: the parcel takes at most twice its quiet time, pages are there within 1.4 times the reference at p95.
func BenchmarkBesideAHostileWorkspace(b *testing.B) {
	u := putUnderLoad(b)
	ref := newReference()
	large := u.large(b)
	film := filepath.Join(b.TempDir(), "film.mp4")
	if out, err := exec.Command("ffmpeg", "-nostdin", "-v", "error", "-y", "-f", "lavfi", "-i", "testsrc2=s=1280x720:d=60:r=30", "-preset", "ultrafast", "-pix_fmt", "yuv420p", film).CombinedOutput(); err != nil {
		b.Fatal(err, string(out))
	}
	for n := 0; b.Loop(); n++ {
		// somebody looks at pages while three parcels are packed, in both cases
		looksOn := func(from int) (parcels, pages []time.Duration) {
			packed := make(chan struct{})
			var looking sync.WaitGroup
			looking.Go(func() {
				for {
					for _, path := range []string{"/desk", "/briefs/" + u.typed + "/mat", "/kits"} {
						took, status := u.get(u.typing, path)
						if status != http.StatusOK {
							b.Errorf("%s is answered %d", path, status)
						}
						pages = append(pages, took)
					}
					select {
					case <-packed:
						return
					case <-time.After(100 * time.Millisecond):
					}
				}
			})
			for i := range 9 {
				parcels = append(parcels, u.parcel(b, from+i))
			}
			close(packed)
			looking.Wait()
			return parcels, pages
		}
		quiet, _ := looksOn(100 * n)
		done := make(chan struct{})
		var busy sync.WaitGroup
		again := func(f func(i int)) {
			busy.Go(func() {
				for i := 0; ; i++ {
					select {
					case <-done:
						return
					default:
						f(i)
					}
				}
			})
		}
		post := func(path, kind string, body io.Reader) {
			if r, err := u.heavy.Post(u.server.URL+path, kind, body); err == nil {
				_, _ = io.Copy(io.Discard, r.Body)
				r.Body.Close()
			}
			time.Sleep(50 * time.Millisecond)
		}
		again(func(i int) {
			post(fmt.Sprintf("/briefs/%s/parcel?scale=4k&look=all&names={place}-{look}-%d-%d", large, n, i), "application/json", strings.NewReader("{}"))
		})
		again(func(i int) {
			post(fmt.Sprintf("/briefs/%s/parcel?format=png&names={place}-%d-%d", u.briefs[1+i%50], n, i), "application/json", strings.NewReader("{}"))
		})
		again(func(int) {
			if f, err := os.Open(film); err == nil {
				post("/briefs/"+u.briefs[2]+"/clips?name=film.mp4", "video/mp4", f)
				_ = f.Close()
			}
		})
		rng := rand.New(rand.NewPCG(7, uint64(n)))
		var mu sync.Mutex
		for range 4 {
			again(func(int) {
				mu.Lock()
				path := u.page(rng)
				mu.Unlock()
				u.get(u.heavy, path)
			})
		}
		for deadline := time.Now().Add(time.Minute); ; time.Sleep(100 * time.Millisecond) { // every line is full
			waiting := 0
			if err := u.Store.Pool.QueryRow(b.Context(), `select count(*) from jobs where state = 'waiting' and workspace_id = $1`, u.member.Workspace).Scan(&waiting); err != nil {
				b.Fatal(err)
			}
			if waiting >= 15 {
				break
			}
			if time.Now().After(deadline) {
				b.Fatalf("only %d jobs wait", waiting)
			}
		}
		beside, pages := looksOn(100*n + 50)
		close(done)
		busy.Wait()
		q, p95 := share(quiet, 0.5), share(pages, 0.95)
		b.Logf("parcels %v quiet, %v beside", quiet, beside)
		b.ReportMetric(q.Seconds()*1000, "ms-parcel-quiet")
		b.ReportMetric(share(beside, 0.5).Seconds()*1000, "ms-parcel-beside")
		b.ReportMetric(p95.Seconds()*1000, "ms-page-p95")
		bar(b, "a parcel beside a hostile workspace, of its quiet time", share(beside, 0.5).Seconds()/q.Seconds(), 2)
		ref.bar(b, "a page at p95", p95, 1.4)
	}
}
