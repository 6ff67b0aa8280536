package brand

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"aspenridge/internal/core/edit"
)

// ErrKit is wrapped by every error of [Parse].
var ErrKit = errors.New("kit.json")

const extension = "aspenridge"

// Lists are the lists of a kit document whose members have ids.
var Lists = edit.Lists{
	"/$extensions/aspenridge/logos", "/$extensions/aspenridge/fonts", "/$extensions/aspenridge/pictures", "/$extensions/aspenridge/colourways",
}

// Lockups and Tones list the accepted values.
var (
	Lockups = []string{"horizontal", "stacked", "symbol", "wordmark", "with-tagline", "badge"}
	Tones   = []string{"full-colour", "for-light", "for-dark", "one-colour"}
)

// Parse reads a kit document: a Design Tokens Community Group file with our
// extensions. Only formatVersion and name are required; everything else has a
// default, and members it does not know are left alone. Logos come without
// their art. Errors wrap [ErrKit] and name the member.
func Parse(doc *edit.Object) (*Kit, error) {
	if err := Limits.Check(doc); err != nil {
		return nil, fmt.Errorf("%w: %v", ErrKit, err)
	}
	k, err := parse(doc)
	if err != nil {
		return nil, err
	}
	if left := k.trimColours(); len(left) > 0 {
		return nil, fmt.Errorf("%w: %s", ErrKit, left[0])
	}
	return k, nil
}

// ParseJoined is [Parse] for a document joined with its parents' ([Inherit]). Each
// keeps the limits by itself; what is over them together is left out, which the
// kit's warnings say. The document is changed.
func ParseJoined(doc *edit.Object) (*Kit, error) {
	notes := Limits.Trim(doc)
	k, err := parse(doc)
	if err == nil {
		k.Warnings = append(append(k.Warnings, notes...), k.trimColours()...)
	}
	return k, err
}

// trimColours leaves out colours and palettes a kit has no room for, and says
// which.
func (k *Kit) trimColours() (left []string) {
	if len(k.Palettes) > MaxPalettes {
		left = append(left, fmt.Sprintf("color: %d palettes, at most %d", len(k.Palettes), MaxPalettes))
		k.Palettes = k.Palettes[:MaxPalettes]
	}
	all := 0
	for i := range k.Palettes {
		p := &k.Palettes[i]
		if n := len(p.Colours); n > MaxColours {
			left = append(left, fmt.Sprintf("color.%s holds %d colours: at most %d", p.ID, n, MaxColours))
			p.Colours = p.Colours[:MaxColours]
		}
		if all += len(p.Colours); all > MaxAllColours {
			left = append(left, fmt.Sprintf("color: more than %d colours in all palettes together", MaxAllColours))
			p.Colours = p.Colours[:max(0, len(p.Colours)-(all-MaxAllColours))]
			all = MaxAllColours
		}
	}
	return left
}

// section is what of a kit document is ours alone, as it is written.
type section struct {
	FormatVersion int              `json:"formatVersion"`
	Name          *string          `json:"name"`
	Values        []string         `json:"values"`
	Tagline       string           `json:"tagline"`
	Website       string           `json:"website"`
	Handles       []string         `json:"handles"`
	Phone         string           `json:"phone"`
	Place         string           `json:"place"`
	CallsToAction []string         `json:"callsToAction"`
	Hashtags      []string         `json:"hashtags"`
	Logos         []writtenLogo    `json:"logos"`
	Fonts         []writtenFont    `json:"fonts"`
	Pictures      []writtenPicture `json:"pictures"`
	Colourways    []KeptColourway  `json:"colourways"`
	Motion        json.RawMessage  `json:"motion"`
	Voice         Voice            `json:"voice"`
	Manner        Manner           `json:"manner"`
	Language      string           `json:"language"`
	Rails         Rails            `json:"rails"`
}

type writtenLogo struct {
	ID         string  `json:"id"`
	File       string  `json:"file"`
	Lockup     string  `json:"lockup"`
	Tone       string  `json:"tone"`
	Lead       bool    `json:"lead"`
	ClearSpace float64 `json:"clearSpace"`
	MinWidth   float64 `json:"minWidth"`
	OwnColours bool    `json:"ownColours"`
}

type writtenFont struct {
	ID     string `json:"id"`
	File   string `json:"file"`
	Rights struct {
		ConfirmedBy string `json:"confirmedBy"`
		ConfirmedAt string `json:"confirmedAt"`
	} `json:"rights"`
}

type writtenPicture struct {
	ID     string      `json:"id"`
	File   string      `json:"file"`
	Alt    string      `json:"alt"`
	Folder string      `json:"folder"`
	Kind   PictureKind `json:"kind"`
	Focus  *[2]float64 `json:"focus"`
}

