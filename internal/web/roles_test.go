package web_test

import (
	"cmp"
	"maps"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"aspenridge/internal/app"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/web"
	"aspenridge/test/stage"
)

// Who may ask for a route, from who may most on.
const (
	forAll     = "anybody" // without an account
	forSelf    = "oneself" // who is signed in
	forLook    = "look"    // who sees the kit or the brief
	forPage    = "edit"    // a page on which it is changed: others are led to where it is looked at
	forComment = "comment" // who may comment on it
	forChange  = "change"  // who may change it
	forWide    = "wide"    // who may change things and sees everything
	forBody    = "body"    // who may change what the request says, not the address
	forManage  = "manage"  // who has the say
)

// permissions has a row for every route there is. A route without one fails the test.
var permissions = map[string]string{
	"GET /healthz": forAll, "GET /.well-known/security.txt": forAll, "GET /readyz": forAll, "GET /static/*": forAll, "GET /fonts/{file}": forAll, "GET /fonts.css": forAll,
	"GET /g/{token}/": forAll, "GET /g/{token}/guidelines.pdf": forAll, "GET /g/{token}/fonts.css": forAll, "GET /g/{token}/own-fonts/{hash}": forAll,
	"GET /g/{token}/pictures/{hash}/{crop}/{size}": forAll, "GET /p/{token}/": forAll, "GET /p/{token}/{key}": forAll,
	"GET /see/{token}/": forAll, "POST /see/{token}/unlock": forAll, "GET /see/{token}/state": forAll, "GET /see/{token}/events": forAll,
	"GET /see/{token}/pieces/{size}/{key}": forAll, "GET /see/{token}/then/{shot}": forAll, "POST /see/{token}/say": forAll,
	"POST /see/{token}/settle": forAll, "POST /see/{token}/unsay": forAll, "POST /see/{token}/decide": forAll,
	"GET /sign-in": forAll, "POST /sign-in": forAll, "GET /sign-in/code": forAll, "POST /sign-in/code": forAll, "GET /sign-up": forAll, "POST /sign-up": forAll,
	"GET /join/{token}": forAll, "POST /join/{token}": forAll, "GET /forgot": forAll, "POST /forgot": forAll, "GET /mailbox": forAll,
	"GET /reset/{token}": forAll, "POST /reset/{token}": forAll, "GET /confirm/{token}": forAll, "POST /confirm/{token}": forAll,

	"GET /wall": forSelf, "POST /wall/parcel": forSelf, "GET /several": forBody, "GET /several/places": forBody, "POST /several": forBody, "POST /several/read": forBody, "POST /wall/look": forBody,
	"GET /": forSelf, "GET /account": forSelf, "GET /team": forSelf, "GET /workspaces": forSelf, "GET /desk": forSelf, "GET /desk/briefs": forSelf, "GET /desk/today": forSelf, "GET /record": forBody, "GET /record.csv": forBody,
	"GET /events": forSelf, "GET /icons": forSelf, "GET /kits/names": forSelf, "GET /channels.json": forSelf,
	"GET /pictures/{hash}/{crop}/{size}": forSelf, "GET /pictures/{hash}/colours": forSelf, "POST /pictures/colours": forBody, "GET /clips/{hash}": forSelf, "GET /own-fonts/{hash}": forSelf,
	"GET /jobs/{id}/events": forSelf, "POST /jobs/{id}/stop": forSelf, "GET /parcels/{id}": forSelf, "GET /requests/{id}/{which}": forSelf,
	"POST /sign-out": forSelf, "POST /account/name": forSelf, "POST /account/password": forSelf, "POST /account/email": forSelf, "POST /account/tells": forSelf, "POST /account/delete": forSelf, "GET /account.json": forSelf, "POST /workspaces/bring": forSelf, "GET /workspace.zip": forManage,
	"POST /account/sign-out": forSelf, "POST /account/sign-out/there": forSelf, "POST /account/codes": forSelf, "POST /account/codes/ask": forSelf, "POST /account/codes/end": forSelf, "POST /account/confirm": forSelf,
	"POST /workspaces": forSelf, "POST /workspaces/open": forSelf, "POST /team/remove": forSelf,

	"GET /kits/{id}/sheet": forLook, "GET /kits/{id}/slip/{kind}/*": forLook, "GET /kits/{id}/take/{what}": forLook, "GET /kits/{id}/fonts.css": forLook,
	"GET /kits/{id}/try": forLook, "GET /kits/{id}/sound.wav": forLook, "GET /kits/{id}/uses": forLook, "GET /kits/{id}/guidelines": forLook, "GET /kits/{id}/guidelines.pdf": forLook,
	"GET /briefs/{id}/finished/{placement}.svg": forLook, "GET /briefs/{id}/minis": forLook, "GET /briefs/{id}/preview": forLook, "GET /briefs/{id}/examples": forLook,
	"GET /briefs/{id}/places": forLook, "GET /briefs/{id}/looks/more": forLook, "GET /briefs/{id}/findings": forLook, "GET /briefs/{id}/colourways": forLook,
	"GET /briefs/{id}/pieces/{placement}.{format}": forLook, "GET /briefs/{id}/pieces/{placement}/moves": forLook, "GET /briefs/{id}/set.zip": forLook, "GET /briefs/{id}/video/sound.wav": forLook,
	"GET /briefs/{id}/video/captions.{format}": forLook, "GET /briefs/{id}/handover/files": forLook, "GET /briefs/{id}/handover/weigh": forLook,
	"GET /briefs/{id}/past": forChange, "GET /briefs/{id}/past/{seq}": forChange,
	"GET /briefs/{id}/proof/": forLook, "GET /briefs/{id}/proof/state": forLook, "GET /briefs/{id}/proof/events": forLook,
	"GET /briefs/{id}/proof/pieces/{size}/{key}": forLook, "GET /briefs/{id}/proof/then/{shot}": forLook, "POST /briefs/{id}/parcel": forLook, "POST /briefs/{id}/here": forLook,

	"GET /kits/{id}": forPage, "GET /kits/{id}/compare": forPage, "GET /kits/{id}/forward": forPage, "GET /briefs/{id}/forward": forPage, "GET /briefs/{id}/start": forPage,
	"GET /briefs/{id}/looks": forPage, "GET /briefs/{id}/mat": forPage, "GET /briefs/{id}/video": forPage, "GET /briefs/{id}/handover": forPage,
	"GET /kits": forSelf, "GET /kits/new": forSelf, "GET /kits/begin": forSelf, "GET /channels": forSelf,

	"POST /briefs/{id}/proof/say": forComment, "POST /briefs/{id}/proof/settle": forComment, "POST /briefs/{id}/proof/unsay": forComment, "POST /briefs/{id}/proof/decide": forComment,
	"POST /briefs/{id}/proof/take": forChange, "POST /briefs/{id}/proof/links": forChange, "POST /briefs/{id}/proof/links/end": forChange, "POST /briefs/{id}/proof/links/close": forChange,

	"POST /kits/{id}/edit": forChange, "POST /kits/{id}/logos": forChange, "POST /kits/{id}/logos/{item}": forChange, "POST /kits/{id}/fonts": forChange, "POST /kits/{id}/fonts/{item}": forChange,
	"POST /kits/{id}/pictures": forChange, "POST /briefs/{id}/edit": forChange, "POST /briefs/{id}/again": forChange, "POST /briefs/{id}/example": forChange,
	"POST /briefs/{id}/looks": forChange, "POST /briefs/{id}/looks/compare": forChange, "POST /briefs/{id}/looks/large": forChange, "POST /briefs/{id}/sync": forChange,
	"POST /briefs/{id}/go-to": forChange, "POST /documents/{id}/undo": forChange, "POST /briefs/{id}/kit": forChange, "POST /briefs/{id}/finish": forChange,
	"POST /briefs/{id}/video/sync": forChange, "POST /briefs/{id}/clips": forChange, "POST /briefs/{id}/clips/frame": forChange, "POST /briefs/{id}/video/make": forChange,
	"POST /briefs/{id}/phone": forChange, "POST /briefs/{id}/picture": forChange, "POST /briefs/{id}/pictures": forChange, "POST /briefs/{id}/pictures/first": forChange,
	"POST /briefs/{id}/pictures/kept": forChange, "POST /briefs/{id}/portrait": forChange, "POST /briefs/{id}/promote": forChange,
	"POST /documents/{id}/archive": forChange, "POST /documents/{id}/mend": forChange, "POST /documents/{id}/delete": forChange,

	"POST /kits": forWide, "POST /sample": forWide, "POST /give": forWide, "POST /give/back": forWide, "POST /kits/begin": forWide, "POST /kits/import": forWide, "POST /channels": forWide,
	"POST /kits/{id}/duplicate": forWide, "POST /kits/{id}/default": forWide, "POST /briefs": forBody, "POST /forward": forBody, "POST /sounds": forBody,

	"POST /team/role": forManage, "POST /team/scope": forManage, "POST /team/suspend": forManage, "POST /team/invite": forManage, "POST /team/invitations/end": forManage, "POST /team/name": forManage, "POST /team/codes": forManage, "POST /requests/{id}": forManage,
}

