package web

import (
	"encoding/json"
	"fmt"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"aspenridge/internal/app"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/spec"
)

type looksPage struct {
	ID       string
	Strips   []lookStrip
	Next     int // where the next ones start, 0 for none
	Tray     looksTray
	Palettes []paletteChoice
	Held     []wishChip
	LeftOut  []wishChip
	Query    string // the wish, for asking for more
}

// looksTray is what is kept so far.
type looksTray struct {
	ID    string
	Looks []keptLook
}

type keptLook struct {
	lookTab
	Mini mini
	JSON string
}

// lookStrip is a whole alternative in three shapes.
type lookStrip struct {
	Name, Idea string
	Minis      []mini
	Outlines   string // of all strips of a page, in the first of them
	JSON       string
	Kept       string // the letter it is kept under, "" for none
	KeptID     string
	Layout     string
	Ground     string // token of the colour that covers most
	GroundName string
	Seats      string // JSON
	Crops      string // JSON
	Pictures   bool
	TypeSet    string
	TypeName   string
	Blend      string // what was put together, on the page of comparison
}

// paletteChoice is where the colours of looks come from.
type paletteChoice struct {
	Name, Address string
	On            bool
}

// wishChip is something held still or left out, with the address without it.
type wishChip struct{ Text, Without string }

const (
	stripHeight = 134  // px of the shapes
	widestView  = 1.91 // times as wide as that; what is wider is shown lower
	looksAtOnce = 12
	looksInAll  = 72
)

// wishOf reads what to hold still and what to leave out from a page's address.
func wishOf(q url.Values) piece.Wish {
	w := piece.Wish{Layout: q.Get("layout"), Palette: q.Get("palette"), NotLayouts: q["not"], NotGrounds: q["noground"]}
	if v := q.Get("seats"); v != "" {
		_ = json.Unmarshal([]byte(v), &w.Seats) // an unreadable one holds nothing
	}
	if v := q.Get("crops"); v != "" {
		_ = json.Unmarshal([]byte(v), &w.Crops)
	}
	if q.Has("type") {
		t := q.Get("type")
		w.TypeSet = &t
	}
	return w
}

// looks is the sheet of whole alternatives, each in three shapes.
func (s *Server) looks(w http.ResponseWriter, r *http.Request) error {
	set, f, err := s.opened(r, "looks")
	if err != nil {
		return err
	}
	q := r.URL.Query()
	p := looksPage{ID: set.Doc.ID.String(), Tray: s.trayOf(set), Query: q.Encode()}
	p.Strips, p.Next = s.strips(set, wishOf(q), 0)
	p.Held, p.LeftOut = chips(set, q)
	p.Palettes = paletteChoices(set, q)
	f.Page = p
	s.show(w, r, "looks", f)
	return nil
}

// moreLooks answers with the next strips of the sheet.
func (s *Server) moreLooks(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	if err != nil {
		return err
	}
	from, _ := strconv.Atoi(r.URL.Query().Get("from"))
	strips, next := s.strips(set, wishOf(r.URL.Query()), max(0, from))
	return s.replyPart(w, r, "looks", "strips", strips, map[string]any{"next": next})
}

func (s *Server) strips(set *app.Set, wish piece.Wish, from int) (out []lookStrip, next int) {
	upTo := min(from+looksAtOnce, looksInAll)
	all := set.Job.LooksFor(wish, upTo+1)
	for i := from; i < min(upTo, len(all)); i++ {
		out = append(out, s.strip(set, all[i], fmt.Sprintf("look%d-", i)))
	}
	if len(all) > upTo && upTo < looksInAll {
		next = upTo
	}
	var drawings []*string
	for i := range out {
		for j := range out[i].Minis {
			drawings = append(drawings, &out[i].Minis[j].SVG)
		}
	}
	if len(out) > 0 {
		out[0].Outlines = shareOutlines(drawings)
	}
	return out, next
}

func (s *Server) strip(set *app.Set, look piece.Look, prefix string) lookStrip {
	return s.stripOf(set, look, prefix, stripHeight)
}

