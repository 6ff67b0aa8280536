package app

import (
	"archive/zip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"path"
	"regexp"
	"slices"
	"strings"
	"time"

	"aspenridge/internal/core/edit"
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

// mostMoved is how many kits and briefs are taken along, each.
const mostMoved = 5000

// ExportWorkspace writes all of the workspace that is on the desk as a ZIP.
func (a Team) ExportWorkspace(ctx context.Context, m Member, w io.Writer) error {
	if err := mayAll(m, manage); err != nil {
		return err
	}
	z := zip.NewWriter(w)
	put := func(name string) (io.Writer, error) {
		return z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: archiveTime})
	}
	putJSON := func(name string, v any) error {
		data, err := json.MarshalIndent(v, "", " ")
		if err != nil {
			return err
		}
		out, err := put(name)
		if err == nil {
			_, err = out.Write(append(data, '\n'))
		}
		return err
	}
	all := moved{FormatVersion: 1, Name: m.WorkspaceName, At: a.now().UTC().Format(time.RFC3339), Kits: []movedDocument{}, Briefs: []movedDocument{}, Files: []movedFile{}}
	team, err := a.store.Team(ctx, m.Workspace)
	if err != nil {
		return err
	}
	for _, t := range team {
		all.People = append(all.People, t.Name)
	}
	if def, err := a.store.DefaultKit(ctx, m.Workspace); err == nil {
		all.Default = def.String()
	}
	refs := map[string]string{} // to paths
	for _, kind := range []string{"kit", "brief"} {
		docs, err := a.store.Documents(ctx, m.Workspace, kind, mostMoved)
		if err != nil {
			return err
		}
		for i, d := range docs {
			doc, err := edit.ParseObject(d.Doc)
			if err != nil {
				return err
			}
			eachRef(doc, func(ref string) string {
				if !fileRefs.MatchString(ref) {
					return ref
				}
				if refs[ref] == "" {
					hash, name, _ := strings.Cut(ref, "/")
					refs[ref] = "files/" + hash[:16] + "-" + path.Base(name)
				}
				return refs[ref]
			})
			one := movedDocument{ID: d.ID.String(), Name: d.Name, File: fmt.Sprintf("%ss/%d/%s.json", kind, i+1, kind)}
			data, err := edit.Marshal(doc)
			if err != nil {
				return err
			}
			out, err := put(one.File)
			if err == nil {
				_, err = out.Write(data)
			}
			if err != nil {
				return err
			}
			if kind == "kit" {
				all.Kits = append(all.Kits, one)
				continue
			}
			if d.KitID != nil {
				one.Kit = d.KitID.String()
			}
			all.Briefs = append(all.Briefs, one)
			if err := a.moveProof(ctx, m, d.ID, path.Dir(one.File), put, putJSON); err != nil {
				return err
			}
		}
	}
	for _, ref := range slices.Sorted(maps.Keys(refs)) {
		kinds, err := a.store.KindsOf(ctx, m.Workspace, HashOf(ref))
		if err != nil {
			return err
		}
		if len(kinds) == 0 { // it is named and was never there, or is gone
			continue
		}
		if err := a.moveFile(ctx, m, HashOf(ref), kinds, refs[ref], put); err != nil {
			return err
		}
		all.Files = append(all.Files, movedFile{refs[ref], kinds})
	}
	if c, err := a.store.ChannelsOf(ctx, m.Workspace); err == nil {
		if err := putJSON("channels.json", json.RawMessage(c.Doc)); err != nil {
			return err
		}
	} else if !errors.Is(err, ErrNotFound) {
		return err
	}
	out, err := put("record.csv")
	if err == nil {
		err = a.RecordCSV(ctx, m, RecordQuery{}, out)
	}
	if err == nil {
		err = putJSON("workspace.json", all)
	}
	if err != nil {
		return err
	}
	return z.Close()
}

// moveFile writes a file of the workspace as it may leave it.
func (a *house) moveFile(ctx context.Context, m Member, hash string, kinds []string, name string, put func(string) (io.Writer, error)) error {
	out, err := put(name)
	if err != nil {
		return err
	}
	if slices.Contains(kinds, "logo") || slices.Contains(kinds, "font") {
		data, err := a.ownBytes(ctx, m, kinds[0]+"s", hash)
		if err == nil {
			_, err = out.Write(data)
		}
		return err
	}
	in, err := a.blobs.Reader(ctx, hash)
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	defer func() { _ = in.Close() }()
	_, err = io.Copy(out, in)
	return err
}

// moveProof writes what was said of a brief, and its finished pieces.
func (a *house) moveProof(ctx context.Context, m Member, id ID, dir string, put func(string) (io.Writer, error), putJSON func(string, any) error) error {
	comments, err := a.store.Comments(ctx, m.Workspace, id)
	if err != nil {
		return err
	}
	decisions, err := a.store.Decisions(ctx, m.Workspace, id)
	if err != nil {
		return err
	}
	if len(comments)+len(decisions) > 0 {
		p := movedProof{Comments: []movedComment{}, Verdicts: []movedVerdict{}}
		for _, c := range comments {
			one := movedComment{ID: c.ID.String(), Piece: c.Piece, Part: c.Part, At: [4]float64{c.X, c.Y, c.W, c.H}, Name: c.By.Name, Words: c.Words, When: c.At, Resolved: c.Resolved != nil}
			if c.About != nil {
				one.About = c.About.String()
			}
			p.Comments = append(p.Comments, one)
		}
		for _, d := range decisions {
			p.Verdicts = append(p.Verdicts, movedVerdict{d.Piece, d.Verdict, d.By.Name, d.At})
		}
		if err := putJSON(dir+"/proof.json", p); err != nil {
			return err
		}
	}
	done, err := a.store.FinishedOf(ctx, m.Workspace, id)
	if err != nil {
		return err
	}
	for _, f := range done {
		data, err := a.blobs.Get(ctx, f.SVG)
		if err != nil {
			return err
		}
		out, err := put(dir + "/finished/" + cleanName(placeName.Replace(f.Placement)) + ".svg")
		if err == nil {
			_, err = out.Write(data)
		}
		if err != nil {
			return err
		}
	}
	return nil
}
