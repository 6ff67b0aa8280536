// Package film is a brief as moving pictures: a running order of shots, each composed
// like a piece for the shape of the video, and how their parts come in over time. It is a
// pure function of the brief and of time; it knows no files and no clock.
package film

import (
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
)

// The roles of shots, in the order they run.
const (
	Hook  = "hook"  // what stops people
	Point = "point" // one thing to know
	Proof = "proof" // somebody else says so
	Offer = "offer" // what it costs
	Call  = "call"  // what to do now
)

// mostPoints is how many points a proposed running order makes.
const mostPoints = 4

// Propose makes a running order of a brief by rule: its headline, what there is to know, who
// says so, what it costs, what to do. A brief that has one keeps it; shots of cards that are
// gone are left out.
func Propose(b *brief.Brief, k *brand.Kit) []brief.Shot {
	if b.Video != nil && len(b.Video.Shots) > 0 {
		return ofCards(b, k, b.Video.Shots)
	}
	card := b.Cards[0]
	words := card.Words(k, b.Language)
	var pictures []string
	for _, c := range b.Cards {
		for _, p := range c.Pictures {
			pictures = append(pictures, p.File)
		}
	}
	next := 0
	picture := func() string {
		if next >= len(pictures) {
			return ""
		}
		next++
		return pictures[next-1]
	}
	var out []brief.Shot
	if words["headline"] != "" || len(pictures) > 0 {
		out = append(out, brief.Shot{Role: Hook, Headline: words["headline"], Picture: picture()})
	}
	points := 0
	point := func(s brief.Shot) {
		if points < mostPoints && s.Headline != "" {
			points++
			s.Role = Point
			out = append(out, s)
		}
	}
	if len(card.Facts) < mostPoints {
		point(brief.Shot{Headline: words["subheading"], Picture: picture()})
	}
	for _, f := range card.Facts {
		point(brief.Shot{Headline: f.Text, Icon: f.Icon, Picture: picture()})
	}
	for _, l := range card.Lines {
		point(brief.Shot{Headline: l, Picture: picture()})
	}
	for _, c := range b.Cards[1:] {
		w := c.Words(k, b.Language)
		pic := ""
		if len(c.Pictures) > 0 {
			pic = c.Pictures[0].File
		}
		point(brief.Shot{Headline: w["headline"], Body: w["body"], Picture: pic})
	}
	if points < 2 {
		for _, s := range sentences(words["body"]) {
			point(brief.Shot{Headline: s, Picture: picture()})
		}
	}
	if card.Quote != nil && card.Quote.Text != "" {
		out = append(out, brief.Shot{Role: Proof, Headline: card.Quote.Text, Body: card.Quote.Source})
	}
	if o := card.Offer; o != nil && (o.Percent > 0 || o.Price != "") {
		out = append(out, brief.Shot{Role: Offer, Picture: picture()}) // the price speaks: the headline is said first and last
	}
	last := words["shortHeadline"]
	if last == "" {
		last = words["headline"]
	}
	if words["callToAction"] != "" || words["website"] != "" {
		call := brief.Shot{Role: Call, Headline: last}
		if len(pictures) > 0 { // it closes with what it began with
			call.Picture = pictures[0]
		}
		out = append(out, call)
	}
	return out
}

// OfSet is a running order of the set's own pieces: each card as they show it, one shot.
func OfSet(b *brief.Brief, k *brand.Kit) []brief.Shot {
	out := make([]brief.Shot, len(b.Cards))
	for i, c := range b.Cards {
		out[i] = brief.Shot{Role: Point, Card: c.ID}
		if c.ID == "" {
			out[i].Card = strconv.Itoa(i + 1)
		}
	}
	if len(out) > 1 {
		out[len(out)-1].Role = Call
	}
	out[0].Role = Hook
	return ofCards(b, k, out)
}

// ofCards are shots with the words and the picture of the card in those that show one.
func ofCards(b *brief.Brief, k *brand.Kit, shots []brief.Shot) []brief.Shot {
	if !slices.ContainsFunc(shots, func(s brief.Shot) bool { return s.Card != "" }) {
		return shots
	}
	var out []brief.Shot
	for _, s := range shots {
		if s.Card != "" {
			i, ok := b.CardAt(s.Card)
			if !ok {
				continue
			}
			c := b.Cards[i]
			words := c.Words(k, b.Language)
			s.Headline, s.Picture = words["headline"], ""
			var rest []string
			for _, slot := range brief.Slots {
				if v := words[slot]; v != "" && !slices.Contains(unread, slot) {
					rest = append(rest, strings.ReplaceAll(v, "\n", ". "))
				}
			}
			s.Body = sentence(rest...)
			if len(c.Pictures) > 0 {
				s.Picture = c.Pictures[0].File
			}
		}
		out = append(out, s)
	}
	return out
}

// unread are the slots of a piece that are not part of what it says.
var unread = []string{"headline", "shortHeadline", "businessName", "website", "terms", "tagline", "rating"}

// sentences of a text, each with its sign at the end.
func sentences(text string) []string {
	var out []string
	for _, s := range strings.SplitAfter(text, ". ") {
		if s = strings.TrimSpace(s); s != "" {
			out = append(out, s)
		}
	}
	return out
}

// How long words are shown (common practice of titles on screen: about three words a
// second, and time to find them; once they have come, 17 letters a second, as of captions).
const (
	lettersPerSecond = 17.0
	leastStill       = 1.2 // s all words of a shot stand at least
	letterLine       = 13  // letters of a line, about
	mostComing       = 6   // lines that come one after the other, about, at most
	wordsPerSecond   = 3.0
	findingTime      = 1.2 // s
	leastShot        = 1.8 // s
	mostShot         = 9.0 // s
	leastCall        = 3.0 // s
)

// Seconds is how long a shot runs: as somebody said, else as long as its words take to
// read and what is said takes to say, in half tenths of a second.
func Seconds(s brief.Shot, said Spoken) float64 {
	if s.Seconds > 0 {
		return s.Seconds
	}
	return math.Max(reading(s), math.Ceil(20*said.needs())/20)
}

// reading is how long the words of a shot take to read, s.
func reading(s brief.Shot) float64 {
	n := len(strings.Fields(s.Headline)) + len(strings.Fields(s.Body))
	least := leastShot
	if s.Role == Call {
		least = leastCall
	}
	letters := float64(utf8.RuneCountInString(s.Headline) + utf8.RuneCountInString(s.Body))
	come := wordsBegin + comeIn + leaveFor + wipeDelay*math.Min(mostComing, math.Floor(letters/letterLine))
	least = math.Max(least, come+math.Max(leastStill, letters/lettersPerSecond))
	return math.Ceil(20*math.Min(mostShot, math.Max(least, findingTime+float64(n)/wordsPerSecond))-0.01) / 20
}
