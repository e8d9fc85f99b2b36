package e2e

import (
	"encoding/json"
	"testing"
	"time"
)

// waitChecked waits until n attempts of a teacher's classes are checked, and none is left to check.
func waitChecked(t *testing.T, a *app, login string, n int) {
	t.Helper()
	c := a.client(login)
	for range max(300, 20*n) {
		_, body := c.do("GET", "/api/desk", "", "")
		var desk struct {
			Waiting []struct{ State, What string }
		}
		if err := json.Unmarshal([]byte(body), &desk); err != nil {
			t.Fatal(err)
		}
		done, pending := 0, 0
		for _, w := range desk.Waiting {
			switch w.State {
			case "checked":
				done++
			case "queued", "checking":
				pending++
			case "parked":
				t.Fatalf("the check of an attempt has failed: %s", w.What)
			}
		}
		if done >= n && pending == 0 {
			return
		}
		time.Sleep(300 * time.Millisecond)
	}
	t.Fatalf("%d attempts were not checked in time", n)
}
