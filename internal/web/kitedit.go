package web

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
)

// kitEdit is one change of the kit's page: an action, what it is about (token)
// and what is said of it (text).
type kitEdit struct {
	Action string          `json:"action"`
	Client string          `json:"client"`
	Base   int64           `json:"base"`
	Path   string          `json:"path"`
	Value  json.RawMessage `json:"value"`
	Text   string          `json:"text"`
	Token  string          `json:"token"`
	Typing bool            `json:"typing"`
	Order  []string        `json:"order"`
	Before string          `json:"before"`
	Set    string          `json:"set"` // the type set the sheet shows

	to ID // the kit
}

// ID is the identity of a document.
type ID = app.ID

// yes reads a box that was ticked.
func (e kitEdit) yes() bool { return e.Text == "yes" }

// kitActions are the changes the kit's page knows, by name.
var kitActions = map[string]func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error{
	"set": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		_, err := a.Documents.Edit(ctx, m, e.to, app.Change{Kind: "kit", Named: true, Op: edit.Op{Path: e.Path, Value: e.Value, Order: e.Order, Before: e.Before}, Base: e.Base, Client: e.Client})
		return err
	},
	"leave-out": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		_, err := a.Kits.LeaveOut(ctx, m, e.to, app.Change{Base: e.Base, Client: e.Client}, e.Token)
		return err
	},
	"follow": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		return a.Kits.Follow(ctx, m, e.to, e.Client, e.Text)
	},
	"copy": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		to, err := app.ParseID(e.Text)
		if err != nil {
			return app.ErrNotFound
		}
		return a.Kits.CopyTo(ctx, m, e.to, to, e.Client, e.Token)
	},
	"colour": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		_, err := a.Brand.SetColour(ctx, m, e.to, app.Change{Client: e.Client, Base: e.Base, Typing: e.Typing}, e.Token, e.Text)
		return err
	},
	"rights": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		return a.Brand.ConfirmFont(ctx, m, e.to, e.Client, e.Token, e.yes())
	},
	"palette": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		return a.Brand.StartPalette(ctx, m, e.to, e.Client, e.Text)
	},
	"paste": pasteColours,
	"from-logo": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		return a.Kits.FromLogo(ctx, m, e.to, e.Client)
	},
	"mark": placeMark,
	"says": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		return a.Brand.SaySo(ctx, m, e.to, e.Client, e.Text)
	},
	"song": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		return a.Brand.SetSong(ctx, m, e.to, e.Client, e.Text)
	},
	"keep": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		c, err := colour.Parse(e.Text)
		if err != nil {
			return fmt.Errorf("%w: %v", app.ErrInvalid, err)
		}
		return a.Brand.KeepColours(ctx, m, e.to, e.Client, app.NewColour{Value: c})
	},
	"keep-all": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		var list []app.NewColour
		for _, v := range strings.Fields(e.Text) {
			c, err := colour.Parse(v)
			if err != nil {
				return fmt.Errorf("%w: %v", app.ErrInvalid, err)
			}
			list = append(list, app.NewColour{Value: c})
		}
		return a.Brand.KeepColours(ctx, m, e.to, e.Client, list...)
	},
	"decline": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		c, err := colour.Parse(e.Text)
		if err != nil {
			return fmt.Errorf("%w: %v", app.ErrInvalid, err)
		}
		return a.Brand.Decline(ctx, m, e.to, e.Client, c)
	},
	"family": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		if e.Token == "headline" {
			return a.Brand.SetFamilies(ctx, m, e.to, e.Client, e.Set, e.Text, "")
		}
		return a.Brand.SetFamilies(ctx, m, e.to, e.Client, e.Set, "", e.Text)
	},
	"pair": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		return a.Brand.SetFamilies(ctx, m, e.to, e.Client, e.Set, e.Token, e.Text)
	},
	"level": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		level, field, _ := strings.Cut(e.Token, "/")
		return a.Brand.SetLevel(ctx, m, e.to, e.Client, e.Set, brand.Level(level), field, e.Text)
	},
	"swap": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		return a.Brand.SwapLevels(ctx, m, e.to, e.Client, e.Set, brand.Level(e.Token), brand.Level(e.Text))
	},
	"logo-lead": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		return a.Brand.LeadLogo(ctx, m, e.to, e.Client, e.Token)
	},
	"logo-cut": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		return a.Brand.CutLogo(ctx, m, e.to, e.Client, e.Token)
	},
	"logo-tone": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		return a.Brand.ToneLogo(ctx, m, e.to, e.Client, e.Token, e.Text)
	},
	"logo-move": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		return a.Brand.MoveLogo(ctx, m, e.to, e.Client, e.Token, e.Text)
	},
	"restore": versionAction(func(ctx context.Context, a *app.App, m app.Member, e kitEdit, v int64) error {
		return a.Kits.Restore(ctx, m, e.to, e.Client, v)
	}),
	"name-version": versionAction(func(ctx context.Context, a *app.App, m app.Member, e kitEdit, v int64) error {
		return a.Kits.NameVersion(ctx, m, e.to, v, e.Text)
	}),
	"share": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		if e.yes() {
			_, err := a.Guidelines.Share(ctx, m, e.to)
			return err
		}
		return a.Guidelines.Unshare(ctx, m, e.to)
	},
	"type-set": func(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
		_, err := a.Brand.AddTypeSet(ctx, m, e.to, e.Client, e.Set, e.Text)
		return err
	},
}

