package blob_test

import (
	"bytes"
	"testing"

	"aspenridge/internal/blob"
)

func TestContentIsItsOwnKey(t *testing.T) {
	dir := t.TempDir()
	b, err := blob.Open(dir, "", "")
	if err != nil {
		t.Fatal(err)
	}
	one, err := b.Put(t.Context(), []byte("moss"))
	if err != nil {
		t.Fatal(err)
	}
	// SHA-256 of "moss", by sha256sum of GNU coreutils
	if one != "9e135ab954828446379a956e7e12eb7254a482059c765a4e055b617ffe624057" {
		t.Errorf("hash %s", one)
	}
	if again, err := b.Put(t.Context(), []byte("moss")); err != nil || again != one {
		t.Errorf("the same again: %s %v", again, err)
	}
	if b, err = blob.Open(dir, "", ""); err != nil {
		t.Fatal(err)
	}
	if data, err := b.Get(t.Context(), one); err != nil || !bytes.Equal(data, []byte("moss")) {
		t.Errorf("after opening again: %q %v", data, err)
	}
	for _, hash := range []string{"", "../../etc/passwd", one[:63] + "x"} {
		if _, err := b.Get(t.Context(), hash); err == nil {
			t.Errorf("%q was found", hash)
		}
	}
}
