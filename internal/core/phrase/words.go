package phrase

// words are what a language says around an offer; * is where its date or price goes.
type words struct {
	off      string // with a percentage
	offFirst bool   // it stands before the percentage
	instead  string
	until    string
	code     string
}

// ours are the words by language, from memory, as shops write them (common practice). Where a
// language would bend the date or the price, the phrase is one that does not.
var ours = map[string]words{
	"ar": {"خصم", true, "بدلاً من *", "حتى *", "الرمز"},
	"cs": {"sleva", true, "místo *", "do *", "kód"},
	"da": {"rabat", false, "i stedet for *", "til og med *", "kode"},
	"de": {"Rabatt", false, "statt *", "bis *", "Code"},
	"en": {"off", false, "instead of *", "until *", "code"},
	"es": {"de descuento", false, "en vez de *", "hasta el *", "código"},
	"fi": {"alennus", false, "ennen *", "* asti", "koodi"},
	"fr": {"de réduction", false, "au lieu de *", "jusqu’au *", "code"},
	"he": {"הנחה", false, "במקום *", "עד *", "קוד"},
	"it": {"di sconto", false, "invece di *", "fino al *", "codice"},
	"nb": {"rabatt", false, "i stedet for *", "til og med *", "kode"},
	"nl": {"korting", false, "in plaats van *", "t/m *", "code"},
	"pl": {"rabatu", false, "zamiast *", "do *", "kod"},
	"pt": {"de desconto", false, "em vez de *", "até *", "código"},
	"sv": {"rabatt", false, "i stället för *", "t.o.m. *", "kod"},
	"tr": {"indirim", false, "eski fiyat *", "son gün *", "kod"},
}
