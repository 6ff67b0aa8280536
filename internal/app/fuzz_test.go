package app_test

import (
	"archive/zip"
	"bytes"
	"errors"
	"regexp"
	"testing"
	"unicode/utf8"

	"aspenridge/internal/app"
	"aspenridge/internal/core/plain"
)

// FuzzReadMoved: whatever an archive says of itself, it is read or refused with words.
func FuzzReadMoved(f *testing.F) {
	for _, s := range []string{
		`{"formatVersion":1,"name":"A","kits":[],"briefs":[],"files":[{"path":"files/a","kinds":["logo","logo"]}]}`,
		`{"formatVersion":1,"files":[{"path":"a"},{"path":"a"}]}`, `{"formatVersion":1e308}`, `[`, `{"files":[{"kinds":null}]}`,
	} {
		f.Add([]byte(s), "workspace.json")
	}
	f.Add([]byte("x"), "../../etc/passwd")
	f.Fuzz(func(t *testing.T, data []byte, name string) {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for _, n := range []string{"workspace.json", name} {
			if w, err := z.Create(n); err == nil {
				_, _ = w.Write(data)
			}
		}
		if z.Close() != nil {
			return
		}
		r, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
		if err != nil {
			return
		}
		if err := app.ReadMoved(r); err != nil && !errors.Is(err, app.ErrInvalid) {
			t.Errorf("%v", err)
		}
	})
}

var linked = regexp.MustCompile(`(?i)[a-z]://|www\.[a-z]|[a-z0-9]\.(com|org|net|example|de)\b|mailto:`)

// FuzzUnlinked: nothing that is left is taken for an address, and it ends.
func FuzzUnlinked(f *testing.F) {
	for _, s := range []string{"https://evil.example", "www.evil.example/a.b.c", "a.b.c.d", "x@evil.com", "HTTP://A.DE", "javascript:alert(1)", "a。b．c", "...", "hxxp[:]//a", "mailto:mailto:a"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		if !utf8.ValidString(s) {
			return
		}
		if out := plain.Unlinked(s); linked.MatchString(out) {
			t.Errorf("%q becomes %q", s, out)
		}
	})
}
