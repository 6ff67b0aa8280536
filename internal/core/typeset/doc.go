// Package typeset turns words into measured, breakable, drawable lines.
//
// A [Face] is one font file. A [Library] finds faces by family, weight and
// style. A [Shaper] shapes text once per (words, face, tracking) at one unit
// per em, so everything it returns is free of size: a [Paragraph] knows for
// every line count the narrowest it can be set ([Paragraph.Break]), a [Line]
// its advance, its ink and its outline. Callers multiply by the size in px.
//
// The package knows nothing of layouts, kits or pieces.
package typeset
