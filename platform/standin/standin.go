// Package standin is a small learning platform that ships with the demo: it has a roster, and takes results and shows
// them.
package standin

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"html/template"
	"io"
	"net/http"
	"slices"
	"strings"
	"sync"

	"hammerset/formats/oneroster"
	"hammerset/formats/pack"
)

// largest is how large results may be.
const largest = 8 << 20

// Score is a result that was taken.
type Score struct {
	Exercise, Student, Score string
	Late, Missing            bool
}

// Platform is the stand-in. It forgets what it took when the demo ends.
type Platform struct {
	mu     sync.Mutex
	scores []Score // by exercise and student, the newest in place of what was there
}

// pupils are the people of the roster: a class of beginners, invented as all of the demo.
var pupils = [][3]string{{"Juniper", "Sluice", "juniper"}, {"Corin", "Wharfedale", "corin"},
	{"Maud", "Lockstone", "maud"}, {"Éamon", "Reedbank", "eamon"}, {"Tamsin", "Ferrier", "tamsin"}}

// Roster is the roster of the platform, as OneRoster 1.2 CSV.
func Roster() ([]byte, error) {
	lines := map[string][][]string{
		"manifest.csv": {{"manifest.version", "1.0"}, {"oneroster.version", "1.2"}, {"file.classes", "bulk"},
			{"file.enrollments", "bulk"}, {"file.roles", "bulk"}, {"file.users", "bulk"}},
		"classes.csv": {row("classes.csv", map[string]string{"sourcedId": "beginners", "title": "Boatyard beginners",
			"classType": "scheduled"})},
	}
	for _, p := range pupils {
		lines["users.csv"] = append(lines["users.csv"], row("users.csv", map[string]string{"sourcedId": "person-" + p[2],
			"enabledUser": "true", "username": p[2], "givenName": p[0], "familyName": p[1],
			"email": p[2] + "@marrowgate.example"}))
		lines["roles.csv"] = append(lines["roles.csv"], row("roles.csv", map[string]string{"sourcedId": "role-" + p[2],
			"userSourcedId": "person-" + p[2], "roleType": "primary", "role": "student"}))
		lines["enrollments.csv"] = append(lines["enrollments.csv"], row("enrollments.csv", map[string]string{
			"sourcedId": "place-" + p[2], "classSourcedId": "beginners", "userSourcedId": "person-" + p[2],
			"role": "student", "primary": "false"}))
	}
	var files []pack.File
	for _, name := range []string{"manifest.csv", "classes.csv", "users.csv", "roles.csv", "enrollments.csv"} {
		var b bytes.Buffer
		w := csv.NewWriter(&b)
		w.UseCRLF = true
		if err := w.WriteAll(slices.Concat([][]string{oneroster.Header(name)}, lines[name])); err != nil {
			return nil, err
		}
		files = append(files, pack.File{Name: name, Body: b.Bytes()})
	}
	return pack.Write(files)
}

// row is a line of a table with some columns filled.
func row(name string, of map[string]string) []string {
	header := oneroster.Header(name)
	out := make([]string, len(header))
	for i, column := range header {
		out[i] = of[column]
	}
	return out
}

// Take takes results, as a zip of OneRoster CSV.
func (p *Platform) Take(data []byte) error {
	a, err := pack.Open(data)
	if err != nil {
		return err
	}
	items, err := table(a, "lineItems.csv")
	if err != nil {
		return err
	}
	results, err := table(a, "results.csv")
	if err != nil {
		return err
	}
	titles := map[string]string{}
	for _, r := range items {
		titles[r["sourcedId"]] = r["title"]
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	for _, r := range results {
		title, ok := titles[r["lineItemSourcedId"]]
		if !ok {
			return fmt.Errorf("results.csv: %q is in no line of lineItems.csv", r["lineItemSourcedId"])
		}
		s := Score{title, r["studentSourcedId"], r["score"], r["late"] == "true", r["missing"] == "true"}
		p.scores = slices.DeleteFunc(p.scores, func(o Score) bool {
			return o.Exercise == s.Exercise && o.Student == s.Student
		})
		p.scores = append(p.scores, s)
	}
	slices.SortFunc(p.scores, func(a, b Score) int {
		return strings.Compare(a.Exercise+"\x00"+a.Student, b.Exercise+"\x00"+b.Student)
	})
	return nil
}

// table reads a table of a zip, its lines by the names of their columns.
func table(a *pack.Archive, name string) ([]map[string]string, error) {
	data, err := a.Read(name)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	lines, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
	if err != nil || len(lines) == 0 {
		return nil, errors.Join(err, fmt.Errorf("%s is no table", name))
	}
	var out []map[string]string
	for _, cells := range lines[1:] {
		r := map[string]string{}
		for i, column := range lines[0] {
			r[column] = cells[i]
		}
		out = append(out, r)
	}
	return out, nil
}

// Scores are the results that were taken.
func (p *Platform) Scores() []Score {
	p.mu.Lock()
	defer p.mu.Unlock()
	return slices.Clone(p.scores)
}

var page = template.Must(template.New("platform").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Learning platform of the demo school</title>
<meta name="viewport" content="width=device-width, initial-scale=1">
<style>body{font:16px/1.5 system-ui,sans-serif;max-width:46rem;margin:2rem auto;padding:0 1rem}
body{background:#f2ead8;color:#1b2733}
table{border-collapse:collapse;background:#fdf9ef;width:100%}
td,th{border:1px solid #d9ccb0;padding:.3rem .6rem;text-align:left}
a{color:#7a3410}</style></head>
<body><main><h1>Learning platform of the demo school</h1>
<p>A stand-in: it has a roster, which an instructor takes over on the page of a class,
and takes results from a gradebook.</p>
<p><a href="/platform/roster.zip">The roster as OneRoster 1.2 CSV</a></p>
<h2>Results that were taken</h2>
{{if .}}<table><thead><tr><th>Exercise</th><th>Student</th><th>Percent</th><th></th></tr></thead><tbody>
{{range .}}<tr><td>{{.Exercise}}</td><td>{{.Student}}</td><td>{{.Score}}</td>
<td>{{if .Late}}late{{end}}{{if .Missing}}missing{{end}}</td></tr>{{end}}</tbody></table>
{{else}}<p>None yet.</p>{{end}}
</main></body></html>`))

// ServeHTTP answers below /platform: the page, the roster, and what gives it results.
func (p *Platform) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	w.Header().Set("Cache-Control", "no-store")
	switch r.Method + " " + r.URL.Path {
	case "GET /platform":
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_ = page.Execute(w, p.Scores()) // nobody listens any more
	case "GET /platform/roster.zip":
		data, err := Roster()
		if err != nil {
			http.Error(w, err.Error(), http.StatusInternalServerError)
			return
		}
		w.Header().Set("Content-Type", "application/zip")
		w.Header().Set("Content-Disposition", `attachment; filename="roster.zip"`)
		_, _ = w.Write(data) // nobody listens any more
	case "POST /platform/results":
		data, err := io.ReadAll(http.MaxBytesReader(w, r.Body, largest))
		if err == nil {
			err = p.Take(data)
		}
		if err != nil {
			http.Error(w, err.Error(), http.StatusBadRequest)
			return
		}
		w.WriteHeader(http.StatusNoContent)
	default:
		http.NotFound(w, r)
	}
}
