package e2e

import (
	"bytes"
	"fmt"
	"mime/multipart"
	"net/http"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"hammerset/demo"
)

// upload is a multipart body with one file.
func upload(t *testing.T, name string, data []byte) (kind, body string) {
	t.Helper()
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	f, err := w.CreateFormFile("file", name)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := f.Write(data); err != nil {
		t.Fatal(err)
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return w.FormDataContentType(), b.String()
}

// may says who may use each route of the contract: s student, a assistant, i
// instructor, r administrator (registry). It is written down here again, apart
// from the server's own table, so that a slip in one shows.
var may = map[string]string{
	"get /session": "sair", "post /session": "-sair", "delete /session": "sair", "get /users": "r", "get /events": "sair",
	"get /desk": "air", "get /home": "sair", "delete /users/{id}": "r", "get /classes/{id}/export": "ir",
	"get /issues/{id}/remarks/own": "air", "put /issues/{id}/remarks/own": "air",
	"get /home/standing": "sair", "get /classes/{id}": "air",
	"post /exercises": "ir", "get /exercises/{id}": "ir", "get /exercises/{id}/bundle": "ir",
	"get /exercises/{id}/atlas": "ir", "get /exercises/{id}/sheet": "ir", "get /exercises/{id}/mesh": "ir",
	"get /exercises/{id}/audit": "ir", "get /exercises/{id}/draft": "ir", "post /exercises/{id}/draft": "ir",
	"post /exercises/{id}/sheet/draft": "ir", "get /exercises/{id}/whole": "ir", "put /exercises/{id}/whole": "ir",
	"get /exercises/{id}/working": "ir", "post /exercises/{id}/working": "ir",
	"post /exercises/{id}/issues": "ir",
	"get /issues/{id}":            "sair", "put /issues/{id}/release": "ir", "get /issues/{id}/sheet": "sair",
	"put /issues/{id}/sheet": "ir", "post /exercises/{id}/reference": "ir",
	"get /issues/{id}/given": "sair", "get /issues/{id}/reference": "air", "post /issues/{id}/attempts": "s",
	"get /issues/{id}/class": "air", "put /issues/{id}/remarks": "air", "get /issues/{id}/rubric": "air",
	"post /issues/{id}/rubric": "ir", "get /issues/{id}/recheck": "air", "post /issues/{id}/recheck": "ir",
	"put /issues/{id}/recheck": "ir",
	"get /attempts/{id}":       "sair", "get /attempts/{id}/events": "sair", "get /attempts/{id}/sheet": "sair",
	"get /attempts/{id}/mesh": "sair", "get /attempts/{id}/compared": "sair", "get /attempts/{id}/file": "sair",
	"get /attempts/{id}/return.pdf": "sair",
	"get /models":                   "sair", "post /models": "sair", "get /models/{id}": "sair",
	"put /models/{id}":    "sair",
	"delete /models/{id}": "sair", "get /models/{id}/sketches/{step}": "sair", "post /models/{id}/part": "sair",
	"get /models/{id}/progress": "sair", "post /models/{id}/measure": "sair", "post /models/{id}/edit": "sair",
	"post /models/{id}/look": "sair", "post /models/{id}/reach": "sair",
	"get /models/{id}/versions": "sair", "get /models/{id}/versions/{version}": "sair", "get /models/{id}/changes": "sair",
	"get /models/{id}/export": "sair", "get /step-forms": "sair", "get /models/{id}/had": "sair",
	"get /attempts/{id}/reach": "air", "post /attempts/{id}/reach": "air", "post /models/{id}/promote": "ir",
	"post /assemblies/{id}/exercise": "ir",
	"put /session/password":          "sair", "post /users": "r", "post /users/{id}/password": "ir", "post /classes": "ir",
	"post /classes/{id}/students": "ir", "get /classes/{id}/gradebook": "ir",
	"get /classes/{id}/gradebook/file": "ir", "put /issues/{id}/weight": "ir",
	"put /issues/{id}": "ir", "delete /issues/{id}": "ir", "post /issues/{id}/further": "ir",
	"get /issues/{id}/right": "ir", "post /issues/{id}/right": "ir", "delete /attempts/{id}/return": "ir",
	"post /models/{id}/had": "sair",
	"get /assemblies":       "sair", "post /assemblies": "sair", "get /assemblies/{id}": "sair",
	"put /assemblies/{id}":    "sair",
	"delete /assemblies/{id}": "sair", "post /assemblies/{id}/shapes": "sair", "post /assemblies/{id}/parts": "sair",
	"post /assemblies/{id}/collisions": "sair", "get /assemblies/{id}/bundle": "sair",
	"post /assemblies/{id}/sweep": "sair", "post /assemblies/{id}/vary": "sair",
	"get /assemblies/{id}/progress": "sair", "get /assemblies/{id}/sources": "sair",
	"put /assemblies/{id}/edited": "sair", "post /assemblies/{id}/models": "sair",
	"get /assemblies/{id}/versions": "sair", "get /assemblies/{id}/versions/{version}": "sair",
	"get /stock": "sair", "get /assemblies/{id}/export": "sair",
	"delete /session/everywhere": "sair", "put /users/{id}/ended": "r", "get /classes": "air", "put /classes/{id}": "ir",
	"put /classes/{id}/archived": "ir", "post /classes/{id}/members": "ir",
	"delete /classes/{id}/members/{person}": "ir", "get /exercises": "ir", "put /exercises/{id}/shares": "ir",
	"put /exercises/{id}/tags": "ir", "put /exercises/{id}/archived": "ir", "post /exercises/{id}/copy": "ir",
	"put /issues/{id}/closed": "ir", "post /issues/{id}/back": "ir", "put /issues/{id}/extensions/{person}": "ir",
	"delete /exercises/{id}": "ir", "post /exercises/{id}/parts/{part}": "ir", "post /exercises/{id}/back": "ir",
	"post /issues/{id}/questions": "s", "put /issues/{id}/questions/{question}": "air",
	"put /classes/{id}/members/{person}": "ir", "put /classes/{id}/groups": "ir",
	"get /messages": "sair", "put /messages": "sair", "get /telling": "sair", "put /telling": "sair",
	"post /telling/calendar": "sair", "delete /telling/calendar": "sair", "get /session/mail": "-sair",
	"post /session/mail": "-sair", "put /session/mail": "-sair", "post /users/{id}/invitation": "ir",
	"get /exercises/{id}/issues": "ir", "post /classes/{id}/gradebook/platform": "ir",
	"put /attempts/{id}/marks/{mark}": "air", "post /attempts/{id}/return": "ir", "post /attempts/{id}/check": "air",
}

// contract lists the routes of openapi.yaml.
func contract(t *testing.T) []string {
	t.Helper()
	data, err := os.ReadFile("../../api/openapi.yaml")
	if err != nil {
		t.Fatal(err)
	}
	paths, _, _ := strings.Cut(string(data), "\ncomponents:")
	var out []string
	path := ""
	for _, line := range strings.Split(paths, "\n") {
		if m := regexp.MustCompile(`^  (/\S*):$`).FindStringSubmatch(line); m != nil {
			path = m[1]
		}
		if m := regexp.MustCompile(`^    (get|post|put|delete|patch):$`).FindStringSubmatch(line); m != nil {
			out = append(out, m[1]+" "+path)
		}
	}
	return out
}

// TestEveryRouteAsEveryRole walks the whole contract as every role and as
// nobody, then once more as students to whom the things are not given, and
// looks in everything that a student gets for traces of the reference.
func TestEveryRouteAsEveryRole(t *testing.T) {
	a := startApp(t)
	waitChecked(t, a, "ottoline", 3)
	people := map[byte]*client{'s': a.client("bram"), 'a': a.client("fenwick"), 'i': a.client("ottoline"),
		'r': a.client("registrar")}
	// Attempt 2 is bram's, at issue 1 or 2 of the exercise of the same title.
	_, body := people['s'].do("GET", "/api/attempts/2", "", "")
	issue := regexp.MustCompile(`"issueId":(\d+)`).FindStringSubmatch(body)
	if issue == nil {
		t.Fatalf("bram's attempt: %s", body)
	}
	// Everybody has a model of their own, with a sketch; asker says whose is meant.
	own, put, asker := map[byte]string{}, map[byte]string{}, byte('s')
	for role, c := range people {
		own[role] = startModel(t, c, `{"name":"Own","unit":"mm"}`, plainPlate)
		code, made := c.do("POST", "/api/assemblies", "application/json", `{"name":"Own","unit":"mm"}`)
		if code != http.StatusCreated {
			t.Fatalf("start an assembly: %d %s", code, made)
		}
		put[role] = regexp.MustCompile(`"id":(\d+)`).FindStringSubmatch(made)[1]
	}
	fill := func(path, id string) string {
		switch {
		case strings.HasPrefix(path, "/models"):
			id = own[asker]
		case strings.HasPrefix(path, "/assemblies"):
			id = put[asker]
		case strings.HasPrefix(path, "/issues"):
			id = issue[1]
		case strings.HasPrefix(path, "/classes"), strings.HasPrefix(path, "/exercises"):
			id = "1"
		}
		switch path { // what a route asks for beside its address
		case "/models/{id}/changes":
			path += "?from=1&to=2"
		case "/classes/{id}/gradebook/file":
			path += "?format=xlsx"
		case "/events":
			path += "?seconds=1"
		case "/models/{id}/export":
			path += "?format=json"
		case "/assemblies/{id}/export":
			path += "?format=stl"
		}
		return "/api" + strings.NewReplacer("{id}", id, "{mark}", "whole", "{step}", "s1", "{person}", "1",
			"{question}", "1", "{part}", "pin",
			"{version}", "1").Replace(path)
	}
	routes := contract(t)
	if len(routes) != len(may) {
		t.Errorf("the contract has %d routes and this test knows %d", len(routes), len(may))
	}
	for _, r := range routes {
		roles, ok := may[r]
		if !ok {
			t.Errorf("%s: nobody has said who may", r)
			continue
		}
		method, path, _ := strings.Cut(r, " ")
		method = strings.ToUpper(method)
		if method != "GET" { // writing with an empty body: refused for the role, or as unreadable
			for _, role := range []byte("sair") {
				if strings.IndexByte(roles, role) >= 0 {
					continue
				}
				kind, request := "application/json", "{}"
				if r == "post /exercises" || r == "post /exercises/{id}/reference" || r == "post /issues/{id}/attempts" {
					kind, request = upload(t, "part.step", []byte("part"))
				}
				if code, body := people[role].do(method, fill(path, "2"), kind, request); !refused(code) {
					t.Errorf("%s as %c: %d %s", r, role, code, body)
				}
			}
		} else {
			for _, role := range []byte("sair") {
				asker = role
				code, body := people[role].do(method, fill(path, "2"), "", "")
				asker = 's'
				allowed := strings.IndexByte(roles, role) >= 0
				excused := strings.HasSuffix(path, "return.pdf") ||
					path == "/assemblies/{id}/export" && code == 422 || // nothing is in it
					(path == "/issues/{id}/given" || path == "/exercises/{id}/whole") && code == 422 || // it is of a part
					role == 's' && (strings.HasSuffix(path, "/mesh") || strings.HasSuffix(path, "/compared"))
				if allowed && code != 200 && !excused || !allowed && !refused(code) {
					t.Errorf("%s as %c: %d %s", r, role, code, cut(body))
				}
			}
		}
		if code, body := a.client("").do(method, fill(path, "2"), "application/json", "{}"); !strings.HasPrefix(roles, "-") &&
			code != http.StatusUnauthorized {
			t.Errorf("%s as nobody: %d %s", r, code, cut(body))
		}
	}
	// Sign-out is part of the walk; everybody comes back.
	student := a.client("bram")
	stranger := a.client("esme") // of another class
	neighbour := a.client("ada") // of the same class
	for _, r := range routes {
		method, path, _ := strings.Cut(r, " ")
		if method != "get" || !strings.Contains(path, "{id}") || strings.IndexByte(may[r], 's') < 0 {
			continue
		}
		if code, body := stranger.do("GET", fill(path, "2"), "", ""); code != http.StatusNotFound {
			t.Errorf("%s for a student of another class: %d %s", r, code, cut(body))
		}
		if code, body := neighbour.do("GET", fill(path, "2"), "", ""); (strings.HasPrefix(path, "/attempts") ||
			strings.HasPrefix(path, "/models") || strings.HasPrefix(path, "/assemblies")) && code != http.StatusNotFound {
			t.Errorf("%s of a neighbour's: %d %s", r, code, cut(body))
		}
	}
	leaks(t, student, routes, fill, "before the return")
	teacher := a.client("ottoline")
	if code, body := teacher.do("POST", "/api/attempts/2/return", "application/json", `{"comment":"Look again."}`); code !=
		http.StatusNoContent {
		t.Fatalf("return: %d %s", code, body)
	}
	leaks(t, student, routes, fill, "after the return")
	reference := fill("/issues/{id}/reference", "")
	if code, _ := student.do("GET", reference, "", ""); code != http.StatusForbidden {
		t.Errorf("an unreleased reference: %d", code)
	}
	if code, body := teacher.do("PUT", fill("/issues/{id}/release", ""), "application/json", `{"released":true}`); code !=
		http.StatusNoContent {
		t.Errorf("release: %d %s", code, body)
	}
	if code, body := student.do("GET", reference, "", ""); code != 200 || !strings.Contains(body, "triangles") {
		t.Errorf("a released reference: %d %s", code, cut(body))
	}
}

// refused tells whether an answer refuses: what somebody may not even see is not found.
func refused(code int) bool { return code == http.StatusForbidden || code == http.StatusNotFound }

func cut(s string) string { return s[:min(len(s), 200)] }

// leaks looks in every answer that a student gets for what only the reference
// has: names of its steps and faces, its figures, its faces' numbers.
func leaks(t *testing.T, student *client, routes []string, fill func(string, string) string, when string) {
	t.Helper()
	traces := []string{"side:crown", "f1/round", `"referenceFaces":[`, "181678", `"entities"`, `"constraints"`}
	for _, r := range routes {
		method, path, _ := strings.Cut(r, " ")
		for _, query := range []string{"", "?format=svg", "?format=pdf", "?format=dxf", "?format=png"} {
			if query != "" && !strings.HasSuffix(path, "/sheet") {
				continue
			}
			if method == "delete" || r == "get /attempts/{id}/file" { // the student's own file
				continue
			}
			_, body := student.do(strings.ToUpper(method), fill(path, "2")+query, "application/json", "")
			more := traces
			if strings.HasPrefix(path, "/models") { // a sketch of the student's own
				more = traces[:4]
			}
			if path != "/attempts/{id}" { // there the student's own sketches have these names
				more = append([]string{"upright outline", "bolt places"}, more...)
			}
			for _, trace := range more {
				if strings.Contains(body, trace) {
					t.Errorf("%s: %s%s yields %q of the reference", when, r, query, trace)
				}
			}
			if strings.Contains(path, "attempts/{id}") && regexp.MustCompile(`"reference":\d`).MatchString(body) {
				t.Errorf("%s: %s yields a figure of the reference", when, r)
			}
		}
	}
}

func TestSignInIsGuarded(t *testing.T) {
	a := startApp(t)
	known := a.client("finn") // from a browser of his own
	c := a.client("")
	for i := range 9 {
		code, body := c.do("POST", "/api/session", "application/json", `{"login":"finn","password":"guess"}`)
		if want := map[bool]int{true: http.StatusUnauthorized, false: http.StatusTooManyRequests}[i < 8]; code != want {
			t.Errorf("guess %d: %d %s", i+1, code, body)
		}
	}
	if code, _ := c.do("POST", "/api/session", "application/json", `{"login":"finn","password":"marrowgate"}`); code !=
		http.StatusTooManyRequests {
		t.Errorf("after too many guesses the right password gives %d", code)
	}
	if code, body := known.do("POST", "/api/session", "application/json",
		`{"login":"finn","password":"marrowgate"}`); code != http.StatusOK {
		t.Errorf("guesses by somebody else lock a student out of a known browser: %d %s", code, body)
	}
	if code, body := c.do("POST", "/api/session", "application/json", `{"login":"x","password":"`+
		strings.Repeat("x", 1<<20)+`"}`); code != http.StatusRequestEntityTooLarge {
		t.Errorf("a sign-in of a megabyte: %d %s", code, cut(body))
	}
	unknown, wrong := "", ""
	_, unknown = c.do("POST", "/api/session", "application/json", `{"login":"nobody","password":"x"}`)
	_, wrong = c.do("POST", "/api/session", "application/json", `{"login":"dov","password":"x"}`)
	if unknown != wrong {
		t.Errorf("the answer tells which logins exist: %s %s", unknown, wrong)
	}
	// A request from another site is refused, whoever is signed in.
	teacher := a.client("ottoline")
	req, err := http.NewRequest("PUT", a.url+"/api/issues/1/release", strings.NewReader(`{"released":true}`))
	if err != nil {
		t.Fatal(err)
	}
	req.Header.Set("Origin", "http://elsewhere.invalid")
	resp, err := teacher.http.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	resp.Body.Close()
	if resp.StatusCode != http.StatusForbidden {
		t.Errorf("a request from another site: %d", resp.StatusCode)
	}
	for _, cookie := range resp.Request.Cookies() {
		if cookie.Name == "hammerset" && cookie.Value == "" {
			t.Error("the session has no value")
		}
	}
	if code, _ := teacher.do("DELETE", "/api/session", "", ""); code != http.StatusNoContent {
		t.Errorf("sign out: %d", code)
	}
	if code, _ := teacher.do("GET", "/api/desk", "", ""); code != http.StatusUnauthorized {
		t.Errorf("after signing out: %d", code)
	}
}

// Bad requests get a clear answer and change nothing.
func TestBadRequests(t *testing.T) {
	a := startApp(t)
	waitChecked(t, a, "ottoline", 3)
	teacher, student := a.client("ottoline"), a.client("finn")
	_, home := student.do("GET", "/api/home", "", "")
	issue := regexp.MustCompile(`"issue":\{.*?"id":(\d+),`).FindStringSubmatch(home)[1]
	b, err := demo.Bundle("gland-flange")
	if err != nil {
		t.Fatal(err)
	}
	big := make([]byte, 66<<20)
	copy(big, "ISO-10303-21;")
	zip, err := b.Zip()
	if err != nil {
		t.Fatal(err)
	}
	due := time.Now().Add(48 * time.Hour).UTC().Format(time.RFC3339)
	past := time.Now().Add(-time.Hour).UTC().Format(time.RFC3339)
	for _, c := range []struct {
		who          *client
		method, path string
		file         []byte
		body         string
		code         int
		say          string
	}{
		{student, "POST", "/api/issues/" + issue + "/attempts", make([]byte, 162<<20), "", 413, "160 MB"},
		{student, "POST", "/api/issues/" + issue + "/attempts", nil, "{}", 400, "no file"},
		{student, "POST", "/api/issues/999/attempts", []byte("x"), "", 404, "not yours"},
		{teacher, "POST", "/api/exercises", []byte("no zip"), "", 422, "zip"},
		{teacher, "POST", "/api/exercises?exercise=999", zip, "", 404, "not there"},
		{teacher, "POST", "/api/exercises/1/issues", nil, fmt.Sprintf(`{"classId":1,"due":%q,"attempts":0,
	"results":"at once"}`, due), 422, "from 1 to 50"},
		{teacher, "POST", "/api/exercises/1/issues", nil, fmt.Sprintf(`{"classId":1,"due":%q,"attempts":3,
	"results":"at once"}`, past), 422, "passed"},
		{teacher, "POST", "/api/exercises/1/issues", nil, fmt.Sprintf(`{"classId":1,"due":%q,"attempts":3,
	"results":"never"}`, due), 422, "at once"},
		{teacher, "POST", "/api/exercises/1/issues", nil, fmt.Sprintf(`{"classId":77,"due":%q,"attempts":3,
	"results":"at once"}`, due), 404, "not there"},
		{teacher, "PUT", "/api/attempts/2/marks/whole", nil, `{"points":99,"reason":"x"}`, 422, "from 0 to 15"},
		{teacher, "PUT", "/api/attempts/2/marks/whole", nil, `{"points":3,"reason":" "}`, 422, "needs a reason"},
		{teacher, "PUT", "/api/attempts/2/marks/beauty", nil, `{"points":3,"reason":"x"}`, 404, "not there"},
		{teacher, "POST", "/api/attempts/3/return", nil, `{"comment":""}`, 409, "only a checked attempt"},
		{teacher, "POST", "/api/attempts/2/check", nil, ``, 404, "not there"},
		{teacher, "GET", "/api/attempts/12345", nil, ``, 404, "not there"},
		{teacher, "GET", "/api/attempts/many", nil, ``, 400, "id"},
		{teacher, "GET", "/api/nothing", nil, ``, 404, "no such address"},
	} {
		kind, body := "application/json", c.body
		if c.file != nil {
			kind, body = upload(t, "file", c.file)
		}
		code, answer := c.who.do(c.method, c.path, kind, body)
		if code != c.code || !strings.Contains(answer, c.say) {
			t.Errorf("%s %s %s: %d %s, want %d and %q", c.method, c.path, cut(c.body), code, cut(answer), c.code, c.say)
		}
	}
	// A file that is too large to be checked is kept, and does not count.
	kind, body := upload(t, "big.step", big)
	_, answer := student.do("POST", "/api/issues/"+issue+"/attempts", kind, body)
	large := regexp.MustCompile(`"id":(\d+)`).FindStringSubmatch(answer)[1]
	for i := 0; !strings.Contains(answer, "at most 64 MB"); i++ {
		if i > 100 {
			t.Fatalf("a large file: %s", cut(answer))
		}
		time.Sleep(200 * time.Millisecond)
		_, answer = student.do("GET", "/api/attempts/"+large, "", "")
	}
	if _, back := student.do("GET", "/api/attempts/"+large+"/file", "", ""); len(back) != len(big) {
		t.Errorf("of a large file %d bytes were kept", len(back))
	}
	// A zip comes in as the next version, and goes out as it came in.
	kind, body = upload(t, "x.zip", zip)
	var code int
	code, answer = teacher.do("POST", "/api/exercises", kind, body)
	if code != 201 || !strings.Contains(answer, `"version":1`) {
		t.Fatalf("import: %d %s", code, cut(answer))
	}
	id := regexp.MustCompile(`"faces":.*?"id":(\d+)`).FindStringSubmatch(answer)
	if id == nil {
		t.Fatalf("import: %s", cut(answer))
	}
	if code, answer = teacher.do("POST", "/api/exercises?exercise="+id[1], kind, body); code != 201 ||
		!strings.Contains(answer, `"version":2`) {
		t.Errorf("a second version: %d %s", code, cut(answer))
	}
	if code, answer = teacher.do("GET", "/api/exercises/"+id[1]+"/bundle", "", ""); code != 200 ||
		len(answer) != len(zip) {
		t.Errorf("export: %d, %d bytes of %d", code, len(answer), len(zip))
	}
	if code, answer = teacher.do("GET", "/api/exercises/"+id[1]+"/atlas", "", ""); code != 200 ||
		!strings.Contains(answer, `"state":"made"`) || !strings.Contains(answer, "nose chamfer is missing") {
		t.Errorf("the mistake atlas: %d %s", code, cut(answer))
	}
}
