package brand

import "strings"

// named are the places of a kit document that are edited by their path (JSON Pointers; what lies
// in them as well). What a kit follows, what it does not take over, and its version are not.
var named = []string{
	"/color", "/type", "/typeSets",
	own + "name", own + "values", own + "tagline", own + "website", own + "handles", own + "phone", own + "place", own + "callsToAction", own + "hashtags",
	own + "logos", own + "fonts", own + "pictures", own + "colourways", own + "motion", own + "voice", own + "manner", own + "language", own + "rails",
}

const own = "/$extensions/aspenridge/"

// Named reports whether a path is one of those by which a kit document is edited.
func Named(path string) bool { return lies(path, named) }

func lies(path string, in []string) bool {
	for _, p := range in {
		if rest, ok := strings.CutPrefix(path, p); ok && (rest == "" || rest[0] == '/') {
			return true
		}
	}
	return false
}
