package spreadsheet

import (
	"bytes"
	"testing"

	"github.com/xuri/excelize/v2"

	"hammerset/formats/table"
)

// What is written is read back: texts that a spreadsheet would calculate stay texts, and numbers are numbers.
func TestReadBack(t *testing.T) {
	sample := Table{Name: "Évening: a name that is longer than a sheet may have", Head: []string{"name", "points"},
		Rows: [][]any{{"=1+1", -3.0}, {"Thị \"Minh\",\nKhai", 92.25}, {"@home", nil}, {"-3", 0.0}}}
	sample.Name = "Evening machinists, a longer name"
	data, err := XLSX(sample, Table{Name: "Second", Head: []string{"a"}})
	if err != nil {
		t.Fatal(err)
	}
	f, err := excelize.OpenReader(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	sheets := f.GetSheetList()
	if len(sheets) != 2 || sheets[0] != "Evening machinists, a longer na" {
		t.Fatalf("sheets %q", sheets)
	}
	for at, want := range map[string]string{"A1": "name", "A2": "=1+1", "B2": "-3", "A3": "Thị \"Minh\",\nKhai",
		"B3": "92.25",
		"B4": "", "A5": "-3", "B5": "0"} {
		got, err := f.GetCellValue(sheets[0], at)
		if err != nil || got != want {
			t.Errorf("%s is %q, and not %q, %v", at, got, want, err)
		}
		if formula, err := f.GetCellFormula(sheets[0], at); err != nil || formula != "" {
			t.Errorf("%s has the formula %q, %v", at, formula, err)
		}
	}
	for at, want := range map[string]excelize.CellType{"A5": excelize.CellTypeSharedString, "B2": excelize.CellTypeUnset} {
		if kind, err := f.GetCellType(sheets[0], at); err != nil || kind != want {
			t.Errorf("%s is of the type %v, %v", at, kind, err)
		}
	}
	text, err := CSV(sample)
	if err != nil {
		t.Fatal(err)
	}
	if !bytes.Contains(text, []byte("\r\n'=1+1,-3\r\n")) || !bytes.Contains(text, []byte("'@home,\r\n-3,0\r\n")) {
		t.Errorf("%q", text)
	}
	rows, err := table.Read(string(text))
	if err != nil || len(rows) != 5 || rows[1][0] != "=1+1" || rows[2][0] != "Thị \"Minh\",\nKhai" {
		t.Errorf("read back: %q, %v", rows, err)
	}
}
