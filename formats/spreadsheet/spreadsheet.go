// Package spreadsheet writes tables for people: as an Office Open XML workbook (ISO/IEC 29500, by excelize), or as
// comma-separated text (RFC 4180) in which no spreadsheet finds a formula.
package spreadsheet

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"strconv"

	"github.com/xuri/excelize/v2"

	"hammerset/formats/table"
)

// Table is a table with a name; a cell is a text, a number, or nil where it is empty.
type Table struct {
	Name string
	Head []string
	Rows [][]any
}

// CSV writes a table as comma-separated text.
func CSV(t Table) ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.UseCRLF = true // RFC 4180, section 2
	if err := w.Write(table.Safe(t.Head)); err != nil {
		return nil, err
	}
	for _, row := range t.Rows {
		cells := make([]string, len(row))
		for i, c := range row {
			switch c := c.(type) {
			case float64:
				cells[i] = strconv.FormatFloat(c, 'f', -1, 64)
			case nil:
			default:
				cells[i] = fmt.Sprint(c)
			}
		}
		if err := w.Write(table.Safe(cells)); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return b.Bytes(), w.Error()
}

// longestName is what a sheet of a workbook may be called, in letters.
const longestName = 31

// XLSX writes tables as the sheets of a workbook. Texts are texts whatever they begin with, and numbers are numbers.
func XLSX(tables ...Table) ([]byte, error) {
	f := excelize.NewFile()
	defer f.Close()
	for i, t := range tables {
		name := []rune(t.Name)
		sheet := string(name[:min(len(name), longestName)])
		if i == 0 {
			if err := f.SetSheetName("Sheet1", sheet); err != nil {
				return nil, fmt.Errorf("the sheet %q: %w", t.Name, err)
			}
		} else if _, err := f.NewSheet(sheet); err != nil {
			return nil, fmt.Errorf("the sheet %q: %w", t.Name, err)
		}
		if err := fill(f, sheet, t); err != nil {
			return nil, fmt.Errorf("the sheet %q: %w", t.Name, err)
		}
	}
	var b bytes.Buffer
	err := f.Write(&b)
	return b.Bytes(), err
}

// fill writes a table onto a sheet, with its head in bold and in sight while it is scrolled.
func fill(f *excelize.File, sheet string, t Table) error {
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return err
	}
	put := func(row int, cells []any) error {
		for i, c := range cells {
			at, err := excelize.CoordinatesToCellName(i+1, row)
			if err != nil {
				return err
			}
			switch c := c.(type) {
			case string:
				err = f.SetCellStr(sheet, at, c)
			case nil:
			default:
				err = f.SetCellValue(sheet, at, c)
			}
			if err != nil {
				return err
			}
		}
		return nil
	}
	head := make([]any, len(t.Head))
	for i, h := range t.Head {
		head[i] = h
	}
	if err := put(1, head); err != nil {
		return err
	}
	for i, row := range t.Rows {
		if err := put(i+2, row); err != nil {
			return err
		}
	}
	if err := f.SetRowStyle(sheet, 1, 1, bold); err != nil {
		return err
	}
	if err := f.SetColWidth(sheet, "A", "A", 26); err != nil {
		return err
	}
	return f.SetPanes(sheet, &excelize.Panes{Freeze: true, XSplit: 1, YSplit: 1, TopLeftCell: "B2",
		ActivePane: "bottomRight"})
}