// stripOf is a strip whose pieces are as high as given, px.
func (s *Server) stripOf(set *app.Set, look piece.Look, prefix string, height float64) lookStrip {
	c := lookStrip{JSON: jsonOf(look), Seats: jsonOf(look.Seats), Crops: jsonOf(look.Crops), Pictures: len(set.Brief.Cards[0].Pictures) > 0, TypeSet: look.TypeSet, TypeName: set.Kit.Kit.TypeSet(look.TypeSet).Name}
	var dominant colourway.Seat = colourway.Ground
	if l := layoutOf(set, look.Layout); l != nil {
		c.Name, c.Idea, c.Layout, dominant = l.Name, l.Idea, l.ID, l.Dominant()
	}
	for _, k := range set.Looks {
		if k.Same(look) {
			c.Kept, c.KeptID = set.LookName(k.ID), k.ID
		}
	}
	for i, pl := range set.Views(4.0/5, 9.0/16, 1.91) {
		pc := set.Job.Compose(look, pl, 0) // one of many: not worth keeping in mind
		ground := pc.Colours.At(dominant)
		c.Ground, c.GroundName = ground.Token, ground.Name
		box := height * max(1, min(widestView, float64(pl.Width)/float64(pl.Height)))
		c.Minis = append(c.Minis, miniOf(pc.Scene, pl, fmt.Sprintf("%s%d-", prefix, i), box, 0))
	}
	return c
}

func layoutOf(set *app.Set, ref string) *layout.Layout {
	id, _, _ := strings.Cut(ref, "@")
	for _, l := range set.Job.Layouts {
		if l.ID == id {
			return l
		}
	}
	return nil
}

func jsonOf(v any) string {
	data, err := edit.Marshal(v)
	if err != nil {
		panic(err) // plain values
	}
	return string(data)
}

func (s *Server) trayOf(set *app.Set) looksTray {
	t := looksTray{ID: set.Doc.ID.String()}
	pl, _ := spec.Find("feed-square")
	for i, tab := range lookTabs(set) {
		k := set.Looks[i]
		t.Looks = append(t.Looks, keptLook{lookTab: tab, JSON: jsonOf(k), Mini: miniOf(set.Piece(k, pl).Scene, pl, "kept"+tab.Letter+"-", 84, 0)})
	}
	return t
}

// paletteChoices are the kit's palettes and the brief's own, when there is more
// than one.
func paletteChoices(set *app.Set, q url.Values) []paletteChoice {
	if len(set.Job.Kit.Palettes) < 2 {
		return nil
	}
	choice := func(id, name string) paletteChoice {
		o := maps.Clone(q)
		o.Set("palette", id)
		if id == "" {
			o.Del("palette")
		}
		return paletteChoice{name, "?" + o.Encode(), q.Get("palette") == id}
	}
	out := []paletteChoice{choice("", "all")}
	for _, p := range set.Job.Kit.Palettes {
		name := p.Name
		if name == "" {
			name = p.ID
		}
		out = append(out, choice(p.ID, name))
	}
	return out
}

// chips describe a wish, each with the address that takes it back.
func chips(set *app.Set, q url.Values) (held, leftOut []wishChip) {
	without := func(key, value string) string {
		o := url.Values{}
		for k, list := range q {
			for _, v := range list {
				if k != key || value != "" && v != value {
					o.Add(k, v)
				}
			}
		}
		return "?" + o.Encode()
	}
	name := func(id string) string {
		if l := layoutOf(set, id); l != nil {
			return l.Name
		}
		return id
	}
	if v := q.Get("layout"); v != "" {
		held = append(held, wishChip{"Layout: " + name(v), without("layout", "")})
	}
	if q.Get("seats") != "" {
		held = append(held, wishChip{"Colours", without("seats", "")})
	}
	if q.Get("crops") != "" {
		held = append(held, wishChip{"Crop", without("crops", "")})
	}
	if q.Has("type") {
		held = append(held, wishChip{"Type", without("type", "")})
	}
	for _, v := range q["not"] {
		leftOut = append(leftOut, wishChip{name(v), without("not", v)})
	}
	for _, v := range q["noground"] {
		text := v
		for _, c := range set.Kit.Colours() {
			if c.Token == v {
				text = c.Name
			}
		}
		leftOut = append(leftOut, wishChip{text + " as ground", without("noground", v)})
	}
	return held, leftOut
}

