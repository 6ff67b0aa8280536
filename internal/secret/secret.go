// Package secret makes the secrets that links carry, and what is kept of them. Whoever reads the
// database cannot open a link with it:
//
//	token := secret.New()          // goes into the address
//	store.Put(secret.Hash(token))  // stays here
package secret

import (
	"crypto/rand"
	"crypto/sha256"
)

// New is a secret of 130 bits, in letters and digits.
func New() string { return rand.Text() }

// Hash is how a secret is kept: it is random enough not to be guessed from its hash.
func Hash(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}
