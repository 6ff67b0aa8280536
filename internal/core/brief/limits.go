package brief

import (
	"aspenridge/internal/core/caption"
	"aspenridge/internal/core/edit"
)

// The limits of a brief that other packages count by.
const (
	MaxCards    = 20
	MaxPictures = 12 // of a card
	MaxKept     = 12 // looks
	// MaxCopy is the most characters a headline, a body or a quote may have.
	MaxCopy = 2000
)

// Limits are how much a brief may say. docs/formats.md lists them. The fields of
// a card may stand at the top of a brief of one card, with the same limits.
var Limits = append(edit.Limits{
	{Path: "/name", Most: 200},
	{Path: "/language", Most: 40},
	{Path: "/purpose", Most: 40},
	{Path: "/cards", Most: MaxCards},
	{Path: "/logo", Most: 300},
	{Path: "/placements", Most: 200},
	{Path: "/placements/*", Most: 120},
	{Path: "/looks", Most: MaxKept},
	{Path: "/shown", Most: 40},
	{Path: "/sample", Most: 40},
	{Path: "/sample/*", Most: MaxCopy},
	{Path: "/palette", Most: 24},
	{Path: "/palette/*/name", Most: 120},
	{Path: "/adjustments", Most: 1000},
	{Path: "/adjustments/*/reach", Most: 200},
	{Path: "/adjustments/*/slot", Most: 60},
	{Path: "/adjustments/*/value", Most: 4000},
	{Path: "/video/music", Most: 60},
	{Path: "/video/shots", Most: 60},
	{Path: "/video/shots/*/headline", Most: MaxCopy},
	{Path: "/video/shots/*/body", Most: MaxCopy},
	{Path: "/video/shots/*/picture", Most: 300},
	{Path: "/video/shots/*/say", Most: MaxCopy},
	{Path: "/video/shots/*/recording", Most: 300},
	{Path: "/video/shots/*/card", Most: 100},
	{Path: "/video/shots/*/layout", Most: 100},
	{Path: "/video/song", Most: 300},
	{Path: "/video/cues", Most: caption.MostCues},
	{Path: "/video/cues/*/text", Most: caption.LongestCue},
}, append(cardLimits("/cards/*"), cardLimits("")...)...)

func cardLimits(card string) edit.Limits {
	var out edit.Limits
	for _, p := range Parts {
		if p.Of != nil {
			out = append(out, edit.Limit{Path: "/" + p.Slot, Most: p.Most})
		}
	}
	out = append(out, edit.Limits{
		{Path: "/lines", Most: 40},
		{Path: "/lines/*", Most: 500},
		{Path: "/facts", Most: 24},
		{Path: "/facts/*/icon", Most: 300},
		{Path: "/facts/*/text", Most: 500},
		{Path: "/emphasis", Most: 40},
		{Path: "/emphasis/*", Most: 120},
		{Path: "/quote/text", Most: MaxCopy},
		{Path: "/quote/source", Most: 300},
		{Path: "/person/name", Most: 200},
		{Path: "/person/role", Most: 200},
		{Path: "/person/picture", Most: 300},
		{Path: "/when/date", Most: 40},
		{Path: "/when/weekday", Most: 40},
		{Path: "/when/from", Most: 40},
		{Path: "/when/to", Most: 40},
		{Path: "/offer/price", Most: 60},
		{Path: "/offer/oldPrice", Most: 60},
		{Path: "/offer/code", Most: 60},
		{Path: "/offer/until", Most: 40},
		{Path: "/pictures", Most: MaxPictures},
		{Path: "/pictures/*/file", Most: 300},
		{Path: "/pictures/*/alt", Most: 1000},
		{Path: "/pictures/*/clip", Most: 300},
	}...)
	for i := range out {
		out[i].Path = card + out[i].Path
	}
	return out
}
