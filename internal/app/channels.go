package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"aspenridge/internal/act"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/store"
)

// Channels are where the pieces of a workspace can go.
type Channels struct {
	spec.Directory // the catalogue, then the workspace's own
	Own            []spec.Channel
	Combinations   []Combination
	Doc            store.Document // of the own ones; its ID is zero before there are any
}

// Combination is a choice of places kept under a name.
type Combination struct {
	Name       string   `json:"name"`
	Placements []string `json:"placements"`
}

// KeepCombination keeps a choice of places under a name, in place of one of the
// same name; without places it lets it go.
func (a Places) KeepCombination(ctx context.Context, m Member, client, name string, placements []string) error {
	if name == "" || len([]rune(name)) > 60 {
		return fmt.Errorf("%w: a combination needs a name of 1 to 60 characters", ErrInvalid)
	}
	c, err := a.Channels(ctx, m)
	if err != nil {
		return err
	}
	list := slices.DeleteFunc(slices.Clone(c.Combinations), func(o Combination) bool { return o.Name == name })
	if len(placements) > 0 {
		list = append(list, Combination{name, placements})
	}
	return a.ChangeChannels(ctx, m, client, edit.Op{Path: "/combinations", Value: raw(list)})
}

// Channels reads the channels of a workspace.
func (a Places) Channels(ctx context.Context, m Member) (*Channels, error) {
	if err := act.May(m, roles.Look); err != nil {
		return nil, err
	}
	return a.channels(ctx, m.Workspace)
}

func (a *house) channels(ctx context.Context, workspace ID) (*Channels, error) {
	c := &Channels{Directory: spec.Catalogue()}
	d, err := a.store.ChannelsOf(ctx, workspace)
	if errors.Is(err, ErrNotFound) {
		return c, nil
	}
	if err != nil {
		return nil, err
	}
	if c.Own, err = spec.ParseChannels(d.Doc); err != nil {
		return nil, err
	}
	var doc struct {
		Combinations []Combination `json:"combinations"`
	}
	if err := json.Unmarshal(d.Doc, &doc); err != nil {
		return nil, err
	}
	c.Doc, c.Combinations = d, doc.Combinations
	c.Directory = append(slices.Clone(c.Directory), c.Own...)
	return c, nil
}

// ChangeChannels makes a change to the workspace's own channels, which begin
// with the first one.
func (a Places) ChangeChannels(ctx context.Context, m Member, client string, op edit.Op) error {
	if err := act.MayAll(m, roles.WriteKits); err != nil {
		return err
	}
	c, err := a.channels(ctx, m.Workspace)
	if err != nil {
		return err
	}
	if c.Doc.ID == (ID{}) {
		doc := edit.NewObject()
		doc.Set("formatVersion", json.Number("1"))
		doc.Set("channels", []any{})
		// two people may begin at once: one document comes of it
		if c.Doc, err = a.store.CreateChannels(ctx, store.Document{Workspace: m.Workspace, Kind: "channels", Name: "Channels", Doc: raw(doc)}); err != nil {
			return err
		}
	}
	_, err = a.documents.Edit(ctx, m, c.Doc.ID, Change{Kind: "channels", Client: client, Base: Latest, Op: op})
	return err
}

// AddChannel adds an empty channel; its id is made of its name.
func (a Places) AddChannel(ctx context.Context, m Member, client, name string) error {
	c, err := a.Channels(ctx, m)
	if err != nil {
		return err
	}
	taken := func(id string) bool {
		return slices.ContainsFunc(c.Directory, func(o spec.Channel) bool { return o.ID == id })
	}
	return a.ChangeChannels(ctx, m, client, edit.Op{Path: "/channels/-", Value: raw(map[string]any{"id": freeSlug(name, "channel", taken), "name": name, "placements": []any{}})})
}

// AddPlacement adds a placement of a size people typed to one of the own
// channels.
func (a Places) AddPlacement(ctx context.Context, m Member, client string, channel, name, size string) error {
	c, err := a.Channels(ctx, m)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(c.Own, func(o spec.Channel) bool { return o.ID == channel }) {
		return ErrNotFound
	}
	w, h, err := spec.ParseSize(size)
	if err != nil {
		return fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	if name == "" {
		name = fmt.Sprintf("%d × %d", w, h)
	}
	taken := func(id string) bool { _, ok := c.Find(id); return ok }
	return a.ChangeChannels(ctx, m, client, edit.Op{Path: "/channels/@" + channel + "/placements/-", Value: raw(map[string]any{
		"id": freeSlug(name, "place", taken), "name": name, "width": w, "height": h, "needs": []string{"address-or-action"},
	})})
}

// BringChannels adds the channels of a JSON file. One that is there already, by
// its id, is as in the file afterwards; a place whose id another channel has gets
// one of its own. Anything that is not right is refused, and nothing is changed
// then. It returns how many came in anew and how many were there.
func (a Places) BringChannels(ctx context.Context, m Member, client string, data []byte) (added, replaced int, err error) {
	found, err := spec.ParseChannels(data)
	if err != nil {
		return 0, 0, fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	if len(found) == 0 {
		return 0, 0, fmt.Errorf("%w: the file holds no channels; want {\"channels\": [...]}", ErrInvalid)
	}
	c, err := a.Channels(ctx, m)
	if err != nil {
		return 0, 0, err
	}
	coming := func(id string) bool {
		return slices.ContainsFunc(found, func(o spec.Channel) bool { return o.ID == id })
	}
	taken := map[string]bool{} // places of the channels that stay
	for _, o := range c.Directory {
		if !coming(o.ID) {
			for _, p := range o.Placements {
				taken[p.ID] = true
			}
		}
	}
	var ops []edit.Op
	for _, in := range found {
		if slices.ContainsFunc(c.Own, func(o spec.Channel) bool { return o.ID == in.ID }) {
			ops = append(ops, edit.Op{Path: "/channels/@" + in.ID})
			replaced++
		} else {
			added++
		}
		for i := range in.Placements {
			p := &in.Placements[i]
			p.ID = freeSlug(p.ID, "place", func(id string) bool { return taken[id] })
			taken[p.ID] = true
		}
		ops = append(ops, edit.Op{Path: "/channels/-", Value: raw(in)})
	}
	return added, replaced, a.ChangeChannels(ctx, m, client, edit.Op{All: ops})
}

// ExportChannels writes the own channels as they can be brought in again.
func (a Places) ExportChannels(ctx context.Context, m Member) ([]byte, error) {
	c, err := a.Channels(ctx, m)
	if err != nil {
		return nil, err
	}
	own := c.Own
	if own == nil {
		own = []spec.Channel{}
	}
	return json.MarshalIndent(map[string]any{"formatVersion": 1, "channels": own}, "", " ")
}

// freeSlug makes an id of a name that is not taken.
func freeSlug(name, def string, taken func(string) bool) string {
	base := ""
	for _, r := range name {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9':
			base += string(r)
		case r >= 'A' && r <= 'Z':
			base += string(r + 'a' - 'A')
		case base != "" && base[len(base)-1] != '-':
			base += "-"
		}
		if len(base) > 40 {
			break
		}
	}
	for base != "" && base[len(base)-1] == '-' {
		base = base[:len(base)-1]
	}
	if base == "" {
		base = def
	}
	id := base
	for n := 2; taken(id); n++ {
		id = fmt.Sprintf("%s-%d", base, n)
	}
	return id
}
