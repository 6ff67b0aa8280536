package brief

import (
	"strings"
	"unicode"
)

// iconWords are the beginnings of words a shipped icon stands for, in English, German, French
// and Spanish; one that ends in "." is a whole word. The first icon with a word in a fact counts.
var iconWords = []struct{ icon, words string }{
	{"bed", "bed. beds. bedroom double-room sleeps schlafzimmer bett. betten chambre dormitorio habitaci"},
	{"droplets", "bath. baths. bathroom shower wc. toilet bad. bäder badezimmer dusche bain douche baño ducha waterproof wasserdicht"},
	{"car", "parking car. cars. garage parkpl parken stellpl auto. autos. voiture stationnement coche aparcamiento"},
	{"train-front", "train tram. station metro bahn. bahnhof zug. gare. tren. estación"},
	{"bus", "bus. buses haltestelle autobus autobús"},
	{"bike", "bike bicycle cycl fahrrad fahrräder rad. räder vélo bici"},
	{"plane", "flight flights plane airport flug flughafen avion aéroport vuelo avión"},
	{"ruler", "m² sqm. sq. ft². square qm. quadratmeter wohnfläche surface superficie"},
	{"trees", "garden park. forest garten wald. jardin forêt jardín bosque"},
	{"sun", "sunny sun. terrace balcon balkon terrasse sonne sonnig soleil terraza sol."},
	{"thermometer", "heating heated warm. heizung beheizt chauffage calefacci"},
	{"key", "key. keys. move-in schlüssel einzug clé. clés. llave"},
	{"house", "house home. apartment flat. haus wohnung maison appartement casa. piso."},
	{"accessibility", "wheelchair accessible step-free barrierefrei rollstuhl accessible accesible"},
	{"dog", "dog. dogs. pet. pets. hund haustier chien animaux perro mascota"},
	{"coffee", "coffee espresso cappuccino kaffee café cafe tea. tee. thé"},
	{"soup", "soup breakfast lunch suppe frühstück mittag soupe déjeuner sopa desayuno almuerzo"},
	{"utensils", "dinner meal menu food. vegan vegetarian essen menü gericht abendessen dîner repas cena. comida"},
	{"cake-slice", "cake cakes pastry dessert kuchen torte gebäck gâteau pastel tarta"},
	{"wheat", "bread gluten flour brot. brote mehl pain. farine pan. harina"},
	{"egg", "egg. eggs. eier. œuf huevo"},
	{"apple", "fruit apple organic obst apfel äpfel bio. fruit pomme fruta manzana"},
	{"fish", "fish seafood fisch poisson pescado"},
	{"leaf", "sustainab natural plant-based compost nachhaltig natürlich pflanzlich durable naturel sostenible natural"},
	{"recycle", "recycl reusable wiederverwend mehrweg recyclé reciclad"},
	{"truck", "delivery delivered shipping ships. lieferung versand liefer livraison envío entrega"},
	{"package", "parcel package packed paket paquet paquete"},
	{"gift", "gift free. kostenlos gratis geschenk cadeau gratuit regalo"},
	{"percent", "% discount off. rabatt remise descuento"},
	{"euro", "€ euro euros"},
	{"banknote", "price cash deposit preis bar. kaution prix caution precio fianza £ $"},
	{"clock", "hour hours minute minutes o'clock open. opening stunde minute uhr. geöffnet heure ouvert hora. horas. abierto"},
	{"calendar", "day days daily week weekly month monday tuesday wednesday thursday friday saturday sunday tag. tage täglich woche monat montag dienstag mittwoch donnerstag freitag samstag sonntag jour semaine mois día semana mes."},
	{"users", "people persons group groups seats guests places. personen gruppe plätze gäste personnes groupe invités personas grupo plazas"},
	{"baby", "baby babies toddler kleinkind bébé bebé"},
	{"user", "one-to-one private einzel privat particulier"},
	{"graduation-cap", "course courses lesson training certificate beginner kurs unterricht zertifikat anfänger cours formation débutant curso clase principiante"},
	{"award", "award winner prize ausgezeichnet preisträger prix. premio"},
	{"shield-check", "warranty guarantee insured safe. safety garantie versichert sicher assuré sécurité garantía asegurado"},
	{"star", "star. stars. rating review sterne bewertung étoile avis estrella"},
	{"phone", "phone call. telefon anruf téléphone appel teléfono"},
	{"mail", "mail. email e-mail correo"},
	{"map-pin", "address street near. adresse straße nähe rue. près calle cerca"},
	{"globe", "worldwide online english german weltweit monde mundo"},
	{"waves", "water lake river sea. swim paddle wasser see. fluss meer. schwimm eau. lac. mer. agua lago mar. nadar"},
	{"mountain", "mountain hike hiking berg wander montagne randonn montaña sender"},
	{"tent", "tent camp zelt tente camping acampa"},
	{"footprints", "walk steps. zu-fuß fußweg marche pied. caminar pie."},
	{"heart", "love handmade liebe handgemacht amour fait-main amor hecho"},
	{"hammer", "built repair tools werkzeug reparatur outils herramienta"},
	{"music", "music live. concert musik konzert musique música"},
	{"ticket", "ticket entry eintritt billet entrada"},
	{"wallet", "budget pay. payment zahlung zahlen paiement pago"},
	{"lock", "secure lock. verschlossen schloss serrure cerradura"},
	{"zap", "electric charging strom lade électrique carga fast. schnell rapide rápido"},
}

// IconFor is the shipped icon a fact's words propose, "" for none.
func IconFor(fact string) string {
	words := strings.FieldsFunc(strings.ToLower(fact), func(r rune) bool {
		return unicode.IsSpace(r) || unicode.IsPunct(r) && r != '-' && r != '\'' && r != '%'
	})
	for i, w := range words { // "95m²", "24h"
		words[i] = strings.TrimLeft(w, "0123456789")
	}
	for _, icon := range iconWords {
		for _, stem := range strings.Fields(icon.words) {
			whole, isWhole := strings.CutSuffix(stem, ".")
			for _, w := range words {
				if isWhole && w == whole || !isWhole && strings.HasPrefix(w, stem) {
					return icon.icon
				}
			}
		}
	}
	return ""
}
