package web

import (
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/caption"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/sound"
	"aspenridge/internal/core/spec"
)

// videoPage is the running order of a brief's video, with the film of one shape.
type videoPage struct {
	ID      string
	Places  []spec.Placement
	Formats []string
	Pieces  []spec.Placement // of the set, that can be made to move
	Moving  []string         // formats of those
	State   videoState
}

// videoState is what the page's script needs to know.
type videoState struct {
	Seq             int64        `json:"seq"`
	Video           *brief.Video `json:"video"` // as the brief has it, nil for none
	Undo            bool         `json:"undo"`
	Redo            bool         `json:"redo"`
	Nothing         bool         `json:"nothing,omitempty"`
	Shots           []shotState  `json:"shots"`
	OfSet           []brief.Shot `json:"ofSet"`   // the set's own pieces as shots
	Layouts         [][2]string  `json:"layouts"` // id and name
	Own             bool         `json:"own"`     // somebody set the order up, it is not the proposed one
	Opening         bool         `json:"opening"`
	Closing         bool         `json:"closing"`
	Mark            bool         `json:"mark"`
	Music           string       `json:"music"`  // what the video names
	Plays           string       `json:"plays"`  // the id of the piece that is played, "" for none
	Pieces          []musicState `json:"pieces"` // of the shelf
	Roles           []string     `json:"roles"`
	Pics            []picChoice  `json:"pics"`
	Place           string       `json:"place"`
	Film            filmState    `json:"film"`
	Moves           *filmState   `json:"moves,omitempty"`           // a piece that moves, watched instead
	MovingPlacement string       `json:"movingPlacement,omitempty"` // of the piece that moves
	Others          []otherState `json:"others"`
	EndCard         string       `json:"endCard,omitempty"` // the placement of the piece it may close with
	HasEnd          bool         `json:"hasEnd"`            // and does

	Voice     string        `json:"voice"`               // what the video names
	Speaks    string        `json:"speaks"`              // who speaks, "none" for nobody
	Voiceless string        `json:"voiceless,omitempty"` // why nobody does who should
	Captions  string        `json:"captions"`            // how they are shown
	Cues      []caption.Cue `json:"cues"`
	OwnCues   bool          `json:"ownCues"` // somebody wrote them, they are not what is said
	Sounds    bool          `json:"sounds"`  // there is something to hear

	Song     string      `json:"song"` // the name of music of one's own
	SongFile string      `json:"songFile"`
	KitSong  string      `json:"kitSong"` // the name of the kit's
	Calm     bool        `json:"calm"`
	Beat     bool        `json:"beat"` // shots wait for the bars of the music
	CountUp  bool        `json:"countUp"`
	Made     []madeVideo `json:"made,omitempty"` // as the page comes
	Cut      *cutState   `json:"cut,omitempty"`  // where it runs longer than the place takes
}

// madeVideo is a file of the video, or of a piece that moves, that is or will be made.
type madeVideo struct {
	jobView
	Name   string `json:"name"`
	Format string `json:"format"`
	Mine   bool   `json:"mine"`
	Stale  bool   `json:"stale"`
	// What was asked for, to ask for it again.
	Place  string  `json:"place"`
	Moving float64 `json:"moving,omitempty"`
	Loop   bool    `json:"loop,omitempty"`
}

// cutState is a proposal of how a video fits a place.
type cutState struct {
	Says  string       `json:"says"`
	Shots []brief.Shot `json:"shots"`
	Fits  bool         `json:"fits"`
}

type musicState struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Mood string `json:"mood"`
}

type shotState struct {
	brief.Shot
	Clip  float64  `json:"clip,omitempty"`  // s the clip runs its picture is of, 0 for a photograph
	Loud  bool     `json:"loud,omitempty"`  // it can be heard
	Frame string   `json:"frame,omitempty"` // id of the picture, to choose another frame of it
	Reads float64  `json:"reads"`           // s it runs when nobody says how long
	Heard string   `json:"heard,omitempty"` // the name of its recording
	Said  string   `json:"said"`            // what is said where nothing else is written
	Says  []string `json:"says"`            // what to look at, in the shape that is shown
}

