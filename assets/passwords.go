package assets

import (
	"bytes"
	"compress/gzip"
	_ "embed"
	"fmt"
	"io"
	"sort"
	"sync"
)

//go:embed passwords.gz
var packedPasswords []byte

// passwords are the 100,000 most used passwords, sorted by their bytes, one a line.
var passwords = sync.OnceValue(func() [][]byte {
	z, err := gzip.NewReader(bytes.NewReader(packedPasswords))
	var all []byte
	if err == nil {
		all, err = io.ReadAll(z)
	}
	if err != nil {
		panic(fmt.Errorf("assets/passwords.gz: %w", err)) // embedded at build time
	}
	return bytes.Split(bytes.TrimSuffix(all, []byte("\n")), []byte("\n"))
})

// UsualPassword reports whether a password is one of the 100,000 most used ones.
func UsualPassword(password string) bool {
	all, p := passwords(), []byte(password)
	i := sort.Search(len(all), func(i int) bool { return bytes.Compare(all[i], p) >= 0 })
	return i < len(all) && bytes.Equal(all[i], p)
}
