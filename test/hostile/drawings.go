package hostile

import (
	"bytes"
	"fmt"
	"strings"
)

// Drawings are SVG files.
func Drawings() []File {
	svg := func(inside string) []byte {
		return []byte(`<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 100 100">` + inside + `</svg>`)
	}
	rect := `<rect x="10" y="10" width="60" height="60" fill="#c33"/>`
	var out []File
	add := func(harm, name string, data []byte) { out = append(out, File{harm, name, data}) }

	var sheet strings.Builder
	for i := range 20_000 {
		fmt.Fprintf(&sheet, ".c%d,", i)
	}
	add("a selector of 20,000 with 8,000 declarations", "selectors.svg", svg(`<style>`+sheet.String()+`.x{`+strings.Repeat("fill:red;", 8000)+`}</style>`+rect))
	add("classes that all match", "classes.svg", svg(`<style>`+strings.Repeat(`.a{fill:red;stroke:blue;opacity:.5}`, 1900)+`</style>`+strings.Repeat(`<rect class="a" width="9" height="9"/>`, 9000)))
	add("an element of 100,000 classes", "manyclasses.svg", svg(`<style>.a{fill:red}</style><rect class="`+strings.Repeat("a ", 100_000)+`" width="9" height="9"/>`))
	add("entities in entities", "entities.svg", []byte(`<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;"><!ENTITY c "&b;&b;&b;&b;&b;&b;&b;&b;">]><svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><title>&c;</title></svg>`))
	add("an entity from a file", "file.svg", []byte(`<!DOCTYPE svg [<!ENTITY f SYSTEM "file:///etc/passwd">]><svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><text>&f;</text></svg>`))
	uses := rect
	for i := range 12 {
		prev := fmt.Sprintf("u%d", i)
		uses = fmt.Sprintf(`<g id="%s">%s</g>`, prev, uses)
		uses = `<defs>` + uses + `</defs>` + strings.Repeat(`<use xlink:href="#`+prev+`"/>`, 10)
	}
	add("uses of uses of uses", "uses.svg", svg(uses))
	add("a use of itself", "itself.svg", svg(`<g id="a">`+rect+`<use href="#a"/></g>`))
	add("groups 5,000 deep", "deep.svg", svg(strings.Repeat("<g>", 5000)+rect+strings.Repeat("</g>", 5000)))
	add("100,000 elements", "many.svg", svg(strings.Repeat(`<rect width="1" height="1"/>`, 100_000)))
	add("a path of a million points", "path.svg", svg(`<path fill="none" stroke="#000" d="M0 0`+strings.Repeat("l3 1-2 2 1-3", 170_000)+`"/>`))
	add("3,000 points drawn 9,000 times", "stamps.svg", svg(`<defs><path id="p" d="M0 0`+strings.Repeat("q3 1 2 2t1-3", 500)+`"/></defs>`+strings.Repeat(`<use href="#p"/>`, 9000)))
	add("dashes of a millionth", "dashes.svg", svg(`<path d="M0 50h100" stroke="#000" stroke-width="90" stroke-dasharray=".000001 .000001"/>`))
	add("a clip in a clip in a clip", "clips.svg", svg(clips(150)+rect))
	add("a filter that floods and blurs", "filter.svg", svg(`<filter id="f" x="-1000%" width="3000%">`+strings.Repeat(`<feGaussianBlur stdDeviation="500"/><feMorphology radius="300"/>`, 100)+`</filter><g filter="url(#f)">`+rect+`</g>`))
	add("masks in masks", "masks.svg", svg(strings.Repeat(`<mask id="m">`+rect+`</mask><g mask="url(#m)">`, 60)+rect+strings.Repeat(`</g>`, 60)))
	add("a million by a million", "huge.svg", []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="1000000" height="1000000">`+rect+`</svg>`))
	add("a strip one unit high", "thin.svg", []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 8192 0.001">`+rect+`</svg>`))
	add("gradients of 5,000 stops drawn 5,000 times", "stops.svg", svg(`<linearGradient id="g">`+strings.Repeat(`<stop offset=".5" stop-color="red"/>`, 5000)+`</linearGradient>`+strings.Repeat(`<rect width="99" height="99" fill="url(#g)"/>`, 4900)))
	add("strokes over strokes", "strokes.svg", svg(strings.Repeat(`<circle cx="50" cy="50" r="45" fill="none" stroke="#123" stroke-width="80" stroke-opacity=".01"/>`, 9000)))
	add("scripts and addresses", "scripts.svg", svg(`<script>alert(1)</script><a xlink:href="javascript:alert(1)">`+rect+`</a><image href="http://example.com/x.png" width="9" height="9"/><style>@import url(http://example.com/x.css);.a{fill:url(http://example.com/)}</style><rect onclick="alert(1)" style="fill:url(javascript:alert(1))" class="a" width="50" height="50"/><foreignObject><body xmlns="http://www.w3.org/1999/xhtml"><iframe src="/desk"/></body></foreignObject>`+rect))
	add("a comment of 9 MB", "comment.svg", svg(`<!--`+strings.Repeat("x", 9<<20)+`-->`+rect))
	add("an attribute of 7 MB", "attribute.svg", svg(`<rect id="`+strings.Repeat("x", 7<<20)+`" width="9" height="9"/>`))
	add("UTF-16", "utf16.svg", append([]byte("\xff\xfe"), bytes.ReplaceAll(svg(rect), []byte("<"), []byte("<\x00"))...))
	add("cut off", "cut.svg", svg(rect)[:80])
	add("something after its end", "after.svg", append(svg(rect), svg(rect)...))
	return out
}

// clips is a rectangle clipped by a rectangle that is clipped, and so on.
func clips(n int) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, `<clipPath id="c%d" clip-path="url(#c%d)"><rect width="90" height="90"/></clipPath>`, i, (i+1)%n)
	}
	return b.String() + `<g clip-path="url(#c0)"><rect width="50" height="50"/></g>`
}
