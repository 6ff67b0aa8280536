// Package sweep shares the cases of long tests out: a part of them in every run, all where there is
// time.
package sweep

import "os"

// Turn reports whether one of a sweep's many cases has its turn: every of-th has, all of them with
// SWEEP=all, as make bench-safe sets it. Number them so that each turn meets every kind of case.
func Turn(i, of int) bool { return os.Getenv("SWEEP") == "all" || i%of == 0 }
