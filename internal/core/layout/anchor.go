package layout

import (
	"math"

	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// theCard is the card a cell's content consists of, nil for other content.
func (n *Node) theCard() *Card {
	switch {
	case n == nil:
		return nil
	case len(n.Stack) == 1:
		return n.Stack[0].Card
	}
	return n.Card
}

// anchored is a cell with its card where it covers least of what the picture under it
// shows: where the layout has it, else at another side or height.
func (t *trial) anchored(c *Cell, r region) *Cell {
	card := c.Content.theCard()
	if card == nil || c.Picture > len(t.in.Pictures) || len(t.in.Pictures[c.Picture-1].Subjects) == 0 {
		return c
	}
	best, least := c, math.Inf(1)
	for _, v := range []string{c.Content.V, "start", "end"} {
		for _, side := range []string{card.Side, "left", "right"} {
			other, content, cell := *card, *c.Content, *c
			other.Side = side
			if content.Card != nil {
				content.Card = &other
			} else {
				inner := *content.Stack[0]
				inner.Card, content.Stack = &other, []*Node{&inner}
			}
			content.V, cell.Content = v, &content
			if harm := t.cardHarm(&cell, r); harm < least-0.02 {
				best, least = &cell, harm
			}
			if least <= 0 {
				return best
			}
		}
	}
	return best
}

// cardHarm is how much a cell's card would harm what the picture under it shows.
func (t *trial) cardHarm(c *Cell, r region) float64 {
	rect := t.contentRect(c, r)
	size, ok := t.measure(c.Content, rect.W)
	if !ok || size.h > rect.H+0.01 {
		return 0 // it does not fit, wherever it stands
	}
	t.coverCard(c, &r)
	b := r.bleed
	seen := spec.Rect{X: b.X + r.cover[3], Y: b.Y + r.cover[0], W: b.W - r.cover[1] - r.cover[3], H: b.H - r.cover[0] - r.cover[2]}
	card := spec.Rect{X: rect.X, Y: rect.Y, W: size.w, H: size.h}
	switch t.side(c.Content.theCard().Side) {
	case "center":
		card.X += (rect.W - size.w) / 2
	case "right":
		card.X = rect.Right() - size.w
	}
	switch t.away(c) {
	case "center":
		card.Y += (rect.H - size.h) / 2
	case "end":
		card.Y = rect.Bottom() - size.h
	}
	picture := t.drawPicture(nil, c.Picture, b, seen)
	return Harm(append(picture, scene.Part{Slot: "card", Kind: scene.KindShape, Box: card}), t.in.PictureBy)
}

// coverCard notes on a picture's region what the card on it will hide: what is free beside
// it or above or below it, whichever is more, is seen.
func (t *trial) coverCard(c *Cell, r *region) {
	card := c.Content.theCard()
	if card == nil {
		return
	}
	rect := t.contentRect(c, *r)
	size, ok := t.measure(c.Content, rect.W)
	if !ok {
		return
	}
	b := r.bleed
	width := size.w
	if f, ok := t.form(card, rect.W); ok {
		width = f.w
	}
	var side, end int        // which of r.cover
	var across, down float64 // by how much
	switch t.side(card.Side) {
	case "left":
		side, across = 3, rect.X+width-b.X
	case "right":
		side, across = 1, b.Right()-rect.Right()+width
	}
	switch t.away(c) {
	case "start", "":
		end, down = 0, rect.Y+size.h-b.Y
	case "end":
		end, down = 2, b.Bottom()-rect.Bottom()+size.h
	}
	switch {
	case across > 0 && (down == 0 || (b.W-across)*b.H > (b.H-down)*b.W):
		r.cover[side] = math.Min(0.8*b.W, across)
	case down > 0:
		r.cover[end] = math.Min(0.8*b.H, down)
	}
}
