package app_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"aspenridge/internal/account"
	"aspenridge/internal/app"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/jobs"
	"aspenridge/test/stage"
)

// taken is a workspace as a file.
func taken(t *testing.T, a *app.App, m app.Member) string {
	t.Helper()
	var b bytes.Buffer
	if err := a.Team.ExportWorkspace(t.Context(), m, &b); err != nil {
		t.Fatal(err)
	}
	return written(t, b.Bytes())
}

func written(t *testing.T, data []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "w.zip")
	if err := os.WriteFile(path, data, 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// rewritten is an archive with other contents for some of its files, nil for none.
func rewritten(t *testing.T, path string, with map[string][]byte) string {
	t.Helper()
	z, err := zip.OpenReader(path)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = z.Close() }()
	var b bytes.Buffer
	out := zip.NewWriter(&b)
	put := func(name string, data []byte) {
		w, err := out.Create(name)
		if err == nil {
			_, err = w.Write(data)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	for _, f := range z.File {
		if _, other := with[f.Name]; other {
			continue
		}
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		data, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		put(f.Name, data)
	}
	for name, data := range with {
		if data != nil {
			put(name, data)
		}
	}
	if err := out.Close(); err != nil {
		t.Fatal(err)
	}
	return written(t, b.Bytes())
}

// TestTakeEverythingAlong: a workspace taken out and brought back by somebody else is a workspace
// of its own with the same kits, briefs, pieces to the last line, films, sounds, channels and
// comments by name; kits follow one another as they did.
func TestTakeEverythingAlong(t *testing.T) {
	a, m, kit, id := open(t)
	ctx := t.Context()
	works(t, a)
	child, err := a.Kits.NewKit(ctx, m, "After Dark")
	if err != nil {
		t.Fatal(err)
	}
	change := func(doc app.ID, path, value string) {
		t.Helper()
		if _, err := a.Documents.Edit(ctx, m, doc, app.Change{Base: app.Latest, Op: edit.Op{Path: path, Value: []byte(value)}}); err != nil {
			t.Fatal(err)
		}
	}
	change(child, "/$extensions/aspenridge/parent", fmt.Sprintf("%q", kit))
	if err := a.Kits.SetDefaultKit(ctx, m, child); err != nil {
		t.Fatal(err)
	}
	job, err := a.Files.BringClip(ctx, m, id, "", "river.mp4", stage.Film(t, "river.mp4", "-f", "lavfi", "-i", "testsrc2=size=320x180:rate=30:duration=1", "-pix_fmt", "yuv420p"))
	if err != nil {
		t.Fatal(err)
	}
	if j := isOver(t, a, m, job); j.State != jobs.Done {
		t.Fatalf("%+v", j)
	}
	sound, _, err := a.Files.BringSound(ctx, m, "me.mp3", stage.Film(t, "me.mp3", "-f", "lavfi", "-i", "sine=frequency=600:duration=1"))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Briefs.SetVideo(ctx, m, id, app.Change{Base: app.Latest}, brief.Video{Song: sound}); err != nil {
		t.Fatal(err)
	}
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	key := s.Placements()[0].ID
	if err := a.Proofs.Say(ctx, m, app.By{Name: "The boathouse"}, id, app.Remark{Piece: key, Words: "Is it \u202eloud?", Spot: true, X: 0.5, Y: 0.5}); err != nil {
		t.Fatal(err)
	}
	if err := a.Proofs.Decide(ctx, m, a.Proofs.Who(m), id, app.Approved, nil); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Sets.Finish(ctx, m, id); err != nil {
		t.Fatal(err)
	}
	path := taken(t, a, m)
	z, err := zip.OpenReader(path)
	if err != nil {
		t.Fatal(err)
	}
	var names []string
	for _, f := range z.File {
		names = append(names, f.Name)
	}
	_ = z.Close()
	for _, want := range []string{"workspace.json", "record.csv", "kits/1/kit.json", "briefs/1/brief.json", "briefs/1/proof.json"} {
		if !slices.Contains(names, want) {
			t.Errorf("%s is not in it: %q", want, names)
		}
	}
	if !slices.ContainsFunc(names, func(n string) bool { return strings.HasPrefix(n, "briefs/1/finished/") }) {
		t.Error("no finished piece is in it")
	}

	p, err := a.People.SignUp(ctx, "Mara", "mara@three.example", "quiet water 2027")
	if err != nil {
		t.Fatal(err)
	}
	there, err := a.Team.ImportWorkspace(ctx, p, path)
	if err != nil {
		t.Fatal(err)
	}
	if p, err = a.People.Member(ctx, p.ID, there); err != nil || p.Workspace != there || p.Role != "owner" || p.WorkspaceName != m.WorkspaceName {
		t.Fatalf("%+v, %v", p, err)
	}
	sets, broken, _, err := a.Briefs.FindBriefs(ctx, p, "", 0)
	if err != nil || len(sets) != 1 || len(broken) > 0 {
		t.Fatalf("%d briefs, %+v, %v", len(sets), broken, err)
	}
	is := sets[0]
	if is.Doc.ID == id || is.Kit.ID == kit {
		t.Error("it is the same brief, not one like it")
	}
	for _, place := range s.Placements() {
		report := func(s *app.Set) string {
			data, err := json.Marshal(s.Piece(s.CurrentLook(), place).Report())
			if err != nil {
				t.Fatal(err)
			}
			return string(data)
		}
		if was, is := report(s), report(is); was != is {
			t.Errorf("%s is\n%s, it was\n%s", place.ID, is, was)
		}
	}
	if len(is.Brief.Clips()) != 1 || len(is.Brief.Files()) != len(s.Brief.Files()) {
		t.Errorf("%v clips, %v files", is.Brief.Clips(), is.Brief.Files())
	}
	for file := range is.Brief.Clips() {
		if c := is.Job.Pictures[file].Clip; c == nil || c.Seconds < 0.9 || c.Light.Cols == 0 {
			t.Errorf("of the clip is known %+v", c)
		}
	}
	if wav, err := a.Files.Sound(ctx, p, is, "video-tall"); err != nil || len(wav) < 48000 {
		t.Errorf("the song: %d bytes, %v", len(wav), err)
	}
	kits, err := a.Documents.Desk(ctx, p, 10)
	if err != nil || len(kits.Kits) != 2 {
		t.Fatal(err)
	}
	for _, k := range kits.Kits {
		parent, follows := k.Parent()
		if follows != (k.Name == "After Dark") || follows && parent.ID != is.Kit.ID {
			t.Errorf("%s follows %v", k.Name, parent)
		}
		if (k.ID == kits.Default) != (k.Name == "After Dark") {
			t.Errorf("briefs start with %s", k.Name)
		}
	}
	r, err := a.Proofs.Room(ctx, p, is.Doc.ID, 0)
	if err != nil || len(r.Comments) != 1 || r.Comments[0].By.Name != "The boathouse" || r.Comments[0].By.Person != nil || r.Comments[0].Part == "" {
		t.Errorf("what was said: %+v, %v", r.Comments, err)
	}
	team, err := a.Team.People(ctx, p)
	if err != nil || len(team) != 1 {
		t.Errorf("the team is %v, %v", team, err)
	}
	if err := a.Team.ExportWorkspace(ctx, colleague(t, a, m, "ida@two.example", "editor"), io.Discard); !errors.Is(err, app.ErrNotAllowed) {
		t.Errorf("by an editor: %v", err)
	}
}

// TestAnArchiveThatIsNone: what is broken, hostile or somebody else's is refused by name, and
// leaves no workspace behind.
func TestAnArchiveThatIsNone(t *testing.T) {
	a, m, _, _ := open(t)
	ctx := t.Context()
	path := taken(t, a, m)
	z, err := zip.OpenReader(path)
	if err != nil {
		t.Fatal(err)
	}
	read := func(name string) []byte {
		t.Helper()
		f, err := z.Open(name)
		if err != nil {
			t.Fatal(err)
		}
		data, err := io.ReadAll(f)
		if err != nil {
			t.Fatal(err)
		}
		return data
	}
	all, aBrief := read("workspace.json"), string(read("briefs/1/brief.json"))
	var said struct {
		Files []struct{ Path string }
		Kits  []struct{ ID string }
	}
	if err := json.Unmarshal(all, &said); err != nil {
		t.Fatal(err)
	}
	_ = z.Close()
	p, err := a.People.SignUp(ctx, "Mara", "mara@three.example", "quiet water 2027")
	if err != nil {
		t.Fatal(err)
	}
	// a file of the first workspace by its hash: it is there, and not theirs
	stolen := aBrief
	for _, f := range said.Files {
		stolen = strings.ReplaceAll(stolen, f.Path, strings.Repeat("a", 64)+"/x.png")
	}
	secret, err := a.Files.KeepPicture(ctx, m, "secret.svg", []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="300" height="200"><rect width="300" height="200" fill="#123456"/></svg>`))
	if err != nil {
		t.Fatal(err)
	}
	own := aBrief
	for _, f := range said.Files {
		own = strings.ReplaceAll(own, f.Path, secret)
	}
	if own == aBrief || stolen == aBrief {
		t.Fatal("the brief names no file")
	}
	for name, path := range map[string]string{
		"no ZIP":                  written(t, []byte("no ZIP")),
		"an empty one":            rewritten(t, path, map[string][]byte{"workspace.json": nil}),
		"another version":         rewritten(t, path, map[string][]byte{"workspace.json": []byte(`{"formatVersion": 2}`)}),
		"no JSON":                 rewritten(t, path, map[string][]byte{"workspace.json": []byte(`{`)}),
		"a way out":               rewritten(t, path, map[string][]byte{"../../etc/x": []byte(`x`)}),
		"a file that is missing":  rewritten(t, path, map[string][]byte{said.Files[0].Path: nil}),
		"a picture that is none":  rewritten(t, path, map[string][]byte{said.Files[0].Path: []byte("<html>")}),
		"a brief that is none":    rewritten(t, path, map[string][]byte{"briefs/1/brief.json": []byte(`{"formatVersion": 9}`)}),
		"a brief without its kit": rewritten(t, path, map[string][]byte{"workspace.json": bytes.ReplaceAll(all, []byte(`"kit": "`), []byte(`"kit": "x`))}),
		"somebody else's file":    rewritten(t, path, map[string][]byte{"briefs/1/brief.json": []byte(own)}),
		"a file nobody has":       rewritten(t, path, map[string][]byte{"briefs/1/brief.json": []byte(stolen)}),
		"a spot beyond numbers":   rewritten(t, path, map[string][]byte{"briefs/1/proof.json": []byte(`{"comments":[{"id":"a","piece":"feed-square","at":[1e308,0,0,0],"name":"A","words":"b"}]}`)}),
		"a file named twice":      rewritten(t, path, map[string][]byte{"workspace.json": bytes.Replace(all, []byte(`"files": [`), []byte(`"files": [{"path": "`+said.Files[0].Path+`", "kinds": ["picture"]},`), 1)}),
		"an odd kind":             rewritten(t, path, map[string][]byte{"workspace.json": bytes.Replace(all, []byte(`"picture"`), []byte(`"virus"`), 1)}),
	} {
		if _, err := a.Team.ImportWorkspace(ctx, p, path); !errors.Is(err, app.ErrInvalid) && !strings.Contains(fmt.Sprint(err), "file") {
			t.Errorf("%s: %v", name, err)
		}
		if list, err := a.Team.Workspaces(ctx, p); err != nil || len(list) != 1 {
			t.Fatalf("%s leaves %+v, %v", name, list, err)
		}
	}
}

// TestKindsOverAndOver: a file of the same kind ten thousand times is taken in once.
func TestKindsOverAndOver(t *testing.T) {
	a, m, _, _ := open(t)
	path := taken(t, a, m)
	z, err := zip.OpenReader(path)
	if err != nil {
		t.Fatal(err)
	}
	all, err := fs.ReadFile(z, "workspace.json")
	if err != nil {
		t.Fatal(err)
	}
	_ = z.Close()
	kinds := regexp.MustCompile(`"kinds": \[\s*"logo"`)
	if !kinds.Match(all) {
		t.Fatal("no logo")
	}
	many := kinds.ReplaceAll(all, []byte(`"kinds": [`+strings.Repeat(`"logo", `, 10000)+`"logo"`))
	if _, err := a.Team.ImportWorkspace(t.Context(), m, rewritten(t, path, map[string][]byte{"workspace.json": many})); err != nil {
		t.Error(err)
	}
}

// TestAnArchiveCutShort: a server that is killed while a workspace is brought leaves nothing on
// any list, and what it left is cleared away.
func TestAnArchiveCutShort(t *testing.T) {
	a, m, _, _ := open(t)
	ctx := t.Context()
	id, err := a.Store().CreateWorkspace(ctx, m, "Half of one", 50, true)
	if err != nil {
		t.Fatal(err)
	}
	if list, err := a.Team.Workspaces(ctx, m); err != nil || len(list) != 1 {
		t.Errorf("half of a workspace is listed: %+v, %v", list, err)
	}
	now := time.Now().Add(3 * time.Hour)
	a.SetClock(func() time.Time { return now })
	if err := a.Tidy(ctx); err != nil {
		t.Fatal(err)
	}
	if left, err := a.Store().Stranded(ctx, now); err != nil || len(left) != 0 {
		t.Errorf("%v is left, %v", left, err)
	}
	if _, err := a.People.MemberIn(ctx, m.ID, id, app.ID{}); err == nil {
		t.Error("somebody is in it")
	}
}

// TestOneBadRowLeavesTheRest: what cannot be read is left out of an archive, which says so.
func TestOneBadRowLeavesTheRest(t *testing.T) {
	a, m, kit, id := open(t)
	ctx := t.Context()
	r, err := a.Proofs.Room(ctx, m, id, 0)
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Proofs.Say(ctx, m, a.Proofs.Who(m), id, app.Remark{Piece: r.Pieces[0].Key, Words: "Here"}); err != nil {
		t.Fatal(err)
	}
	other, err := a.Briefs.NewBrief(ctx, m, kit)
	if err != nil {
		t.Fatal(err)
	}
	for _, bad := range []string{`update proof_comments set x = 'infinity', y = 'nan'`, `update documents set doc = '[1]' where id = '` + other.String() + `'`} {
		if _, err := a.Store().Pool.Exec(ctx, bad); err != nil {
			t.Fatal(err)
		}
	}
	z, err := zip.OpenReader(taken(t, a, m))
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = z.Close() }()
	data, err := fs.ReadFile(z, "workspace.json")
	if err != nil {
		t.Fatal(err)
	}
	var said struct {
		Briefs  []struct{ ID string }
		LeftOut []string
	}
	if err := json.Unmarshal(data, &said); err != nil {
		t.Fatal(err)
	}
	if len(said.Briefs) != 1 || said.Briefs[0].ID != id.String() || len(said.LeftOut) != 2 {
		t.Errorf("%+v", said)
	}
}

// TestGoodbye: an account takes along what is kept about it and ends with its password; nobody is
// left without an owner; what was made elsewhere stays, and what only it had is gone.
func TestGoodbye(t *testing.T) {
	a, m, kit, id := open(t)
	ctx := t.Context()
	const password = "quiet water 2027"
	ida := colleague(t, a, m, "ida@two.example", "editor")
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Proofs.Say(ctx, ida, a.Proofs.Who(ida), id, app.Remark{Piece: s.Placements()[0].ID, Words: "Mine"}); err != nil {
		t.Fatal(err)
	}
	d, err := a.People.MyData(ctx, ida)
	if err != nil || d.Email != ida.Email || len(d.Workspaces) != 2 || len(d.Comments) != 1 || d.Comments[0].Words != "Mine" {
		t.Errorf("%+v, %v", d, err)
	}
	if err := a.People.DeleteAccount(ctx, ida, "another one"); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("by another password: %v", err)
	}
	if err := a.People.DeleteAccount(ctx, ida, password); err != nil {
		t.Fatal(err)
	}
	if _, err := a.People.SignIn(ctx, ida.Email, password); !errors.Is(err, account.ErrSignIn) {
		t.Errorf("after it is gone: %v", err)
	}
	r, err := a.Proofs.Room(ctx, m, id, 0)
	if err != nil || len(r.Comments) != 1 || r.Comments[0].By.Name != "Ida" {
		t.Errorf("what she said: %+v, %v", r.Comments, err)
	}

	// who owns what others are in stays until somebody else does
	otto := colleague(t, a, m, "otto@two.example", "editor")
	owner := a.People
	if err := owner.DeleteAccount(ctx, m, password); !errors.Is(err, app.ErrInvalid) || !strings.Contains(err.Error(), m.WorkspaceName) {
		t.Errorf("the only owner: %v", err)
	}
	if err := a.Team.Remove(ctx, m, otto.ID); err != nil {
		t.Fatal(err)
	}
	pic := app.HashOf(s.Brief.Files()[0])
	if err := owner.DeleteAccount(ctx, m, password); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Kits.Kit(ctx, m, kit); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("the kit of a workspace that is gone: %v", err)
	}
	if _, err := a.Blobs().Get(ctx, pic); err == nil {
		t.Error("a picture only it had stays")
	}
}
