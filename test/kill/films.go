package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"time"
)

// films has the worker make a video and kills it at a random moment, so many times: each video
// is done once and whole, the same bytes whenever it was cut short.
func films(kills int) error {
	if kills == 0 {
		return nil
	}
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	g, err := newGround(ctx)
	if err != nil {
		return err
	}
	defer g.close()
	p, err := newPerson(g.urls, 0)
	if err != nil {
		return err
	}
	p.send(p.brief+"/video/sync", map[string]any{"client": "kill", "video": map[string]any{"music": "market-day", "shots": []any{
		map[string]any{"role": "hook", "headline": "Quiet water, first strokes", "seconds": 4}, map[string]any{"role": "call", "headline": "Save a seat", "seconds": 4},
	}}})
	files := map[string]int{}
	cut := 0
	for n := range kills {
		job, err := p.film()
		if err != nil {
			return err
		}
		begun, err := g.until(ctx, job, func(v video) bool { return v.state == "working" || v.over() })
		if err != nil {
			return err
		}
		time.Sleep(time.Duration(rand.IntN(4000)) * time.Millisecond)
		if begun.over() {
			return errors.New("a video was made before it could be killed")
		}
		if err := g.worker().again(); err != nil {
			return err
		}
		v, err := g.until(ctx, job, video.over)
		if err != nil {
			return err
		}
		if v.state != "done" || v.times != 1 || v.file == "" {
			return fmt.Errorf("video %d: %s, done %d times: %q", n+1, v.state, v.times, v.file)
		}
		if v.attempt > 1 {
			cut++
		}
		files[v.file]++
	}
	fmt.Printf("%d videos, the worker killed while each was made: %d cut short, each done once, %d different files\n", kills, cut, len(files))
	if len(files) != 1 || cut == 0 {
		return errors.New("that is not the same file each time, or none was cut short")
	}
	return nil
}

// film asks for the brief's video.
func (p *person) film() (string, error) {
	var got struct{ Job string }
	err := json.Unmarshal(p.send(p.brief+"/video/make", map[string]any{"client": "kill", "place": "video-square", "format": "mp4"}), &got)
	if err == nil && got.Job == "" {
		err = errors.New("there is no job")
	}
	return got.Job, err
}

// video is what became of one.
type video struct {
	state   string
	attempt int
	file    string // its hash
	times   int    // it became done
}

func (v video) over() bool { return v.state != "waiting" && v.state != "working" }

// until waits for a job of a video to be as it is to be.
func (g *ground) until(ctx context.Context, job string, is func(video) bool) (v video, err error) {
	for limit := time.Now().Add(2 * time.Minute); ; time.Sleep(20 * time.Millisecond) {
		err := g.st.Pool.QueryRow(ctx, `select state, attempt, coalesce(result->>'file', ''), (select count(*) from became_done where job = j.id) from jobs j where id = $1`, job).Scan(&v.state, &v.attempt, &v.file, &v.times)
		if err != nil {
			return v, err
		}
		if is(v) {
			return v, nil
		}
		if time.Now().After(limit) {
			return v, fmt.Errorf("a video stays %s", v.state)
		}
	}
}
