package phrase

// words are what a language says around an offer; * is where its date or price goes.
type words struct {
	off      string // with a percentage
	offFirst bool   // it stands before the percentage
	instead  string
	until    string
	code     string
	closed   string // a day without opening hours
}

// ours are the words by language, from memory, as shops write them (common practice). Where a
// language would bend the date or the price, the phrase is one that does not.
var ours = map[string]words{
	"ar": {"خصم", true, "بدلاً من *", "حتى *", "الرمز", "مغلق"},
	"cs": {"sleva", true, "místo *", "do *", "kód", "zavřeno"},
	"da": {"rabat", false, "i stedet for *", "til og med *", "kode", "lukket"},
	"de": {"Rabatt", false, "statt *", "bis *", "Code", "geschlossen"},
	"en": {"off", false, "instead of *", "until *", "code", "closed"},
	"es": {"de descuento", false, "en vez de *", "hasta el *", "código", "cerrado"},
	"fi": {"alennus", false, "ennen *", "* asti", "koodi", "suljettu"},
	"fr": {"de réduction", false, "au lieu de *", "jusqu’au *", "code", "fermé"},
	"he": {"הנחה", false, "במקום *", "עד *", "קוד", "סגור"},
	"it": {"di sconto", false, "invece di *", "fino al *", "codice", "chiuso"},
	"nb": {"rabatt", false, "i stedet for *", "til og med *", "kode", "stengt"},
	"nl": {"korting", false, "in plaats van *", "t/m *", "code", "gesloten"},
	"pl": {"rabatu", false, "zamiast *", "do *", "kod", "nieczynne"},
	"pt": {"de desconto", false, "em vez de *", "até *", "código", "fechado"},
	"sv": {"rabatt", false, "i stället för *", "t.o.m. *", "kod", "stängt"},
	"tr": {"indirim", false, "eski fiyat *", "son gün *", "kod", "kapalı"},
}
