package app

import (
	"context"
	"fmt"
	"slices"

	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/gate"
)

// A kit may want pieces approved before they are handed over. Who may approve them is set with
// that: owners, people it names, and links an owner has made for it. Nobody signs off what they
// made themselves, by a link of theirs or without.

// signers say whose approval of a set counts.
type signers struct {
	named   map[ID]bool // people
	links   map[ID]ProofLink
	editors map[int64]ID // who made the brief what it was, by its number
}

func (a *house) signers(ctx context.Context, m Member, s *Set, decisions []Decision) (*signers, error) {
	out := &signers{named: map[ID]bool{}}
	team, err := a.store.Team(ctx, m.Workspace)
	if err != nil {
		return nil, err
	}
	for _, t := range team {
		if t.Suspended == nil && (roles.May(t.Role, roles.ManageWorkspace) || slices.Contains(s.Kit.Rails.SignOffBy, t.ID.String())) {
			out.named[t.ID] = true
		}
	}
	var links []ID
	var seqs []int64
	for _, d := range decisions {
		if seqs = append(seqs, d.Seq); d.By.Link != nil {
			links = append(links, *d.By.Link)
		}
	}
	if out.links, err = a.store.LinksOf(ctx, m.Workspace, links); err != nil {
		return nil, err
	}
	out.editors, err = a.store.Editors(ctx, m.Workspace, s.Doc.ID, seqs)
	return out, err
}

// refuses says why an approval does not count, "" for one that does.
func (s *signers) refuses(d Decision) string {
	maker, made := s.editors[d.Seq]
	if d.By.Link != nil {
		l, ok := s.links[*d.By.Link]
		switch {
		case !ok || !l.Approves:
			return d.By.Name + " came by a link that is not for signing off"
		case made && l.By == maker:
			return "the link was created by the person who made the last change"
		}
		return ""
	}
	switch {
	case d.By.Person == nil || !s.named[*d.By.Person]:
		return d.By.Name + " is not among those who may sign off"
	case made && *d.By.Person == maker:
		return d.By.Name + " made the last change: someone else has to approve it"
	}
	return ""
}

// unsigned says why a piece that is approved is not signed off, "" for one that is.
func (s *signers) unsigned(p ProofPiece) (why string) {
	for _, d := range p.Last {
		if d.Verdict != Approved || d.Hash != p.Hash {
			continue
		}
		if why = s.refuses(d); why == "" {
			return ""
		}
	}
	return why
}

// signedOff refuses to hand pieces of a set over that its kit wants approved first and nobody who
// may has, as they are; none named are all of the look that is shown.
func (a *house) signedOff(ctx context.Context, m Member, s *Set, pieces ...*piece.Piece) error {
	if !s.Kit.Rails.SignOff {
		return nil
	}
	if len(pieces) == 0 {
		pieces = s.Pieces()
	}
	decisions, err := a.store.Decisions(ctx, m.Workspace, s.Doc.ID)
	if err != nil {
		return err
	}
	signs, err := a.signers(ctx, m, s, decisions)
	if err != nil {
		return err
	}
	var open []string
	why := ""
	for _, pc := range pieces {
		p := s.proofed(pc, decisions)
		p.judge()
		if p.State == Approved {
			p.Unsigned = signs.unsigned(p)
		}
		if p.State != Approved || p.Unsigned != "" {
			open, why = append(open, pc.Placement.Name), p.Unsigned
		}
	}
	if len(open) == 0 {
		return nil
	}
	waits := open[0]
	if n := len(open) - 1; n > 0 {
		waits += fmt.Sprintf(" and %d more", n)
	}
	words := "this brand wants pieces approved before they are handed over, and " + waits + " waits for that: show it at Proof"
	if why != "" {
		words += " (" + why + ")"
	}
	return &Railed{"signOff", words, false}
}

// Plans are the files of a choice, ready to be handed over: some, and approved where their kit
// wants that.
func (a Files) Plans(ctx context.Context, m Member, s *Set, h HandOver) ([]Plan, error) {
	if gate.Behind(ctx) { // a request has passed it already
		leave, err := a.composing.Enter(ctx, 0)
		if err != nil {
			return nil, err
		}
		defer leave()
	}
	plans, err := s.Plans(h)
	if err == nil && len(plans) == 0 {
		err = fmt.Errorf("%w: no piece is chosen", ErrInvalid)
	}
	if err != nil {
		return nil, err
	}
	pieces := make([]*piece.Piece, len(plans))
	for i, p := range plans {
		pieces[i] = p.Piece
	}
	return plans, a.signedOff(ctx, m, s, pieces...)
}
