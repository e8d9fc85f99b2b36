package architecture

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"unicode/utf8"
)

// Functions of more than 80 lines, each with the reason why it is clearer in one piece.
var long = map[string]string{
	"cmd/hammerset/bulk.go run":          "one loop of workers, whose channels and counts would be passed about",
	"core/diagnose/atlas/atlas.go Build": "the stages of making an atlas, one after the other",
	"core/sketch/edit/cut.go Trim":       "the kinds of curves, a case each",
	"demo/demo.go loadSmall":             "a list of what is loaded",
	"store/local/local.go Start":         "the steps of starting a server, in their order",
}

const (
	mostLines      = 80
	mostComplexity = 25
)

// complexity counts the ways through a function: one, and one more for each branch, loop, case and
// further condition (T. J. McCabe, A complexity measure, 1976).
func complexity(f *ast.FuncDecl) int {
	n := 1
	ast.Inspect(f, func(x ast.Node) bool {
		switch x := x.(type) {
		case *ast.IfStmt, *ast.ForStmt, *ast.RangeStmt, *ast.CommClause:
			n++
		case *ast.CaseClause:
			if x.List != nil {
				n++
			}
		case *ast.BinaryExpr:
			if x.Op == token.LAND || x.Op == token.LOR {
				n++
			}
		}
		return true
	})
	return n
}

// sources visits the Go files of the project that people write, tests apart.
func sources(t *testing.T, visit func(name string, set *token.FileSet, f *ast.File)) {
	t.Helper()
	set := token.NewFileSet()
	err := filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		name := filepath.ToSlash(strings.TrimPrefix(path, "../../"))
		if d.IsDir() && (name == "web" || strings.HasPrefix(d.Name(), ".") && name != "../..") {
			return filepath.SkipDir
		}
		if !strings.HasSuffix(name, ".go") || strings.HasSuffix(name, "_test.go") || strings.HasSuffix(name, ".gen.go") {
			return nil
		}
		f, err := parser.ParseFile(set, path, nil, parser.ParseComments)
		if err == nil {
			visit(name, set, f)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}

// Functions stay short enough to be read at once.
func TestFunctionsAreShort(t *testing.T) {
	seen := map[string]bool{}
	sources(t, func(name string, set *token.FileSet, f *ast.File) {
		for _, d := range f.Decls {
			fn, ok := d.(*ast.FuncDecl)
			if !ok || fn.Body == nil {
				continue
			}
			called := name + " " + fn.Name.Name
			if n := complexity(fn); n > mostComplexity {
				t.Errorf("%s has a complexity of %d; take it apart (at most %d)", called, n, mostComplexity)
			}
			lines := set.Position(fn.End()).Line - set.Position(fn.Pos()).Line + 1
			if seen[called] = seen[called] || lines > mostLines; lines > mostLines && long[called] == "" {
				t.Errorf("%s has %d lines; take it apart (at most %d), or say in the list why not", called, lines, mostLines)
			}
		}
	})
	for called := range long {
		if !seen[called] {
			t.Errorf("%s is in the list of long functions, and is none", called)
		}
	}
	if len(long) > 10 {
		t.Errorf("%d functions are long; ten at most", len(long))
	}
}

// A line of TypeScript has at most 100 characters and one of Go at most 120: what the formatter cannot break,
// people break. What is generated is left out.
func TestLinesAreShort(t *testing.T) {
	most := map[string]int{".ts": 100, ".tsx": 100, ".go": 120}
	seen := map[string]int{}
	err := filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() {
			if name := d.Name(); name == "node_modules" || name == "dist" || len(name) > 2 && name[0] == '.' {
				return filepath.SkipDir
			}
			return nil
		}
		limit, ok := most[filepath.Ext(path)]
		if !ok || strings.HasSuffix(path, ".gen.go") || strings.HasSuffix(path, "schema.d.ts") {
			return nil
		}
		text, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		for i, line := range strings.Split(string(text), "\n") {
			if n := utf8.RuneCountInString(line); n > limit {
				t.Errorf("%s:%d has %d characters", strings.TrimPrefix(path, "../../"), i+1, n)
			}
			seen[filepath.Ext(path)]++
		}
		return nil
	})
	if err != nil || seen[".go"] < 10000 || seen[".tsx"] < 1000 {
		t.Errorf("%v lines were read: %v", seen, err)
	}
}
