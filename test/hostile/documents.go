package hostile

import (
	"archive/zip"
	"bytes"
	"fmt"
	"strings"
)

// kit is a kit document with members of one's own.
func kit(own, rest string) string {
	return `{"$extensions":{"aspenridge":{"formatVersion":1,"name":"H"` + own + `}}` + rest + `}`
}

// archive packs files.
func archive(files map[string]string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, data := range files {
		f, _ := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate})
		_, _ = f.Write([]byte(data))
	}
	_ = z.Close()
	return b.Bytes()
}

// bomb packs files, with so many more spaces in the last one.
func bomb(files map[string]string, spaces int) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	block := bytes.Repeat([]byte(" "), 1<<20)
	for _, name := range []string{"kit.json", "a.svg"} {
		f, _ := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate})
		_, _ = f.Write([]byte(files[name]))
		for n := 0; name == "a.svg" && n < spaces; n += len(block) {
			_, _ = f.Write(block)
		}
	}
	_ = z.Close()
	return b.Bytes()
}

// Kits are files somebody brings to make a kit of.
func Kits() []File {
	var out []File
	add := func(harm, name, data string) { out = append(out, File{harm, name, []byte(data)}) }
	words := func(n int) string { return strings.Repeat("wörter ", n/7) }
	add("a tagline of a megabyte", "tagline.json", kit(`,"tagline":"`+words(1_000_000)+`"`, ""))
	add("a name of 9 kB", "name.json", kit(`,"handles":["`+words(9000)+`"]`, ""))
	add("38,400 colours", "colours.json", kit("", `,"color":{"main":{"$type":"color"`+colours(38_400)+`}}`))
	add("600 palettes", "palettes.json", kit("", `,"color":{"p":{"$type":"color"}`+palettes(600)+`}`))
	add("values nested 60 deep", "nested.json", kit(`,"deep":`+strings.Repeat(`{"a":`, 60)+"1"+strings.Repeat("}", 60), ""))
	add("a NUL in a text", "nul.json", kit(`,"tagline":"a\u0000b"`, ""))
	add("a list of a million", "list.json", kit(`,"values":[`+strings.TrimSuffix(strings.Repeat(`"v",`, 1_000_000), ",")+`]`, ""))
	add("names that are markup", "markup.json", kit(`,"pictures":[{"file":"<img src=x onerror=alert(1)>","kind":"icon","alt":"\"><meta http-equiv=refresh content=0>"}],"logos":[{"file":"\" x-init=\"alert(1)"}]`, ""))
	add("a file of somebody else's", "foreign.json", kit(`,"logos":[{"file":"`+strings.Repeat("ab", 32)+`/x.svg"}]`, ""))
	add("a palette of a million colours", "million.gpl", "GIMP Palette\nName: x\n#\n"+strings.Repeat("12 34 56\tx\n", 1_000_000))
	add("50 MB of colours", "fifty.txt", strings.Repeat("#123456\n", 50<<20/8))
	add("properties without end", "endless.css", ":root{"+strings.Repeat("--a:#123456;", 400_000))
	add("JSON cut off", "cut.json", kit("", "")[:20])
	add("arrays 100,000 deep", "arrays.json", strings.Repeat("[", 100_000))
	logos := []string{}
	files := map[string]string{}
	for i := range 1999 {
		logos = append(logos, fmt.Sprintf(`{"file":"logos/%d.svg"}`, i))
		files[fmt.Sprintf("logos/%d.svg", i)] = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><rect width="8" height="8"/></svg>`
	}
	files["kit.json"] = kit(`,"logos":[`+strings.Join(logos, ",")+`]`, "")
	out = append(out,
		File{"an archive of 1,999 logos", "logos.zip", archive(files)},
		File{"an archive that leads out", "slip.zip", archive(map[string]string{"../../etc/x": "x", "kit.json": kit("", "")})},
		File{"an archive that unpacks to gigabytes", "bomb.zip", bomb(map[string]string{"kit.json": kit(`,"logos":[{"file":"a.svg"}]`, ""), "a.svg": ""}, 900<<20)},
		File{"an archive of 100,000 names", "names.zip", archive(many(20_000))},
		File{"an archive without a kit", "empty.zip", archive(map[string]string{"readme.txt": "nothing here"})},
		File{"an archive cut off", "cut.zip", archive(map[string]string{"kit.json": kit("", "")})[:60]},
	)
	return out
}

func many(n int) map[string]string {
	out := map[string]string{"kit.json": kit("", "")}
	for i := range n {
		out[fmt.Sprintf("f%d", i)] = ""
	}
	return out
}

func colours(n int) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, `,"c%d":{"$value":"#%06x"}`, i, i*431)
	}
	return b.String()
}

func palettes(n int) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, `,"p%d":{"$type":"color"%s}`, i, colours(60))
	}
	return b.String()
}
