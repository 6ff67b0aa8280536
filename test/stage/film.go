package stage

import (
	"os/exec"
	"path/filepath"
	"testing"
)

// Film has ffmpeg make a film, or a sound, of its arguments, and says where it is for as long as
// the test runs.
func Film(t testing.TB, name string, args ...string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if out, err := exec.Command("ffmpeg", append(append([]string{"-nostdin", "-v", "error", "-y"}, args...), path)...).CombinedOutput(); err != nil {
		t.Fatalf("%s: %v: %s", name, err, out)
	}
	return path
}
