package app

import (
	"context"

	"aspenridge/internal/core/guide"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/secret"
)

// Share makes the read-only way to a kit's guidelines, or returns the one there
// is: whoever has the link reads them, without an account.
func (a Guidelines) Share(ctx context.Context, m Member, kit ID) (token string, err error) {
	if err := a.mayOn(ctx, m, roles.ShareOutside, kit); err != nil {
		return "", err
	}
	if token, err = a.store.Link(ctx, m.Workspace, kit); err != nil || token != "" {
		return token, err
	}
	token = secret.New()
	return token, a.store.PutLink(ctx, m.Workspace, kit, token)
}

// Shared is the link of a kit, "" for none.
func (a Guidelines) Shared(ctx context.Context, m Member, kit ID) (string, error) {
	if err := a.mayOn(ctx, m, roles.Look, kit); err != nil {
		return "", err
	}
	return a.store.Link(ctx, m.Workspace, kit)
}

// Unshare ends the link of a kit.
func (a Guidelines) Unshare(ctx context.Context, m Member, kit ID) error {
	if err := a.mayOn(ctx, m, roles.ShareOutside, kit); err != nil {
		return err
	}
	return a.store.EndLinks(ctx, m.Workspace, kit)
}

// Reader is who comes by a link: somebody who may look at one kit.
func (a Guidelines) Reader(ctx context.Context, token string) (Member, ID, error) {
	workspace, kit, err := a.store.Linked(ctx, token)
	return Member{Workspace: workspace, Role: roles.Viewer}, kit, err
}

// GuidelinesPDF sets a kit's guidelines with the given pieces as a PDF.
func (a Guidelines) GuidelinesPDF(ctx context.Context, k *Kit, pieces []piece.Piece) ([]byte, error) {
	return a.studio.Book(ctx, guide.Pages(guide.Input{Kit: k.Kit, Library: k.Library, Shaper: a.shaper, Pieces: pieces, Manner: a.kits.Manner(k)}))
}
