package web_test

import (
	"bytes"
	"encoding/json"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"aspenridge/test/stage"
)

// give hands something over as the page does: fields of a form, a file among them
// when there is one.
func (p *person) give(file string, data []byte, fields map[string]string) (*http.Response, map[string]any) {
	p.t.Helper()
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	for k, v := range fields {
		if err := form.WriteField(k, v); err != nil {
			p.t.Fatal(err)
		}
	}
	if file != "" {
		part, err := form.CreateFormFile("file", file)
		if err == nil {
			_, err = part.Write(data)
		}
		if err != nil {
			p.t.Fatal(err)
		}
	}
	if err := form.Close(); err != nil {
		p.t.Fatal(err)
	}
	r, text := p.send("POST", "/give", form.FormDataContentType(), io.Reader(&body), "Accept", "application/json", "X-Client", "tab", "X-Change", fields["change"])
	var out map[string]any
	if err := json.Unmarshal([]byte(text), &out); err != nil {
		p.t.Fatalf("giving answers %s with %q", r.Status, text)
	}
	return r, out
}

// What is given twice by one request that arrives again is given once; what goes
// into somebody else's kit, or is taken back from it, is not there.
func TestGivingIsOnesOwnAndOnce(t *testing.T) {
	s := open(t, stage.Options{})
	p, other := join(t, s, "a@one.example"), join(t, s, "b@two.example")
	first := map[string]string{"text": "Pellow & Finch\nChanterelles are in", "change": "c-1"}
	r, out := p.give("", nil, first)
	p.must(r, out)
	kit, brief := out["kit"].(string), out["brief"].(string)
	again, same := p.give("", nil, first)
	p.must(again, same)
	if same["kit"] != kit || same["brief"] != brief {
		t.Errorf("the same request again makes %v, %v", same["kit"], same["brief"])
	}
	if k := p.kit(s, kit); k.Name != "Pellow & Finch" || k.Tagline != "" {
		t.Errorf("after it arrived twice the kit is %q, %q", k.Name, k.Tagline)
	}

	for _, fields := range []map[string]string{{"text": "#7A2E3A", "kit": kit}, {"text": "Mine", "brief": brief}, {"text": "x", "kit": "no id"}} {
		if r, _ := other.give("", nil, fields); r.StatusCode != http.StatusNotFound {
			t.Errorf("giving %v into another's is answered %s", fields, r.Status)
		}
	}
	placed := out["placed"].([]any)[0]
	if r, _ := other.json("/give/back", map[string]any{"client": "tab", "placed": placed, "kit": kit}); r.StatusCode != http.StatusNotFound {
		t.Errorf("taking another's back is answered %s", r.Status)
	}
	if k := p.kit(s, kit); k.Name != "Pellow & Finch" || len(k.Colours()) != 0 {
		t.Errorf("the kit is %q with %d colours", k.Name, len(k.Colours()))
	}
	if r, body := p.give("cut.png", []byte("\x89PNG\r\n\x1a\nnothing"), map[string]string{"kit": kit}); r.StatusCode != http.StatusUnprocessableEntity || !strings.Contains(body["error"].(string), "cut.png") {
		t.Errorf("a damaged file is answered %s, %v", r.Status, body)
	}
	r, _ = p.form("/sample", url.Values{})
	if r.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("the sample brand beside a kit of one's own: %s", r.Status)
	}
}

// Words in braces nobody knows are refused, with the list of those there are.
func TestUnknownWordsInFileNames(t *testing.T) {
	s := open(t, stage.Options{})
	p := join(t, s, "a@one.example")
	brief := p.newBrief(p.newKit("House"))
	for pattern, ok := range map[string]bool{"": true, "{brief}-{size}": true, "post {place} {look} {channel}": true, "{date}_{brief}": false, "{brief": false, "brief}": false} {
		r, body := p.send("GET", "/briefs/"+brief+"/handover/files?names="+url.QueryEscape(pattern), "", nil, "Accept", "application/json")
		if (r.StatusCode == http.StatusOK) != ok {
			t.Errorf("%q is answered %s", pattern, r.Status)
		}
		if !ok && !strings.Contains(body, "{channel}") {
			t.Errorf("%q: %s", pattern, body)
		}
	}
}
