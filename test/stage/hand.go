package stage

import (
	"encoding/json"
	"strings"

	"aspenridge/internal/core/brief"
)

// ByHand changes every property there is of how a square piece is drawn, with a colour of
// its kit, one of its pictures and one of its logos.
func ByHand(token, picture, logo string) []brief.Adjustment {
	var out []brief.Adjustment
	named := strings.NewReplacer("TOKEN", token, "PICTURE", picture, "LOGO", logo)
	for _, a := range [][4]string{
		{"set", "headline", "fill", `"TOKEN"`},
		{"set", "headline", "outline", `{"fill":"#F4ECD8","width":0.06}`},
		{"set", "headline", "shadow", `{"fill":"#26432F","x":0.05,"y":0.07}`},
		{"set", "headline", "highlight", `"#26432F"`},
		{"set", "headline", "case", `"upper"`},
		{"set", "headline", "tracking", `0.05`},
		{"set", "headline", "leading", `1.3`},
		{"set", "headline", "align", `"middle"`},
		{"set", "headline", "family", `"Karla"`},
		{"set", "headline", "weight", `600`},
		{"class:square", "headline", "breaks", `[1,{"after":3,"word":"dawn,"}]`},
		{"set", "facts", "arrange", `"row"`},
		{"class:square", "headline", "rotate", `-8`},
		{"class:square", "headline", "scale", `0.8`},
		{"class:square", "headline", "offset", `[0.02,-0.03]`},
		{"set", "subheading", "level", `"caption"`},
		{"set", "subheading", "opacity", `0.6`},
		{"set", "subheading", "band", `"#26432F"`},
		{"set", "picture", "frame", `"leaf"`},
		{"set", "picture", "border", `{"fill":"TOKEN","width":0.02}`},
		{"set", "picture", "flip", `"across"`},
		{"set", "picture", "crop", `[0.1,0.1,0.7,0.7]`},
		{"set", "picture", "dials", `{"brightness":0.1,"contrast":0.2,"saturation":-0.5,"warmth":0.4}`},
		{"set", "added-e", "duotone", `{"dark":"#26432F","light":"#FFFFFF"}`},
		{"set", "headline", "runs", `[{"from":2,"to":3,"words":"dawn,","bold":true,"scale":1.3,"underline":true,"fill":"#F4ECD8"}]`},
		{"set", "logo", "order", `-1`},
		{"set", "website", "hidden", `true`},
		{"set", "added-a", "part", `{"kind":"shape","name":"burst","at":[0.8,0.2],"size":[0.3,0.3],"fill":"TOKEN"}`},
		{"set", "added-b", "part", `{"kind":"words","text":"New today","level":"subheading","at":[0.8,0.2],"size":[0.22,0.1],"fill":"#F4ECD8"}`},
		{"class:square", "added-b", "rotate", `12`},
		{"set", "added-c", "part", `{"kind":"icon","name":"heart","at":[0.2,0.9],"size":[0.1,0.1],"fill":"#7A2E3A"}`},
		{"set", "added-d", "part", `{"kind":"shape","name":"frame","at":[0.5,0.5],"size":[0.96,0.96],"width":0.01,"fill":"#26432F"}`},
		{"set", "added-e", "part", `{"kind":"picture","file":"PICTURE","at":[0.2,0.2],"size":[0.2,0.2]}`},
		{"set", "added-e", "frame", `"icon:heart"`},
		{"set", "added-k", "part", `{"kind":"facts","name":"clock","text":"Six Saturdays\nAll gear included\nSmall groups","level":"body","at":[0.5,0.35],"size":[0.8,0.16],"fill":"#F4ECD8"}`},
		{"set", "added-j", "part", `{"kind":"pattern","name":"basket","at":[0.85,0.85],"size":[0.2,0.2]}`},
		{"set", "added-g", "part", `{"kind":"button","text":"Save a seat","level":"button","at":[0.3,0.6],"size":[0.3,0.08]}`},
		{"set", "added-h", "part", `{"kind":"badge","text":"New","level":"headline","at":[0.7,0.6],"size":[0.2,0.2],"fill":"TOKEN"}`},
		{"set", "added-i", "part", `{"kind":"row","name":"heart","count":4,"at":[0.5,0.8],"size":[0.4,0.08]}`},
		{"set", "added-f", "part", `{"kind":"logo","file":"LOGO","at":[0.5,0.1],"size":[0.2,0.1]}`},
	} {
		out = append(out, brief.Adjustment{Reach: a[0], Slot: a[1], Property: a[2], Value: json.RawMessage(named.Replace(a[3]))})
	}
	return out
}
