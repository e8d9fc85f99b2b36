package oneroster

import (
	"reflect"
	"strings"
	"testing"

	"hammerset/formats/pack"
)

// zipped is a zip of tables, each under the header that the binding gives it.
func zipped(t *testing.T, tables map[string][]string) []byte {
	t.Helper()
	var files []pack.File
	for name, rows := range tables {
		text := strings.Join(append([]string{strings.Join(Header(name), ",")}, rows...), "\r\n") + "\r\n"
		files = append(files, pack.File{Name: name, Body: []byte(text)})
	}
	data, err := pack.Write(files)
	if err != nil {
		t.Fatal(err)
	}
	return data
}

// whole is a file as a school's system writes it: two classes, three people.
func whole() map[string][]string {
	return map[string][]string{
		"manifest.csv": {"manifest.version,1.0", "oneroster.version,1.2", "file.academicSessions,absent",
			"file.classes,bulk", "file.enrollments,bulk", "file.roles,bulk", "file.users,bulk"},
		"classes.csv": {`k1,,,"Lock fitters, first year",,c1,,scheduled,,s1,t1,,,`, `k2,,,Évening,,c1,,scheduled,,s1,t1,,,`},
		"users.csv": {"u1,,,true,wren,,Wren,Hollowell,,,wren@example.org,,,,,,,,,,,,",
			"u2,,,true,nguyen,,Thị Minh,Nguyễn,Khai,,,,,,,,,,,,,,",
			"u3,,,false,ottoline,,Ottoline,Brack,,,,,,,,,,,,,,,"},
		"roles.csv": {"r1,,,u1,primary,student,,,s1,"},
		"enrollments.csv": {"e1,,,k1,s1,u1,student,false,,", "e2,,,k1,s1,u3,teacher,true,,",
			"e3,,,k2,s1,u2,student,false,,"},
	}
}

// The names and the order of the columns are those of the tables of "OneRoster 1.2 CSV Binding", 1EdTech (2022),
// section 4 (from memory): the first and the last of each, and how many there are.
func TestHeaders(t *testing.T) {
	for name, c := range map[string]struct {
		first, last string
		count       int
	}{"manifest.csv": {"propertyName", "value", 2}, "classes.csv": {"sourcedId", "periods", 14},
		"users.csv": {"sourcedId", "pronouns", 23}, "roles.csv": {"sourcedId", "userProfileSourcedId", 10},
		"enrollments.csv": {"sourcedId", "endDate", 10}} {
		h := Header(name)
		if len(h) != c.count || h[0] != c.first || h[len(h)-1] != c.last {
			t.Errorf("%s: %d columns from %s to %s", name, len(h), h[0], h[len(h)-1])
		}
	}
}

func TestRead(t *testing.T) {
	data := zipped(t, whole())
	if !Is(data) || Is([]byte("name,login")) {
		t.Error("the file is not told by its manifest")
	}
	got, err := Read(data)
	if err != nil {
		t.Fatal(err)
	}
	want := &Roster{
		Classes: []Class{{"k1", "Lock fitters, first year"}, {"k2", "Évening"}},
		Users: []User{{ID: "u1", Login: "wren", Name: "Wren Hollowell", Mail: "wren@example.org", Line: 2},
			{ID: "u2", Login: "nguyen", Name: "Thị Minh Khai Nguyễn", Line: 3},
			{ID: "u3", Login: "ottoline", Name: "Ottoline Brack", Disabled: true, Line: 4}},
		Enrollments: []Enrollment{{"k1", "u1", "student", 2}, {"k1", "u3", "teacher", 3}, {"k2", "u2", "student", 4}},
	}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("read\n%+v\nand not\n%+v", got, want)
	}
}

// What cannot be read is told by table, line and column.
func TestFaults(t *testing.T) {
	for name, c := range map[string]struct {
		change func(tables map[string][]string)
		says   string
	}{
		"no zip of a roster": {func(m map[string][]string) { delete(m, "manifest.csv") }, "no manifest.csv"},
		"another version": {func(m map[string][]string) { m["manifest.csv"][1] = "oneroster.version,1.1" },
			`version "1.1"`},
		"no users": {func(m map[string][]string) { m["manifest.csv"][6] = "file.users,absent" },
			"users.csv is absent"},
		"only what changed": {func(m map[string][]string) { m["manifest.csv"][4] = "file.enrollments,delta" }, "delta"},
		"a table less":      {func(m map[string][]string) { delete(m, "classes.csv") }, "no classes.csv"},
		"a status": {func(m map[string][]string) { m["enrollments.csv"][1] = "e2,active,,k1,s1,u3,teacher,true,," },
			"enrollments.csv, line 3: status"},
		"a quote that does not end": {func(m map[string][]string) { m["classes.csv"][0] = `k1,,,"Lock` }, "classes.csv: "},
	} {
		tables := whole()
		c.change(tables)
		if _, err := Read(zipped(t, tables)); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := Read([]byte("name,login\nWren,wren\n")); err == nil {
		t.Error("a table by itself is taken for a zip")
	}
}
