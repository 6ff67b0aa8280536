package raster

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"strings"
	"syscall"
	"time"

	"aspenridge/internal/gate"
)

// childEnv names what a child process of ours is to do.
const childEnv = "ASPENRIDGE_CHILD"

// facesEnv lists the faces whose bytes follow the file a child reads.
const facesEnv = "ASPENRIDGE_FACES"

// childMemory is how many bytes of address space a child may have. The largest
// picture taken in (64 megapixels) needs 0.7 GB to be made upright.
const childMemory = 3 << 30

// childTime is how long a child may take, as the clock has it, before it is killed: for what
// neither works nor ends. What wastes the processor's time is ended by childCPU.
const childTime = 2 * time.Minute

// pipesTime is how long what a child wrote may take to be read once it has ended: on a busy machine
// a second was not enough.
const pipesTime = 30 * time.Second

// childCPU is how much processor time, in seconds, a child that imports has, fontCPU one that
// proves a face.
const (
	childCPU = 10
	fontCPU  = 20
)

func childCommand(ctx context.Context, mode string) (*exec.Cmd, error) {
	self, err := os.Executable()
	if err != nil {
		return nil, err
	}
	cmd := exec.CommandContext(ctx, self)
	cmd.Env = []string{childEnv + "=" + mode, "MALLOC_ARENA_MAX=2", "GOMAXPROCS=1", "PATH=" + os.Getenv("PATH"), "HOME=/nonexistent", "TZ=UTC"}
	cmd.WaitDelay = pipesTime
	return cmd, nil
}

// runChild runs this program again as a child that only imports one file. Its
// answer is one line of JSON and then the bytes of the result. Nothing an
// uploaded file holds is read anywhere else.
func runChild(ctx context.Context, mode string, data []byte, answer any) ([]byte, error) {
	return runChildWith(ctx, mode, data, nil, answer)
}

// runChildWith is [runChild] with faces of somebody's own that words in the file may be set in.
func runChildWith(ctx context.Context, mode string, data []byte, faces []ownFace, answer any) ([]byte, error) {
	// uncompressed, and once more while it is turned upright
	leave, err := heavy().Enter(ctx, 50<<20+len(data)+11*Announced(data))
	if err != nil {
		return nil, err
	}
	defer leave()
	limit, cancel := context.WithTimeout(ctx, childTime)
	defer cancel()
	cmd, err := childCommand(limit, mode)
	if err != nil {
		return nil, err
	}
	cmd.Stdin = bytes.NewReader(data)
	if len(faces) > 0 {
		in := []io.Reader{cmd.Stdin}
		for _, f := range faces {
			in = append(in, bytes.NewReader(f.data))
		}
		cmd.Stdin = io.MultiReader(in...)
		list, err := json.Marshal(faces)
		if err != nil {
			return nil, err
		}
		cmd.Env = append(cmd.Env, facesEnv+"="+string(list))
	}
	var stdout, stderr bytes.Buffer
	cmd.Stdout, cmd.Stderr = &stdout, &limited{&stderr, 4096}
	err = cmd.Run()
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	if err := gate.Spent(ctx, cmd.ProcessState); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrFile, err)
	}
	if err != nil {
		return nil, childError(limit, err, stderr.String())
	}
	head, payload, ok := bytes.Cut(stdout.Bytes(), []byte("\n"))
	if !ok {
		return nil, fmt.Errorf("%w: it could not be read", ErrFile)
	}
	if err := json.Unmarshal(head, answer); err != nil {
		return nil, fmt.Errorf("import child: %w", err)
	}
	return payload, nil
}

// childError turns how a child ended into words: what it said itself, or that
// the file was too much for it.
func childError(limit context.Context, err error, said string) error {
	var exit *exec.ExitError
	line, _, _ := strings.Cut(strings.TrimSpace(said), "\n")
	switch {
	case errors.As(err, &exit) && exit.ExitCode() == childRefuses && line != "":
		return fmt.Errorf("%w: %s", ErrFile, line)
	case limit.Err() != nil, exit != nil && exit.ExitCode() == -1: // killed: too long, or too much processor time
		return fmt.Errorf("%w: reading it takes too long; save it anew, simpler or smaller", ErrFile)
	case exit != nil:
		return fmt.Errorf("%w: it is damaged, or made to be more than can be read; save it anew from the program it comes from", ErrFile)
	}
	return err
}

// childRefuses is the exit status of a child that says on stderr why it refuses
// a file; every other one is an accident.
const childRefuses = 3

type limited struct {
	w io.Writer
	n int
}

func (l *limited) Write(p []byte) (int, error) {
	if k := min(len(p), l.n); k > 0 {
		_, _ = l.w.Write(p[:k])
		l.n -= k
	}
	return len(p), nil
}

// ChildMain must be the first call of every main (and TestMain) of a program
// that imports or draws files: in a child process it does that and exits.
func ChildMain() {
	mode := os.Getenv(childEnv)
	if mode == "" {
		return
	}
	_ = syscall.Setrlimit(syscall.RLIMIT_AS, &syscall.Rlimit{Cur: childMemory, Max: childMemory})
	_ = syscall.Setrlimit(syscall.RLIMIT_CORE, &syscall.Rlimit{})
	nice, draws := drawModes[mode]
	if nice > 0 {
		_ = syscall.Setpriority(syscall.PRIO_PROCESS, 0, nice)
	}
	if draws {
		drawLoop(os.Stdin, os.Stdout)
		os.Exit(0)
	}
	cpu := uint64(childCPU)
	if mode == "font" {
		cpu = fontCPU
	}
	_ = syscall.Setrlimit(syscall.RLIMIT_CPU, &syscall.Rlimit{Cur: cpu, Max: cpu + 1})
	data, err := io.ReadAll(io.LimitReader(os.Stdin, MaxBytes+mostFaceBytes+1))
	if list := os.Getenv(facesEnv); err == nil && list != "" {
		data, err = takeFaces(data, list)
	}
	var head any
	var payload []byte
	if err == nil {
		switch mode {
		case "picture":
			head, payload, err = importPicture(data)
		case "logo":
			head, payload, err = importLogo(data)
		case "cut":
			head, payload, err = cutLogo(data)
		case "clean":
			var clean CleanedSVG
			clean, err = CleanSVG(data, "")
			payload = []byte(clean.File())
		case "font":
			head, payload, err = importFont(data)
		default:
			err = fmt.Errorf("mode %q", mode)
		}
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(childRefuses)
	}
	line, err := json.Marshal(head)
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(childRefuses)
	}
	os.Stdout.Write(append(line, '\n'))
	os.Stdout.Write(payload)
	os.Exit(0)
}

// cpuTime is the processor time this process has used.
func cpuTime() time.Duration {
	var u syscall.Rusage
	_ = syscall.Getrusage(syscall.RUSAGE_SELF, &u)
	return time.Duration(u.Utime.Nano() + u.Stime.Nano())
}
