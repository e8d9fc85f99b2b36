// Package pieces tests the pieces of the interface that compute and show nothing: a small script uses them, is
// bundled as the pages are, and runs in Node; the cases and what they should come to are here.
package pieces

import (
	"bytes"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
)

// bundler makes one file of a script and all that it imports.
const bundler = `
import { rolldown } from "rolldown";
const [input, file] = process.argv.slice(-2);
const bundle = await rolldown({ input, platform: "neutral", resolve: { mainFields: ["module", "main"] } });
await bundle.write({ file, format: "esm", codeSplitting: false });
`

// run gives a script the cases as the constant given, and reads what it answers with answer(…). $ stands for
// the source folder of the interface.
func run(t *testing.T, script string, given, answer any) {
	t.Helper()
	web, err := filepath.Abs("../../web")
	if err != nil {
		t.Fatal(err)
	}
	cases, err := json.Marshal(given)
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	source, bundled := filepath.Join(dir, "script.ts"), filepath.Join(dir, "script.mjs")
	head := "const given = " + string(cases) + ";\nconst answer = (v: unknown) => console.log(JSON.stringify(v));\n"
	text := bytes.ReplaceAll([]byte(script+"\n"), []byte(`"$/`), []byte(`"`+web+`/src/`))
	if err := os.WriteFile(source, append([]byte(head), text...), 0o600); err != nil {
		t.Fatal(err)
	}
	node := func(args ...string) []byte {
		cmd := exec.Command("node", args...)
		cmd.Dir, cmd.Env = web, append(os.Environ(), "TZ=Europe/London")
		var complaint bytes.Buffer
		cmd.Stderr = &complaint
		out, err := cmd.Output()
		if err != nil {
			t.Fatalf("%v\n%s", err, complaint.String())
		}
		return out
	}
	node("--input-type=module", "--eval", bundler, "--", source, bundled)
	if err := json.Unmarshal(node(bundled), answer); err != nil {
		t.Fatal(err)
	}
}
