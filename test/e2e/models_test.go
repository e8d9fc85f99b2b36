package e2e

import (
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
)

// plainPlate is a step: a rectangle of 40 by w in the corner of the origin, drawn
// roughly.
const plainPlate = `{"id":"s1","kind":"sketch","name":"outline","plane":{"datum":"XY"},"entities":[{"id":"p1",
	"kind":"point","at":[0.3,0.2]},{"id":"p2","kind":"point","at":[38,1]},{"id":"p3","kind":"point","at":[39,22]},
	{"id":"p4","kind":"point","at":[-1,21]},
{"id":"l1","kind":"line","from":"p1","to":"p2"},{"id":"l2","kind":"line","from":"p2","to":"p3"},{"id":"l3",
	"kind":"line","from":"p3","to":"p4"},{"id":"l4","kind":"line","from":"p4","to":"p1"}],
"constraints":[{"id":"k0","kind":"coincident","of":["p1","origin"]},{"id":"k1","kind":"horizontal","of":["l1"]},
	{"id":"k2","kind":"vertical","of":["l2"]},{"id":"k3","kind":"horizontal","of":["l3"]},{"id":"k4","kind":"vertical",
	"of":["l4"]},{"id":"d1","kind":"length","of":["l1"],"value":"40"},{"id":"d2","kind":"length","of":["l2"],
	"value":"w"}]}`

func plateDocument(name, steps string) string {
	return fmt.Sprintf(`{"hammerset":"model/1","name":%q,"unit":"mm","parameters":[{"name":"w","value":"22 mm"}],
	"steps":[%s]}`, name, steps)
}

// startModel makes a model with steps and gives its number.
func startModel(t *testing.T, c *client, body, steps string) string {
	t.Helper()
	code, answer := c.do("POST", "/api/models", "application/json", body)
	var m struct {
		Row struct {
			ID      json.Number
			Version int
		}
	}
	if err := json.Unmarshal([]byte(answer), &m); err != nil || code != http.StatusCreated {
		t.Fatalf("start a model: %d %s", code, answer)
	}
	if code, answer := c.do("PUT", "/api/models/"+m.Row.ID.String(), "application/json",
		fmt.Sprintf(`{"version":%d,"document":%s}`, m.Row.Version, plateDocument("Own", steps))); code != 200 {
		t.Fatalf("save the model: %d %s", code, answer)
	}
	return m.Row.ID.String()
}

