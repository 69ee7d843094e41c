package core_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"maps"
	"path/filepath"
	"slices"
	"strings"
	"testing"
)

// pkg is a package of the module, without its tests and what is generated.
type pkg struct {
	files    int
	lines    int
	exported []string
	imports  map[string]bool // of the module, by their paths in it
}

// module reads the packages of the whole module, by their paths in it.
func module(t *testing.T) map[string]*pkg {
	t.Helper()
	out := map[string]*pkg{}
	err := filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		switch {
		case err != nil:
			return err
		case d.IsDir() && (d.Name() == "node_modules" || strings.HasPrefix(d.Name(), ".") && path != ".."):
			return filepath.SkipDir
		case !strings.HasSuffix(path, ".go"), strings.HasSuffix(path, "_test.go"), strings.HasSuffix(path, ".gen.go"):
			return nil
		}
		set := token.NewFileSet()
		f, err := parser.ParseFile(set, path, nil, 0)
		if err != nil {
			return err
		}
		rel, _ := filepath.Rel("..", filepath.Dir(path))
		p := out[rel]
		if p == nil {
			p = &pkg{imports: map[string]bool{}}
			out[rel] = p
		}
		p.files++
		p.lines += set.File(f.Pos()).LineCount()
		for _, i := range f.Imports {
			if at, ok := strings.CutPrefix(strings.Trim(i.Path.Value, `"`), "vividporch/"); ok {
				p.imports[at] = true
			}
		}
		for _, decl := range f.Decls {
			switch d := decl.(type) {
			case *ast.FuncDecl:
				if d.Recv == nil && d.Name.IsExported() {
					p.exported = append(p.exported, d.Name.Name)
				}
			case *ast.GenDecl:
				for _, s := range d.Specs {
					switch s := s.(type) {
					case *ast.TypeSpec:
						if s.Name.IsExported() {
							p.exported = append(p.exported, s.Name.Name)
						}
					case *ast.ValueSpec:
						for _, n := range s.Names {
							if n.IsExported() {
								p.exported = append(p.exported, n.Name)
							}
						}
					}
				}
			}
		}
		return nil
	})
	if err != nil || len(out) < 30 {
		t.Fatalf("%d packages, %v", len(out), err)
	}
	return out
}

func TestNoRoomIsCrowded(t *testing.T) {
	catalogues := []string{"core/event", "core/happening", "core/output", "core/box", "core/trouble"} // one file, and one name, for each of what they list
	for path, p := range module(t) {
		if slices.Contains(catalogues, path) {
			continue
		}
		if p.files > 15 || len(p.exported) > 40 {
			slices.Sort(p.exported)
			t.Errorf("%s has %d files and shows %d names: %s", path, p.files, len(p.exported), strings.Join(p.exported, " "))
		}
		if path == "core/house" && p.lines >= 1500 {
			t.Errorf("the house itself has %d lines; what is in it belongs into a room", p.lines)
		}
	}
}

// floors are the parts of the core from below: each knows those below it, and of its own
// floor whom it must.
var floors = [][]string{
	{"plain", "dates", "wording", "pointer", "flat", "lookalike", "wordlist", "lots"},
	{"event", "people", "attendance", "profile", "spoken", "occasion", "place", "box", "trouble"},
	{"happening", "who", "thread", "onward"},
	{"output", "card", "reading", "giveaway"},
	{"courtesy", "fitting"},
	{"pace", "prose", "housefile"},
	{"hall", "chat", "carry"},
	{"room"},
	{"opening", "privacy", "arrive", "command", "hello", "raid", "presence", "thank", "desk", "overlay", "guard", "along", "count", "fetched", "neighbour", "outcome", "regulars", "day", "timer", "relay", "note", "bookmark", "social", "ear", "draw", "points"},
	{"house"},
	{"lookback"},
	{"house/housetest", "rehearsal", "forecast"},
	{"compare", "whatif", "expect"},
}

// mayKnow are the parts around the core, and whom of each other they know; all know the core.
var mayKnow = map[string][]string{
	"core":    {},
	"formats": {"formats"},
	"doors":   {},
	"outside": {},
	"spec":    {},
	"starter": {},
	"store":   {"store", "formats/row"},
	"voices":  {"store", "outside"},
	"porch":   {"porch", "store", "doors", "voices", "formats", "outside", "spec", "starter"},
	"api":     {"api", "porch", "store", "doors/inbox", "doors/origin", "voices/relay", "formats", "outside", "spec"},
}

func TestArrowsGoOneWay(t *testing.T) {
	floor := map[string]int{}
	for n, names := range floors {
		for _, name := range names {
			floor["core/"+name] = n + 1
		}
	}
	for path, p := range module(t) {
		part, _, _ := strings.Cut(path, "/")
		allowed, bound := mayKnow[part]
		if !bound || strings.HasSuffix(path, "test") { // cmd and what only tests know all
			continue
		}
		if part == "core" && floor[path] == 0 {
			t.Errorf("%s stands on no floor; say on which", path)
		}
		for _, at := range slices.Sorted(maps.Keys(p.imports)) {
			within := func(name string) bool { return at == name || strings.HasPrefix(at, name+"/") }
			switch {
			case within("core"):
				if part == "core" && floor[at] > floor[path] {
					t.Errorf("an arrow up: %s knows %s", path, at)
				}
			case within(part) && part != "formats" && part != "core":
			case !slices.ContainsFunc(allowed, within):
				t.Errorf("%s knows %s", path, at)
			}
		}
	}
}