// everybody is somebody of each kind: owner, editor, guest editor, commenter and viewer of a workspace with two
// kits, an editor and a commenter narrowed to the first, an editor narrowed to the other one, the
// owner of another workspace, and nobody.
func everybody(t *testing.T, s *stage.Stage) (owner *person, kit, other app.ID, people map[string]*person) {
	t.Helper()
	ctx := t.Context()
	owner = join(t, s, "owner@one.example")
	kit, err := s.App.Kits.NewKit(ctx, owner.member, "Otter")
	if err != nil {
		t.Fatal(err)
	}
	if other, err = s.App.Kits.NewKit(ctx, owner.member, "Heron"); err != nil {
		t.Fatal(err)
	}
	people = map[string]*person{"owner": owner, "foreign": join(t, s, "foreign@one.example"), "nobody": {t, s.URL, newClient(t), app.Member{}}}
	for name, who := range map[string]app.Asked{
		"editor": {Role: "editor"}, "guest editor": {Role: "guest editor"}, "commenter": {Role: "commenter"}, "viewer": {Role: "viewer"},
		"editor of it": {Role: "editor", Only: []app.ID{kit}}, "commenter of it": {Role: "commenter", Only: []app.ID{kit}}, "editor of another": {Role: "editor", Only: []app.ID{other}},
	} {
		p := join(t, s, strings.ReplaceAll(name, " ", "-")+"@one.example")
		token, err := s.App.Team.Invite(ctx, owner.member, who, "")
		if err != nil {
			t.Fatal(err)
		}
		if r, _ := p.form("/join/"+token, nil); r.StatusCode != http.StatusSeeOther {
			t.Fatalf("%s: %s", name, r.Status)
		}
		people[name] = p
	}
	return owner, kit, other, people
}

