package brief

import "strings"

// named are the places of a brief document that are edited by their path (JSON Pointers; what lies
// in them as well). Looks, changes by hand and the video have ways of their own.
var named = []string{"/name", "/purpose", "/language", "/cards", "/signature", "/edge", "/logo", "/placements", "/palette", "/onlyPalette"}

// Named reports whether a path is one of those by which a brief document is edited.
func Named(path string) bool {
	for _, p := range named {
		if rest, ok := strings.CutPrefix(path, p); ok && (rest == "" || rest[0] == '/') {
			return true
		}
	}
	return false
}