// editKit makes one change to a kit and answers with the sheet as it is now.
func (s *Server) editKit(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	if err != nil {
		return err
	}
	var e kitEdit
	if err := readJSON(r, &e); err != nil {
		return err
	}
	e.to = id
	act, ok := kitActions[e.Action]
	if !ok {
		return fmt.Errorf("%w: action %q", app.ErrInvalid, e.Action)
	}
	err = s.once(r, func() error { return act(r.Context(), s.app, m, e) })
	if e.Action == "paste" { // what could not be read stays in the field
		var left []colour.Unread
		if _, left, _ = colour.ReadList(e.Text); err != nil && len(left) > 0 {
			reply(w, http.StatusUnprocessableEntity, map[string]any{"error": plainly(err), "unread": left})
			return nil
		}
		r = r.WithContext(context.WithValue(r.Context(), unreadKey{}, left))
	}
	if err != nil {
		return err
	}
	return s.kitSheet(w, r)
}

type unreadKey struct{}

// unreadOf are the lines of what was pasted that no colour was found in.
func unreadOf(r *http.Request) []colour.Unread {
	left, _ := r.Context().Value(unreadKey{}).([]colour.Unread)
	return left
}

// pasteColours adds what is typed to a palette: the one whose id the token is, one
// of its own for "new:" and a name, else the first.
func pasteColours(ctx context.Context, a *app.App, m app.Member, e kitEdit) error {
	list, err := brand.ReadColours(e.Text)
	if err != nil {
		return fmt.Errorf("%w: %v", app.ErrInvalid, err)
	}
	var out []app.NewColour
	for _, c := range list {
		out = append(out, app.NewColour{Name: c.Name, Value: c.Value, Role: c.Role})
	}
	to := app.IntoPalette{ID: e.Token}
	if name, ok := strings.CutPrefix(e.Token, "new:"); ok {
		to = app.IntoPalette{New: cmp.Or(strings.TrimSpace(name), "Palette")}
	}
	return a.Brand.AddColours(ctx, m, e.to, e.Client, to, out...)
}

// uses answers where a part of the kit is used, before it is taken out.
func (s *Server) uses(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	var u app.Use
	if err == nil {
		u, err = s.app.Kits.Uses(r.Context(), m, id, r.URL.Query().Get("of"))
	}
	if err != nil {
		return err
	}
	reply(w, http.StatusOK, u)
	return nil
}

// kitSlips are the cards beside what is chosen on the sheet: each is a template
// and what it shows, by kind.
var kitSlips = map[string]func(s *Server, r *http.Request, k *app.Kit, p kitPage, key string) (template string, data any, err error){
	"share":   slipShare,
	"colour":  slipColour,
	"history": slipHistory,
	"picture": slipPicture,
	"level":   slipLevel,
	"logo":    slipLogo,
	"pairs":   slipPairs,
}

// kitSlip is the fragment of a slip.
func (s *Server) kitSlip(w http.ResponseWriter, r *http.Request) error {
	k, p, err := s.kitView(r)
	if err != nil {
		return err
	}
	of, ok := kitSlips[chi.URLParam(r, "kind")]
	if !ok {
		return app.ErrNotFound
	}
	name, data, err := of(s, r, k, p, chi.URLParam(r, "*"))
	if err == nil {
		var html string
		if html, err = s.fragment("kit", name, data); err == nil {
			reply(w, http.StatusOK, map[string]any{"html": html})
			return nil
		}
	}
	return err
}

// slipShare is the read-only link to the guidelines.
func slipShare(s *Server, r *http.Request, k *app.Kit, _ kitPage, _ string) (string, any, error) {
	m := member(r)
	token, err := s.app.Guidelines.Shared(r.Context(), m, k.ID)
	link := ""
	if token != "" {
		link = s.origin(r) + "/g/" + token + "/"
	}
	return "share-slip", link, err
}
