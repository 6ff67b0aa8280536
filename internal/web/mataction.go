package web

import (
	"encoding/json"
	"fmt"
	"net/http"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
)

// setChange is a change of a set while it is made for a page.
type setChange struct {
	*http.Request
	s  *Server
	m  app.Member
	id app.ID
	q  *syncRequest

	made madeState
}

// since is a change made of what the page had; now one that is meant whatever stands there.
func (c *setChange) since() app.Change { return app.Change{Base: c.q.Base, Client: c.q.Client} }
func (c *setChange) now() app.Change   { return app.Change{Base: app.Latest, Client: c.q.Client} }

// setActions are the changes of a set a page asks for, by the name its request has for them. A new
// one is a row here.
var setActions = map[string]func(c *setChange, with json.RawMessage) error{
	"write": action(func(c *setChange, with struct{ Card, Field, Reach, Text string }) error {
		typed := c.since()
		typed.Typing = true
		_, err := c.s.app.Briefs.Write(c.Context(), c.m, c.id, typed, with.Card, with.Field, with.Reach, with.Text)
		return err
	}),
	"turn": action(func(c *setChange, step app.Step) error {
		_, err := c.s.app.Sets.Turn(c.Context(), c.m, c.id, c.q.Client, step)
		return err
	}),
	"keep": action(func(c *setChange, _ bool) (err error) { // the colourway, in the kit
		c.made.Kept, err = c.s.app.Sets.KeepColourway(c.Context(), c.m, c.id, c.q.Client)
		return err
	}),
	"fix": action(func(c *setChange, of struct{ Code, Slot string }) (err error) { // findings of a code and slot, or all
		c.made.Fixed, err = c.s.app.Sets.Fix(c.Context(), c.m, c.id, c.q.Client, of.Code, of.Slot)
		return err
	}),
	"move": action(func(c *setChange, to struct { // another part of a picture shows
		Reach, Slot string
		Crop        [4]float64
	}) error {
		moved := c.now()
		moved.Typing = true
		_, err := c.s.app.Sets.MovePicture(c.Context(), c.m, c.id, moved, to.Reach, to.Slot, to.Crop)
		return err
	}),
	"hand": action(func(c *setChange, by struct {
		Placement string
		Edits     []app.HandEdit
	}) error {
		_, err := c.s.app.Sets.ByHand(c.Context(), c.m, c.id, c.since(), by.Placement, by.Edits)
		return err
	}),
	"further": action(func(c *setChange, to struct{ Placement, Slot, From, To string }) error { // another reach for what was changed by hand of a part
		_, err := c.s.app.Sets.ReachFurther(c.Context(), c.m, c.id, c.now(), to.Placement, to.Slot, to.From, to.To)
		return err
	}),
	"intoKit": action(func(c *setChange, colour string) error {
		return c.s.app.Sets.ColourIntoKit(c.Context(), c.m, c.id, c.q.Client, colour)
	}),
	"faceIntoKit": action(func(c *setChange, face struct { // the kit sets a level in it
		Level  brand.Level
		Family string
	}) error {
		return c.s.app.Sets.FaceIntoKit(c.Context(), c.m, c.id, c.q.Client, face.Level, face.Family)
	}),
	"liftAll": action(func(c *setChange, piece string) (err error) { // back to the rule; "set" for all pieces
		if piece == "set" {
			_, err = c.s.app.Sets.LiftEverything(c.Context(), c.m, c.id, c.now())
		} else {
			_, err = c.s.app.Sets.LiftAll(c.Context(), c.m, c.id, c.now(), piece)
		}
		return err
	}),
	"revert": action(func(c *setChange, which string) (err error) { // undo or redo
		if c.made.Away, err = c.s.leadsAway(c.Request, c.m, c.id, c.q, which == "redo"); err == nil && c.made.Away == "" {
			c.made.Nothing, err = c.s.revert(c.Request, c.m, c.id, c.q.Client, which)
		}
		return err
	}),
	"variant": action(func(c *setChange, of string) (err error) { // a piece gets another try beside it
		c.made.Variant, err = c.s.app.Sets.Variant(c.Context(), c.m, c.id, c.now(), of)
		return err
	}),
	"take": action(func(c *setChange, part struct { // as it was
		Placement, Slot string
		Seq             int64
	}) error {
		_, err := c.s.app.Sets.TakePart(c.Context(), c.m, c.id, c.now(), part.Placement, part.Slot, part.Seq)
		return err
	}),
	"picture": action(func(c *setChange, with struct{ Reach, File string }) error {
		return c.s.app.Briefs.ChoosePicture(c.Context(), c.m, c.id, c.q.Client, with.Reach, with.File)
	}),
	"places": action(func(c *setChange, list []string) error { // where the set goes from now on
		value, err := json.Marshal(list)
		if err != nil {
			return err
		}
		placed := c.now()
		placed.Kind, placed.Op = "brief", edit.Op{Path: "/placements", Value: value}
		_, err = c.s.app.Documents.Edit(c.Context(), c.m, c.id, placed)
		return err
	}),
	"logo": action(func(c *setChange, with struct{ Reach, File string }) error {
		_, err := c.s.app.Sets.SetLogo(c.Context(), c.m, c.id, c.q.Client, with.Reach, with.File)
		return err
	}),
	"lift": action(func(c *setChange, of struct{ Reach, Slot, Property string }) error {
		_, err := c.s.app.Sets.Lift(c.Context(), c.m, c.id, c.q.Client, of.Reach, of.Slot, of.Property)
		return err
	}),
}

// action is a row of the table: what it needs is read from the request.
func action[T any](do func(c *setChange, with T) error) func(c *setChange, with json.RawMessage) error {
	return func(c *setChange, raw json.RawMessage) error {
		var with T
		if err := json.Unmarshal(raw, &with); err != nil {
			return fmt.Errorf("%w: the request is not what this page sends; reload the page and try again", app.ErrInvalid)
		}
		return do(c, with)
	}
}

// UnmarshalJSON reads a request: what the page has, and the one change it asks for, if any.
func (q *syncRequest) UnmarshalJSON(data []byte) error {
	type plain syncRequest
	if err := json.Unmarshal(data, (*plain)(q)); err != nil {
		return err
	}
	var all map[string]json.RawMessage
	if err := json.Unmarshal(data, &all); err != nil {
		return err
	}
	for name, with := range all {
		if setActions[name] == nil || string(with) == "null" || string(with) == "false" || string(with) == `""` {
			continue
		}
		if q.action != "" {
			return fmt.Errorf("%s and %s: one change at a time", q.action, name)
		}
		q.action, q.with = name, with
	}
	return nil
}

// changeSet makes the change of a set a request asks for, if any, and tells what came of it.
func (s *Server) changeSet(r *http.Request, m app.Member, id app.ID, q *syncRequest) (madeState, error) {
	if q.action == "" {
		return madeState{}, nil
	}
	c := &setChange{Request: r, s: s, m: m, id: id, q: q}
	err := setActions[q.action](c, q.with)
	return c.made, err
}
