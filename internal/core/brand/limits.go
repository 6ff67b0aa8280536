package brand

import "aspenridge/internal/core/edit"

// The limits of a kit that other packages count by.
const (
	MaxPalettes   = 24
	MaxColours    = 64  // in a palette
	MaxAllColours = 256 // in a kit
	MaxLogos      = 60
	MaxFonts      = 60
	MaxPictures   = 500
)

// Limits are how much a kit may say. docs/formats.md lists them.
var Limits = edit.Limits{
	{Path: "/$extensions/aspenridge/name", Most: 200},
	{Path: "/$extensions/aspenridge/language", Most: 40},
	{Path: "/$extensions/aspenridge/tagline", Most: 300},
	{Path: "/$extensions/aspenridge/website", Most: 300},
	{Path: "/$extensions/aspenridge/phone", Most: 60},
	{Path: "/$extensions/aspenridge/place", Most: 300},
	{Path: "/$extensions/aspenridge/values", Most: 40},
	{Path: "/$extensions/aspenridge/values/*", Most: 100},
	{Path: "/$extensions/aspenridge/handles", Most: 40},
	{Path: "/$extensions/aspenridge/handles/*", Most: 120},
	{Path: "/$extensions/aspenridge/callsToAction", Most: 40},
	{Path: "/$extensions/aspenridge/callsToAction/*", Most: 120},
	{Path: "/$extensions/aspenridge/hashtags", Most: 100},
	{Path: "/$extensions/aspenridge/hashtags/*", Most: 100},
	{Path: "/$extensions/aspenridge/logos", Most: MaxLogos},
	{Path: "/$extensions/aspenridge/logos/*/file", Most: 300},
	{Path: "/$extensions/aspenridge/fonts", Most: MaxFonts},
	{Path: "/$extensions/aspenridge/fonts/*/file", Most: 300},
	{Path: "/$extensions/aspenridge/pictures", Most: MaxPictures},
	{Path: "/$extensions/aspenridge/pictures/*/file", Most: 300},
	{Path: "/$extensions/aspenridge/pictures/*/alt", Most: 1000},
	{Path: "/$extensions/aspenridge/motion/says", Most: 200},
	{Path: "/$extensions/aspenridge/motion/says/*/word", Most: 80},
	{Path: "/$extensions/aspenridge/motion/says/*/as", Most: 200},
	{Path: "/$extensions/aspenridge/pictures/*/folder", Most: 100},
	{Path: "/$extensions/aspenridge/colourways", Most: 200},
	{Path: "/$extensions/aspenridge/colourways/*/name", Most: 120},
	{Path: "/$extensions/aspenridge/declinedColours", Most: 500},
	{Path: "/$extensions/aspenridge/without", Most: 1000},
	{Path: "/$extensions/aspenridge/voice/sounds", Most: 2000},
	{Path: "/$extensions/aspenridge/voice/reader", Most: 2000},
	{Path: "/$extensions/aspenridge/voice/sentences", Most: 2000},
	{Path: "/$extensions/aspenridge/voice/text", Most: 10_000},
	{Path: "/$extensions/aspenridge/voice/says", Most: 200},
	{Path: "/$extensions/aspenridge/voice/says/*", Most: 200},
	{Path: "/$extensions/aspenridge/voice/neverSays", Most: 200},
	{Path: "/$extensions/aspenridge/voice/neverSays/*", Most: 200},
	{Path: "/color", Most: MaxPalettes + 8}, // with members of the format itself
	{Path: "/color/*", Most: MaxColours + 8},
	{Path: "/typeSets", Most: 24},
}
