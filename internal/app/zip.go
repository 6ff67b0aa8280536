package app

import (
	"archive/zip"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"sync"
	"time"

	"aspenridge/internal/blob"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/raster"
)

// archiveTime is the time every entry of an archive carries, so that the same
// set gives the same bytes.
var archiveTime = time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)

// DownloadAll streams the chosen files as a ZIP and ends with a list of what was
// chosen for each. After each file tell hears how many of all there are, if it is given.
func (a Files) DownloadAll(ctx context.Context, m Member, s *Set, w io.Writer, h HandOver, tell func(steps, of int)) error {
	return a.writeArchive(ctx, m, []*Set{s}, w, h, tell)
}

// writeArchive is [Files.DownloadAll] of one set or several; of several each has a folder.
func (a *house) writeArchive(ctx context.Context, m Member, sets []*Set, w io.Writer, h HandOver, tell func(steps, of int)) error {
	plans := make([][]Plan, len(sets))
	films := make([][]MadeVideo, len(sets))
	all, done := 0, 0
	for i, s := range sets {
		var err error
		if plans[i], err = a.files.Plans(ctx, m, s, h); err != nil {
			return titled(sets, s, err)
		}
		if h.Videos {
			made, err := a.files.Videos(ctx, m, s)
			if err != nil {
				return titled(sets, s, err)
			}
			films[i] = slices.DeleteFunc(made, func(v MadeVideo) bool { return v.File == "" || v.Stale })
		}
		all += len(plans[i]) + len(films[i])
	}
	z := archiveWriter{zip.NewWriter(w)}
	var list strings.Builder
	folders := map[string]int{}
	for i, s := range sets {
		dir := ""
		if len(sets) > 1 {
			dir = piece.FileName(s.Title())
			if folders[dir]++; folders[dir] > 1 {
				dir += fmt.Sprintf("_%d", folders[dir])
			}
			dir += "/"
		}
		step := func() {
			if tell != nil {
				tell(done, all)
			}
			done++
		}
		err := a.archiveSet(ctx, m, s, z, dir, plans[i], h, &list, step)
		for _, v := range films[i] {
			if err == nil {
				step()
				err = a.archiveFilm(ctx, z, dir, v, &list)
			}
		}
		if err != nil {
			return titled(sets, s, err)
		}
	}
	f, err := z.entry("contents.txt")
	if err == nil {
		_, err = io.WriteString(f, list.String())
	}
	if err != nil {
		return err
	}
	return z.Close()
}

// archiveFilm writes a video that is made.
func (a *house) archiveFilm(ctx context.Context, z archiveWriter, dir string, v MadeVideo, list *strings.Builder) error {
	r, err := a.blobs.Reader(ctx, v.File)
	if errors.Is(err, blob.ErrMissing) { // it went meanwhile
		return nil
	}
	if err != nil {
		return err
	}
	defer r.Close()
	f, err := z.entry(dir + v.Name)
	if err == nil {
		_, err = io.Copy(f, r)
	}
	fmt.Fprintf(list, "\n%s\n  %s, %d kB\n", dir+v.Name, v.Place.Name, (v.Bytes+999)/1000)
	return err
}

// titled says which of several sets an error is about.
func titled(sets []*Set, s *Set, err error) error {
	if len(sets) == 1 {
		return err
	}
	return fmt.Errorf("%w (%s)", err, s.Title())
}

type archiveWriter struct{ *zip.Writer }

func (z archiveWriter) entry(name string) (io.Writer, error) {
	return z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Store, Modified: archiveTime})
}

// archiveSet writes the planned files of a set and what is said of them. While one file is sent
// the next is drawn, and no more: a reader who stops reading stops the drawing. What is drawn
// waits on disk, not in memory. Before each file tell is called.
func (a *house) archiveSet(ctx context.Context, m Member, s *Set, z archiveWriter, dir string, plans []Plan, h HandOver, list *strings.Builder, tell func()) error {
	done, err := a.sets.Finished(ctx, m, s.Doc.ID)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithCancel(ctx)
	var drawing sync.WaitGroup
	defer drawing.Wait() // nothing is left behind on disk
	defer cancel()
	next := make(chan drawnFile)
	drawing.Go(func() {
		defer close(next)
		for _, pl := range plans {
			d := a.drawToDisk(ctx, done, pl, h.Transparent)
			select {
			case next <- d:
			case <-ctx.Done():
				d.discard()
				return
			}
		}
	})
	fmt.Fprintf(list, "%s\n\n", s.Title())
	for _, pl := range plans {
		tell()
		d, ok := <-next
		if !ok {
			return ctx.Err()
		}
		if d.err != nil {
			return fmt.Errorf("%s: %w", pl.Key, d.err)
		}
		name := dir + pl.Name(d.Format)
		f, err := z.entry(name)
		if err == nil {
			_, err = io.Copy(f, d.file)
		}
		d.discard()
		if err != nil {
			return err
		}
		list.WriteString(pl.line(name, d.Fitted, d.bytes))
	}
	for _, c := range s.Captions() {
		fmt.Fprintf(list, "\nCaption, %s\n\n%s\n", c.Name, c.Text)
	}
	if dir != "" {
		list.WriteString("\n\n")
	}
	return nil
}

// drawnFile is a file that was drawnFile and waits on disk to be sent.
type drawnFile struct {
	raster.Fitted // without its data
	bytes         int
	file          *os.File
	err           error
}

func (d drawnFile) discard() {
	if d.file != nil {
		_ = d.file.Close()
	}
}

// drawToDisk draws a file and puts it into a file without a name, which is gone
// when it is closed.
func (a *house) drawToDisk(ctx context.Context, done map[string]Frozen, pl Plan, transparent bool) (d drawnFile) {
	d.Fitted, d.err = a.files.Draw(ctx, done, pl, transparent)
	if d.err != nil {
		return d
	}
	d.bytes = len(d.Data)
	f, err := os.CreateTemp("", "aspenridge-file-")
	if err != nil {
		d.err = err
		return d
	}
	_ = os.Remove(f.Name())
	if _, err = f.Write(d.Data); err == nil {
		_, err = f.Seek(0, io.SeekStart)
	}
	d.file, d.Data, d.err = f, nil, err
	return d
}
