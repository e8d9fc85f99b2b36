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
			Waiting  []struct{ Count, Parked int }
			Due      []struct{ Waiting int }
			Checking int
			Odd      []struct{ What, Why string }
		}
		if err := json.Unmarshal([]byte(body), &desk); err != nil {
			t.Fatal(err)
		}
		done, parked := 0, 0
		for _, i := range desk.Due {
			done += i.Waiting
		}
		for _, w := range desk.Waiting {
			parked += w.Parked
		}
		if parked > 0 {
			t.Fatalf("the check of an attempt has failed: %+v", desk.Odd)
		}
		if done >= n && desk.Checking == 0 {
			return
		}
		time.Sleep(300 * time.Millisecond)
	}
	t.Fatalf("%d attempts were not checked in time", n)
}
