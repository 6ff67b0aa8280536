package stage

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
)

// Program is the program itself in a process of its own: a server, or a worker.
type Program struct {
	URL string // of a server
	Pid int
	cmd *exec.Cmd
}

// Data says which database and which files a program works on.
type Data struct {
	Database, Files string
	Env             []string // more of the environment, NAME=value
}

// Binary builds the program and returns where it is.
func Binary(dir string) (string, error) {
	root, err := Root()
	if err != nil {
		return "", err
	}
	out := filepath.Join(dir, "aspenridge")
	cmd := exec.Command("go", "build", "-o", out, "./cmd/aspenridge")
	cmd.Dir = root
	if said, err := cmd.CombinedOutput(); err != nil {
		return "", fmt.Errorf("building: %w: %s", err, said)
	}
	return out, nil
}

// Serve starts a server, with more arguments if need be.
func Serve(ctx context.Context, binary string, at Data, listen string, more ...string) (*Program, error) {
	p, said, err := at.start(ctx, binary, append([]string{"serve", "-listen", listen}, more...)...)
	if err != nil {
		return nil, err
	}
	if _, p.URL, _ = strings.Cut(said, " at "); p.URL == "" {
		return nil, fmt.Errorf("the server says %q", said)
	}
	return p, nil
}

// Work starts a worker.
func Work(ctx context.Context, binary string, at Data) (*Program, error) {
	p, _, err := at.start(ctx, binary, "work")
	return p, err
}

// start starts a program and waits for the first line it says.
func (w Data) start(ctx context.Context, binary string, args ...string) (p *Program, said string, err error) {
	cmd := exec.CommandContext(ctx, binary, append(args, "-database", w.Database, "-files", w.Files)...)
	cmd.Env = append(append(os.Environ(), "MALLOC_ARENA_MAX=2"), w.Env...)
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, "", err
	}
	if err := cmd.Start(); err != nil {
		return nil, "", err
	}
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		_ = cmd.Process.Kill()
		return nil, "", fmt.Errorf("aspenridge %s did not start: %w", args[0], err)
	}
	go func() { _, _ = io.Copy(io.Discard, out); _ = cmd.Wait() }()
	return &Program{cmd: cmd, Pid: cmd.Process.Pid}, strings.TrimSpace(line), nil
}

// Kill ends it at once, as kill -9 does.
func (p *Program) Kill() { _ = p.cmd.Process.Kill() }

// HeldByAll is how much memory a process and all it has started hold, in bytes: what they share
// counts once (the proportional set size of the kernel).
func HeldByAll(pid int) int {
	sum := 0
	for _, id := range startedBy(pid) {
		sum += held(id)
	}
	return sum
}

// Running is how many processes of a name a process has started, or those it has started.
func Running(pid int, name string) (n int) {
	for _, id := range startedBy(pid) {
		if comm, err := os.ReadFile(fmt.Sprintf("/proc/%d/comm", id)); err == nil && strings.TrimSpace(string(comm)) == name {
			n++
		}
	}
	return n
}

// startedBy are a process and all it has started.
func startedBy(pid int) (all []int) {
	parents := map[int]int{}
	dirs, _ := filepath.Glob("/proc/[0-9]*")
	for _, dir := range dirs {
		stat, err := os.ReadFile(dir + "/stat")
		if err != nil {
			continue // it has ended
		}
		id, _ := strconv.Atoi(filepath.Base(dir))
		if f := strings.Fields(string(stat[strings.LastIndexByte(string(stat), ')')+1:])); len(f) > 1 {
			parents[id], _ = strconv.Atoi(f[1])
		}
	}
	for id := range parents {
		of := id
		for of != pid && of > 1 {
			of = parents[of]
		}
		if of == pid {
			all = append(all, id)
		}
	}
	return all
}

func held(pid int) int {
	data, err := os.ReadFile(fmt.Sprintf("/proc/%d/smaps_rollup", pid))
	if err != nil {
		return 0
	}
	for line := range strings.Lines(string(data)) {
		if rest, ok := strings.CutPrefix(line, "Pss:"); ok {
			kB, _ := strconv.Atoi(strings.Fields(rest)[0])
			return kB << 10
		}
	}
	return 0
}

// Resident is how much memory a process has, in bytes; 0 when there is none.
func Resident(pid int) int {
	data, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return 0
	}
	for line := range strings.Lines(string(data)) {
		if rest, ok := strings.CutPrefix(line, "VmRSS:"); ok {
			kB, _ := strconv.Atoi(strings.Fields(rest)[0])
			return kB << 10
		}
	}
	return 0
}