// otherState is another shape the video comes in.
type otherState struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	W    int    `json:"w"`
	H    int    `json:"h"`
}

// filmState is a film as layers to draw and numbers to move them by.
type filmState struct {
	W       int               `json:"w"`
	H       int               `json:"h"`
	FPS     int               `json:"fps"`
	Seconds float64           `json:"seconds"`
	Safe    [4]float64        `json:"safe"`
	Takes   []takeState       `json:"takes"`
	Mark    []layerState      `json:"mark"`
	Over    []timedLayerState `json:"over"`
}

// timedLayerState is a layer that is there for some time.
type timedLayerState struct {
	layerState
	From float64 `json:"from"`
	To   float64 `json:"to"`
}

type takeState struct {
	Role   string       `json:"role"`
	Shot   int          `json:"shot"`
	From   float64      `json:"from"`
	To     float64      `json:"to"`
	In     film.In      `json:"in"`
	Leave  float64      `json:"leave"`
	Mark   []int        `json:"mark"`
	MarkIn float64      `json:"markIn"`
	Layers []layerState `json:"layers"`
}

type layerState struct {
	SVG   string     `json:"svg"`
	Box   [4]float64 `json:"box"`
	Clip  string     `json:"clip,omitempty"` // path data a picture that grows is cut to
	Move  film.Move  `json:"move"`
	While []float64  `json:"while,omitempty"` // s of its take from and to which it is there
	Runs  *runState  `json:"runs,omitempty"`  // a clip in its frame
}

// runState is a clip that runs in the frame of a picture.
type runState struct {
	Src   string     `json:"src"`
	From  float64    `json:"from"`            // s into it
	For   float64    `json:"for"`             // s
	Crop  [4]float64 `json:"crop"`            // of the whole, 0-1
	Dials []float64  `json:"dials,omitempty"` // the rows of a matrix over red, green, blue, alpha and one
	Tone  []string   `json:"tone,omitempty"`  // for red, green and blue: what greys become, from black to white
}

// toneSteps is in how many steps the page is told a tone.
const toneSteps = 32

func runsOf(c *film.Clip) *runState {
	out := &runState{Src: "/clips/" + c.Hash, From: c.From, For: c.For, Crop: c.Crop}
	if c.Dials.On() {
		m, off := c.Dials.Matrix()
		for i := range 3 {
			out.Dials = append(out.Dials, m[i][0], m[i][1], m[i][2], 0, off[i])
		}
		out.Dials = append(out.Dials, 0, 0, 0, 1, 0)
	}
	if c.Tone.On() {
		out.Tone = make([]string, 3)
		for i := range toneSteps + 1 {
			t := c.Tone.At(float64(i) / toneSteps)
			for k, v := range []uint8{t.R, t.G, t.B} {
				out.Tone[k] += fmt.Sprintf("%.3f ", float64(v)/255)
			}
		}
	}
	return out
}

// videoWide is how large a film is drawn on the page, px of its longer side.
const videoWide = 640

func filmOf(f *film.Film, p spec.Placement) filmState {
	k := videoWide / float64(max(f.W, f.H))
	st := filmState{W: f.W, H: f.H, FPS: f.FPS, Seconds: f.Seconds(), Safe: rect(p.SafeBox()), Takes: []takeState{}, Mark: []layerState{}, Over: []timedLayerState{}}
	layers := func(list []film.Layer, ids string) []layerState {
		out := []layerState{}
		for i, l := range list {
			ls := layerState{Box: rect(l.Box), Move: l.Move}
			if l.While[1] > 0 {
				ls.While = l.While[:]
			}
			drawing := l.Drawing
			if l.Move.Kind == "drift" { // its frame stands still while it grows
				part := drawing.Parts[0]
				ls.Box, ls.Clip, part.Clip = rect(part.Box), part.Clip, ""
				drawing = &scene.Scene{W: drawing.W, H: drawing.H, Parts: []scene.Part{part}}
				if c := l.Clip; c != nil {
					ls.Runs = runsOf(c)
				}
			}
			for _, g := range drawing.Groups(scene.Options{IDs: fmt.Sprintf("%s%d-", ids, i), Href: screenHref(2 * k)}) {
				ls.SVG += g.SVG
			}
			out = append(out, ls)
		}
		return out
	}
	for i, t := range f.Takes {
		st.Takes = append(st.Takes, takeState{t.Role, t.Shot, t.From, t.To, t.In, t.Leave, t.Mark, t.MarkIn, layers(t.Layers, fmt.Sprintf("f%d-", i))})
	}
	st.Mark = layers(f.Mark, "mark-")
	for i, o := range f.Over {
		st.Over = append(st.Over, timedLayerState{layers([]film.Layer{o.Layer}, fmt.Sprintf("over%d-", i))[0], o.From, o.To})
	}
	return st
}

