// Package table writes cells of comma-separated tables (RFC 4180) so that a spreadsheet takes
// none of them for a formula.
package table

import (
	"encoding/csv"
	"strconv"
	"strings"
)

// starts are the characters with which a spreadsheet begins a formula, after the guidance on
// formula injection in tables of the OWASP foundation.
const starts = "=+-@\t\r"

// Safe puts an apostrophe before every cell that a spreadsheet would calculate. Plain numbers
// stay as they are.
func Safe(row []string) []string {
	out := make([]string, len(row))
	for i, cell := range row {
		out[i] = cell
		if cell == "" || !strings.ContainsRune(starts, rune(cell[0])) {
			continue
		}
		if _, err := strconv.ParseFloat(cell, 64); err != nil {
			out[i] = "'" + cell
		}
	}
	return out
}

// Plain takes back what Safe has put before a cell.
func Plain(cell string) string {
	if len(cell) > 1 && cell[0] == '\'' && strings.ContainsRune(starts, rune(cell[1])) {
		return cell[1:]
	}
	return cell
}

// Read reads a table with commas, each cell plain and without spaces around it. Rows may have any
// number of cells.
func Read(text string) ([][]string, error) {
	r := csv.NewReader(strings.NewReader(strings.TrimPrefix(text, "\ufeff")))
	r.FieldsPerRecord = -1
	rows, err := r.ReadAll()
	for _, row := range rows {
		for i := range row {
			row[i] = strings.TrimSpace(Plain(row[i]))
		}
	}
	return rows, err
}
