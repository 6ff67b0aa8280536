package app

import (
	"archive/zip"
	"context"
	"fmt"
	"io"
	"time"

	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
)

// FileName is the name a downloaded piece has.
func (s *Set) FileName(p spec.Placement, format string) string {
	name := s.Brief.Name
	if name == "" {
		if words := s.Brief.Cards[0].Words(s.Kit.Kit); words["headline"] != "" {
			name = words["headline"]
		}
	}
	return fmt.Sprintf("%s_%s_%dx%d.%s", piece.FileName(name), p.ID, p.Width, p.Height, raster.Extension(format))
}

// Download draws one piece of the set.
func (a *App) Download(ctx context.Context, m Member, id ID, placement, format string) (name string, data []byte, err error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return "", nil, err
	}
	p, err := spec.Parse(placement)
	if err != nil {
		return "", nil, fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	done, err := a.Finished(ctx, m, id)
	if err != nil {
		return "", nil, err
	}
	data, err = a.file(ctx, done, s.Piece(s.CurrentLook(), p), raster.Output{Format: format})
	return s.FileName(p, format), data, err
}

// archiveTime is the time every entry of an archive carries, so that the same
// set gives the same bytes.
var archiveTime = time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)

// DownloadAll streams the whole set as a ZIP in the order it is shown, drawing
// ahead by one piece.
func (a *App) DownloadAll(ctx context.Context, m Member, s *Set, w io.Writer, format string) error {
	done, err := a.Finished(ctx, m, s.Doc.ID)
	if err != nil {
		return err
	}
	type drawn struct {
		data []byte
		err  error
	}
	pieces := s.Pieces()
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	results := make([]chan drawn, len(pieces))
	gate := make(chan struct{}, 2)
	for i := range pieces {
		results[i] = make(chan drawn, 1)
	}
	go func() {
		for i, pc := range pieces {
			select {
			case gate <- struct{}{}:
			case <-ctx.Done():
				return
			}
			go func() {
				defer func() { <-gate }()
				data, err := a.file(ctx, done, pc, raster.Output{Format: format})
				results[i] <- drawn{data, err}
			}()
		}
	}()
	z := zip.NewWriter(w)
	for i, pc := range pieces {
		var d drawn
		select {
		case d = <-results[i]:
		case <-ctx.Done():
			return ctx.Err()
		}
		if d.err != nil {
			return fmt.Errorf("%s: %w", pc.Placement.ID, d.err)
		}
		f, err := z.CreateHeader(&zip.FileHeader{Name: s.FileName(pc.Placement, format), Method: zip.Store, Modified: archiveTime})
		if err != nil {
			return err
		}
		if _, err := f.Write(d.data); err != nil {
			return err
		}
	}
	return z.Close()
}
