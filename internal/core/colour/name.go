package colour

// PlainName says a colour in everyday words, "deep teal", "pale grey", for a
// palette nobody has named yet. The boundaries are ours, set by eye on the 148
// CSS names in OKLCh.
func PlainName(c RGB) string {
	o := c.OKLCh()
	if o.C < 0.025 {
		switch {
		case o.L > 0.97:
			return "white"
		case o.L > 0.9:
			return "chalk"
		case o.L > 0.75:
			return "pale grey"
		case o.L > 0.5:
			return "grey"
		case o.L > 0.27:
			return "slate"
		default:
			return "black"
		}
	}
	hues := []struct {
		to   float64
		word string
	}{{12, "rose"}, {45, "red"}, {70, "orange"}, {112, "yellow"}, {135, "lime"}, {162, "green"},
		{205, "teal"}, {240, "sky"}, {275, "blue"}, {310, "violet"}, {340, "magenta"}, {361, "rose"}}
	word := "rose"
	for _, h := range hues {
		if o.H < h.to {
			word = h.word
			break
		}
	}
	switch {
	case word == "orange" && o.L < 0.55, word == "red" && o.L < 0.45 && o.C < 0.1:
		word = "brown"
	case word == "yellow" && o.L < 0.6:
		word = "olive"
	case (word == "orange" || word == "yellow") && o.L > 0.85 && o.C < 0.08:
		return "sand"
	}
	switch {
	case o.L > 0.9 && o.C < 0.09:
		return "pale " + word
	case o.L < 0.4:
		return "deep " + word
	case o.C < 0.06:
		return "dusty " + word
	case o.L > 0.8:
		return "light " + word
	}
	return word
}
