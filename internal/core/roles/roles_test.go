package roles_test

import (
	"slices"
	"testing"

	"aspenridge/internal/core/roles"
)

// Each role has what those below it have, whoever is in sees, and nobody else does anything.
func TestRolesByWhatTheyMay(t *testing.T) {
	want := []string{"owner", "editor", "guest editor", "commenter", "viewer"}
	if got := roles.Names(); !slices.Equal(got, want) {
		t.Fatalf("%v, want %v", got, want)
	}
	for i, name := range want {
		if roles.Words(name) == "" || !roles.May(name, roles.Look) {
			t.Errorf("%s: %q, looks: %v", name, roles.Words(name), roles.May(name, roles.Look))
		}
		for _, c := range roles.All {
			if i > 0 && roles.May(name, c) && !roles.May(want[i-1], c) {
				t.Errorf("%s may %s and %s may not", name, c, want[i-1])
			}
			if roles.May("", c) || roles.May("Owner", c) || roles.May("stranger", c) {
				t.Errorf("somebody of no role may %s", c)
			}
		}
	}
	for c, least := range map[roles.Capability]string{
		roles.WriteKits: "editor", roles.ShareOutside: "editor", roles.WriteBriefs: "guest editor", roles.Decide: "commenter", roles.ManagePeople: "owner", roles.ManageWorkspace: "owner",
	} {
		i := slices.Index(want, least)
		if !roles.May(least, c) || i+1 < len(want) && roles.May(want[i+1], c) {
			t.Errorf("%s is not what %s may and no role below", c, least)
		}
	}
	if roles.May("owner", "fly") {
		t.Error("an owner may what there is not")
	}
}
