// Package chrome says how tests and pictures of the documentation start their browser.
package chrome

import (
	"os/exec"
	"slices"

	cdp "github.com/chromedp/chromedp"
)

// Options start Chromium without a window, of so many px, and with more of one's own: Debian's
// shell of it where there is one, which draws nothing but the page and takes a third of the
// processor's time, else the whole program.
func Options(w, h int, more ...cdp.ExecAllocatorOption) []cdp.ExecAllocatorOption {
	opts := append(slices.Clone(cdp.DefaultExecAllocatorOptions[:]), cdp.NoSandbox, cdp.WindowSize(w, h))
	if path, err := exec.LookPath("chromium-headless-shell"); err == nil {
		opts = append(opts, cdp.ExecPath(path))
	}
	return append(opts, more...)
}
