package platform

import (
	"bytes"
	"context"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"hammerset/formats/oneroster"
	"hammerset/platform/standin"
)

// A roster comes from the platform as OneRoster 1.2 CSV, and results go there; taken again they replace what was there.
func TestThereAndBack(t *testing.T) {
	p := &standin.Platform{}
	server := httptest.NewServer(p)
	defer server.Close()
	c, err := New(server.URL + "/platform/")
	if err != nil {
		t.Fatal(err)
	}
	ctx := context.Background()
	data, err := c.Roster(ctx)
	if err != nil {
		t.Fatal(err)
	}
	r, err := oneroster.Read(data)
	if err != nil || len(r.Classes) != 1 || len(r.Users) != 5 || len(r.Enrollments) != 5 {
		t.Fatalf("the roster is %+v, %v", r, err)
	}
	for _, u := range r.Users {
		if u.ID == "" || u.Login == "" || u.Name == "" || u.Mail == "" || u.Disabled {
			t.Errorf("somebody of the roster is %+v", u)
		}
	}
	results := func(score float64) []byte {
		t.Helper()
		day := time.Date(2026, 10, 1, 12, 0, 0, 0, time.UTC)
		data, err := oneroster.Write(oneroster.Results{Class: "beginners",
			Items: []oneroster.LineItem{{ID: "issue-1", Title: "Pawl, “plate”", Assigned: day, Due: day, Most: 100}},
			Results: []oneroster.Result{{Item: "issue-1", Student: "person-maud", Score: score, Late: true},
				{Item: "issue-1", Student: "person-corin", Missing: true}}})
		if err != nil {
			t.Fatal(err)
		}
		return data
	}
	for _, score := range []float64{40, 87.5} {
		if err := c.Results(ctx, results(score)); err != nil {
			t.Fatal(err)
		}
	}
	got := p.Scores()
	want := standin.Score{Exercise: "Pawl, “plate”", Student: "person-maud", Score: "87.5", Late: true}
	if len(got) != 2 || got[1] != want || !got[0].Missing {
		t.Errorf("the platform has %+v", got)
	}
	for _, bad := range [][]byte{nil, []byte("no zip"), data} { // a roster has no results
		if err := c.Results(ctx, bad); err == nil || !strings.Contains(err.Error(), "400") {
			t.Errorf("%d bytes are taken as results: %v", len(bad), err)
		}
	}
}

func TestPlatformsThatAreNone(t *testing.T) {
	for _, address := range []string{"", "school.example", "http://school.example/x", "ftp://127.0.0.1/x"} {
		if _, err := New(address); err == nil {
			t.Errorf("%q is taken", address)
		}
	}
	answers := map[string]http.HandlerFunc{
		"the platform answers 503": func(w http.ResponseWriter, _ *http.Request) {
			http.Error(w, "later", http.StatusServiceUnavailable)
		},
		"more than is taken": func(w http.ResponseWriter, _ *http.Request) {
			_, _ = w.Write(bytes.Repeat([]byte("x"), largest+1))
		},
	}
	for want, answer := range answers {
		server := httptest.NewServer(answer)
		c, err := New(server.URL)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := c.Roster(context.Background()); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %s", err, want)
		}
		server.Close()
		if _, err := c.Roster(context.Background()); err == nil || !strings.Contains(err.Error(), "does not answer") {
			t.Errorf("a platform that is away: %v", err)
		}
	}
}
