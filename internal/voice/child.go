package voice

/*
#cgo pkg-config: espeak-ng
#include <stdlib.h>
#include <string.h>
#include <espeak-ng/speak_lib.h>

// What is gathered while a text is spoken: samples, and where its words begin.
typedef struct { int at; int length; int ms; } word;
typedef struct {
	short *samples; int n, room;
	word *words; int nwords, wordroom;
	int most, full;
} heard;

static int hear(short *wav, int n, espeak_EVENT *events) {
	heard *h = events->user_data;
	if (h == NULL) return 0;
	if (h->n + n > h->most) { h->full = 1; return 1; }
	if (wav != NULL && n > 0) {
		if (h->n + n > h->room) {
			h->room = 2 * (h->n + n);
			h->samples = realloc(h->samples, h->room * sizeof(short));
		}
		memcpy(h->samples + h->n, wav, n * sizeof(short));
		h->n += n;
	}
	for (; events->type != espeakEVENT_LIST_TERMINATED; events++) {
		if (events->type == espeakEVENT_WORD) {
			if (h->nwords == h->wordroom) {
				h->wordroom = 2 * h->wordroom + 64;
				h->words = realloc(h->words, h->wordroom * sizeof(word));
			}
			h->words[h->nwords++] = (word){events->text_position, events->length, events->audio_position};
		}
	}
	return 0;
}

static int begin(void) {
	int rate = espeak_Initialize(AUDIO_OUTPUT_SYNCHRONOUS, 0, NULL, espeakINITIALIZE_DONT_EXIT);
	espeak_SetSynthCallback(hear);
	return rate;
}

static int say(const char *text, size_t size, heard *h) {
	return espeak_Synth(text, size, 0, POS_CHARACTER, 0, espeakCHARS_UTF8, NULL, h);
}
*/
import "C"

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"syscall"
	"time"
	"unsafe"
)

// The voice runs in a child of this process, a new one for every text: it keeps what it
// said before in mind, which would be heard, and what goes wrong in it ends with it. The
// child is this program again, told by its environment to do nothing else.
const (
	told     = "ASPENRIDGE_SPEAKS"
	patience = 30 * time.Second
	mostSaid = 600 // s
	childCPU = 20  // s
)

// request is what the child is asked.
type request struct {
	Text   string
	Voices []string // the first of them there is
	Pitch  int      // 0-100
	Rate   int      // words a minute
}

// answer is what it says.
type answer struct {
	Rate    int    // samples a second
	Samples []byte // 16 bits, one channel
	Marks   []mark
	Failed  string
}

// mark is where the voice began a word.
type mark struct {
	At int     // letters of the text
	S  float64 // from the beginning
}

// ChildMain is what main and the tests begin with: in a child it speaks, and ends it.
func ChildMain() {
	if os.Getenv(told) == "" {
		return
	}
	_ = syscall.Setrlimit(syscall.RLIMIT_CPU, &syscall.Rlimit{Cur: childCPU, Max: childCPU + 1})
	_ = syscall.Setrlimit(syscall.RLIMIT_CORE, &syscall.Rlimit{})
	var r request
	a := answer{Failed: "it was not asked anything"}
	if json.NewDecoder(os.Stdin).Decode(&r) == nil {
		a = speak(r)
	}
	if json.NewEncoder(os.Stdout).Encode(a) != nil {
		os.Exit(1)
	}
	os.Exit(0)
}

// ask has a child speak.
func ask(ctx context.Context, r request) (a answer, err error) {
	ctx, stop := context.WithTimeout(ctx, patience)
	defer stop()
	question, err := json.Marshal(r)
	if err != nil {
		return a, err
	}
	child := exec.CommandContext(ctx, "/proc/self/exe")
	child.Env = append(os.Environ(), told+"=1")
	child.Stdin = bytes.NewReader(question)
	out, err := child.Output()
	if err != nil {
		return a, errors.Join(fmt.Errorf("%w failed: %w", ErrVoice, err), ctx.Err())
	}
	if err := json.Unmarshal(out, &a); err != nil {
		return a, fmt.Errorf("%w answers %.60q", ErrVoice, out)
	}
	if a.Failed != "" {
		return a, fmt.Errorf("%w: %s", ErrVoice, a.Failed)
	}
	return a, nil
}

// speak speaks, in the child.
func speak(r request) answer {
	rate := int(C.begin())
	if rate <= 0 {
		return answer{Failed: "it is not there; install Debian's package espeak-ng-data"}
	}
	for _, name := range r.Voices {
		v := C.CString(name)
		found := C.espeak_SetVoiceByName(v)
		C.free(unsafe.Pointer(v))
		if found == C.EE_OK {
			break
		}
	}
	C.espeak_SetParameter(C.espeakPITCH, C.int(r.Pitch), 0)
	C.espeak_SetParameter(C.espeakRATE, C.int(r.Rate), 0)
	h := (*C.heard)(C.calloc(1, C.sizeof_heard))
	h.most = C.int(mostSaid * rate)
	text := strings.ReplaceAll(r.Text, "\x00", "")
	spoken := C.CString(text)
	defer C.free(unsafe.Pointer(spoken))
	if got := C.say(spoken, C.size_t(len(text)+1), h); got != C.EE_OK {
		return answer{Failed: fmt.Sprintf("it failed (%d)", int(got))}
	}
	if h.full != 0 {
		return answer{Failed: fmt.Sprintf("it would take more than %d s", mostSaid)}
	}
	a := answer{Rate: rate, Samples: C.GoBytes(unsafe.Pointer(h.samples), 2*h.n)}
	for _, w := range unsafe.Slice(h.words, int(h.nwords)) {
		a.Marks = append(a.Marks, mark{int(w.at) - 1, float64(w.ms) / 1000})
	}
	return a
}
