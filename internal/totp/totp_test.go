package totp

import (
	"net/url"
	"testing"
	"time"

	"github.com/pquerna/otp"
)

// The vectors of RFC 6238, appendix B (SHA-1, eight digits).
func TestTheVectorsOfTheRFC(t *testing.T) {
	secret := []byte("12345678901234567890")
	for at, want := range map[int64]string{59: "94287082", 1111111109: "07081804", 1111111111: "14050471", 1234567890: "89005924", 2000000000: "69279037", 20000000000: "65353130"} {
		if got := code(secret, Step(time.Unix(at, 0)), otp.DigitsEight); got != want {
			t.Errorf("at %d: %s, want %s", at, got, want)
		}
		if got := Code(secret, Step(time.Unix(at, 0))); got != want[2:] {
			t.Errorf("at %d: %s of six, want %s", at, got, want[2:])
		}
	}
}

// The vectors of RFC 4226, appendix D.
func TestTheVectorsOfCounters(t *testing.T) {
	for i, want := range []string{"755224", "287082", "359152", "969429", "338314", "254676", "287922", "162583", "399871", "520489"} {
		if got := Code([]byte("12345678901234567890"), int64(i)); got != want {
			t.Errorf("%d: %s, want %s", i, got, want)
		}
	}
}

// A code is taken half a minute before and after, and not later; how it is typed does not count.
func TestFind(t *testing.T) {
	secret, now := Secret(), time.Unix(1_800_000_000, 0)
	for d, want := range map[time.Duration]bool{-60 * time.Second: false, -30 * time.Second: true, 0: true, 30 * time.Second: true, 60 * time.Second: false} {
		c := Code(secret, Step(now.Add(d)))
		if step, ok := Find(secret, " "+c[:3]+" "+c[3:], now); ok != want || ok && step != Step(now.Add(d)) {
			t.Errorf("%v away: %v", d, ok)
		}
	}
	for _, bad := range []string{"", "12345", "1234567", "abcdef"} {
		if _, ok := Find(secret, bad, now); ok {
			t.Errorf("%q is taken", bad)
		}
	}
	u, err := url.Parse(Address([]byte("12345678901234567890"), "nell+x@larkmoor.example"))
	if err != nil || u.Scheme != "otpauth" || u.Query().Get("secret") != "GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ" || u.Path != "/Aspenridge:nell+x@larkmoor.example" {
		t.Errorf("%v, %v", u, err)
	}
}