// watched is what of a brief's video is looked at: it in the shape of a place, or a piece of
// the set that moves for some seconds.
type watched struct {
	Place   string  `json:"place"`
	Moving  string  `json:"moving"` // placement of the piece
	Seconds float64 `json:"seconds"`
	Loop    bool    `json:"loop"` // it ends as it began
}

func videoOf(set *app.Set, of watched) videoState {
	st := videoState{Seq: set.Doc.Seq, Shots: []shotState{}, Opening: true, Closing: true, Mark: true, Beat: true, Roles: brief.Roles, Pics: picChoices(set), Others: []otherState{}}
	steps := set.Doc.Steps()
	st.Undo, st.Redo = steps.Undo, steps.Redo
	st.Video = set.Brief.Video
	if v := set.Brief.Video; v != nil {
		st.Own, st.Opening, st.Closing, st.Mark = len(v.Shots) > 0, !v.NoOpening, !v.NoClosing, !v.NoMark
		st.Calm, st.Beat, st.CountUp, st.SongFile = v.Calm, !v.NoBeat, v.CountUp, v.Song
		_, st.Song, _ = strings.Cut(v.Song, "/")
		st.Music, st.Voice, st.Captions, st.OwnCues = v.Music, v.Voice, v.Captions, len(v.Cues) > 0
	}
	st.Speaks = film.Speaker(set.Brief, set.Job.Kit)
	if err := set.Voiceless(); err != nil {
		st.Voiceless = err.Error()
	}
	for _, p := range sound.Shelf() {
		st.Pieces = append(st.Pieces, musicState{p.ID, p.Name, p.Mood})
	}
	if p, ok := sound.For(st.Music, set.Job.Kit.Motion.Music); ok {
		st.Plays = p.ID
	}
	st.KitSong = set.Job.Kit.Motion.Song.Name()
	song, _ := film.Song(set.Brief.Video, set.Job.Kit)
	if song != "" {
		st.Plays = ""
	}
	for _, l := range set.Job.Layouts {
		st.Layouts = append(st.Layouts, [2]string{l.ID, l.Name})
	}
	st.OfSet = film.OfSet(set.Brief, set.Job.Kit)
	shots := set.Shots()
	spoken := set.Spoken()
	for i, s := range shots {
		ruled, own := s, s
		ruled.Seconds, own.Say = 0, ""
		var said film.Spoken
		if i < len(spoken) {
			said = spoken[i]
		}
		one := shotState{Shot: s, Reads: film.Length(set.Job, ruled, said), Said: film.Script([]brief.Shot{own})[0], Says: []string{}}
		if s.Recording != "" {
			_, one.Heard, _ = strings.Cut(s.Recording, "/")
		}
		if c := set.Job.Pictures[s.Picture].Clip; s.Picture != "" && c != nil {
			one.Clip, one.Loud, one.Frame = c.Seconds, c.Sound, set.PictureID(s.Picture)
		}
		st.Shots = append(st.Shots, one)
	}
	places := set.VideoPlaces()
	at := places[0]
	for _, p := range places {
		st.Others = append(st.Others, otherState{p.ID, p.Name, p.Width, p.Height})
		if p.ID == of.Place {
			at = p
		}
	}
	st.Place, st.Film = at.ID, filmOf(set.Film(at), at)
	if end, ok := spec.EndOf(at.ID); ok {
		st.EndCard, st.HasEnd = end.ID, slices.Contains(set.Brief.Placements, end.ID)
	}
	if f, p, ok := set.MovingFilm(of.Moving, film.Way{Seconds: of.Seconds, Loop: of.Loop}); ok {
		moves := filmOf(f, p)
		st.Moves, st.MovingPlacement = &moves, of.Moving
	}
	if set.Film(at).TooLong(at) > 0 {
		cut := film.Shorten(set.Job, spoken, at)
		says := fmt.Sprintf("%s takes %g s, this runs %.1f.", at.Name, at.MaxSeconds, set.Film(at).Seconds())
		if len(cut.Out) > 0 {
			says += " To fit, it would leave out " + strings.Join(cut.Out, ", ") + "."
		}
		st.Cut = &cutState{says, cut.Shots, cut.Fits}
	}
	st.Cues = append([]caption.Cue{}, set.Film(at).Cues...)
	st.Sounds = st.Plays != "" || song != "" || len(spoken) > 0 || len(set.Film(at).Loud()) > 0
	for _, t := range set.Film(at).Takes {
		for _, f := range t.Findings {
			if t.Shot < 0 { // a caption over what the kit opens or closes with
				continue
			}
			if s := &st.Shots[t.Shot]; !slices.Contains(s.Says, f.Message) {
				s.Says = append(s.Says, f.Message)
			}
		}
	}
	return st
}

