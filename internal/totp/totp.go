// Package totp reckons codes that change with time, as applications on phones show them: RFC
// 6238, with HMAC-SHA-1 and six digits every 30 s, which all of them know.
package totp

import (
	"crypto/rand"
	"crypto/subtle"
	"encoding/base32"
	"fmt"
	"net/url"
	"strings"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/hotp"
)

// What codes are like.
const (
	Digits = 6
	Period = 30 * time.Second
	// Around is how many steps before and after now a code may be of: clocks differ.
	Around = 1

	secretBytes = 20 // as long as the hash (RFC 4226, section 4)
)

// Secret is a new one.
func Secret() []byte {
	out := make([]byte, secretBytes)
	_, _ = rand.Read(out) // never fails
	return out
}

// plain is base 32 as codes have it.
var plain = base32.StdEncoding.WithPadding(base32.NoPadding)

// Written is a secret as people type it: base 32 in fours.
func Written(secret []byte) string {
	var b strings.Builder
	for i, r := range plain.EncodeToString(secret) {
		if i > 0 && i%4 == 0 {
			b.WriteByte(' ')
		}
		b.WriteRune(r)
	}
	return b.String()
}

// Address is a secret as applications read it from a picture.
func Address(secret []byte, account string) string {
	q := url.Values{"secret": {plain.EncodeToString(secret)}, "issuer": {"Aspenridge"}, "digits": {fmt.Sprint(Digits)}, "period": {fmt.Sprint(int(Period.Seconds()))}}
	return "otpauth://totp/" + url.PathEscape("Aspenridge:"+account) + "?" + strings.ReplaceAll(q.Encode(), "+", "%20")
}

// Step is which stretch of time it is.
func Step(t time.Time) int64 { return t.Unix() / int64(Period.Seconds()) }

// Code is that of a step (RFC 4226, section 5.3).
func Code(secret []byte, step int64) string { return code(secret, step, otp.DigitsSix) }

func code(secret []byte, step int64, digits otp.Digits) string {
	out, err := hotp.GenerateCodeCustom(plain.EncodeToString(secret), uint64(step), hotp.ValidateOpts{Digits: digits, Algorithm: otp.AlgorithmSHA1})
	if err != nil {
		panic(err) // a secret of ours is base 32
	}
	return out
}

// Find is the step a code is of, about a time; false for none. Blanks in it do not count.
func Find(secret []byte, said string, t time.Time) (step int64, ok bool) {
	said = strings.Join(strings.Fields(said), "")
	for d := int64(-Around); d <= Around; d++ {
		if subtle.ConstantTimeCompare([]byte(Code(secret, Step(t)+d)), []byte(said)) == 1 {
			step, ok = Step(t)+d, true
		}
	}
	return step, ok
}
