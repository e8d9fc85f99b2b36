package modeller

import (
	"errors"
	"fmt"
	"slices"

	"hammerset/core/part"
	"hammerset/core/quantity"
)

// Edit changes a document by a command. rows are those of a table of parameters, where one is
// brought in.
func Edit(doc *part.Document, c *Command, rows [][]string) (*Edited, error) {
	if c == nil {
		return nil, &Refused{What: "no command was given"}
	}
	out := &Edited{Document: doc}
	var err error
	switch c.Do {
	case "fresh":
		out.ID = doc.Fresh(c.Kind)
	case "move":
		err = doc.Move(c.ID, c.To)
		out.Said = "moved"
	case "remove":
		var gone []string
		gone, err = doc.Remove(c.ID, c.Along)
		out.Said = fmt.Sprintf("%d steps removed", len(gone))
		if len(gone) == 1 {
			out.Said = "the step is removed"
		}
	case "rename":
		err = doc.RenameParameter(c.ID, c.Name)
		out.Said = "renamed everywhere"
	case "import-parameters":
		out.Said, err = importParameters(doc, rows)
	default:
		return nil, &Refused{What: fmt.Sprintf("%q is not a command", c.Do)}
	}
	var de *part.DocumentError
	if errors.As(err, &de) {
		return nil, &Refused{What: de.Message}
	}
	return out, err
}

// importParameters reads a table of name, formula, note, least and most, as the
// export writes it: values of names that are there change, others are added.
func importParameters(doc *part.Document, rows [][]string) (string, error) {
	added, changed := 0, 0
	for n, row := range rows {
		if n == 0 && len(row) > 1 && row[0] == "name" || len(row) == 1 && row[0] == "" {
			continue
		}
		row = append(row, "", "", "", "")
		p := quantity.Parameter{Name: row[0], Formula: row[1], Note: row[2], Least: row[3], Most: row[4]}
		if err := quantity.CheckName(p.Name); err != nil {
			return "", &Refused{What: fmt.Sprintf("row %d: %q: %v", n+1, p.Name, err),
				Remedy: "columns are name, formula, note, least, most"}
		}
		if _, err := quantity.Parse(p.Formula); err != nil {
			return "", &Refused{What: fmt.Sprintf("row %d (%s): %v", n+1, p.Name, err),
				Remedy: "columns are name, formula, note, least, most"}
		}
		i := slices.IndexFunc(doc.Parameters, func(q quantity.Parameter) bool { return q.Name == p.Name })
		switch {
		case i < 0:
			doc.Parameters = append(doc.Parameters, p)
			added++
		case doc.Parameters[i] != p:
			doc.Parameters[i] = p
			changed++
		}
	}
	return fmt.Sprintf("%d parameters added, %d changed", added, changed), nil
}