// moves answers with a piece of the set that moves, as a film to be shown in its place.
func (s *Server) moves(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	if err != nil {
		return err
	}
	place := chi.URLParam(r, "placement")
	p, err := set.Channels.Parse(place)
	if err != nil {
		return fmt.Errorf("%w: %w", app.ErrInvalid, err)
	}
	m, _ := set.Brief.Moves(p)
	f, in, ok := set.MovingFilm(place, film.Way{Seconds: m.Seconds, Loop: m.Loop})
	if !ok {
		return fmt.Errorf("%w: %s does not move: choose it on the Mat and say for how long it is to", app.ErrNotFound, p.Name)
	}
	reply(w, http.StatusOK, filmOf(f, in))
	return nil
}

// video is the page of a brief's video.
func (s *Server) video(w http.ResponseWriter, r *http.Request) error {
	set, f, err := s.opened(r, "video")
	if err != nil {
		return err
	}
	q := r.URL.Query()
	p := videoPage{ID: set.Doc.ID.String(), Places: set.VideoPlaces(), Formats: app.VideoFormats, Pieces: set.Placements(), Moving: app.MovingFormats, State: videoOf(set, watched{q.Get("place"), q.Get("moving"), brief.UsualMovement, false})}
	made, err := s.app.Files.Videos(r.Context(), member(r), set)
	if err != nil {
		return err
	}
	for _, v := range made {
		p.State.Made = append(p.State.Made, madeVideo{s.viewOf(r, v.Job), v.Place.Name, v.Format, v.Job.Person == member(r).ID, v.Stale, v.Place.ID, v.Moving, v.Loop})
	}
	f.Page = p
	s.show(w, r, "video", f)
	return nil
}

