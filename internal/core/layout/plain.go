package layout

import "sync"

// plainSource is the proven layout everything falls back to: words on the
// ground, the picture, if any, in a part of its own.
const plainSource = `{
 "id": "plain", "name": "Plain", "revision": 1, "idea": "words beside the picture",
 "align": "left", "pictures": 0.5, "buttonOn": "ground",
 "areas": {"ground": 0.9, "panel": 0.1},
 "trees": {
  "ribbon": {"cell": {"seat": "ground", "content": {"row": [
    {"logo": "wide"},
    {"stack": [{"text": "headline"}, {"words": "brief"}], "flex": true, "gap": 1.4},
    {"button": true}], "gap": 3, "v": "center"}}},
  "square": {"cell": {"seat": "ground", "content": {"stack": [
    {"frame": {"picture": 1, "min": 0.2}},
    {"text": "headline"},
    {"words": "rest"},
    {"button": true, "before": 2.6}, {"logo": "wide", "before": 2.6}], "v": "center"}}}
 }}`

// Plain is the built-in layout.
var Plain = sync.OnceValue(func() *Layout {
	l, err := Parse([]byte(plainSource))
	if err != nil {
		panic(err) // a test parses it
	}
	return l
})
