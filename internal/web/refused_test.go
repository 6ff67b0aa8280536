package web_test

import (
	"net/http"
	"strings"
	"testing"

	"aspenridge/test/stage"
)

// TestRefusedForWhatIsWrong: what cannot be read is refused with what is wrong with it, and nothing
// of it is kept in another form.
func TestRefusedForWhatIsWrong(t *testing.T) {
	t.Parallel()
	s := open(t, stage.Options{})
	p := join(t, s, "refused@one.example")
	kit := p.newKit("Otter")
	said := func(name, answer string, status, want int, words ...string) {
		t.Helper()
		if status != want {
			t.Errorf("%s: %d %.200s", name, status, answer)
		}
		for _, w := range words {
			if !strings.Contains(answer, w) {
				t.Errorf("%s says %.200q, nothing of %q", name, answer, w)
			}
		}
	}

	r, body := p.send(http.MethodPost, "/account/name", "application/x-www-form-urlencoded", strings.NewReader("name=%00%ff"), "Accept", "application/json")
	said("a name that is no text", body, r.StatusCode, http.StatusUnprocessableEntity, "UTF-8")
	if _, page := p.get("/account"); strings.Contains(page, "�") {
		t.Error("the name has signs in place of what was broken")
	}
	r, body = p.send(http.MethodPost, "/kits/"+kit+"/edit", "application/json", strings.NewReader("{\"action\":\"set\",\"path\":\"/$extensions/aspenridge/name\",\"value\":\"\xff\"}"))
	said("JSON that is no text", body, r.StatusCode, http.StatusUnprocessableEntity, "UTF-8")
	if k := p.kit(s, kit); k.Name != "Otter" {
		t.Errorf("the kit is called %q", k.Name)
	}
	r, body = p.send(http.MethodGet, "/desk/briefs?find=%ff", "", nil, "Accept", "application/json")
	said("an address that is no text", body, r.StatusCode, http.StatusUnprocessableEntity, "UTF-8")

	r, body = p.send(http.MethodPost, "/kits/"+kit+"/edit", "application/json", strings.NewReader(`{"action":"set","value":"`+strings.Repeat("a", 17<<20)+`"}`), "Accept", "application/json")
	said("17 MB of words", body, r.StatusCode, http.StatusRequestEntityTooLarge, "kB of words")

	channels := func(place string) (int, string) {
		r, out := p.json("/channels", map[string]any{"action": "bring", "file": `{"channels":[{"id":"mine","name":"Mine","placements":[` + place + `]}]}`})
		words, _ := out["error"].(string)
		return r.StatusCode, words
	}
	status, words := channels(`{"id":"card","name":"Card","width":600,"height":800,"safe":[10,10,10]}`)
	said("three insets", words, status, http.StatusUnprocessableEntity, "safe has 3 members, want 4", "Card")
	status, words = channels(`{"id":"card","name":"Card","width":600,"height":800,"keepOut":[[1,2,3,4],[1,2,3]]}`)
	said("a box of three", words, status, http.StatusUnprocessableEntity, "keepOut[1]")
	status, words = channels(`{"id":"card","name":"Card","width":600,"height":800,"safe":[10,10,10,10]}`)
	said("four insets", words, status, http.StatusOK)

	r, out := p.give("kit.json", []byte("{\n\"color\": {\n  \"main\": {,}\n}}"), map[string]string{})
	words, _ = out["error"].(string)
	said("broken JSON", words, r.StatusCode, http.StatusUnprocessableEntity, "kit.json", "line 3")
	r, out = p.give("", nil, map[string]string{"text": "Otter \xff"})
	words, _ = out["error"].(string)
	said("words that are no text", words, r.StatusCode, http.StatusUnprocessableEntity, "UTF-8")
}
