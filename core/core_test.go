// Package core_test holds the core to its one rule: it knows nobody.
package core_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

func TestTheCoreImportsNobodyAndLooksAtNoClock(t *testing.T) {
	files := 0
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") || strings.Contains(path, "housetest") { // which makes evenings for tests
			return err
		}
		files++
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		for _, i := range f.Imports {
			p := strings.Trim(i.Path.Value, `"`)
			first, _, _ := strings.Cut(p, "/")
			std := !strings.Contains(first, ".") && first != "vividporch"
			if !std && !strings.HasPrefix(p, "golang.org/x/text/") && !strings.HasPrefix(p, "vividporch/core/") {
				t.Errorf("%s imports %s", path, p)
			}
			if p == "math/rand/v2" && strings.HasPrefix(path, "whatif/") && onlySeeded(t, path) {
				continue
			}
			if p == "math/rand" || p == "math/rand/v2" || p == "os" || strings.HasPrefix(p, "net") || strings.HasPrefix(p, "database/") || p == "crypto/rand" {
				t.Errorf("%s reaches outside with %s", path, p)
			}
		}
		src, err := os.ReadFile(path)
		if strings.Contains(string(src), "time.Now(") {
			t.Errorf("%s looks at a clock", path)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	if files < 15 {
		t.Errorf("only %d files were looked at", files)
	}
}

// onlySeeded reports whether a file draws by a seed that it is given, and by nothing else.
func onlySeeded(t *testing.T, path string) bool {
	t.Helper()
	src, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	for _, use := range regexp.MustCompile(`\brand\.(\w+)`).FindAllStringSubmatch(string(src), -1) {
		if use[1] != "New" && use[1] != "NewPCG" && use[1] != "Rand" {
			return false
		}
	}
	return true
}
