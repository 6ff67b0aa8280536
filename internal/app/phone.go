package app

import (
	"context"
	"encoding/json"
	"time"

	"aspenridge/internal/core/roles"
)

// PhoneTime is how long a page for somebody's phone lives.
const PhoneTime = 30 * time.Minute

// ToPhone makes a short-lived page of the chosen files and captions, which
// whoever has its address can open without an account.
func (a Files) ToPhone(ctx context.Context, m Member, id ID, h HandOver) (token string, until time.Time, err error) {
	if err := a.mayOn(ctx, m, roles.ShareOutside, id); err != nil { // it shows what is not out yet to whoever has the address
		return "", until, err
	}
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return "", until, err
	}
	if _, err := a.Plans(ctx, m, s, h); err != nil {
		return "", until, err
	}
	if _, token, err = a.once(ctx, m, "phone"); err != nil {
		return "", until, err
	}
	until = a.now().Add(PhoneTime)
	return token, until, a.store.PutPhoneLink(ctx, m.Workspace, id, token, raw(h), until)
}

// OnPhone is what a page for a phone shows; [ErrNotFound] once its time is over.
func (a Files) OnPhone(ctx context.Context, token string) (m Member, s *Set, h HandOver, until time.Time, err error) {
	workspace, id, choice, until, err := a.store.PhoneLink(ctx, token, a.now())
	if err != nil {
		return m, nil, h, until, err
	}
	m = Member{Workspace: workspace, Role: roles.Viewer}
	if err = json.Unmarshal(choice, &h); err == nil {
		s, err = a.sets.Set(ctx, m, id)
	}
	return m, s, h, until, err
}
