package api

import (
	"context"
	"errors"
	"strings"
	"testing"

	"hammerset/core/exercise"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
)

func TestPasswords(t *testing.T) {
	hash, err := HashPassword("lock gate №7")
	if err != nil {
		t.Fatal(err)
	}
	again, err := HashPassword("lock gate №7")
	if err != nil {
		t.Fatal(err)
	}
	if hash == again || !strings.HasPrefix(hash, "argon2id$") || strings.Contains(hash, "lock") {
		t.Errorf("hashes %s and %s", hash, again)
	}
	for password, right := range map[string]bool{"lock gate №7": true, "lock gate №8": false, "": false, "lock gate №7 ": false} {
		if checkPassword(password, hash) != right {
			t.Errorf("%q: %v", password, !right)
		}
	}
	for _, broken := range []string{"", "argon2id$", "plain", "argon2id$!!$!!", strings.Replace(hash, "argon2id", "md5", 1), nobodysHash} {
		if checkPassword("lock gate №7", broken) {
			t.Errorf("%q lets somebody in", broken)
		}
	}
}

// Every route of the contract has its roles; none is open by default.
func TestEveryRouteHasRoles(t *testing.T) {
	known := map[string]bool{student: true, assistant: true, instructor: true, administrator: true}
	for route, roles := range allowed {
		if len(roles) == 0 {
			t.Errorf("%s: nobody may", route)
		}
		for _, r := range roles {
			if !known[r] {
				t.Errorf("%s: %q is no role", route, r)
			}
		}
		method, path, ok := strings.Cut(route, " ")
		if !ok || !strings.HasPrefix(path, "/") || strings.ToUpper(method) != method {
			t.Errorf("%q is no route", route)
		}
		if method != "GET" && strings.HasPrefix(path, "/exercises") {
			for _, r := range roles {
				if r == student || r == assistant {
					t.Errorf("%s: %s may change exercises", route, r)
				}
			}
		}
	}
}

// A drawing number or title that the title block has no room for is refused before
// anything is done with it, counted in letters and not in bytes.
func TestTitlesAndNumbersFit(t *testing.T) {
	for _, c := range []struct {
		title, number string
		refused       string
	}{
		{strings.Repeat("ü", longestTitle), strings.Repeat("Ö", longestNumber), ""},
		{strings.Repeat("ü", longestTitle+1), "1", "title"},
		{"Bracket", strings.Repeat("1", longestNumber+1), "drawing number"},
	} {
		var b documents.Bundle
		b.Parsed = &exercise.Exercise{Title: c.title, Number: c.number}
		if c.refused == "" {
			if long := tooLong(c.title, c.number); long != "" {
				t.Errorf("what fits is refused: %s", long)
			}
			continue
		}
		// neither the kernel nor the store is asked: both are missing
		_, err := AddBundle(context.Background(), nil, nil, &b, 0, 1, "new")
		var e *task.Error
		if !errors.As(err, &e) || !strings.Contains(e.What, c.refused) || e.Remedy == "" {
			t.Errorf("%d and %d letters: %v", len(c.title), len(c.number), err)
		}
	}
}
