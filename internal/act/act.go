// Package act says who acts, and how an action is refused: what all packages of things people do
// have in common.
//
//	if err := act.May(m, roles.WriteKits); err != nil {
//		return err // act.ErrNotAllowed
//	}
package act

import (
	"errors"

	"aspenridge/internal/core/roles"
	"aspenridge/internal/store"
)

// Errors people can do something about.
var (
	ErrNotAllowed = errors.New("your role in this workspace does not allow that")
	ErrNotFound   = store.ErrNotFound
	ErrInvalid    = errors.New("that cannot be used")
)

// ID is the identity of a kit, a brief, a person.
type ID = store.ID

// Member is who acts, in which workspace, as what.
type Member = store.Member

// May is [ErrNotAllowed] where somebody's role has not got a capability.
func May(m Member, c roles.Capability) error {
	if !m.May(c) {
		return ErrNotAllowed
	}
	return nil
}

// MayAll is [May] for what is not about one kit or brief: who sees only some may not.
func MayAll(m Member, c roles.Capability) error {
	if m.Narrowed {
		return ErrNotAllowed
	}
	return May(m, c)
}