// A model is kept under its version, solved again by the server, and stays with
// its owner; what cannot be read is refused with its place, and nothing is lost.
func TestModelsAreKept(t *testing.T) {
	a := startApp(t)
	ada, bram, teacher := a.client("ada"), a.client("bram"), a.client("ottoline")
	id := startModel(t, ada, `{"name":"Own","unit":"mm"}`, plainPlate)
	address := "/api/models/" + id
	save := func(c *client, version int, document string) (int, string) {
		return c.do("PUT", address, "application/json", fmt.Sprintf(`{"version":%d,"document":%s}`, version, document))
	}
	// The rough plate is solved: the server says how far it was drawn from that.
	code, body := save(ada, 2, plateDocument("Plate", plainPlate))
	if code != 200 || !strings.Contains(body, `"agrees":false`) || !strings.Contains(body, `"freedom":0`) ||
		!strings.Contains(body, `"name":"Plate"`) {
		t.Errorf("save: %d %s", code, body)
	}
	for _, c := range []struct {
		name     string
		who      *client
		version  int
		document string
		code     int
		say      string
	}{
		{"a stale version", ada, 2, plateDocument("Late", plainPlate), http.StatusConflict, "another window"},
		{"somebody else's", bram, 3, plateDocument("Mine", plainPlate), http.StatusNotFound, "not yours"},
		{"the instructor's eye", teacher, 3, plateDocument("Mine", plainPlate), http.StatusNotFound, "not yours"},
		{"no document", ada, 3, `{"hammerset":"model/1"}`, http.StatusUnprocessableEntity, "missing"},
		{"a wrong field", ada, 3, strings.Replace(plateDocument("P", plainPlate), `"at":[38,1]`, `"at":[38]`, 1),
			http.StatusUnprocessableEntity, "/steps/0/entities/1/at"},
		{"a name used twice", ada, 3, plateDocument("P", plainPlate+","+plainPlate), http.StatusUnprocessableEntity,
			"/steps/1/id"},
	} {
		if code, body := save(c.who, c.version, c.document); code != c.code || !strings.Contains(body, c.say) {
			t.Errorf("%s: %d %s", c.name, code, body)
		}
	}
	if _, body := ada.do("GET", address, "", ""); !strings.Contains(body, `"name":"Plate"`) ||
		!strings.Contains(body, `"version":3`) {
		t.Errorf("the model is %s", cut(body))
	}
	// A sketch is placed for editing; one that is not there is said.
	if code, body := ada.do("GET", address+"/sketches/s1", "", ""); code != 200 ||
		!strings.Contains(body, `"plane":"XY"`) || !strings.Contains(body, `"edges":[]`) {
		t.Errorf("the sketch: %d %s", code, body)
	}
	if code, body := ada.do("GET", address+"/sketches/s9", "", ""); code != http.StatusUnprocessableEntity ||
		!strings.Contains(body, "no sketch") {
		t.Errorf("a sketch that is not there: %d %s", code, body)
	}
	// With a solid before it, a sketch on its top can trace the edges of that.
	steps := plainPlate + `,{"id":"e1","kind":"extrude","sketch":"s1","regions":"all","extent":{"kind":"one-side",
	"length":"2*w"}},{"id":"s2","kind":"sketch","plane":{"face":"e1/end"},"entities":[],"constraints":[]}`
	if code, body := save(ada, 3, plateDocument("Plate", steps)); code != 200 {
		t.Fatalf("save: %d %s", code, body)
	}
	code, body = ada.do("GET", address+"/sketches/s2", "", "")
	var placed struct {
		Edges     []struct{ Faces []string }
		Elsewhere []string
	}
	if err := json.Unmarshal([]byte(body), &placed); err != nil || code != 200 {
		t.Fatalf("%d %s", code, cut(body))
	}
	// four above, four below; upright ones are points
	if len(placed.Edges) != 8 || !strings.Contains(fmt.Sprint(placed.Elsewhere), "2*w") {
		t.Errorf("%d edges to trace, formulas elsewhere %v", len(placed.Edges), placed.Elsewhere)
	}
	// The reference is nobody's to copy but the staff's.
	if code, body := ada.do("POST", "/api/models", "application/json",
		`{"name":"Key","unit":"mm","exerciseId":1}`); code != http.StatusNotFound {
		t.Errorf("a student copies the reference: %d %s", code, cut(body))
	}
	// An instructor changes the reference and makes it the exercise's next version.
	code, body = teacher.do("POST", "/api/models", "application/json", `{"name":"Key","unit":"mm","exerciseId":1}`)
	var key struct {
		Row      struct{ ID json.Number }
		Document json.RawMessage
	}
	if err := json.Unmarshal([]byte(body), &key); err != nil || code != http.StatusCreated {
		t.Fatalf("the reference: %d %s", code, cut(body))
	}
	changed := strings.Replace(string(key.Document), `"120 mm"`, `"124 mm"`, 1)
	if code, body := teacher.do("PUT", "/api/models/"+key.Row.ID.String(), "application/json", `{"version":1,"document":`+
		changed+`}`); code != 200 {
		t.Fatalf("save the reference: %d %s", code, cut(body))
	}
	if code, body := teacher.do("POST", "/api/models/"+key.Row.ID.String()+"/promote", "application/json", ""); code !=
		http.StatusCreated || !strings.Contains(body, `"version":2`) || !strings.Contains(body, `"text":"124"`) {
		t.Errorf("promote: %d %s", code, cut(body))
	}
	if code, _ := ada.do("DELETE", address, "", ""); code != http.StatusNoContent {
		t.Errorf("remove: %d", code)
	}
	if code, _ := ada.do("GET", address, "", ""); code != http.StatusNotFound {
		t.Errorf("a removed model: %d", code)
	}
}

