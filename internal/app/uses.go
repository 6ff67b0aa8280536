package app

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
)

// Use says where a part of a kit is used, before it is taken out.
type Use struct {
	Name   string   `json:"name"`   // what is to go
	Briefs []string `json:"briefs"` // titles of those that name it
	Kit    []string `json:"kit"`    // parts of the kit that name it
	Then   string   `json:"then"`   // what they show without it
}

// Uses finds where a part of a kit is used, by its path in the kit's document; ""
// is the kit itself.
func (a Kits) Uses(ctx context.Context, m Member, kit ID, path string) (Use, error) {
	k, err := a.Kit(ctx, m, kit)
	if err != nil {
		return Use{}, err
	}
	u := Use{Briefs: []string{}, Kit: []string{}}
	if path == "" {
		return a.usesOfKit(ctx, m, k, u)
	}
	part, is := partOf(k, path)
	if part.name == "" {
		return Use{}, ErrNotFound
	}
	u.Name, u.Then = part.name, part.then
	if part.ref == "" {
		return u, nil
	}
	docs, err := a.store.BriefsNaming(ctx, m.Workspace, kit, part.ref)
	if err != nil {
		return u, err
	}
	for _, d := range docs {
		doc, err := edit.ParseObject(d.Doc)
		if err != nil {
			continue // it uses nothing while it cannot be read
		}
		named := false
		walkStrings(doc, "", func(_, s string) { named = named || is(s) })
		if named {
			u.Briefs = append(u.Briefs, d.Name)
		}
	}
	for _, c := range k.KeptColourways {
		for _, t := range c.Seats {
			if is(t) && !slices.Contains(u.Kit, c.Name) {
				u.Kit = append(u.Kit, c.Name)
			}
		}
	}
	if part.family != "" {
		for _, set := range k.TypeSets {
			for _, l := range brand.Levels {
				if set.Levels[l].Family == part.family {
					u.Kit = append(u.Kit, strings.TrimSpace(set.Name+" "+string(l)))
				}
			}
		}
	}
	return u, nil
}

func (a *house) usesOfKit(ctx context.Context, m Member, k *Kit, u Use) (Use, error) {
	u.Name, u.Then = orNew(k.Name), "Briefs that use it keep it, and it can be restored."
	docs, err := a.store.BriefsOf(ctx, m.Workspace, k.ID, 200)
	if err != nil {
		return u, err
	}
	for _, d := range docs {
		u.Briefs = append(u.Briefs, d.Name)
	}
	followers, err := a.store.Reading(m.Workspace).Followers(ctx, k.ID)
	for _, f := range followers {
		u.Kit = append(u.Kit, orNew(f.Name)+", which follows it")
	}
	return u, err
}

// part is something in a kit that documents name.
type part struct {
	name, then string
	ref        string // how briefs name it, "" when none can
	family     string // of a font
}

// partOf finds what stands at a path of a kit's document, and tells whether a text
// names it.
func partOf(k *Kit, path string) (p part, is func(string) bool) {
	is = func(s string) bool { return s == p.ref }
	const own = "/$extensions/aspenridge/"
	switch rest := strings.Split(strings.TrimPrefix(path, "/"), "/"); {
	case len(rest) == 2 && rest[0] == "color":
		for _, pal := range k.Palettes {
			if pal.ID == rest[1] {
				p = part{name: "The palette " + pal.Name, ref: "color." + pal.ID + ".", then: "What used its colours takes others of the kit."}
			}
		}
		is = func(s string) bool { return strings.HasPrefix(s, p.ref) }
	case len(rest) == 3 && rest[0] == "color":
		if c, ok := k.Colour(rest[1] + "." + rest[2]); ok {
			p = part{name: c.Name, ref: "color." + c.Token, then: "What used it takes another colour of the kit that reads there."}
		}
	case len(rest) == 2 && rest[0] == "typeSets":
		for _, t := range k.TypeSets {
			if t.ID == rest[1] {
				p = part{name: "The type set " + t.Name, ref: t.ID, then: "Looks that use it go back to the first set."}
			}
		}
	case strings.HasPrefix(path, own+"fonts/@"):
		for _, f := range k.Fonts {
			if f.ID == path[len(own+"fonts/@"):] {
				p = part{name: f.Family, family: f.Family, then: "Levels set in it get the default family until it comes back."}
			}
		}
	case strings.HasPrefix(path, own+"logos/@"):
		for _, l := range k.Logos {
			if l.ID == path[len(own+"logos/@"):] {
				p = part{name: "The logo " + fileStem(l.File), ref: l.File, then: "Where it was asked for by name the rule picks another."}
			}
		}
	case strings.HasPrefix(path, own+"pictures/@"):
		for _, pic := range k.Pictures {
			if pic.ID == path[len(own+"pictures/@"):] {
				p = part{name: fmt.Sprintf("The %s %s", pic.Kind, fileStem(pic.File)), ref: pic.File, then: "Briefs that show it keep it."}
			}
		}
	case strings.HasPrefix(path, own+"colourways/@"):
		for _, c := range k.KeptColourways {
			if c.ID == path[len(own+"colourways/@"):] {
				p = part{name: "The colourway " + c.Name}
			}
		}
	default:
		p = part{name: "It"}
	}
	return p, is
}

// fileStem is a file's name as people gave it, without its ending.
func fileStem(ref string) string {
	_, name, _ := strings.Cut(ref, "/")
	if i := strings.LastIndexByte(name, '.'); i > 0 {
		name = name[:i]
	}
	return name
}