// TestWhoMayAskForWhat goes through every route for everybody.
func TestWhoMayAskForWhat(t *testing.T) {
	t.Parallel()
	s := open(t, stage.Options{})
	ctx := t.Context()
	owner, kit, _, people := everybody(t, s)
	server, err := web.New(ctx, s.App, web.Options{})
	if err != nil {
		t.Fatal(err)
	}
	seen := map[string]bool{}
	err = chi.Walk(server.Routes(), func(method, route string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
		name := method + " " + route
		seen[name] = true
		who, ok := permissions[name]
		if !ok {
			t.Errorf("%s: who may ask for it is written nowhere", name)
			return nil
		}
		brief, err := s.App.Briefs.NewBrief(ctx, owner.member, kit)
		if err != nil {
			return err
		}
		id := brief.String()
		switch {
		case strings.HasPrefix(route, "/kits/"):
			id = kit.String()
		case strings.HasPrefix(route, "/jobs/"), strings.HasPrefix(route, "/parcels/"), strings.HasPrefix(route, "/requests/"):
			id = uuid.NewString()
		}
		at := strings.NewReplacer("{id}", id, "{placement}", "feed-square", "{format}", "png", "{size}", "small", "{key}", "feed-square", "{seq}", "1", "{what}", "palette.gpl",
			"{kind}", "palette", "*", "main", "{hash}", strings.Repeat("a", 64), "{crop}", "0,0,1,1", "{token}", "none", "{item}", "x", "{shot}", strings.Repeat("b", 64), "{file}", "none.ttf").Replace(route)
		if strings.HasSuffix(route, "/events") {
			at += "?" // they stay open for who may
		}
		for _, name := range slices.Sorted(maps.Keys(people)) {
			p := people[name]
			want := expected(who, name, method, route)
			if who == forWide && name == "editor of another" && strings.Contains(route, "{id}") {
				want = http.StatusNotFound
			}
			if strings.HasSuffix(route, "/events") && want == 0 && who != forAll {
				continue
			}
			var r *http.Response
			if method == http.MethodGet {
				r, _ = p.get(at)
			} else {
				kind, body := bodyOf(route)
				r, _ = p.send(method, at, kind, strings.NewReader(body), "Accept", "application/json")
			}
			switch got := r.StatusCode; {
			case want == 0 && (got == http.StatusUnauthorized || got == http.StatusForbidden || got >= 500):
				t.Errorf("%s %s by %s: %d, they may", method, route, name, got)
			case want != 0 && got != want:
				t.Errorf("%s %s by %s: %d, want %d", method, route, name, got, want)
			case want == http.StatusSeeOther && !strings.HasPrefix(r.Header.Get("Location"), map[bool]string{true: "/sign-in", false: strings.TrimSuffix(at, route[strings.LastIndex(route, "/"):])}[name == "nobody"]):
				t.Errorf("%s %s by %s leads to %s", method, route, name, r.Header.Get("Location"))
			}
			if name != "nobody" && (route == "/sign-out" || strings.HasPrefix(route, "/workspaces")) { // in again, where one was
				p.signIn()
				home := owner.member.Workspace
				if name == "foreign" {
					home = p.member.Workspace
				}
				if r, _ := p.form("/workspaces/open", map[string][]string{"workspace": {home.String()}}); r.StatusCode != http.StatusSeeOther {
					t.Fatal(r.Status)
				}
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	for name := range permissions {
		if !seen[name] {
			t.Errorf("%s is no route any more", name)
		}
	}
}

// TestPathsOfDocumentsByEverybody: by its path a document is edited by who may change it, and only
// where the table of named paths says so, however the path is written.
func TestPathsOfDocumentsByEverybody(t *testing.T) {
	t.Parallel()
	s := open(t, stage.Options{})
	ctx := t.Context()
	owner, kit, other, people := everybody(t, s)
	brief, err := s.App.Briefs.NewBrief(ctx, owner.member, kit)
	if err != nil {
		t.Fatal(err)
	}
	const own = "/$extensions/aspenridge/"
	of := map[string]struct {
		at           string
		named, other []string
		body         func(path string) any
	}{
		"kit": {
			"/kits/" + kit.String() + "/edit",
			[]string{"/color/main/x/$extensions/aspenridge/name", "/type/headline", "/typeSets/x", own + "name", own + "values", own + "tagline", own + "website", own + "handles", own + "phone", own + "place", own + "callsToAction", own + "hashtags", own + "logos", own + "fonts", own + "pictures", own + "colourways", own + "motion", own + "voice/text", own + "manner/corners", own + "language", own + "rails"},
			[]string{"", "/", "/$extensions", "/$extensions/aspenridge", own + "parent", own + "parent/", own + "without", own + "without/-", own + "formatVersion", own + "declined", own + "nameless", "/colors", "/$extensions/other", "/$extensions/aspenridge~1parent", "/a/../" + own + "parent"},
			func(path string) any { return map[string]any{"action": "set", "path": path, "value": other.String()} },
		},
		"brief": {
			"/briefs/" + brief.String() + "/edit",
			[]string{"/name", "/purpose", "/language", "/cards/0/headline", "/cards/0/offer/code", "/signature", "/logo", "/placements", "/palette"},
			[]string{"", "/", "/formatVersion", "/adjustments", "/adjustments/-", "/looks", "/shown", "/sample", "/video", "/video/shots", "/names", "/kit", "/x"},
			func(path string) any { return map[string]any{"path": path, "value": "x"} },
		},
	}
	for kind, c := range of {
		for _, path := range append(slices.Clone(c.named), c.other...) {
			for _, name := range slices.Sorted(maps.Keys(people)) {
				r, body := people[name].json(c.at, c.body(path))
				want := expected(forChange, name, http.MethodPost, "/"+kind+"s/{id}/edit")
				named := slices.Contains(c.named, path)
				switch got := r.StatusCode; {
				case want != 0 && got != want:
					t.Errorf("%s %q by %s: %d, want %d", kind, path, name, got, want)
				case want == 0 && !named && got != http.StatusUnprocessableEntity:
					t.Errorf("%s %q by %s: %d %v", kind, path, name, got, body)
				case want == 0 && named && got != http.StatusOK && got != http.StatusUnprocessableEntity && !(strings.HasSuffix(path, "/rails") && got == http.StatusForbidden):
					t.Errorf("%s %q by %s: %d %v", kind, path, name, got, body)
				}
			}
		}
	}
	k, err := s.App.Kits.Kit(ctx, owner.member, kit)
	if err != nil || len(k.Ancestors()) > 0 {
		t.Errorf("the kit follows %v, %v", k.Ancestors(), err)
	}
}

// uploads are routes that take a file.
var uploads = regexp.MustCompile(`/(logos|fonts|pictures)(/\{item\}|/first|/kept)?$|/portrait$|/give$|/import$|/clips$|/sounds$`)

// bodyOf is a request to a route that is read before it is known whom it is about.
func bodyOf(route string) (kind, body string) {
	if uploads.MatchString(route) {
		return "multipart/form-data; boundary=xx", "--xx\r\nContent-Disposition: form-data; name=\"file\"; filename=\"a.svg\"\r\n\r\n" +
			`<svg xmlns="http://www.w3.org/2000/svg" width="8" height="8"><rect width="8" height="8"/></svg>` + "\r\n--xx--\r\n"
	}
	_, last, _ := strings.Cut(route, "/proof")
	said := map[string]string{
		"/say": `{"piece": "feed-square", "words": "a"}`, "/decide": `{"verdict": "approved", "seen": {"feed-square": "x"}}`, "/links": `{"for": "somebody"}`,
	}[last]
	if route == "/kits/{id}/edit" {
		said = `{"client": "x", "action": "set", "path": "/$extensions/aspenridge/tagline", "value": "a"}`
	}
	return "application/json", cmp.Or(said, "{}")
}

// expected is the answer to a route of a kind by somebody, 0 for any that does not refuse it.
func expected(who, name, method, route string) int {
	if who == forAll {
		return 0
	}
	if name == "nobody" {
		if method == http.MethodGet {
			return http.StatusSeeOther // to sign in
		}
		return http.StatusUnauthorized
	}
	about := who == forLook || who == forPage || who == forComment || who == forChange
	if about && (name == "foreign" || name == "editor of another") {
		return http.StatusNotFound
	}
	role, narrow, _ := strings.Cut(name, " of ")
	if role == "foreign" {
		role = "owner" // in a workspace of their own
	}
	may := slices.Contains(capable[role], capabilityOf(who, route))
	switch {
	case who == forSelf:
		return 0
	case who == forPage && !may:
		return http.StatusSeeOther
	case !may, who == forWide && narrow != "":
		return http.StatusForbidden
	}
	return 0
}

// capable is what each role may do, said once more.
var capable = map[string][]roles.Capability{
	"owner":        {"look", "hand over", "comment", "decide", "write briefs", "write kits", "share outside", "manage people", "manage workspace"},
	"editor":       {"look", "hand over", "comment", "decide", "write briefs", "write kits", "share outside"},
	"guest editor": {"look", "hand over", "comment", "decide", "write briefs"},
	"commenter":    {"look", "hand over", "comment", "decide"},
	"viewer":       {"look", "hand over"},
}

// capabilityOf is what it takes to ask for a route.
func capabilityOf(who, route string) roles.Capability {
	kit := strings.HasPrefix(route, "/kits")
	switch {
	case who == forLook:
		return roles.Look
	case strings.HasSuffix(route, "/proof/decide"):
		return roles.Decide
	case who == forComment:
		return roles.Comment
	case strings.Contains(route, "/proof/links"), strings.HasSuffix(route, "/phone"):
		return roles.ShareOutside
	case who == forManage && strings.HasPrefix(route, "/team/") && route != "/team/name" && route != "/team/codes":
		return roles.ManagePeople
	case who == forManage:
		return roles.ManageWorkspace
	case kit, who == forWide: // what is given here begins a kit
		return roles.WriteKits
	}
	return roles.WriteBriefs
}
