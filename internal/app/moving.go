package app

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"math"
	"path"
	"regexp"
	"slices"
	"strings"
	"time"

	"aspenridge/internal/act"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/plain"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/store"
)

// A whole workspace is a ZIP of open formats: its kits and briefs as JSON, the files they name
// once each, finished pieces as SVG, its channels, what was said at Proof, and its record.
// People are in it by name alone. Brought back it is a workspace of its own.

// movedDocument is a kit or a brief in an archive.
type movedDocument struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	File string `json:"file"`
	Kit  string `json:"kit,omitempty"` // id of the kit of a brief
}

// movedFile is a file in an archive.
type movedFile struct {
	Path  string   `json:"path"`
	Kinds []string `json:"kinds"` // logo, font, picture, clip, sound
}

// moved is what an archive says of itself.
type moved struct {
	FormatVersion int             `json:"formatVersion"`
	Name          string          `json:"name"`
	At            string          `json:"at"`
	People        []string        `json:"people"`
	Default       string          `json:"defaultKit,omitempty"` // id
	Kits          []movedDocument `json:"kits"`
	Briefs        []movedDocument `json:"briefs"`
	Files         []movedFile     `json:"files"`
	LeftOut       []string        `json:"leftOut,omitempty"` // what could not be read, in words
}

// movedComment is a comment in an archive.
type movedComment struct {
	ID       string     `json:"id"`
	Piece    string     `json:"piece"`
	Part     string     `json:"part,omitempty"`
	At       [4]float64 `json:"at"` // middle, width and height, 0-1 of the part, else of the piece
	About    string     `json:"about,omitempty"`
	Name     string     `json:"name"`
	Words    string     `json:"words"`
	When     time.Time  `json:"when"`
	Resolved bool       `json:"resolved,omitempty"`
}

// movedVerdict is a verdict in an archive, to be read.
type movedVerdict struct {
	Piece   string    `json:"piece"`
	Verdict string    `json:"verdict"`
	Name    string    `json:"name"`
	When    time.Time `json:"when"`
}

type movedProof struct {
	Comments []movedComment `json:"comments"`
	Verdicts []movedVerdict `json:"verdicts"`
}

// fileRefs are how documents name files of a workspace.
var fileRefs = regexp.MustCompile(`^[0-9a-f]{64}/.+`)

// eachRef gives every text in a JSON value that names a file to f, and puts what it returns
// in its place.
func eachRef(v any, f func(ref string) string) any {
	switch v := v.(type) {
	case string:
		return f(v)
	case []any:
		for i := range v {
			v[i] = eachRef(v[i], f)
		}
	case *edit.Object:
		for _, k := range slices.Clone(v.Keys()) {
			v.Set(k, eachRef(v.Get(k), f))
		}
	}
	return v
}

// mostMovedThreads is how many threads of a brief, and answers of each, are taken along.
const mostMovedThreads = 10000

// mostMoved is how many kits and briefs are taken along, each.
const mostMoved = 5000

// leaving is a workspace on its way out: the archive, what it will say it holds, and
// where in it the files are that documents name.
type leaving struct {
	*house
	m    Member
	z    *zip.Writer
	says moved
	refs map[string]string
}

// ExportWorkspace writes all of the workspace that is on the desk as a ZIP.
func (a Team) ExportWorkspace(ctx context.Context, m Member, w io.Writer) error {
	if err := act.MayAll(m, roles.ManageWorkspace); err != nil {
		return err
	}
	l := &leaving{a.house, m, zip.NewWriter(w), moved{
		FormatVersion: 1, Name: m.WorkspaceName, At: a.now().UTC().Format(time.RFC3339), Kits: []movedDocument{}, Briefs: []movedDocument{}, Files: []movedFile{},
	}, map[string]string{}}
	team, err := a.store.Team(ctx, m.Workspace)
	if err != nil {
		return err
	}
	for _, t := range team {
		l.says.People = append(l.says.People, t.Name)
	}
	if def, err := a.store.DefaultKit(ctx, m.Workspace); err == nil {
		l.says.Default = def.String()
	}
	for _, kind := range []string{"kit", "brief"} {
		docs, err := a.store.Documents(ctx, m.Workspace, kind, mostMoved)
		if err != nil {
			return err
		}
		for i, d := range docs {
			name := fmt.Sprintf("%ss/%d/%s.json", kind, i+1, kind)
			if err := l.leavesOut(ctx, fmt.Sprintf("the %s %s", kind, orNew(d.Name)), l.document(ctx, d, name)); err != nil {
				return err
			}
		}
	}
	for _, ref := range slices.Sorted(maps.Keys(l.refs)) {
		if err := l.leavesOut(ctx, "the file "+l.refs[ref], l.file(ctx, HashOf(ref), l.refs[ref])); err != nil {
			return err
		}
	}
	if c, err := a.store.ChannelsOf(ctx, m.Workspace); err == nil {
		err = l.leavesOut(ctx, "the channels", l.putJSON("channels.json", json.RawMessage(c.Doc)))
		if err != nil {
			return err
		}
	} else if !errors.Is(err, ErrNotFound) {
		return err
	}
	var record bytes.Buffer
	err = a.RecordCSV(ctx, m, RecordQuery{}, &record)
	if err == nil {
		err = l.put("record.csv", record.Bytes())
	}
	if err = l.leavesOut(ctx, "the record", err); err != nil {
		return err
	}
	if err := l.putJSON("workspace.json", l.says); err != nil {
		return err
	}
	return l.z.Close()
}

// sending is that what is written cannot be sent: nobody takes the archive any more.
type sending struct{ error }

func (s sending) Unwrap() error { return s.error }