// A student's own model goes all the way: begun, its sketch repaired on the
// drawing board, handed in, and read by the instructor with what the check says of
// its sketches.
func modelIsHandedIn(t *testing.T, a *app, br *rod.Browser) {
	ada := signIn(t, br, a, "ada")
	ada.press("My models")
	ada.find("a", "Bracket, begun").MustClick()
	ada.MustElement("[data-state=rebuilt]")
	ada.MustElement("[data-view] canvas")

	// A file that is no model document is refused with its place, and the model
	// stays.
	folder := t.TempDir()
	give := func(name, data string) {
		t.Helper()
		file := filepath.Join(folder, name)
		if err := os.WriteFile(file, []byte(data), 0o644); err != nil {
			t.Fatal(err)
		}
		ada.MustElement(`input[aria-label="Model document"]`).MustSetFiles(file)
	}
	give("notes.json", "half past nine")
	ada.find("[role=alert]", "not readable as JSON")
	ada.press("Close")
	give("other.json", strings.Replace(plateDocument("Other", plainPlate), `"unit":"mm"`, `"unit":"cubit"`, 1))
	ada.find("[role=alert]", "/unit")
	ada.press("Close")
	ada.find("[data-step=s1]", "base outline")

	// The repeated size is repaired on the drawing board, and undone, and repaired.
	b := ada.openBoard("/models/1/sketches/s1")
	b.want("2 loose")
	sizes := b.count(".k-size")
	for _, want := range []int{sizes - 3, sizes, sizes - 3} {
		if want == sizes {
			b.press("Undo")
		} else {
			b.find("li[data-finding=repeated] .btn", "Keep one of them").MustClick()
		}
		b.settled()
		for range 50 {
			if b.count(".k-size") == want {
				break
			}
			time.Sleep(100 * time.Millisecond)
		}
		if n := b.count(".k-size"); n != want {
			t.Errorf("%d sizes, want %d", n, want)
		}
	}
	b.find("li[data-finding=unnamed] .btn", "Write bolt").MustClick()
	b.settled()
	b.saved()

	// Handed in, checked, and read.
	b.find("a", "Bracket, begun").MustClick()
	m := &bench{ada}
	m.menu("Hand in …")
	m.find("button", "Hand in this model").MustClick()
	b.see("The attempt is handed in")
	attempt := regexp.MustCompile(`/attempts/(\d+)`).FindStringSubmatch(b.MustInfo().URL)
	if attempt == nil {
		t.Fatalf("after handing in: %s", b.MustInfo().URL)
	}
	teacher := a.client("ottoline")
	var got struct {
		Report struct {
			Sketches []struct {
				Freedom   int
				Notes     []struct{ Kind, What string }
				Intervals []struct {
					Parameter string
					Low, High struct {
						Value, Why string
						Open       bool
					}
				}
			}
		}
	}
	for range 200 {
		_, body := teacher.do("GET", "/api/attempts/"+attempt[1], "", "")
		if err := json.Unmarshal([]byte(body), &got); err != nil {
			t.Fatal(err)
		}
		if len(got.Report.Sketches) > 0 {
			break
		}
		time.Sleep(300 * time.Millisecond)
	}
	if len(got.Report.Sketches) != 1 {
		t.Fatal("the model was not checked in time")
	}
	s := got.Report.Sketches[0]
	kinds := ""
	for _, n := range s.Notes {
		kinds += n.Kind + " "
	}
	if s.Freedom != 2 || kinds != "loose two-sided " {
		t.Errorf("freedom %d, notes %s", s.Freedom, kinds)
	}
	// The upper holes meet the sides when the width grows by 15 mm: the sides are
	// typed and stay at 60 mm, the holes go out by half of it to 60 - 4.5.
	seen := false
	for _, i := range s.Intervals {
		if i.Parameter == "width" {
			seen = true
			if i.High.Open || !strings.HasPrefix(i.High.Value, "13") || !strings.Contains(i.High.Why, "meet") {
				t.Errorf("width: %+v", i)
			}
		}
	}
	if !seen {
		t.Error("the width has no interval")
	}
	ottoline := signIn(t, br, a, "ottoline")
	ottoline.open("/attempts/" + attempt[1])
	ottoline.see("How far the sketches hold")
	ottoline.find("td", "held symmetric about the y axis by two sizes of 60")
	ottoline.find("table[aria-label='Intervals of the sketches'] td", "width")

	// A model is removed only when that is meant.
	ada.open("/models/1")
	m.menu("Remove this model …")
	ada.press("Not now")
	m.menu("Remove this model …")
	ada.press("Remove it for good")
	ada.find("h1", "My models")
	if _, body := a.client("ada").do("GET", "/api/models/1", "", ""); !strings.Contains(body, "not there") {
		t.Errorf("the removed model: %s", cut(body))
	}
}
