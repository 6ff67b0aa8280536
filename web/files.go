// Package web embeds the interface's templates and built static files. Their
// sources are in web/src; `make assets` builds them.
package web

import "embed"

// Files holds templates/ and static/.
//
//go:embed all:templates static
var Files embed.FS
