package raster

import (
	"context"
	"encoding/gob"
	"errors"
	"fmt"
	"io"
	"os/exec"
	"runtime"
	"sync"
	"time"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/gate"
)

// Drawing happens in a few processes of our own that live on from one drawing
// to the next. What nobody waits for any more is ended by ending its process;
// a fault in a drawing, and the memory it takes, stay outside of the server.

// heavy is the gate in front of the drawing processes and of reading files in: as many at a time
// as there are processors, and together no more memory than heavyBytes.
var heavy = sync.OnceValue(func() *gate.Gate { return gate.New(max(2, runtime.NumCPU()), heavyBytes) })

// heavyBytes is how much memory the processes behind the gate may take together,
// by estimate.
const heavyBytes = 1500 << 20

const (
	drawMode   = "draw"
	behindMode = "draw-behind" // what nobody waits for in a request
	longMode   = "draw-long"   // and takes long
	farMode    = "draw-far"    // of somebody who has much more waiting
	// longPixels is from how many pixels a drawing takes long: a piece at twice its size has some
	// 6 million.
	longPixels = 8_000_000
	// workerTasks is after how many drawings a worker makes room for a fresh one:
	// the C libraries do not give all memory back.
	workerTasks = 400
	// taskTime is how long one drawing may take, searches for a weight included.
	taskTime = 90 * time.Second
)

// task is one thing a worker does: exactly one of its parts is set.
type task struct {
	Draw    *drawTask
	Cut     *cutTask
	Palette *paletteTask
	Weigh   *drawTask // by quality, to Limit
	Colours *coloursTask
}

type drawTask struct {
	SVG    string
	Out    Output
	Pixels int // of the drawing, about
	Limit  int // bytes
	// Bare is the same drawing without the glyphs of words, drawn in the quality
	// that was found; "" for none.
	Bare string
}

// drawModes are the modes in which a child draws, with its niceness, as of nice(1).
var drawModes = map[string]int{drawMode: 0, behindMode: gate.Nice, longMode: gate.NiceLong, farMode: gate.NiceFar}

// pixels are about how many a task draws.
func (t task) pixels() (n int) {
	for _, d := range []*drawTask{t.Draw, t.Weigh} {
		if d != nil {
			n += d.Pixels
		}
	}
	return n
}

type cutTask struct {
	Picture []byte
	Ref     scene.PictureRef
	W, H    int
}

type paletteTask struct {
	Whole, Ground []byte // PNG, with words and without
	Exact         []colour.RGB
	Bare          bool // the answer is the one without words
	Limit         int  // bytes
}

type coloursTask struct {
	Picture []byte
	N       int
}

// answer is what comes of a task.
type answer struct {
	Data  []byte
	Kind  string // media type
	How   string
	Heavy bool // over the limit all the same
	Found []colour.Found
	Err   string
}

// worker is a process that draws.
type worker struct {
	cmd  *exec.Cmd
	mode string
	in   io.WriteCloser
	out  io.ReadCloser
	enc  *gob.Encoder
	dec  *gob.Decoder
	done int
}

// workers are the idle ones of the process, shared by every studio. How many
// there are at once is the gate's affair.
type workers struct {
	mu   sync.Mutex
	idle map[string][]*worker // by mode
}

var drawers = sync.OnceValue(func() *workers { return &workers{idle: map[string][]*worker{}} })

func (p *workers) get(mode string) (*worker, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if n := len(p.idle[mode]); n > 0 {
		w := p.idle[mode][n-1]
		p.idle[mode] = p.idle[mode][:n-1]
		return w, nil
	}
	return startWorker(mode)
}

func (p *workers) put(w *worker) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.idle[w.mode] = append(p.idle[w.mode], w)
}

