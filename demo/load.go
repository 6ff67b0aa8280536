package demo

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/piece"
)

// The demo's account.
const (
	Email    = "nell@larkmoor.example"
	Password = "quiet water 2027"
)

// Load puts the demo in: the account, Larkmoor's kit with its logos, the kit of
// its sub-brand, a channel of its own, the briefs with their pictures and a kept
// look each. A second load changes nothing.
func Load(ctx context.Context, a *app.App) error {
	m, err := a.People.SignUp(ctx, "Nell Tarrant", Email, Password)
	if err != nil {
		return err
	}
	// signing up where there is an account signs in to it
	if kits, err := a.Kits.KitNames(ctx, m); err != nil || len(kits) > 0 {
		return err
	}
	kit, err := Fill(ctx, a, m)
	if err != nil {
		return err
	}
	if err := a.Kits.SetDefaultKit(ctx, m, kit); err != nil {
		return err
	}
	return loadTeam(ctx, a, m, kit)
}

// Colleague is the account of somebody who comments and approves, Maker that of somebody who
// makes pieces and asks before they go beyond the brand.
const (
	Colleague = "ida@larkmoor.example"
	Maker     = "jonas@larkmoor.example"
)

// loadTeam names the workspace, asks two colleagues in and says what is left to them; one of
// them asks for more.
func loadTeam(ctx context.Context, a *app.App, m app.Member, kit app.ID) error {
	if err := a.Team.Rename(ctx, m, "Larkmoor workshop"); err != nil {
		return err
	}
	m.WorkspaceName = "Larkmoor workshop"
	if _, err := colleague(ctx, a, m, "Ida Brandt", Colleague, "commenter"); err != nil {
		return err
	}
	jonas, err := colleague(ctx, a, m, "Jonas Reth", Maker, "editor")
	if err != nil {
		return err
	}
	rails := edit.Op{Path: "/$extensions/aspenridge/rails", Value: json.RawMessage(`{"colours": true, "logo": true, "voice": true}`)}
	if _, err := a.Documents.Edit(ctx, m, kit, app.Change{Base: app.Latest, Client: "demo", Op: rails}); err != nil {
		return err
	}
	sets, _, _, err := a.Briefs.FindBriefs(ctx, m, "lantern", 0)
	if err != nil || len(sets) == 0 {
		return err
	}
	adj := brief.Adjustment{Reach: "set", Slot: "headline", Property: "fill", Value: json.RawMessage(`"#FF8FA3"`)}
	adj.ID = adj.Key()
	data, err := json.Marshal(adj)
	if err != nil {
		return err
	}
	asks := jonas.Asking("The lantern makers sent their pink, and it is their evening too.")
	_, err = a.Documents.Edit(ctx, asks, sets[0].Doc.ID, app.Change{Kind: "brief", Base: app.Latest, Client: "demo", Op: edit.Op{Path: "/adjustments/@" + adj.ID, Value: data}})
	if errors.Is(err, app.ErrAsked) {
		err = nil
	}
	return err
}

// colleague makes an account and asks it in.
func colleague(ctx context.Context, a *app.App, m app.Member, name, email, role string) (app.Member, error) {
	p, err := a.People.SignUp(ctx, name, email, Password)
	if err != nil {
		return p, err
	}
	token, err := a.Team.Invite(ctx, m, app.Asked{Email: email, Role: role}, "/join/")
	if err != nil {
		return p, err
	}
	in, err := a.Team.Join(ctx, p, token)
	if err != nil {
		return p, err
	}
	return a.People.Member(ctx, p.ID, in)
}

// Fill puts Larkmoor into a workspace: its kits, its channel, its briefs.
func Fill(ctx context.Context, a *app.App, m app.Member) (app.ID, error) {
	kit, err := LoadKit(ctx, a, m)
	if err != nil {
		return kit, err
	}
	for _, name := range []string{"dawn-on-the-bend.svg", "lanterns-after-dark.svg"} {
		if err := a.Brand.AddBrandPicture(ctx, m, kit, "demo", name, []byte(Pictures()[name])); err != nil {
			return kit, err
		}
	}
	if _, err := LoadAfterDark(ctx, a, m, kit); err != nil {
		return kit, err
	}
	if err := a.Places.AddChannel(ctx, m, "demo", "Boathouse"); err != nil {
		return kit, err
	}
	for _, p := range [][2]string{{"Notice at the slipway", "21 x 29.7 cm at 100 dpi"}, {"Newsletter head", "1400 x 420"}} {
		if err := a.Places.AddPlacement(ctx, m, "demo", "boathouse", p[0], p[1]); err != nil {
			return kit, err
		}
	}
	// the frame of the notice board covers its foot
	if err := a.Places.ChangeChannels(ctx, m, "demo", edit.Op{Path: "/channels/@boathouse/placements/0/safe", Value: []byte(`[40,40,120,40]`)}); err != nil {
		return kit, err
	}
	for _, b := range []struct{ file, layout string }{{"knots.json", "ledger"}, {"lanterns.json", "slant"}, {"beginners.json", "shoreline"}} {
		if _, err := LoadBrief(ctx, a, m, kit, b.file, b.layout); err != nil {
			return kit, err
		}
	}
	return kit, nil
}