func parse(doc *edit.Object) (*Kit, error) {
	ext := doc.Object("$extensions").Object(extension)
	if ext == nil {
		return nil, fmt.Errorf("%w: $extensions.aspenridge is missing; want at least formatVersion and name there", ErrKit)
	}
	var own section
	if err := edit.Decode(ext, &own); err != nil {
		return nil, fmt.Errorf("%w: $extensions.aspenridge: %v", ErrKit, err)
	}
	if own.FormatVersion != 1 {
		return nil, fmt.Errorf("%w: formatVersion %d: this version reads 1", ErrKit, own.FormatVersion)
	}
	if own.Name == nil {
		return nil, fmt.Errorf("%w: name is missing", ErrKit)
	}
	k := &Kit{
		Name: *own.Name, Tagline: own.Tagline, Website: BareAddress(own.Website), Handles: own.Handles,
		Phone: own.Phone, Place: own.Place, CallsToAction: own.CallsToAction,
		Hashtags: own.Hashtags, Values: own.Values, Voice: own.Voice, Manner: own.Manner, Language: own.Language, Rails: own.Rails,
	}
	if err := k.Manner.check(); err != nil {
		return nil, err
	}
	for _, read := range []func(section) error{k.readLogos, k.readFonts, k.readPictures, k.readMotion} {
		if err := read(own); err != nil {
			return nil, err
		}
	}
	for _, c := range own.Colourways {
		if c.Name != "" && len(c.Seats) > 0 {
			k.KeptColourways = append(k.KeptColourways, c)
		}
	}
	var err error
	if k.Palettes, err = parsePalettes(doc.Object("color")); err != nil {
		return nil, err
	}
	k.TypeSets, err = parseTypeSets(doc)
	return k, err
}

func (k *Kit) readLogos(own section) error {
	for i, l := range own.Logos {
		l.Lockup, l.Tone = cmp.Or(l.Lockup, "horizontal"), cmp.Or(l.Tone, "full-colour")
		switch {
		case l.File == "":
			return fmt.Errorf("%w: logos[%d]: file is missing", ErrKit, i)
		case !slices.Contains(Lockups, l.Lockup):
			return fmt.Errorf("%w: logos[%d].lockup %q: want one of %s", ErrKit, i, l.Lockup, strings.Join(Lockups, ", "))
		case !slices.Contains(Tones, l.Tone):
			return fmt.Errorf("%w: logos[%d].tone %q: want one of %s", ErrKit, i, l.Tone, strings.Join(Tones, ", "))
		}
		k.Logos = append(k.Logos, Logo{ID: l.ID, File: l.File, Lockup: l.Lockup, Tone: l.Tone, Lead: l.Lead, ClearSpace: l.ClearSpace, MinWidth: l.MinWidth, OwnColours: l.OwnColours})
	}
	return nil
}

func (k *Kit) readFonts(own section) error {
	for i, f := range own.Fonts {
		if f.File == "" {
			return fmt.Errorf("%w: fonts[%d]: file is missing", ErrKit, i)
		}
		k.Fonts = append(k.Fonts, Font{ID: f.ID, File: f.File, ConfirmedBy: f.Rights.ConfirmedBy, ConfirmedAt: f.Rights.ConfirmedAt})
	}
	return nil
}

func (k *Kit) readPictures(own section) error {
	for i, p := range own.Pictures {
		p.Kind = cmp.Or(p.Kind, PhotoPicture)
		switch {
		case p.File == "":
			return fmt.Errorf("%w: pictures[%d]: file is missing", ErrKit, i)
		case !slices.Contains(PictureKinds, p.Kind):
			return fmt.Errorf("%w: pictures[%d].kind %q: want picture, portrait, pattern, icon or clip", ErrKit, i, p.Kind)
		}
		if f := p.Focus; f != nil && (f[0] < 0 || f[0] > 1 || f[1] < 0 || f[1] > 1) {
			return fmt.Errorf("%w: pictures[%d].focus %v: want [x, y], each 0 to 1", ErrKit, i, *f)
		}
		k.Pictures = append(k.Pictures, Picture(p))
	}
	return nil
}

func (k *Kit) readMotion(own section) (err error) {
	var motion Motion
	if len(own.Motion) > 0 && json.Unmarshal(own.Motion, &motion) != nil { // somebody else's way to say it; carried along
		motion = Motion{}
		k.Warnings = append(k.Warnings, "motion is not written as this version writes it; the rule is used")
	}
	k.Motion, err = motion.checked()
	return err
}
