package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"time"

	"aspenridge/internal/account"
	"aspenridge/internal/act"
	"aspenridge/internal/blob"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/gate"
	"aspenridge/internal/jobs"
	"aspenridge/internal/raster"
)

// Job is something done beside requests.
type Job = jobs.Job

// Run does jobs, n at a time, until ctx ends.
func (a Work) Run(ctx context.Context, n int) error { return a.queue.Run(ctx, n) }

// Job finds a job of one's own, or one that makes files of a brief one sees.
func (a Work) Job(ctx context.Context, m Member, id ID) (Job, error) {
	j, err := a.queue.Job(ctx, m.Workspace, id)
	if errors.Is(err, jobs.ErrNotFound) {
		err = ErrNotFound
	}
	if err == nil && j.Person != m.ID && (j.Kind != packing && j.Kind != filming || a.mayOn(ctx, m, roles.Look, j.About) != nil) {
		err = ErrNotFound
	}
	return j, err
}

// Place is how many jobs are begun before one that waits.
func (a Work) Place(ctx context.Context, j Job) (int, error) { return a.queue.Place(ctx, j) }

// Stop ends a job of one's own.
func (a Work) Stop(ctx context.Context, m Member, id ID) error {
	j, err := a.Job(ctx, m, id)
	if err != nil {
		return err
	}
	if j.Person != m.ID {
		return ErrNotAllowed
	}
	return a.queue.Stop(ctx, m.Workspace, id)
}

// jobs says which kinds of jobs there are and what is done over and over.
func (a *house) jobs(o Options) jobs.Options {
	return jobs.Options{
		Log: o.Log, Beat: o.Beat,
		Kinds: map[string]jobs.Work{packing: a.onBehalf(a.pack), bundling: a.onBehalf(a.bundle), filming: a.onBehalf(a.film), taking: a.onBehalf(a.takeClip)},
		Routines: []jobs.Routine{
			{Name: "tidy", Every: time.Hour, Do: a.tidy},
			{Name: "mail", Every: account.MailEvery, Do: a.people.Post},
			{Name: "tell", Every: 30 * time.Second, Do: a.mailNews},
			// a name of its own for each revision: it is due as soon as there is a new one
			{Name: fmt.Sprint("refresh-pictures-", factsRevision), Every: 12 * time.Hour, Do: a.refreshPictures},
		},
	}
}

// muchWaiting is from how many waiting jobs of a workspace its jobs are admitted after those of
// other workspaces.
const muchWaiting = 4

// onBehalf does work as the person who asked for it, with what they may do now.
func (a *house) onBehalf(work func(ctx context.Context, m Member, j Job, tell func(steps, of int)) (any, error)) jobs.Work {
	return func(ctx context.Context, j Job, tell func(steps, of int)) (any, error) {
		m, err := a.store.Member(ctx, j.Person, j.Workspace)
		if err == nil && m.Workspace != j.Workspace {
			err = ErrNotFound
		}
		waiting := 0
		if err == nil {
			waiting, err = a.queue.Waiting(ctx, j.Workspace)
		}
		var result any
		if err == nil {
			if ctx = gate.InBackground(ctx, j.Workspace.String()); waiting >= muchWaiting {
				ctx = gate.FarBehind(ctx)
			}
			result, err = work(ctx, m, j, tell)
		}
		switch {
		case errors.Is(err, ErrNotFound):
			return nil, jobs.Hopeless(errors.New("what it was about is not here any more"))
		case errors.Is(err, exec.ErrNotFound):
			return nil, jobs.Hopeless(err)
		case errors.Is(err, ErrInvalid), errors.Is(err, ErrNotAllowed), isAboutDocument(err), errors.Is(err, raster.ErrFile), errors.Is(err, raster.ErrSize):
			return nil, jobs.Hopeless(errors.New(plainWords(err)))
		}
		return result, err
	}
}

