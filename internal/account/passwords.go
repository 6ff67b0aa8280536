package account

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"aspenridge/assets"
	"aspenridge/internal/act"
)

// rows are what a hand types that goes along the keys.
var rows = []string{
	"01234567890123456789", "98765432109876543210", "abcdefghijklmnopqrstuvwxyz", "zyxwvutsrqponmlkjihgfedcba",
	"qwertyuiopasdfghjklzxcvbnm", "qwertzuiopasdfghjklyxcvbnm", "azertyuiopqsdfghjklmwxcvbn",
}

// checkPassword refuses a password nobody should have: too short or too long, one of the 100,000
// most used ones with or without digits and marks around it, our own name, a few letters over and
// over, a row of keys or digits.
func checkPassword(password string) error {
	if n := len([]rune(password)); n < MinPassword || n > 200 {
		return fmt.Errorf("%w: a password needs %d to 200 characters", act.ErrInvalid, MinPassword)
	}
	low := strings.ToLower(password)
	bare := strings.TrimFunc(low, func(r rune) bool { return !unicode.IsLetter(r) })
	letters := map[rune]bool{}
	for _, r := range low {
		letters[r] = true
	}
	if len(letters) < 4 || bare == "aspenridge" || assets.UsualPassword(password) || assets.UsualPassword(low) || len(bare) > 3 && assets.UsualPassword(bare) ||
		slices.ContainsFunc(rows, func(row string) bool {
			return strings.Contains(row, low) || len(bare) >= 6 && strings.Contains(row, bare)
		}) {
		return fmt.Errorf("%w: that password is one of the first anybody tries: take three or four words that do not belong together", act.ErrInvalid)
	}
	return nil
}
