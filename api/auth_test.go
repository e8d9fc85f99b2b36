package api

import (
	"strings"
	"testing"
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
