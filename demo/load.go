package demo

import (
	"context"
	"encoding/json"
	"errors"
	"strings"

	"aspenridge/internal/app"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/store"
)

// The demo's account.
const (
	Email    = "nell@larkmoor.example"
	Password = "quiet water 2027"
)

// Load puts the demo in: the account, Larkmoor's kit with its logos, both
// briefs with their pictures and a kept look each. A second load changes
// nothing.
func Load(ctx context.Context, a *app.App) error {
	m, err := a.SignUp(ctx, "Nell Tarrant", Email, Password)
	if errors.Is(err, store.ErrTaken) {
		return nil
	}
	if err != nil {
		return err
	}
	kit, err := LoadKit(ctx, a, m)
	if err != nil {
		return err
	}
	for _, b := range []struct{ file, layout string }{{"lanterns.json", "slant"}, {"beginners.json", "shoreline"}} {
		if _, err := LoadBrief(ctx, a, m, kit, b.file, b.layout); err != nil {
			return err
		}
	}
	return nil
}

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
	kit, err := a.ImportKit(ctx, m, data)
	if err != nil {
		return kit, err
	}
	files := Logos()
	for i, v := range declared {
		l := v.(*edit.Object)
		file, _ := l.Get("file").(string)
		if err := a.AddLogo(ctx, m, kit, "demo", strings.TrimPrefix(file, "logos/"), []byte(files[file])); err != nil {
			return kit, err
		}
		for _, field := range []string{"lockup", "tone"} {
			value, err := json.Marshal(l.Get(field))
			if err != nil {
				return kit, err
			}
			path := "/$extensions/aspenridge/logos/" + string(rune('0'+i)) + "/" + field
			if _, err := a.Edit(ctx, m, kit, app.Change{Base: app.Latest, Client: "demo", Op: edit.Op{Path: path, Value: value}}); err != nil {
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
			ref, err := a.KeepPicture(ctx, m, base, []byte(Pictures()[base]))
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
	id, err := a.ImportBrief(ctx, m, kit, data)
	if err != nil {
		return id, err
	}
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return id, err
	}
	for _, l := range s.Job.Layouts {
		if l.ID == layout {
			look := piece.Look{Layout: l.Ref(), Seats: colourway.Rank(s.Kit.Colours(), l.Needs(), 1)[0].Tokens(), TypeSet: "main", Crops: map[string][2]float64{}}
			_, err = a.ChooseLook(ctx, m, id, "demo", app.Latest, look)
		}
	}
	return id, err
}
