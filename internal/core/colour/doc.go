// Package colour holds colours as values and the arithmetic a brand needs of
// them: reading any notation people paste, moving between colour spaces,
// measuring difference and contrast, mapping into the sRGB gamut, naming, and
// finding the colours a logo or a photograph is made of.
//
// [RGB] is what a kit stores: 8-bit sRGB, exact. Every other space ([Linear],
// [XYZ], [Lab], [OKLab], [OKLCh], [HSL]) is float64 and converts through it.
// The package knows nothing of kits, pieces or files.
package colour
