package store

import (
	"bytes"
	"testing"
	"time"
)

// What can be made again is kept as it came, is nothing where it is not kept, and goes when nobody asks for it for
// long.
func TestWhatCanBeMadeAgain(t *testing.T) {
	ctx := t.Context()
	for _, k := range []kept{keptShapes(), keptReports()} {
		asked, idle := bytes.Repeat([]byte("asked for "), 5000), []byte("idle")
		for name, data := range map[string][]byte{"asked": asked, "idle": idle} {
			if err := k.keep(ctx, shared.db, name, data); err != nil {
				t.Fatal(err)
			}
		}
		have := func(name string) []byte {
			t.Helper()
			out, err := k.of(ctx, shared.db, []string{name, "unknown"})
			if err != nil || out["unknown"] != nil {
				t.Fatalf("%s: unknown is %q, %v", k.table, out["unknown"], err)
			}
			return out[name]
		}
		if !bytes.Equal(have("asked"), asked) || !bytes.Equal(have("idle"), idle) {
			t.Errorf("%s: what was kept is not what comes back", k.table)
		}
		if _, err := shared.db.Exec(`UPDATE `+k.table+` SET used_at = ?`, now().Add(-keptFor-time.Hour)); err != nil {
			t.Fatal(err)
		}
		have("asked") // which is a use
		if err := k.keep(ctx, shared.db, "new", idle); err != nil {
			t.Fatal(err)
		}
		if have("asked") == nil || have("idle") != nil {
			t.Errorf("%s: kept %q, and idle %q", k.table, have("asked"), have("idle"))
		}
	}
}
