package e2e

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// get asks with headers of its own and gives the answer as it came over the wire.
func (c *client) get(path string, headers ...string) (*http.Response, []byte) {
	c.t.Helper()
	req, err := http.NewRequest("GET", c.url+path, nil)
	if err != nil {
		c.t.Fatal(err)
	}
	for i := 0; i+1 < len(headers); i += 2 {
		req.Header.Set(headers[i], headers[i+1])
	}
	resp, err := c.http.Do(req)
	if err != nil {
		c.t.Fatal(err)
	}
	defer resp.Body.Close()
	body, err := io.ReadAll(resp.Body)
	if err != nil {
		c.t.Fatal(err)
	}
	return resp, body
}

// TestServer looks at what a server must do beside answering: it says how it is, sends packed and
// lets things be kept, leaves nothing behind, and holds a damaged file against nobody.
func TestServer(t *testing.T) {
	temp := t.TempDir()
	t.Setenv("TMPDIR", temp)
	a := startAloneApp(t)
	waitChecked(t, a, "ottoline", 3)
	teacher, dov := a.client("ottoline"), a.client("dov")

	if resp, body := a.client("").get("/healthz"); resp.StatusCode != 200 || string(body) != "ok\n" {
		t.Errorf("healthz: %d %q", resp.StatusCode, body)
	}
	for _, path := range []string{"/api", "/api/nowhere/at/all"} {
		if resp, body := teacher.get(path); resp.StatusCode != 404 || !strings.HasPrefix(resp.Header.Get("Content-Type"),
			"application/json") {
			t.Errorf("%s: %d %s", path, resp.StatusCode, cut(string(body)))
		}
	}
	_, page := teacher.get("/")
	script := regexp.MustCompile(`/assets/index-[^"]+\.js`).Find(page)
	for _, path := range []string{string(script), "/api/issues/1/sheet", "/api/issues/1/reference"} {
		resp, packed := teacher.get(path, "Accept-Encoding", "gzip")
		z, err := gzip.NewReader(bytes.NewReader(packed))
		if err != nil {
			t.Errorf("%s is not sent packed: %v", path, err)
			continue
		}
		if plain, err := io.ReadAll(z); err != nil || len(plain) < 2*len(packed) {
			t.Errorf("%s: %d bytes packed of %d, %v", path, len(packed), len(plain), err)
		}
		if tag := resp.Header.Get("ETag"); strings.HasPrefix(path, "/api") {
			if resp, _ := teacher.get(path, "If-None-Match", tag); tag == "" || resp.StatusCode != http.StatusNotModified {
				t.Errorf("%s is sent again although nothing changed: %q %d", path, tag, resp.StatusCode)
			}
		}
	}

	// Ten megabytes leave nothing in the temporary folder.
	big := bytes.Repeat([]byte("not a model at all; "), 10<<20/20)
	kind, body := upload(t, "big.txt", big)
	if code, answer := dov.do("POST", "/api/issues/1/attempts", kind, body); code != 201 {
		t.Fatalf("a large file: %d %s", code, answer)
	}
	if left, err := filepath.Glob(filepath.Join(temp, "multipart-*")); err != nil || len(left) > 0 {
		t.Errorf("uploads stay behind: %v %v", left, err)
	}

	// A file that makes the library crash: one clear answer, and no attempt is used.
	crash, err := os.ReadFile("../../kernel/pool/testdata/crash.step")
	if err != nil {
		t.Fatal(err)
	}
	kind, body = upload(t, "naïve \xff\xfe.step", crash)
	code, answer := dov.do("POST", "/api/issues/1/attempts", kind, body)
	if code != 201 {
		t.Fatalf("a name that is no text: %d %s", code, answer)
	}
	id := regexp.MustCompile(`"id":(\d+)`).FindStringSubmatch(answer)[1]
	eventually(t, "the damaged file is answered", func() bool {
		_, answer = dov.do("GET", "/api/attempts/"+id, "", "")
		return strings.Contains(answer, `"state":"unusable"`) && strings.Contains(answer, "damaged")
	})
	eventually(t, "neither the large nor the damaged file has used an attempt", func() bool {
		_, home := dov.do("GET", "/api/issues/1", "", "")
		return strings.Contains(home, `"left":3`)
	})

	// A return can be taken back until the student goes on; an emoji in it is no obstacle.
	_, desk := teacher.do("GET", "/api/issues/1/class", "", "")
	first := regexp.MustCompile(`"row":\{[^}]*?"id":(\d+)[^}]*?"state":"checked"`).FindStringSubmatch(desk)
	if first == nil {
		t.Fatalf("nothing to return: %s", cut(desk))
	}
	path := "/api/attempts/" + first[1] + "/return"
	if code, answer := teacher.do("POST", path, "application/json", `{"comment":"Well done 🎉","looked":true}`); code !=
		204 {
		t.Fatalf("return: %d %s", code, answer)
	}
	if resp, pdf := teacher.get(path + ".pdf"); resp.StatusCode != 200 || !bytes.HasPrefix(pdf, []byte("%PDF-")) {
		t.Errorf("the return's PDF: %d %s", resp.StatusCode, cut(string(pdf)))
	}
	if code, answer := teacher.do("DELETE", path, "", ""); code != 204 {
		t.Errorf("taking it back: %d %s", code, answer)
	}
	if code, answer := teacher.do("DELETE", path, "", ""); code != 404 {
		t.Errorf("taking it back twice: %d %s", code, answer)
	}

	// Marks keep their cents.
	_, attempt := teacher.do("GET", "/api/attempts/"+first[1], "", "")
	mark := regexp.MustCompile(`"id":"characteristics"[^}]*?"outOf":(\d+)`).FindStringSubmatch(attempt)
	if mark == nil {
		t.Fatalf("no mark: %s", cut(attempt))
	}
	if code, answer := teacher.do("PUT", "/api/attempts/"+first[1]+"/marks/characteristics", "application/json",
		`{"points":33.33,"reason":"by hand"}`); code != 204 {
		t.Errorf("33.33 points: %d %s", code, answer)
	}
	if _, attempt = teacher.do("GET", "/api/attempts/"+first[1], "", ""); !strings.Contains(attempt, `"points":33.33,`) ||
		!strings.Contains(attempt, "to 33.33: by hand") {
		t.Errorf("33.33 points are kept as %s", regexp.MustCompile(`33\.3\d*`).FindAllString(attempt, 4))
	}

	// Attempts beside one another show the marks that count, changed as they were.
	var own struct {
		Row   struct{ IssueID int64 }
		Marks []struct{ Points float64 }
	}
	if err := json.Unmarshal([]byte(attempt), &own); err != nil {
		t.Fatal(err)
	}
	together := 0.0
	for _, m := range own.Marks {
		together += m.Points
	}
	var class struct {
		Attempts []struct {
			Row    struct{ ID int64 }
			Points float64
		}
	}
	_, beside := teacher.do("GET", fmt.Sprintf("/api/issues/%d/class", own.Row.IssueID), "", "")
	if err := json.Unmarshal([]byte(beside), &class); err != nil {
		t.Fatalf("%v: %s", err, cut(beside))
	}
	found := false
	for _, x := range class.Attempts {
		if fmt.Sprint(x.Row.ID) == first[1] {
			found = math.Abs(x.Points-together) < 1e-9
		}
	}
	if !found || together == 0 {
		t.Errorf("%v points are not beside the others as they are: %+v", together, class.Attempts)
	}

	// An exercise whose reference has no parameters is a page like any other.
	kind, body = upload(t, "plain block.json",
		[]byte(plateDocument("Plain block", plainPlate+`,{"id":"e1","kind":"extrude","sketch":"s1","regions":"all",
	"extent":{"kind":"one-side","length":"8 mm"},"result":"add"}`)))
	body = strings.Replace(strings.Replace(body, `{"name":"w","value":"22 mm"}`, "", 1), `"value":"w"`, `"value":"22"`, 1)
	code, answer = teacher.do("POST", "/api/exercises", kind, body)
	if code != 201 {
		t.Fatalf("an exercise without parameters: %d %s", code, cut(answer))
	}
	exercise := regexp.MustCompile(`"id":(\d+),"issues":\[\]`).FindStringSubmatch(answer)
	if exercise == nil {
		t.Fatalf("the exercise: %s", answer)
	}
	p := signIn(t, startBrowser(t), a, "ottoline")
	p.open(fmt.Sprintf("/exercises/%s", exercise[1]))
	p.see("Plain block")
	p.see("no sizes of its own to vary")
	if title := p.MustInfo().Title; !strings.HasPrefix(title, "Plain block") {
		t.Errorf("the window is called %q", title)
	}
}
