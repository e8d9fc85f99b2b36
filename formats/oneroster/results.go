package oneroster

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"strconv"
	"time"

	"hammerset/formats/pack"
)

// Results are the results of a class, for the gradebook of a school's system: each in percent.
type Results struct {
	Class   string // its sourcedId
	Items   []LineItem
	Results []Result
}

// LineItem is an exercise: a line of lineItems.csv.
type LineItem struct {
	ID, Title     string
	Assigned, Due time.Time
	Most          float64 // the largest score
}

// Result is a student's score: a line of results.csv.
type Result struct {
	Item, Student string // their sourcedIds
	Score         float64
	Late, Missing bool
}

// IDOf is a sourcedId: what something is called where it came from, or else of what kind and number it is here.
func IDOf(source *string, kind string, id int64) string {
	if source != nil && *source != "" {
		return *source
	}
	return fmt.Sprintf("hammerset-%s-%d", kind, id)
}

// resultHeader gives the columns of the tables of results, in the order of the binding.
func resultHeader(name string) []string {
	return map[string][]string{
		"lineItems.csv": {"sourcedId", "status", "dateLastModified", "title", "description", "assignDate", "dueDate",
			"classSourcedId", "categorySourcedId", "gradingPeriodSourcedId", "resultValueMin", "resultValueMax",
			"schoolSourcedId", "scoreScaleSourcedId"},
		"results.csv": {"sourcedId", "status", "dateLastModified", "lineItemSourcedId", "studentSourcedId", "scoreStatus",
			"score", "scoreDate", "comment", "classSourcedId", "inProgress", "incomplete", "late", "missing"},
	}[name]
}

// Write writes results as a zip with its manifest.
func Write(r Results) ([]byte, error) {
	number := func(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }
	day := func(t time.Time) string { return t.UTC().Format(time.DateOnly) }
	items := [][]string{resultHeader("lineItems.csv")}
	for _, i := range r.Items {
		items = append(items, []string{i.ID, "", "", i.Title, "", day(i.Assigned), day(i.Due), r.Class, "", "", "0",
			number(i.Most), "", ""})
	}
	results := [][]string{resultHeader("results.csv")}
	for _, x := range r.Results {
		results = append(results, []string{x.Item + "-" + x.Student, "", "", x.Item, x.Student, "fully graded",
			number(x.Score), "", "", r.Class, "false", "false", strconv.FormatBool(x.Late), strconv.FormatBool(x.Missing)})
	}
	manifest := [][]string{Header("manifest.csv"), {"manifest.version", "1.0"}, {"oneroster.version", "1.2"}}
	for _, table := range []string{"academicSessions", "categories", "classes", "classResources", "courses",
		"courseResources", "demographics", "enrollments", "lineItemLearningObjectiveIds", "lineItems", "lineItemScoreScales",
		"orgs", "resources", "resultLearningObjectiveIds", "results", "resultScoreScales", "roles", "scoreScales",
		"userProfiles", "userResources", "users"} {
		how := "absent"
		if table == "lineItems" || table == "results" {
			how = "bulk"
		}
		manifest = append(manifest, []string{"file." + table, how})
	}
	var files []pack.File
	for _, f := range []struct {
		name string
		rows [][]string
	}{{"manifest.csv", manifest}, {"lineItems.csv", items}, {"results.csv", results}} {
		var b bytes.Buffer
		w := csv.NewWriter(&b)
		w.UseCRLF = true
		if err := w.WriteAll(f.rows); err != nil {
			return nil, fmt.Errorf("%s: %w", f.name, err)
		}
		files = append(files, pack.File{Name: f.name, Body: b.Bytes()})
	}
	return pack.Write(files)
}
