// Package roles says what people may do in a workspace: a role is a set of capabilities, and
// whatever asks whether somebody may do something names a capability, never a role.
//
//	roles.May("editor", roles.WriteKits) // true
//	roles.May("guest editor", roles.WriteKits) // false
package roles

import "slices"

// Capability is something people do.
type Capability string

// The capabilities. [Look] is that of everybody who is in a workspace.
const (
	Look            Capability = "look"             // at kits, briefs and pieces
	HandOver        Capability = "hand over"        // take files of pieces out
	Comment         Capability = "comment"          // on pieces
	Decide          Capability = "decide"           // approve pieces, or ask for changes
	WriteBriefs     Capability = "write briefs"     // begin them and change what is made of them
	WriteKits       Capability = "write kits"       // begin them and change what a brand is; channels too
	ShareOutside    Capability = "share outside"    // links for people without an account
	ManagePeople    Capability = "manage people"    // invite, change roles, suspend
	ManageWorkspace Capability = "manage workspace" // its name, its rails, what it asks of people, all of it in a file
)

// All are the capabilities there are.
var All = []Capability{Look, HandOver, Comment, Decide, WriteBriefs, WriteKits, ShareOutside, ManagePeople, ManageWorkspace}

// Roles the application gives by itself: to whoever begins a workspace, and to guests who come by
// a link.
const (
	Owner     = "owner"
	Commenter = "commenter"
	Viewer    = "viewer"
)

type role struct {
	name  string
	words string // what they may do, for people
	may   []Capability
}

// table has the roles, from who may most on. A new one is a row here.
var table = []role{
	{Owner, "everything, and who is in the team", All},
	{"editor", "kits, briefs, files, links", []Capability{Look, HandOver, Comment, Decide, WriteBriefs, WriteKits, ShareOutside}},
	{"guest editor", "briefs and files, no kits", []Capability{Look, HandOver, Comment, Decide, WriteBriefs}},
	{Commenter, "look, comment, approve", []Capability{Look, HandOver, Comment, Decide}},
	{Viewer, "look", []Capability{Look, HandOver}},
}

// May reports whether a role has a capability; one nobody knows has none.
func May(name string, c Capability) bool {
	i := slices.IndexFunc(table, func(r role) bool { return r.name == name })
	return i >= 0 && slices.Contains(table[i].may, c)
}

// Words say what a role may do, for people.
func Words(name string) string {
	i := slices.IndexFunc(table, func(r role) bool { return r.name == name })
	if i < 0 {
		return ""
	}
	return table[i].words
}

// Names are the roles, from who may most on.
func Names() []string {
	out := make([]string, len(table))
	for i, r := range table {
		out[i] = r.name
	}
	return out
}