// tidy forgets what is kept for a while only.
func (a *house) tidy(ctx context.Context) error {
	if err := a.store.Tidy(ctx); err != nil {
		return err
	}
	if err := a.people.Lapse(ctx); err != nil {
		return err
	}
	if err := a.clearStranded(ctx); err != nil {
		return err
	}
	if err := a.blobs.Sweep(a.now().Add(-ParcelTime)); err != nil {
		return err
	}
	if err := sweepTemp(time.Now().Add(-ParcelTime)); err != nil {
		return err
	}
	old, err := a.queue.Forget(ctx, a.now().Add(-ParcelTime), filming)
	if err != nil {
		return err
	}
	films, err := a.dropFilms(ctx, a.now().Add(-ParcelTime))
	if err != nil {
		return err
	}
	old = append(old, films...)
	for _, j := range old {
		var made Parcel
		var came toTake
		_ = json.Unmarshal(j.Result, &made) // of one that failed there is none
		if j.Kind == taking {
			_ = json.Unmarshal(j.Args, &came)
			made.File = ""
		}
		for _, hash := range []string{made.File, came.File} {
			if err := a.forget(ctx, hash); err != nil {
				return fmt.Errorf("what an old job had: %w", err)
			}
		}
	}
	return nil
}

// leastRoom is the share (0-1) of the place files are kept in that is free for videos to stay
// longer than other parcels.
const leastRoom = 0.05

// dropFilms forgets videos made before a time whose brief is gone, or that a later one of the
// same name stands for; all of them where space is short. The others stay as long as their
// brief.
func (a *house) dropFilms(ctx context.Context, before time.Time) ([]Job, error) {
	done, err := a.queue.Kept(ctx, before, filming)
	if err != nil {
		return nil, err
	}
	free, err := a.blobs.Free()
	if err != nil {
		return nil, err
	}
	var gone []Job
	var ids []ID
	seen := map[string]bool{}
	for _, j := range done {
		var made Parcel
		_ = json.Unmarshal(j.Result, &made)
		there, err := a.store.Seqs(ctx, j.Workspace, j.About)
		if err != nil {
			return nil, err
		}
		_, ok := there[j.About]
		name := j.About.String() + " " + made.Name
		if ok && !seen[name] && free >= leastRoom {
			seen[name] = true
			continue
		}
		gone, ids = append(gone, j), append(ids, j.ID)
	}
	return gone, a.queue.Drop(ctx, ids...)
}

// clearStranded takes workspaces away whose filling was cut short.
func (a *house) clearStranded(ctx context.Context) error {
	left, err := a.store.Stranded(ctx, a.now().Add(-2*time.Hour))
	if err != nil {
		return err
	}
	for _, id := range left {
		hashes, err := a.store.FilesOf(ctx, id)
		if err == nil {
			err = a.store.DeleteWorkspace(ctx, id)
		}
		if err != nil {
			return err
		}
		for _, hash := range hashes {
			if err := a.forget(ctx, hash); err != nil {
				return err
			}
		}
	}
	return nil
}

// tempFiles is how what is worked on is called where files are for a while.
const tempFiles = "aspenridge-"

// sweepTemp removes what a process that was ended in the middle left behind before a time.
func sweepTemp(before time.Time) error {
	left, err := filepath.Glob(filepath.Join(os.TempDir(), tempFiles+"*"))
	if err != nil {
		return err
	}
	for _, path := range left {
		info, err := os.Stat(path)
		if err != nil || info.ModTime().After(before) {
			continue // it is gone by now, or young
		}
		if err := os.RemoveAll(path); err != nil && !errors.Is(err, os.ErrPermission) { // somebody else's stays
			return err
		}
	}
	return nil
}

// forget removes what is stored under a hash, unless a job or a file still names it.
func (a *house) forget(ctx context.Context, hash string) error {
	if hash == "" {
		return nil
	}
	named, err := a.queue.Naming(ctx, hash)
	if err != nil || named > 0 {
		return err
	}
	held, err := a.store.Held(ctx, hash)
	if err != nil || held {
		return err
	}
	return a.blobs.Remove(ctx, hash)
}

// ParcelTime is how long a parcel can be fetched.
const ParcelTime = 24 * time.Hour

// packing is the kind of jobs that make parcels.
const packing = "parcel"

// Parcel is what a job has made to be fetched: the chosen files of a set as one ZIP, or a
// video.
type Parcel struct {
	File  string `json:"file"`  // hash
	Name  string `json:"name"`  // as it is downloaded
	Bytes int64  `json:"bytes"` // of it
	Files int    `json:"files"` // in it
}

// toPack is what a parcel is made of: a state of a set, by how far its brief and its kit
// have come, and a choice.
type toPack struct {
	Seq, Kit int64
	Choice   HandOver
}

func packed(s *Set, h HandOver) toPack { return toPack{s.Doc.Seq, s.Kit.Stamp(), h} }

