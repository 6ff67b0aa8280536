package account

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"aspenridge/internal/act"
	"aspenridge/internal/store"
)

// MyData is all that is kept about somebody, to be taken along.
type MyData struct {
	Name       string       `json:"name"`
	Email      string       `json:"email"`
	Since      time.Time    `json:"since"`
	Workspaces []myPlace    `json:"workspaces"`
	Sessions   []mySession  `json:"sessions"`
	Comments   []store.Mine `json:"comments"`
	Verdicts   []store.Mine `json:"verdicts"`
	Requests   []store.Mine `json:"requests"`
}

type myPlace struct {
	Name string `json:"name"`
	Role string `json:"role"`
}

type mySession struct {
	Begun   time.Time `json:"begun"`
	Seen    time.Time `json:"seen"`
	Device  string    `json:"device"`
	Network string    `json:"network"`
}

// MyData gathers it.
func (a *People) MyData(ctx context.Context, m Member) (d MyData, err error) {
	d = MyData{Name: m.Name, Email: m.Email, Workspaces: []myPlace{}, Sessions: []mySession{}}
	if d.Since, err = a.store.UserSince(ctx, m.ID); err != nil {
		return d, err
	}
	places, err := a.store.Workspaces(ctx, m.ID)
	if err != nil {
		return d, err
	}
	for _, p := range places {
		d.Workspaces = append(d.Workspaces, myPlace{p.Name, p.Role})
	}
	sessions, err := a.store.OpenSessions(ctx, m.ID, time.Time{})
	if err != nil {
		return d, err
	}
	for _, s := range sessions {
		d.Sessions = append(d.Sessions, mySession{s.Begun, s.Seen, s.Device, s.Network})
	}
	d.Comments, d.Verdicts, d.Requests, err = a.store.SaidBy(ctx, m.ID)
	return d, err
}

// DeleteAccount ends an account for good: its person is in no team any more, and workspaces
// nobody else is in go with it. What they made elsewhere stays, with their name.
func (a *People) DeleteAccount(ctx context.Context, m Member, password string) error {
	if err := a.again(ctx, m, password); err != nil {
		return err
	}
	err := a.deleteUser(ctx, m.ID)
	if left := (*store.LeftBehind)(nil); errors.As(err, &left) {
		return fmt.Errorf("%w: %s would have no owner: make someone else one first, under Team", act.ErrInvalid, strings.Join(left.Workspaces, ", "))
	}
	return err
}

// deleteUser ends an account, with the files only its workspaces had.
func (a *People) deleteUser(ctx context.Context, id ID) error {
	hashes, err := a.store.DeleteUser(ctx, id)
	if err != nil {
		return err
	}
	for _, hash := range hashes { // what nobody else has
		if err := a.forget(ctx, hash); err != nil {
			return err
		}
	}
	return nil
}