// leavesOut notes what could not be put into the archive, which goes on without it. An archive
// that cannot be sent, or a database or files that are away, end it.
func (l *leaving) leavesOut(ctx context.Context, what string, err error) error {
	if err == nil || ctx.Err() != nil || errors.As(err, new(sending)) || Away(err) || errors.Is(err, ErrFilesAway) {
		return err
	}
	l.says.LeftOut = append(l.says.LeftOut, what+": "+plain.Short(err.Error()))
	return nil
}

// entry begins a file of the archive.
func (l *leaving) entry(name string) (io.Writer, error) {
	out, err := l.z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: archiveTime})
	if err != nil {
		return nil, sending{err}
	}
	return out, nil
}

func (l *leaving) put(name string, data []byte) error {
	out, err := l.entry(name)
	if err != nil {
		return err
	}
	if _, err := out.Write(data); err != nil {
		return sending{err}
	}
	return nil
}

func (l *leaving) putJSON(name string, v any) error {
	data, err := json.MarshalIndent(v, "", " ")
	if err != nil {
		return err
	}
	return l.put(name, append(data, '\n'))
}

// document writes a kit or a brief, its files named as they lie in the archive; of a
// brief also what was said of it.
func (l *leaving) document(ctx context.Context, d store.Document, name string) error {
	if d.KitID != nil && !slices.ContainsFunc(l.says.Kits, func(k movedDocument) bool { return k.ID == d.KitID.String() }) {
		return errors.New("its kit is not in the archive")
	}
	doc, err := edit.ParseObject(d.Doc)
	if err != nil {
		return err
	}
	eachRef(doc, func(ref string) string {
		if !fileRefs.MatchString(ref) {
			return ref
		}
		if l.refs[ref] == "" {
			hash, name, _ := strings.Cut(ref, "/")
			l.refs[ref] = "files/" + hash[:16] + "-" + path.Base(name)
		}
		return l.refs[ref]
	})
	data, err := edit.Marshal(doc)
	if err != nil {
		return err
	}
	if err := l.put(name, data); err != nil {
		return err
	}
	one := movedDocument{ID: d.ID.String(), Name: d.Name, File: name}
	if d.Kind == "kit" {
		l.says.Kits = append(l.says.Kits, one)
		return nil
	}
	if d.KitID != nil {
		one.Kit = d.KitID.String()
	}
	l.says.Briefs = append(l.says.Briefs, one)
	return l.proof(ctx, d.ID, path.Dir(name))
}

// file writes a file of the workspace as it may leave it. One that is named and was never
// there, or is gone, is left out.
func (l *leaving) file(ctx context.Context, hash, name string) error {
	kinds, err := l.store.KindsOf(ctx, l.m.Workspace, hash)
	if err != nil || len(kinds) == 0 {
		return err
	}
	if slices.Contains(kinds, "logo") || slices.Contains(kinds, "font") {
		data, err := l.ownBytes(ctx, l.m, kinds[0]+"s", hash)
		if err == nil {
			err = l.put(name, data)
		}
		if err == nil {
			l.says.Files = append(l.says.Files, movedFile{name, kinds})
		}
		return err
	}
	in, err := l.blobs.Reader(ctx, hash)
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	defer func() { _ = in.Close() }()
	out, err := l.entry(name)
	if err != nil {
		return err
	}
	if _, err := io.Copy(out, in); err != nil {
		return sending{err} // a file that breaks off would be half of one
	}
	l.says.Files = append(l.says.Files, movedFile{name, kinds})
	return nil
}

// proof writes what was said of a brief, and its finished pieces.
func (l *leaving) proof(ctx context.Context, id ID, dir string) error {
	comments, err := l.store.Comments(ctx, l.m.Workspace, id, mostMovedThreads, mostMovedThreads)
	if err != nil {
		return err
	}
	decisions, err := l.store.Decisions(ctx, l.m.Workspace, id)
	if err != nil {
		return err
	}
	if len(comments)+len(decisions) > 0 {
		p := movedProof{Comments: []movedComment{}, Verdicts: []movedVerdict{}}
		for _, c := range comments {
			if slices.ContainsFunc([]float64{c.X, c.Y, c.W, c.H}, func(v float64) bool { return !(math.Abs(v) <= farthest) }) {
				l.says.LeftOut = append(l.says.LeftOut, "where a comment of "+plain.Short(c.By.Shown())+" lies")
				c.X, c.Y, c.W, c.H = 0.5, 0.5, 0, 0
			}
			one := movedComment{ID: c.ID.String(), Piece: c.Piece, Part: c.Part, At: [4]float64{c.X, c.Y, c.W, c.H}, Name: c.By.Shown(), Words: c.Words, When: c.At, Resolved: c.Resolved != nil}
			if c.About != nil {
				one.About = c.About.String()
			}
			p.Comments = append(p.Comments, one)
		}
		for _, d := range decisions {
			p.Verdicts = append(p.Verdicts, movedVerdict{d.Piece, d.Verdict, d.By.Shown(), d.At})
		}
		if err := l.putJSON(dir+"/proof.json", p); err != nil {
			return err
		}
	}
	done, err := l.store.FinishedOf(ctx, l.m.Workspace, id)
	if err != nil {
		return err
	}
	for _, f := range done {
		data, err := l.blobs.Get(ctx, f.SVG)
		if err == nil {
			err = l.put(dir+"/finished/"+cleanName(placeName.Replace(f.Placement))+".svg", data)
		}
		if err = l.leavesOut(ctx, "the finished piece "+f.Placement+" of "+dir, err); err != nil {
			return err
		}
	}
	return nil
}