// Pack has the chosen files of a set drawn and put into a parcel; asked for twice it is
// packed once.
func (a Files) Pack(ctx context.Context, m Member, s *Set, h HandOver) (ID, error) {
	if err := act.May(m, roles.Look); err != nil {
		return ID{}, err
	}
	plans, err := a.Plans(ctx, m, s, h)
	if err != nil {
		return ID{}, err
	}
	pixels := 0.0
	for _, p := range plans {
		pixels += float64(p.W) * float64(p.H)
	}
	return a.add(ctx, m, packing, s.Doc.ID, packed(s, h), pixels, shortParcel, drawnPerSecond)
}

// add puts a job into the queue: into the line that is for as much as there is to do, and with
// time for it.
func (a *house) add(ctx context.Context, m Member, kind string, about ID, args any, work, short, perSecond float64) (ID, error) {
	j := Job{
		ID: m.ChangeID(), Workspace: m.Workspace, Person: m.ID, Kind: kind, About: about, Args: raw(args),
		Limit: 3*time.Minute + time.Duration(work/perSecond*float64(time.Second)),
	}
	if work > short {
		j.Line = jobs.Long
	}
	id, err := a.queue.Add(ctx, j)
	if errors.Is(err, jobs.ErrFull) {
		err = fmt.Errorf("%w: %w", ErrInvalid, err)
	}
	return id, err
}

// What drawing files takes: so many pixels a second on a slow and busy machine, and up to so many
// are a short job (some 60 pieces as they are, or 15 at twice the size).
const (
	drawnPerSecond = 0.4e6
	shortParcel    = 100e6
)

// LastParcel is the job of the parcel somebody had packed last of a set: one that is being
// packed, or is packed of the set as it stands; [ErrNotFound] for none.
func (a Files) LastParcel(ctx context.Context, m Member, s *Set) (Job, error) {
	j, err := a.queue.Latest(ctx, m.Workspace, m.ID, s.Doc.ID, packing)
	if errors.Is(err, jobs.ErrNotFound) {
		err = ErrNotFound
	}
	var of toPack
	if err == nil {
		err = json.Unmarshal(j.Args, &of)
	}
	now := packed(s, of.Choice)
	if err == nil && j.State.Over() && (j.State != jobs.Done || of.Seq != now.Seq || of.Kit != now.Kit) {
		err = ErrNotFound
	}
	return j, err
}

func (a *house) pack(ctx context.Context, m Member, j Job, tell func(steps, of int)) (any, error) {
	var of toPack
	if err := json.Unmarshal(j.Args, &of); err != nil {
		return nil, err
	}
	s, err := a.sets.Set(ctx, m, j.About)
	if err != nil {
		return nil, err
	}
	p, err := a.parcelOf(ctx, piece.FileName(s.Title())+".zip", func(f *os.File, count func(steps, of int)) error {
		return a.files.DownloadAll(ctx, m, s, f, of.Choice, count)
	}, tell)
	if err == nil {
		err = a.noteOf(ctx, m, noteFiles, j.About, "packed %d files", p.Files)
	}
	return p, err
}

// parcelOf keeps what write writes as a parcel.
func (a *house) parcelOf(ctx context.Context, name string, write func(f *os.File, tell func(steps, of int)) error, tell func(steps, of int)) (Parcel, error) {
	f, err := os.CreateTemp("", tempFiles+"parcel-")
	if err != nil {
		return Parcel{}, err
	}
	defer f.Close()
	_ = os.Remove(f.Name()) // it is gone when it is closed, whatever happens
	files := 0
	if err := write(f, func(steps, all int) { files = all; tell(steps, all) }); err != nil {
		return Parcel{}, err
	}
	size, err := f.Seek(0, io.SeekEnd)
	if err != nil {
		return Parcel{}, err
	}
	hash, err := a.blobs.PutFrom(ctx, f)
	return Parcel{hash, name, size, files}, err
}

// Parcel opens a parcel that is packed; [ErrNotFound] before, and once its time is over.
func (a Files) Parcel(ctx context.Context, m Member, job ID) (Parcel, io.ReadCloser, error) {
	j, err := a.work.Job(ctx, m, job)
	if err == nil && (!slices.Contains([]string{packing, bundling, filming}, j.Kind) || j.State != jobs.Done) {
		err = ErrNotFound
	}
	var p Parcel
	if err == nil {
		err = json.Unmarshal(j.Result, &p)
	}
	if err != nil {
		return p, nil, err
	}
	r, err := a.blobs.Reader(ctx, p.File)
	if errors.Is(err, blob.ErrMissing) {
		err = ErrNotFound
	}
	return p, r, err
}
