// Package oneroster reads the rosters that schools' systems write: the CSV binding of OneRoster 1.2, a zip of tables
// with a manifest. Names of tables and columns are those of "OneRoster 1.2 CSV Binding" (1EdTech, 2022), as far as
// rosters of classes need them.
package oneroster

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"hammerset/formats/pack"
	"hammerset/formats/table"
)

// Roster is what a file says: classes, people, and who is what to which class.
type Roster struct {
	Classes     []Class
	Users       []User
	Enrollments []Enrollment
}

// Class is a line of classes.csv.
type Class struct{ ID, Title string }

// User is a line of users.csv.
type User struct {
	ID       string // sourcedId
	Login    string // username
	Name     string // given, middle and family name, as they are written one after the other
	Mail     string
	Disabled bool // enabledUser is false
	Line     int
}

// Enrollment is a line of enrollments.csv.
type Enrollment struct {
	Class, User string // their sourcedIds
	Role        string // student, teacher, aide, proctor or administrator
	Line        int
}

// Header gives the columns of a table that a roster is read from, in the order of the binding.
func Header(name string) []string {
	return map[string][]string{
		"manifest.csv": {"propertyName", "value"},
		"classes.csv": {"sourcedId", "status", "dateLastModified", "title", "grades", "courseSourcedId", "classCode",
			"classType", "location", "schoolSourcedId", "termSourcedIds", "subjects", "subjectCodes", "periods"},
		"users.csv": {"sourcedId", "status", "dateLastModified", "enabledUser", "username", "userIds", "givenName",
			"familyName", "middleName", "identifier", "email", "sms", "phone", "agentSourcedIds", "grades", "password",
			"userMasterIdentifier", "resourceSourcedIds", "preferredGivenName", "preferredMiddleName", "preferredFamilyName",
			"primaryOrgSourcedId", "pronouns"},
		"roles.csv": {"sourcedId", "status", "dateLastModified", "userSourcedId", "roleType", "role", "beginDate", "endDate",
			"orgSourcedId", "userProfileSourcedId"},
		"enrollments.csv": {"sourcedId", "status", "dateLastModified", "classSourcedId", "schoolSourcedId", "userSourcedId",
			"role", "primary", "beginDate", "endDate"},
	}[name]
}

// required are the columns without which a table cannot be read.
func required(name string) []string {
	return map[string][]string{
		"manifest.csv":    {"propertyName", "value"},
		"classes.csv":     {"sourcedId", "title"},
		"users.csv":       {"sourcedId", "enabledUser", "username", "givenName", "familyName"},
		"enrollments.csv": {"sourcedId", "classSourcedId", "userSourcedId", "role"},
	}[name]
}

// Is tells whether a file is a zip with a manifest.
func Is(data []byte) bool {
	a, err := pack.Open(data)
	return err == nil && slices.Contains(a.Names(), "manifest.csv")
}

// Read reads a zip. An error names the table, the line and the column.
func Read(data []byte) (*Roster, error) {
	a, err := pack.Open(data)
	if err != nil {
		return nil, err
	}
	manifest, err := rows(a, "manifest.csv")
	if err != nil {
		return nil, err
	}
	said := map[string]string{}
	for _, r := range manifest {
		said[r.at("propertyName")] = r.at("value")
	}
	if v := said["oneroster.version"]; v != "1.2" {
		return nil, fmt.Errorf("manifest.csv says oneroster.version %q; rosters of version 1.2 are read", v)
	}
	for _, name := range []string{"classes", "users", "enrollments"} {
		switch how := said["file."+name]; how {
		case "bulk":
		case "", "absent":
			return nil, fmt.Errorf("manifest.csv says that %s.csv is absent; a roster needs it", name)
		default:
			return nil, fmt.Errorf("manifest.csv says that %s.csv is %q; whole tables (bulk) are read", name, how)
		}
	}
	return read(a)
}

func read(a *pack.Archive) (*Roster, error) {
	out := &Roster{}
	list, err := rows(a, "classes.csv")
	if err != nil {
		return nil, err
	}
	for _, r := range list {
		out.Classes = append(out.Classes, Class{r.at("sourcedId"), r.at("title")})
	}
	if list, err = rows(a, "users.csv"); err != nil {
		return nil, err
	}
	for _, r := range list {
		name := strings.Join(strings.Fields(r.at("givenName")+" "+r.at("middleName")+" "+r.at("familyName")), " ")
		out.Users = append(out.Users, User{ID: r.at("sourcedId"), Login: r.at("username"), Name: name, Mail: r.at("email"),
			Disabled: strings.EqualFold(r.at("enabledUser"), "false"), Line: r.line})
	}
	if list, err = rows(a, "enrollments.csv"); err != nil {
		return nil, err
	}
	for _, r := range list {
		out.Enrollments = append(out.Enrollments, Enrollment{Class: r.at("classSourcedId"), User: r.at("userSourcedId"),
			Role: r.at("role"), Line: r.line})
	}
	return out, nil
}

// record is a line of a table with a header.
type record struct {
	columns map[string]int
	cells   []string
	line    int
}

func (r record) at(column string) string {
	if n, ok := r.columns[column]; ok && n < len(r.cells) {
		return strings.TrimSpace(r.cells[n])
	}
	return ""
}

// rows are the lines of a table. In a bulk file status and dateLastModified are empty.
func rows(a *pack.Archive, name string) ([]record, error) {
	if !slices.Contains(a.Names(), name) {
		return nil, fmt.Errorf("the zip has no %s", name)
	}
	data, err := a.Read(name)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	lines, err := table.Read(string(data))
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	if len(lines) == 0 {
		return nil, fmt.Errorf("%s is empty; its first line names its columns", name)
	}
	columns := map[string]int{}
	for i, c := range lines[0] {
		columns[strings.TrimSpace(strings.TrimPrefix(c, "\ufeff"))] = i
	}
	var missing []string
	for _, c := range required(name) {
		if _, ok := columns[c]; !ok {
			missing = append(missing, c)
		}
	}
	if len(missing) > 0 {
		return nil, fmt.Errorf("%s has no column %s; its first line names its columns", name, strings.Join(missing, ", "))
	}
	var out []record
	for i, cells := range lines[1:] {
		r := record{columns, cells, i + 2}
		if name != "manifest.csv" && r.at("status") != "" {
			return nil, fmt.Errorf("%s, line %d: %w", name, r.line, errNotBulk)
		}
		out = append(out, r)
	}
	return out, nil
}

var errNotBulk = errors.New("status is to be empty in a file that is whole (bulk)")