func startWorker(mode string) (*worker, error) {
	cmd, err := childCommand(context.Background(), mode)
	if err != nil {
		return nil, err
	}
	in, err := cmd.StdinPipe()
	if err != nil {
		return nil, err
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := cmd.Start(); err != nil {
		return nil, err
	}
	return &worker{cmd: cmd, mode: mode, in: in, out: out, enc: gob.NewEncoder(in), dec: gob.NewDecoder(out)}, nil
}

// end closes its input, which a worker takes as the end, or with kill does not
// wait for what it is doing.
func (w *worker) end(kill bool) {
	if kill {
		_ = w.cmd.Process.Kill()
	}
	_ = w.in.Close()
	go func() { _ = w.cmd.Wait() }()
}

// errDrawing is a drawing that ended its worker.
var errDrawing = errors.New("this could not be drawn: it is more than a drawing may take")

// do has a worker do something, as soon as one is free. When ctx ends first, the
// worker is ended with what it was doing.
func (p *workers) do(ctx context.Context, t task) (answer, error) {
	leave, err := heavy().Enter(ctx, t.bytes())
	if err != nil {
		return answer{}, err
	}
	defer leave()
	mode := drawMode
	if gate.Behind(ctx) {
		switch mode = behindMode; {
		case gate.Far(ctx):
			mode = farMode
		case t.pixels() >= longPixels:
			mode = longMode
		}
	}
	w, err := p.get(mode)
	if err != nil {
		return answer{}, err
	}
	waited := w.done > 0 // for something to do, and may have died of something else
	a, err := p.have(ctx, w, t)
	if waited && errors.Is(err, errDied) {
		if w, err = startWorker(mode); err != nil {
			return answer{}, err
		}
		a, err = p.have(ctx, w, t)
	}
	if errors.Is(err, errDied) {
		err = errDrawing
	}
	return a, err
}

// errDied is a worker that ended without an answer.
var errDied = errors.New("the process that draws has ended")

// have has a worker do something and puts it back; [errDied] where it ended instead.
func (p *workers) have(ctx context.Context, w *worker, t task) (answer, error) {
	limit, cancel := context.WithTimeout(ctx, taskTime)
	defer cancel()
	type result struct {
		a   answer
		err error
	}
	got := make(chan result, 1)
	go func() {
		var r result
		if r.err = w.enc.Encode(t); r.err == nil {
			r.err = w.dec.Decode(&r.a)
		}
		got <- r
	}()
	select {
	case r := <-got:
		if r.err != nil {
			w.end(true)
			return answer{}, errDied
		}
		if w.done++; w.done < workerTasks {
			p.put(w)
		} else {
			w.end(false)
		}
		if r.a.Err != "" {
			return r.a, errors.New(r.a.Err)
		}
		return r.a, nil
	case <-limit.Done():
		w.end(true)
		if ctx.Err() != nil {
			return answer{}, ctx.Err()
		}
		return answer{}, errDrawing
	}
}

// bytes is about how much memory a task takes in its worker.
func (t task) bytes() int {
	const pixel = 10 // bytes, drawn and encoded
	switch {
	case t.Draw != nil:
		return 2*len(t.Draw.SVG) + pixel*t.Draw.Pixels
	case t.Weigh != nil:
		return 2*len(t.Weigh.SVG) + pixel*t.Weigh.Pixels
	case t.Cut != nil:
		return len(t.Cut.Picture) + 3*Announced(t.Cut.Picture)
	case t.Palette != nil:
		return 2*pixel*Announced(t.Palette.Whole) + len(t.Palette.Whole)
	case t.Colours != nil:
		return len(t.Colours.Picture) + Announced(t.Colours.Picture)
	}
	return 0
}

// drawLoop is a worker: it does what it is told until its input ends.
func drawLoop(in io.Reader, out io.Writer) {
	dec, enc := gob.NewDecoder(in), gob.NewEncoder(out)
	for {
		var t task
		if dec.Decode(&t) != nil {
			return
		}
		a, err := t.run()
		if err != nil {
			a.Err = err.Error()
		}
		if enc.Encode(a) != nil {
			return
		}
	}
}

func (t task) run() (a answer, err error) {
	switch {
	case t.Draw != nil:
		a.Data, err = drawFile(t.Draw.SVG, t.Draw.Out)
	case t.Weigh != nil:
		return t.Weigh.weigh()
	case t.Palette != nil:
		return t.Palette.run()
	case t.Cut != nil:
		a.Data, a.Kind, err = cut(t.Cut.Picture, t.Cut.Ref, t.Cut.W, t.Cut.H)
	case t.Colours != nil:
		a.Found, err = colours(t.Colours.Picture, t.Colours.N)
	default:
		err = fmt.Errorf("an empty task")
	}
	return a, err
}

// Heavy waits for a place at the gate that drawing and reading files in pass, for so many bytes of
// memory; leave gives it back.
func Heavy(ctx context.Context, bytes int) (leave func(), err error) {
	return heavy().Enter(ctx, bytes)
}
