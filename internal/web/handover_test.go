package web_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"net/http"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"aspenridge/demo"
	"aspenridge/internal/app"
	"aspenridge/internal/raster"
	"aspenridge/test/stage"
)

// withBrief is somebody with Larkmoor's kit and its first brief.
func withBrief(t *testing.T) (*stage.Stage, *person, string) {
	t.Helper()
	return withBriefAt(t, nil)
}

// withBriefAt is withBrief with a clock.
func withBriefAt(t *testing.T, now func() time.Time) (*stage.Stage, *person, string) {
	t.Helper()
	s := open(t, stage.Options{Now: now})
	p := join(t, s, "a@one.example")
	kit, err := demo.LoadKit(t.Context(), s.App, p.member)
	if err != nil {
		t.Fatal(err)
	}
	id, err := demo.LoadBrief(t.Context(), s.App, p.member, kit, "beginners.json", "shoreline")
	if err != nil {
		t.Fatal(err)
	}
	return s, p, "/briefs/" + id.String()
}

// keyOf is the key of a piece in the look that is shown, for an address.
func keyOf(t *testing.T, s *stage.Stage, p *person, brief, place string) string {
	t.Helper()
	set, err := s.App.Sets.Set(t.Context(), p.member, mustID(t, strings.TrimPrefix(brief, "/briefs/")))
	if err != nil {
		t.Fatal(err)
	}
	return url.QueryEscape(app.PieceKey(set.CurrentLook(), place))
}

// TestThePageForAPhone: the QR code has its three finder patterns, whoever has
// the address sees the chosen pictures and the caption without an account, and
// nobody does once its time is over.
func TestThePageForAPhone(t *testing.T) {
	now := time.Now()
	s, p, brief := withBriefAt(t, func() time.Time { return now })
	r, answer := p.json(brief+"/phone?skip="+keyOf(t, s, p, brief, "story")+"&format=png", map[string]any{})
	if r.StatusCode != http.StatusOK {
		t.Fatal(answer)
	}
	address, err := url.Parse(answer["address"].(string))
	if err != nil {
		t.Fatal(err)
	}
	code := answer["code"].(string)
	// ISO/IEC 18004: 17 + 4 v modules a side, a quiet zone of 4, finder patterns of
	// 7 modules in three corners, none in the fourth
	var n int
	if m := regexp.MustCompile(`viewBox="0 0 (\d+) `).FindStringSubmatch(code); m != nil {
		n, _ = strconv.Atoi(m[1])
	}
	if side := n - 8; side < 21 || (side-17)%4 != 0 {
		t.Fatalf("%d modules a side", n-8)
	}
	dark := map[string]bool{}
	for _, m := range regexp.MustCompile(`M(\d+) (\d+)h1v1h-1z`).FindAllStringSubmatch(code, -1) {
		dark[m[1]+","+m[2]] = true
	}
	finder := func(x, y int) bool {
		for dy := range 7 {
			for dx := range 7 {
				ring := max(abs(dx-3), abs(dy-3))
				if dark[itoa(x+dx)+","+itoa(y+dy)] != (ring != 2) {
					return false
				}
			}
		}
		return true
	}
	if !finder(4, 4) || !finder(n-11, 4) || !finder(4, n-11) || finder(n-11, n-11) {
		t.Error("the finder patterns are not where they belong")
	}
	stranger := &person{t: t, base: s.URL, client: &http.Client{CheckRedirect: p.client.CheckRedirect}}
	r, page := stranger.get(address.Path)
	pictures := regexp.MustCompile(`<img src="(/p/[^"]+)"`).FindAllStringSubmatch(page, -1)
	if r.StatusCode != http.StatusOK || len(pictures) != 12 || !strings.Contains(page, "#slowbend") || strings.Contains(page, "story") {
		t.Fatalf("%s, %d pictures", r.Status, len(pictures))
	}
	if r, data := stranger.get(pictures[0][1]); r.StatusCode != http.StatusOK || raster.Kind([]byte(data)) != "png" {
		t.Errorf("a picture: %s", r.Status)
	}
	for _, path := range []string{address.Path + "/story", address.Path + "/nowhere", "/p/guess", brief + "/handover"} {
		if r, _ := stranger.get(path); r.StatusCode == http.StatusOK {
			t.Errorf("a stranger reads %s", path)
		}
	}
	now = now.Add(app.PhoneTime + time.Minute)
	if r, _ := stranger.get(address.Path); r.StatusCode != http.StatusNotFound {
		t.Errorf("after its time: %s", r.Status)
	}
}

// TestFilesAreAsTheyWereWeighed compares what the list says of a file with the
// file in the archive.
func TestFilesAreAsTheyWereWeighed(t *testing.T) {
	_, p, brief := withBrief(t)
	r, body := p.send("GET", brief+"/handover/files?scale=2", "", nil, "Accept", "application/json")
	var list struct {
		HTML  string `json:"html"`
		Count int    `json:"count"`
	}
	if err := json.Unmarshal([]byte(body), &list); err != nil || list.Count != 13 {
		t.Fatalf("%s: %d files, %v", r.Status, list.Count, err)
	}
	keys := regexp.MustCompile(`data-key="([^"]+)" data-weigh="([^"]+)"`).FindAllStringSubmatch(list.HTML, -1)
	weights := map[string]int{}
	skip := ""
	for i, k := range keys {
		if i > 2 { // three are enough
			skip += "&skip=" + k[1]
			continue
		}
		_, body := p.send("GET", brief+"/handover/weigh?"+strings.ReplaceAll(k[2], "&amp;", "&"), "", nil, "Accept", "application/json")
		var w struct {
			Bytes int    `json:"bytes"`
			Name  string `json:"name"`
		}
		if err := json.Unmarshal([]byte(body), &w); err != nil || w.Bytes == 0 {
			t.Fatalf("%s: %v", k[1], err)
		}
		weights[w.Name] = w.Bytes
	}
	r, data := p.get(brief + "/set.zip?scale=2" + skip)
	z, err := zip.NewReader(bytes.NewReader([]byte(data)), int64(len(data)))
	if err != nil || r.Header.Get("X-Files") != "3" {
		t.Fatalf("%s files, %v", r.Header.Get("X-Files"), err)
	}
	for _, f := range z.File {
		if want, ok := weights[f.Name]; ok && int(f.UncompressedSize64) != want {
			t.Errorf("%s has %d bytes, the list said %d", f.Name, f.UncompressedSize64, want)
		}
		delete(weights, f.Name)
	}
	if len(weights) > 0 {
		t.Errorf("not in the archive: %v", weights)
	}
	for _, q := range []string{"format=bmp", "scale=9", "skip=" + strings.Repeat("x", 10) + skip + "&skip=" + keys[0][1] + "&skip=" + keys[1][1] + "&skip=" + keys[2][1]} {
		if r, _ := p.send("GET", brief+"/set.zip?"+q, "", nil, "Accept", "application/json"); r.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %s", q, r.Status)
		}
	}
}

func itoa(n int) string { return strconv.Itoa(n) }

func abs(n int) int { return max(n, -n) }