// LoadAfterDark puts in the sub-brand for lantern tours, which takes over from
// Larkmoor whatever it does not say itself.
func LoadAfterDark(ctx context.Context, a *app.App, m app.Member, parent app.ID) (app.ID, error) {
	return a.Kits.ImportKit(ctx, m, fmt.Appendf(nil, afterDark, parent))
}

const afterDark = `{
 "color": {
  "main": {"river": {"$extensions": {"aspenridge": {"role": "support"}}}},
  "night": {"$type": "color", "$extensions": {"aspenridge": {"name": "Night"}},
   "dusk": {"$value": "#2b1f47", "$extensions": {"aspenridge": {"name": "Dusk", "role": "lead"}}},
   "glow": {"$value": "#ffc96b", "$extensions": {"aspenridge": {"name": "Glow", "role": "accent"}}}}
 },
 "$extensions": {"aspenridge": {"formatVersion": 1, "name": "Larkmoor After Dark", "parent": "%s", "tagline": "Lanterns on slow water",
  "without": ["/color/main/coral"], "callsToAction": ["Join the crew"], "voice": {"sounds": "Hushed, like talking on a night river."}}}
}`

// LoadKit puts Larkmoor's kit into a workspace.
func LoadKit(ctx context.Context, a *app.App, m app.Member) (app.ID, error) {
	// the document's logos are added as uploads, so that every file is taken in
	// the way a person's is
	doc, err := edit.ParseObject(KitDocument())
	if err != nil {
		return app.ID{}, err
	}
	own := doc.Object("$extensions").Object("aspenridge")
	declared, _ := own.Get("logos").([]any)
	own.Delete("logos")
	data, err := edit.Marshal(doc)
	if err != nil {
		return app.ID{}, err
	}
	kit, err := a.Kits.ImportKit(ctx, m, data)
	if err != nil {
		return kit, err
	}
	files := Logos()
	for i, v := range declared {
		l := v.(*edit.Object)
		file, _ := l.Get("file").(string)
		if err := a.Brand.AddLogo(ctx, m, kit, "demo", strings.TrimPrefix(file, "logos/"), []byte(files[file])); err != nil {
			return kit, err
		}
		for _, field := range []string{"lockup", "tone"} {
			value, err := json.Marshal(l.Get(field))
			if err != nil {
				return kit, err
			}
			path := "/$extensions/aspenridge/logos/" + string(rune('0'+i)) + "/" + field
			if _, err := a.Documents.Edit(ctx, m, kit, app.Change{Base: app.Latest, Client: "demo", Op: edit.Op{Path: path, Value: value}}); err != nil {
				return kit, err
			}
		}
	}
	return kit, nil
}

// LoadBrief puts one of the demo's briefs in, with its picture and a look of
// the given layout.
func LoadBrief(ctx context.Context, a *app.App, m app.Member, kit app.ID, name, layout string) (app.ID, error) {
	doc, err := edit.ParseObject([]byte(Briefs()[name]))
	if err != nil {
		return app.ID{}, err
	}
	if list, ok := doc.Get("pictures").([]any); ok {
		for _, v := range list {
			p := v.(*edit.Object)
			file, _ := p.Get("file").(string)
			base := strings.TrimPrefix(file, "pictures/")
			ref, err := a.Files.KeepPicture(ctx, m, base, []byte(Pictures()[base]))
			if err != nil {
				return app.ID{}, err
			}
			p.Set("file", ref)
		}
	}
	data, err := edit.Marshal(doc)
	if err != nil {
		return app.ID{}, err
	}
	id, err := a.Briefs.ImportBrief(ctx, m, kit, data)
	if err != nil {
		return id, err
	}
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		return id, err
	}
	for _, l := range s.Job.Layouts {
		if l.ID == layout {
			look := piece.Look{Layout: l.Ref(), Seats: colourway.Rank(s.Kit.Colours(), l.Needs(), 1)[0].Tokens(), TypeSet: "main", Crops: map[string][2]float64{}}
			_, err = a.Sets.ChooseLook(ctx, m, id, "demo", app.Latest, look)
		}
	}
	return id, err
}
