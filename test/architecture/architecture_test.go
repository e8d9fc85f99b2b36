// Package architecture walks the import graph and fails where a layer reaches
// for what it must not.
package architecture

import (
	"encoding/json"
	"errors"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"hammerset/core/characteristic"
)

type pkg struct {
	ImportPath string
	Dir        string
	Imports    []string
	CgoFiles   []string
	Standard   bool
}

func packages(t *testing.T) []pkg {
	t.Helper()
	cmd := exec.Command("go", "list", "-json=ImportPath,Dir,Imports,CgoFiles,Standard", "./...")
	cmd.Dir = "../.."
	out, err := cmd.Output()
	if err != nil {
		t.Fatal(err)
	}
	var list []pkg
	dec := json.NewDecoder(strings.NewReader(string(out)))
	for {
		var p pkg
		if err := dec.Decode(&p); errors.Is(err, io.EOF) {
			return list
		} else if err != nil {
			t.Fatal(err)
		}
		list = append(list, p)
	}
}

// outside tells whether an import is neither of the standard library nor ours.
func outside(path string) bool {
	first, _, _ := strings.Cut(path, "/")
	return strings.Contains(first, ".")
}

func TestLayers(t *testing.T) {
	seen := 0
	for _, p := range packages(t) {
		name := strings.TrimPrefix(p.ImportPath, "hammerset/")
		layer, _, _ := strings.Cut(name, "/")
		for _, i := range p.Imports {
			ours := strings.HasPrefix(i, "hammerset/")
			to, _, _ := strings.Cut(strings.TrimPrefix(i, "hammerset/"), "/")
			switch {
			case layer == "core" && ours && to != "core":
				t.Errorf("%s imports %s: core knows only core", name, i)
			case layer == "core" && outside(i) && !strings.HasPrefix(i, "gonum.org/v1/gonum"):
				t.Errorf("%s imports %s: core has the standard library and gonum", name, i)
			case layer == "core" && (i == "net/http" || i == "database/sql" || i == "os" || i == "C"):
				t.Errorf("%s imports %s: core computes and does nothing else", name, i)
			case layer == "formats" && ours && (to == "store" || to == "api" || to == "kernel" || to == "work"):
				t.Errorf("%s imports %s: formats know core alone", name, i)
			case layer == "kernel" && ours && (to == "store" || to == "api" || to == "work"):
				t.Errorf("%s imports %s: the kernel knows nothing of server and database", name, i)
			case layer == "store" && ours && to != "store":
				t.Errorf("%s imports %s: the store keeps rows and knows no rules", name, i)
			case layer != "store" && (i == "database/sql" || strings.Contains(i, "sqlx") ||
				strings.Contains(i, "go-sql-driver")):
				t.Errorf("%s imports %s: only the store talks to the database", name, i)
			case (layer == "api" || layer == "work") && ours && i == "hammerset/kernel/occ":
				t.Errorf("%s imports %s: geometry runs in children only", name, i)
			}
		}
		if len(p.CgoFiles) > 0 && name != "kernel/occ" {
			t.Errorf("%s uses cgo: only kernel/occ does", name)
		}
		seen++
	}
	if seen < 20 {
		t.Errorf("only %d packages were looked at", seen)
	}
}

// layers reads the table of docs/architecture.md: what each package uses, by its path.
func layers(t *testing.T) map[string][]string {
	t.Helper()
	data, err := os.ReadFile("../../docs/architecture.md")
	if err != nil {
		t.Fatal(err)
	}
	out := map[string][]string{}
	for _, m := range regexp.MustCompile("(?m)^\\| `([^`]+)` \\| .* \\| ([^|]+) \\|$").
		FindAllStringSubmatch(string(data), -1) {
		uses := []string{}
		for _, name := range strings.Split(m[2], ", ") {
			if name = strings.TrimSpace(name); name == "–" {
				continue
			}
			if strings.HasPrefix(m[1], "core/") {
				name = "core/" + name
			}
			uses = append(uses, name)
		}
		out[m[1]] = uses
	}
	return out
}

// The table of layers is the import graph: nothing is used that it does not have, and it has
// nothing that is not used.
func TestTheTableOfLayersIsTrue(t *testing.T) {
	table, seen := layers(t), map[string]bool{}
	for _, p := range packages(t) {
		name := strings.TrimPrefix(p.ImportPath, "hammerset/")
		if strings.HasPrefix(name, "test/") || strings.HasPrefix(name, "bench") {
			continue
		}
		row, ok := table[name]
		if !ok {
			t.Errorf("%s is not in the table", name)
			continue
		}
		seen[name] = true
		var uses []string
		for _, i := range p.Imports {
			if ours, ok := strings.CutPrefix(i, "hammerset/"); ok {
				uses = append(uses, ours)
				if !slices.Contains(row, ours) {
					t.Errorf("%s uses %s, which its row does not have", name, ours)
				}
			}
		}
		for _, r := range row {
			if !slices.Contains(uses, r) {
				t.Errorf("the row of %s has %s, which it does not use", name, r)
			}
		}
	}
	for name := range table {
		if !seen[name] {
			t.Errorf("the table has %s, and there is no such package", name)
		}
	}
}

// TypeScript shows; it does not compute geometry or marks.
func TestInterfaceHasNoRules(t *testing.T) {
	banned := regexp.MustCompile(`\bMath\.(sin|cos|tan|atan2?|acos|asin|sqrt)\b`)
	err := filepath.Walk("../../web/src", func(path string, info os.FileInfo, err error) error {
		if err != nil || info.IsDir() || strings.HasSuffix(path, ".d.ts") {
			return err
		}
		data, err := os.ReadFile(path)
		if err == nil && banned.Match(data) {
			t.Errorf("%s computes geometry: %s", path, banned.Find(data))
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}

// What ships must not need the network: no address of another host in the
// sources of the interface.
func TestNothingFromTheNetwork(t *testing.T) {
	address := regexp.MustCompile(`https?://[A-Za-z]`)
	err := filepath.Walk("../../web", func(path string, info os.FileInfo, err error) error {
		if err != nil || info.IsDir() && (info.Name() == "node_modules" || info.Name() == "dist") {
			if err == nil {
				return filepath.SkipDir
			}
			return err
		}
		if ext := filepath.Ext(path); ext == ".ts" || ext == ".tsx" || ext == ".css" || ext == ".html" {
			data, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			for _, m := range address.FindAll(data, -1) {
				t.Errorf("%s names %s", path, m)
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}

// TestKindsHaveOneHome looks for names of kinds of characteristics outside their declarations.
// (Those with a hyphen: the others are words that mean other things too.)
func TestKindsHaveOneHome(t *testing.T) {
	var names []string
	for _, k := range characteristic.All() {
		if strings.Contains(k.Name, "-") {
			names = append(names, strconv.Quote(k.Name))
		}
	}
	read := 0
	for _, p := range packages(t) {
		if strings.HasSuffix(p.ImportPath, "core/characteristic") {
			continue
		}
		files, err := filepath.Glob(filepath.Join(p.Dir, "*.go"))
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range files {
			text, err := os.ReadFile(f)
			if err != nil {
				t.Fatal(err)
			}
			read++
			for _, n := range names {
				if !strings.HasSuffix(f, "_test.go") && strings.Contains(string(text), n) {
					t.Errorf("%s knows the kind %s by its name", f, n)
				}
			}
		}
	}
	if len(names) < 5 || read < 200 {
		t.Errorf("%d names were looked for in %d files", len(names), read)
	}
}
