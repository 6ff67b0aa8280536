package browser

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"

	"aspenridge/internal/core/caption"
	"aspenridge/test/stage"
)

// TestAFilmIsBroughtSpokenAndCaptioned: a film is brought at Start and runs in a shot, which
// begins later in it; a voice speaks; a caption is written and its end pulled; captions come
// from a file and go out as one; the file that is made has all its frames and is heard.
func TestAFilmIsBroughtSpokenAndCaptioned(t *testing.T) {
	film := filepath.Join(t.TempDir(), "river.mp4")
	if out, err := exec.Command("ffmpeg", "-v", "error", "-y", "-f", "lavfi", "-i", "testsrc2=size=640x360:rate=25:duration=3", "-f", "lavfi", "-i", "sine=frequency=500:duration=3", "-pix_fmt", "yuv420p", film).CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	s := openStage(t, stage.Options{Demo: true, Work: true})
	b := openTab(t, s.URL)
	b.allowed = append(b.allowed, "422") // what is no film, and what are no captions
	b.signIn()
	b.openMat("Spring")
	brief := strings.Replace(eval[string](b, `location.pathname`), "/mat", "", 1)
	b.goTo(brief + "/start")
	b.do("bringing a film", cdp.SetUploadFiles(`[data-upload=picture]`, []string{film}, cdp.NodeReady))
	b.until(`!!document.querySelector('.bp .runs') && document.querySelector('.bp .runs').textContent.includes('3.0 s')`)
	// what is no film is refused by name
	bad := filepath.Join(t.TempDir(), "holiday.mp4")
	if err := os.WriteFile(bad, []byte("<html>"), 0o600); err != nil {
		t.Fatal(err)
	}
	b.do("bringing a page that says it is a film", cdp.SetUploadFiles(`[data-upload=picture]`, []string{bad}, cdp.NodeReady))
	b.until(`document.querySelector('.notice.bad')?.textContent.includes('holiday.mp4')`)

	// it runs in the second shot, from its first second on
	b.goTo(brief + "/video")
	b.until(`document.querySelectorAll('.shot').length > 3`)
	b.click(`[data-kit-take=noOpening]`)
	b.saved()
	ref := eval[string](b, `[...document.querySelectorAll('[data-shot="1"] [data-pic]')].find((p) => p.title === 'this picture').dataset.pic`)
	b.click(fmt.Sprintf(`[data-shot="1"] [data-pic="%s"]`, ref))
	b.until(`!!document.querySelector('[data-shot="1"] [data-field=from]')`)
	b.saved()
	b.fill(`[data-shot="1"] [data-field=from]`, "1.0")
	b.saved()
	for eval[int](b, `document.querySelectorAll('.shot').length`) > 2 {
		n := eval[int](b, `document.querySelectorAll('.shot').length`)
		b.click(fmt.Sprintf(`[data-shot="%d"] [data-act=out]`, n-1))
		b.until(fmt.Sprintf(`document.querySelectorAll('.shot').length === %d`, n-1))
		b.saved()
	}
	b.click(`[data-kit-take=noClosing]`)
	b.saved()
	// scrubbed to the middle of the shot the page shows the film where it is then
	take := func() [2]float64 {
		var at [2]float64
		if err := json.Unmarshal([]byte(eval[string](b, `(() => { const t = document.querySelector('[data-track]').getBoundingClientRect(), r = document.querySelectorAll('.reel-take')[1].getBoundingClientRect(); const all = Number(document.querySelector('[data-total]').textContent.replace(' s', '')); return JSON.stringify([(r.left - t.left) / t.width * all, (r.right - t.left) / t.width * all]) })()`)), &at); err != nil {
			t.Fatal(err)
		}
		return at
	}()
	middle := b.place(`.reel-take ~ .reel-take`, 0.4, 0.5)
	b.dragged(middle, middle)
	b.until(`(() => { const v = document.querySelector('.screen video'); return v && v.readyState > 1 && !v.seeking })()`)
	now := eval[float64](b, `parseFloat(document.querySelector('[data-clock]').textContent)`)
	b.until(fmt.Sprintf(`Math.abs(document.querySelector('.screen video').currentTime - %f) < 0.15`, 1+math.Min(now-take[0], 1.97)))

	// a voice, and other words than those on the screen: captions come with it
	b.run(`document.querySelector('[data-voice]').value = 'low'; document.querySelector('[data-voice]').dispatchEvent(new Event('change', { bubbles: true }))`)
	b.until(`document.querySelectorAll('.cue').length > 0 && !!document.querySelector('[data-field=say]')`)
	b.saved()
	b.fill(`[data-shot="0"] [data-field=say]`, "Come down to the river early, before the wind gets up.")
	b.until(`[...document.querySelectorAll('.cue')].some((c) => c.textContent.includes('before the wind'))`)
	b.saved()
	b.run(`document.activeElement.blur()`)
	// one is written anew and its end pulled
	b.click(`.cue[data-cue="0"] span`)
	b.until(`!document.querySelector('[data-cue-edit]').hidden`)
	b.fill(`[data-cue-text]`, "Come down early")
	b.until(`document.querySelector('.cue').textContent.includes('Come down early') && !document.querySelector('[data-cues-back]').hidden`)
	b.saved()
	b.until(`[...document.querySelectorAll('.screen svg text, .screen svg g')].length > 0`)
	was := eval[float64](b, `Number(document.querySelector('[data-cue-to]').value)`)
	end := b.place(`.cue[data-cue="0"] [data-side=to]`, 0.5, 0.5)
	b.dragged(end, [2]float64{end[0] - 40, end[1]})
	b.until(fmt.Sprintf(`Number(document.querySelector('[data-cue-to]').value) < %f`, was-0.1))
	b.saved()
	name, data := b.download(func() { b.run(`document.querySelector('[data-caption-file=srt]').click()`) })
	cues, err := caption.Read(data)
	if err != nil || !strings.HasSuffix(name, ".srt") || cues[0].Text != "Come down early" || cues[0].To >= was-0.1 {
		t.Errorf("%s: %+v, %v", name, cues, err)
	}
	// from a file, and one that is none
	srt := filepath.Join(t.TempDir(), "own.srt")
	if err := os.WriteFile(srt, []byte("1\n00:00:00,500 --> 00:00:02,000\nFrom a file\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	b.do("bringing captions", cdp.SetUploadFiles(`[data-cue-file]`, []string{srt}, cdp.NodeReady))
	b.until(`document.querySelectorAll('.cue').length === 1 && document.querySelector('.cue').textContent === 'From a file'`)
	b.saved()
	b.do("bringing a film as captions", cdp.SetUploadFiles(`[data-cue-file]`, []string{film}, cdp.NodeReady))
	b.until(`document.querySelector('.notice.bad')?.textContent.includes('.srt')`)

	b.click(`[data-shape=video-square]`)
	b.until(`document.querySelector('[data-shape=video-square]').getAttribute('aria-pressed') === 'true'`)
	total := eval[float64](b, `Number(document.querySelector('[data-total]').textContent.replace(' s', ''))`)
	b.click(`[data-format=mp4]`)
	b.until(`!!document.querySelector('.made a')`)
	name, data = b.download(func() { b.run(`document.querySelector('.made a').click()`) })
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, data, 0o600); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-show_entries", "stream=codec_type,nb_read_frames,duration", "-of", "json", path).Output()
	if err != nil {
		t.Fatal(err)
	}
	var said struct {
		Streams []struct {
			Type     string `json:"codec_type"`
			Frames   string `json:"nb_read_frames"`
			Duration string `json:"duration"`
		} `json:"streams"`
	}
	if err := json.Unmarshal(out, &said); err != nil || len(said.Streams) != 2 {
		t.Fatalf("%s: %v", out, err)
	}
	var frames, seconds float64
	_, _ = fmt.Sscan(said.Streams[0].Frames, &frames)
	_, _ = fmt.Sscan(said.Streams[1].Duration, &seconds)
	if math.Abs(frames/30-total) > 0.06 || math.Abs(seconds-frames/30) > 1.0/30+0.03 {
		t.Errorf("%v frames and %v s of sound, the page says %v s", frames, seconds, total)
	}
}

// TestARecordingAndTheSetsPieces: the set's own pieces become the running order; one of them is
// said by oneself, into the microphone, and the recording is what is heard; a picture is shown
// whole, and numbers count up.
func TestARecordingAndTheSetsPieces(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true, Work: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Knots")
	brief := strings.Replace(eval[string](b, `location.pathname`), "/mat", "", 1)
	b.goTo(brief + "/video")
	b.until(`document.querySelectorAll('.shot').length > 0`)
	b.click(`[data-of-set]`)
	cards := eval[int](b, `JSON.parse(document.querySelector('[data-state]').textContent).ofSet.length`)
	b.until(fmt.Sprintf(`document.querySelectorAll('.shot-card').length === %d && document.querySelectorAll('.shot').length === %d`, cards, cards))
	b.saved()
	if cards < 3 || !eval[bool](b, `document.querySelector('.shot-card').textContent.includes('Three knots')`) {
		t.Errorf("%d cards", cards)
	}
	b.run(`document.querySelector('[data-shot="0"] [data-act=speak]')?.click()`)
	b.until(`!!document.querySelector('[data-shot="0"] [data-act=record]')`)
	b.click(`[data-shot="0"] [data-act=record]`)
	b.until(`document.querySelector('.rec')?.textContent.endsWith('0:01')`)
	b.click(`.rec`)
	b.until(`document.querySelector('[data-shot="0"] .recording span')?.textContent.includes('recording')`)
	b.saved()
	runs := eval[float64](b, `Number(document.querySelector('[data-shot="0"] [data-field=seconds]').placeholder)`)
	if runs < 1.5 {
		t.Errorf("the shot runs %v s", runs)
	}
	// what is drawn of the sound is not flat
	b.until(`!!document.querySelector('[data-wave] path, [data-wave] svg, [data-wave] canvas')`)

	b.goTo(brief + "/start")
	b.goTo(brief + "/video")
	if n := eval[int](b, `document.querySelectorAll('.shot-card').length`); n != cards {
		t.Errorf("%d cards when one comes back", n)
	}
	b.goTo("/desk")
	b.openMat("Spring")
	b.goTo(strings.Replace(eval[string](b, `location.pathname`), "/mat", "", 1) + "/video")
	b.click(`[data-shot="0"] [data-whole]`)
	b.until(`document.querySelector('[data-shot="0"] [data-whole]').checked`)
	b.saved()
	b.click(`[data-way=countUp]`)
	b.saved()
	b.until(`document.querySelector('[data-way=countUp]').checked && document.querySelector('[data-shot="0"] [data-whole]').checked`)
}