// syncVideo makes a change of a video, if any, and answers with how it is.
func (s *Server) syncVideo(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	if err != nil {
		return err
	}
	var q struct {
		Client string `json:"client"`
		Base   int64  `json:"base"`
		watched
		Video  *brief.Video `json:"video"`
		Was    brief.Video  `json:"was"`    // what it was changed from, as it was at the base
		Typing bool         `json:"typing"` // the keys of a word are one step of undo
		Revert string       `json:"revert"`
		File   string       `json:"file"`  // captions, as a file has them
		Hush   *int         `json:"hush"`  // the shot that is to go without its silences
		Split  string       `json:"split"` // the id of a shot that is to be two, behind so many letters
		At     int          `json:"at"`
		Join   string       `json:"join"` // the id of a shot that is to be one with the next
		End    string       `json:"end"`  // the place of a video that is to close with a piece of the set
	}
	if err := readJSON(r, &q); err != nil {
		return err
	}
	nothing := false
	err = s.once(r, func() (err error) {
		switch {
		case q.Video != nil:
			_, err = s.app.Briefs.ChangeVideo(r.Context(), m, id, app.Change{Base: q.Base, Client: q.Client, Typing: q.Typing}, q.Was, *q.Video)
		case q.Split != "":
			_, err = s.app.Briefs.SplitShot(r.Context(), m, id, app.Change{Client: q.Client}, q.Split, q.At)
		case q.Join != "":
			_, err = s.app.Briefs.JoinShots(r.Context(), m, id, app.Change{Client: q.Client}, q.Join)
		case q.File != "":
			_, err = s.app.Briefs.ReadCaptions(r.Context(), m, id, app.Change{Base: app.Latest, Client: q.Client}, []byte(q.File))
		case q.Hush != nil:
			_, err = s.app.Briefs.WithoutSilence(r.Context(), m, id, app.Change{Base: app.Latest, Client: q.Client}, *q.Hush)
		case q.End != "":
			_, err = s.app.Briefs.AddEndCard(r.Context(), m, id, app.Change{Base: app.Latest, Client: q.Client}, q.End)
		case q.Revert != "":
			nothing, err = s.revert(r, m, id, q.Client, q.Revert)
		}
		return err
	})
	if err != nil {
		return err
	}
	set, err := s.app.Sets.Set(r.Context(), m, id)
	if err != nil {
		return err
	}
	st := videoOf(set, q.watched)
	st.Nothing = nothing
	reply(w, http.StatusOK, st)
	return nil
}

// makeVideo has a video made beside requests.
func (s *Server) makeVideo(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	var q struct {
		Client string  `json:"client"`
		Place  string  `json:"place"`
		Format string  `json:"format"`
		Moving float64 `json:"moving"` // s a piece of the set is to move; 0 for the video
		Loop   bool    `json:"loop"`   // it ends as it began
	}
	if err == nil {
		err = readJSON(r, &q)
	}
	var job app.ID
	switch {
	case err != nil:
		return err
	case q.Moving != 0:
		job, err = s.app.Files.MakeMoving(r.Context(), member(r), set, q.Place, q.Format, film.Way{Seconds: q.Moving, Loop: q.Loop})
	default:
		job, err = s.app.Files.MakeVideo(r.Context(), member(r), set, q.Place, q.Format)
	}
	if err != nil {
		return err
	}
	reply(w, http.StatusOK, map[string]any{"job": job})
	return nil
}

// sound answers with what a brief's video is heard with, as a WAV file.
func (s *Server) sound(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	if err != nil {
		return err
	}
	data, err := s.app.Files.Sound(r.Context(), member(r), set, r.URL.Query().Get("place"))
	if err != nil {
		return err
	}
	return replySound(w, data)
}

// replySound answers with a WAV file.
func replySound(w http.ResponseWriter, data []byte) error {
	w.Header().Set("Content-Type", "audio/wav")
	w.Header().Set("Cache-Control", "private, max-age=3600")
	_, err := w.Write(data)
	return err
}

// captions answers with the captions of a brief's video as a file.
func (s *Server) captions(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	if err != nil {
		return err
	}
	data, name, err := s.app.Files.Captions(r.Context(), member(r), set, r.URL.Query().Get("place"), chi.URLParam(r, "format"))
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", map[string]string{"srt": "application/x-subrip", "vtt": "text/vtt; charset=utf-8"}[chi.URLParam(r, "format")])
	w.Header().Set("Content-Disposition", attachment(name))
	_, err = w.Write(data)
	return err
}

// mediaTypes of what jobs make, by the ending of its name.
var mediaTypes = map[string]string{"zip": "application/zip", "mp4": "video/mp4", "webm": "video/webm", "gif": "image/gif", "webp": "image/webp"}

func mediaOf(name string) string {
	return mediaTypes[name[strings.LastIndex(name, ".")+1:]]
}
