package test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"aspenridge/test/stage"
)

// mayImport says for each part of the project which other parts it may import;
// a part not named here may import nothing of ours.
var mayImport = map[string][]string{
	"internal/core":    {"internal/core"},
	"internal/raster":  {"internal/core", "internal/raster", "internal/cache", "internal/gate"},
	"internal/reel":    {"internal/core", "internal/raster", "internal/gate"},
	"internal/voice":   {"internal/core", "internal/cache"},
	"internal/store":   {"internal/core", "internal/gate"},
	"internal/cache":   {},
	"internal/gate":    {},
	"internal/totp":    {},
	"internal/secret":  {},
	"internal/act":     {"internal/core", "internal/store"},
	"internal/account": {"internal/act", "internal/core", "internal/post", "internal/secret", "internal/store", "internal/totp", "assets"},
	"internal/post":    {},
	"internal/blob":    {},
	"internal/jobs":    {},
	"internal/kitfile": {"internal/core", "internal/raster", "assets", "layouts"},
	"internal/app":     {"internal/account", "internal/act", "internal/secret", "internal/core", "internal/raster", "internal/store", "internal/blob", "internal/cache", "internal/gate", "internal/jobs", "internal/kitfile", "internal/post", "internal/reel", "internal/totp", "internal/voice", "assets", "layouts"},
	"internal/web":     {"internal/core", "internal/raster", "internal/account", "internal/app", "internal/gate", "internal/totp", "assets", "web"},
	"layouts":          {"internal/core"},
	"assets":           {"internal/core"},
	"demo":             {"internal/account", "internal/app", "internal/core", "internal/kitfile", "internal/raster", "internal/store", "assets", "layouts"},
	"cmd/aspenridge":   {"internal/", "demo"},
	"test":             {"internal/", "demo", "assets", "layouts", "test/chrome", "test/stage"},
}

// never are packages of others that a part must not know.
var never = map[string][]string{
	"internal/core":    {"net/http", "html/template", "database/sql", "github.com/jackc/", "github.com/go-chi/", "github.com/davidbyttow/govips"},
	"internal/store":   {"net/http", "html/template", "github.com/go-chi/"},
	"internal/jobs":    {"net/http", "html/template", "github.com/go-chi/"},
	"internal/raster":  {"net/http", "html/template", "database/sql", "github.com/jackc/"},
	"internal/reel":    {"net/http", "html/template", "database/sql", "github.com/jackc/"},
	"internal/voice":   {"net/http", "html/template", "database/sql", "github.com/jackc/"},
	"internal/kitfile": {"net/http", "html/template", "database/sql", "github.com/jackc/"},
	"internal/app":     {"net/http", "html/template", "github.com/go-chi/", "github.com/jackc/"},
	"internal/account": {"net/http", "html/template", "github.com/go-chi/", "github.com/jackc/"},
	"internal/web":     {"database/sql", "github.com/jackc/"},
}

// TestImportsPointOneWay reads every Go file outside of tests.
func TestImportsPointOneWay(t *testing.T) {
	root, err := stage.Root()
	if err != nil {
		t.Fatal(err)
	}
	seen := map[string]bool{}
	err = filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && slices.Contains([]string{"node_modules", ".git", "var", "bin"}, d.Name()) {
			return filepath.SkipDir
		}
		if !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		rel, err := filepath.Rel(root, path)
		if err != nil {
			return err
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		part := partOf(filepath.ToSlash(rel))
		seen[part] = true
		for _, spec := range file.Imports {
			name, err := strconv.Unquote(spec.Path.Value)
			if err != nil {
				return err
			}
			if own, ok := strings.CutPrefix(name, "aspenridge/"); ok && !within(own, mayImport[part]) {
				t.Errorf("%s imports %s", rel, name)
			}
			if within(name, never[part]) {
				t.Errorf("%s must not know %s", rel, name)
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	for part := range mayImport {
		if !seen[part] {
			t.Errorf("there is no %s any more: take it out of the rules", part)
		}
	}
}

func partOf(file string) string {
	best := ""
	for part := range mayImport {
		if strings.HasPrefix(file, part+"/") && len(part) > len(best) {
			best = part
		}
	}
	return best
}

func within(name string, list []string) bool {
	return slices.ContainsFunc(list, func(p string) bool {
		return name == strings.TrimSuffix(p, "/") || strings.HasPrefix(name, strings.TrimSuffix(p, "/")+"/")
	})
}
