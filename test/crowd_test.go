package test

import (
	"bufio"
	"context"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"aspenridge/demo"
	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
	"aspenridge/test/stage"
)

// spent is the processor time this process has taken, s.
func spent(b *testing.B) float64 {
	b.Helper()
	var u syscall.Rusage
	if err := syscall.Getrusage(syscall.RUSAGE_SELF, &u); err != nil {
		b.Fatal(err)
	}
	return float64(u.Utime.Nano()+u.Stime.Nano()) / 1e9
}

// BenchmarkCrowd is three hundred people watching one brief by its link: what share of a core
// that takes while nothing happens (they and the server in one process), and how long an edit
// takes to reach the last of them.
func BenchmarkCrowd(b *testing.B) {
	const people = 300
	s, err := stage.Open(b.Context(), stage.Options{Demo: true})
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(s.Close)
	ctx, cancel := context.WithCancel(b.Context())
	defer cancel()
	m, err := s.App.People.SignIn(ctx, demo.Email, demo.Password)
	if err != nil {
		b.Fatal(err)
	}
	sets, _, _, err := s.App.Briefs.FindBriefs(ctx, m, "", 0)
	if err != nil {
		b.Fatal(err)
	}
	id := sets[0].Doc.ID
	token, err := s.App.Proofs.Link(ctx, m, id, app.WishedLink{For: "everybody"})
	if err != nil {
		b.Fatal(err)
	}
	client := &http.Client{Transport: &http.Transport{MaxConnsPerHost: people + 10}}
	var here, told atomic.Int64
	var gone sync.WaitGroup
	for range people {
		gone.Go(func() {
			r, err := http.NewRequestWithContext(ctx, http.MethodGet, s.URL+"/see/"+token+"/events", nil)
			if err != nil {
				b.Error(err)
				return
			}
			res, err := client.Do(r)
			if err != nil {
				if ctx.Err() == nil {
					b.Error(err)
				}
				return
			}
			defer func() { _ = res.Body.Close() }()
			for lines := bufio.NewScanner(res.Body); lines.Scan(); {
				switch {
				case lines.Text() == ": hello":
					here.Add(1)
				case strings.HasPrefix(lines.Text(), "data:"):
					told.Add(1)
				}
			}
		})
	}
	wait := func(n *atomic.Int64, until int64) {
		b.Helper()
		for late := time.Now().Add(20 * time.Second); n.Load() < until; time.Sleep(time.Millisecond) {
			if time.Now().After(late) {
				b.Fatalf("%d of %d", n.Load(), until)
			}
		}
	}
	wait(&here, people)
	from, began := spent(b), time.Now()
	time.Sleep(21 * time.Second) // what is measured is that nothing happens, a beat of all of them in it
	idle := 100 * (spent(b) - from) / time.Since(began).Seconds()
	worst := time.Duration(0)
	for i := 0; b.Loop(); i++ {
		told.Store(0)
		began := time.Now()
		if _, err := s.App.Documents.Edit(ctx, m, id, app.Change{Base: app.Latest, Client: fmt.Sprint(i), Op: edit.Op{Path: "/name", Value: fmt.Appendf(nil, `"Otter %d"`, i)}}); err != nil {
			b.Fatal(err)
		}
		wait(&told, people)
		worst = max(worst, time.Since(began))
	}
	b.ReportMetric(idle, "idle-%-of-core")
	b.ReportMetric(float64(worst.Milliseconds()), "reaches-all-ms")
	cancel()
	gone.Wait()
}