// lookChange is what the sheet asks for: one of its fields.
type lookChange struct {
	Client string      `json:"client"`
	Keep   *piece.Look `json:"keep"`
	Show   bool        `json:"show"` // with keep: work on it from now on
	Go     *string     `json:"go"`   // id of a look to let go
	Shown  *string     `json:"shown"`
}

// changeLooks keeps looks, lets them go, chooses the one that is worked on, and
// answers with the tray.
func (s *Server) changeLooks(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	var q lookChange
	if err == nil {
		err = readJSON(r, &q)
	}
	kept := ""
	if err == nil {
		err = s.once(r, func() (err error) {
			switch ctx := r.Context(); {
			case q.Keep != nil:
				kept, err = s.app.Sets.KeepLook(ctx, m, id, q.Client, *q.Keep, q.Show)
			case q.Go != nil:
				err = s.app.Sets.LetLookGo(ctx, m, id, q.Client, *q.Go)
			case q.Shown != nil:
				err = s.app.Sets.ShowLook(ctx, m, id, q.Client, *q.Shown)
			}
			return err
		})
	}
	if err != nil {
		return err
	}
	return s.tray(w, r, kept)
}

func (s *Server) tray(w http.ResponseWriter, r *http.Request, kept string) error {
	set, f, err := s.opened(r, "looks")
	if err != nil {
		return err
	}
	html, err := s.fragment("looks", "tray", s.trayOf(set))
	if err != nil {
		return err
	}
	type keptAs struct {
		ID     string `json:"id"`
		Letter string `json:"letter"`
	}
	letters := map[string]keptAs{}
	for _, k := range set.Looks {
		k2 := k
		k2.ID = ""
		letters[jsonOf(k2)] = keptAs{k.ID, set.LookName(k.ID)}
	}
	reply(w, http.StatusOK, map[string]any{"tray": html, "letter": set.LookName(kept), "kept": letters, "undo": f.Steps.Undo, "redo": f.Steps.Redo})
	return nil
}

// largeHeight is how high the shapes of a look are that is shown large, px.
const largeHeight = 300

// largeLook shows one look large.
func (s *Server) largeLook(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	var q struct {
		Look piece.Look `json:"look"`
	}
	if err == nil {
		err = readJSON(r, &q)
	}
	if err == nil && layoutOf(set, q.Look.Layout) == nil {
		err = fmt.Errorf("%w: there is no layout %q", app.ErrInvalid, q.Look.Layout)
	}
	if err != nil {
		return err
	}
	return s.replyPart(w, r, "looks", "large", s.stripOf(set, q.Look, "large-", largeHeight), nil)
}

type sideBySide struct {
	Looks  []lookStrip
	Blends []lookStrip
}

// compareLooks shows looks side by side, larger, and what comes of putting the
// layout of one together with the colours and type of another.
func (s *Server) compareLooks(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	var q struct {
		Client string       `json:"client"`
		Looks  []piece.Look `json:"looks"`
	}
	if err == nil {
		err = readJSON(r, &q)
	}
	looks := q.Looks
	if err == nil && (len(looks) < 2 || len(looks) > 4) {
		err = fmt.Errorf("%w: %d looks: choose two to four to compare", app.ErrInvalid, len(looks))
	}
	if err != nil {
		return err
	}
	var p sideBySide
	for i, l := range looks {
		p.Looks = append(p.Looks, s.strip(set, l, fmt.Sprintf("cmp%d-", i)))
	}
	var made []piece.Look
	for i, a := range looks {
		for k, b := range looks {
			blend := set.Job.Blend(a, b)
			if i == k || slices.ContainsFunc(append(made, looks...), blend.Same) {
				continue
			}
			made = append(made, blend)
			st := s.strip(set, blend, fmt.Sprintf("bl%d%d-", i, k))
			st.Blend = fmt.Sprintf("%s in the colours of %s", p.Looks[i].Name, p.Looks[k].Name)
			p.Blends = append(p.Blends, st)
		}
	}
	return s.replyPart(w, r, "looks", "compared", p, nil)
}
