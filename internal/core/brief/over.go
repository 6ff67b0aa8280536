package brief

import "time"

// Over is what a brief says that is over on a day: "offer" or "date", the latest of them, and
// when it ended; false for nothing.
func (b *Brief) Over(today time.Time) (what string, on time.Time, ok bool) {
	look := func(name, date string) {
		if d, err := time.Parse(time.DateOnly, date); err == nil && d.Before(today) && d.After(on) {
			what, on, ok = name, d, true
		}
	}
	for _, c := range b.Cards {
		if c.When != nil {
			look("date", c.When.Date)
		}
		if c.Offer != nil {
			look("offer", c.Offer.Until)
		}
	}
	return what, on, ok
}
