package main

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"strconv"
	"strings"
	"text/tabwriter"

	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/report"
	"hammerset/formats/table"
)

// itemsHeader names the columns of the second table of a folder of assemblies: a row for each item of each attempt.
var itemsHeader = []string{"file", "item", "name", "wanted", "found", "variants", "verdict", "reason", "points",
	"out of"}

// itemsTable is the file of the second table, beside the first.
func (b *bulk) itemsTable() string {
	if b.bundle.Parsed.Kind != exercise.Assembly {
		return ""
	}
	return strings.TrimSuffix(b.out, ".csv") + "-items.csv"
}

// beginItems begins the second table anew where the first one is: rows of attempts that were checked before stay.
func (b *bulk) beginItems(kept map[string]bool) error {
	path := b.itemsTable()
	if path == "" {
		return nil
	}
	var rows [][]string
	if f, err := os.Open(path); err == nil {
		r := csv.NewReader(f)
		r.FieldsPerRecord = -1
		rows, _ = r.ReadAll() // what a stopped run cut short is left out
		f.Close()
	}
	out := [][]string{table.Safe(itemsHeader)}
	for i, row := range rows {
		if i > 0 && len(row) == len(itemsHeader) && kept[table.Plain(row[0])] {
			out = append(out, row)
		}
	}
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	w := csv.NewWriter(f)
	return errors.Join(w.WriteAll(out), f.Close())
}

// addItems adds the items of an attempt to the second table.
func (b *bulk) addItems(name string, out *check.Outcome) error {
	path := b.itemsTable()
	if path == "" || out == nil || out.Report.Assembly == nil {
		return nil
	}
	f, err := os.OpenFile(path, os.O_APPEND|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	w := csv.NewWriter(f)
	for i := range out.Report.Assembly.Items {
		_ = w.Write(table.Safe(itemRow(name, &out.Report.Assembly.Items[i]))) // errors show at Flush
	}
	w.Flush()
	return errors.Join(w.Error(), f.Close())
}

func itemRow(name string, x *report.Item) []string {
	points, of := 0.0, 0.0
	for _, v := range x.Variants {
		if v.Report != nil {
			points, of = points+v.Report.Points, of+v.Report.OutOf
		}
	}
	number := func(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }
	return []string{name, x.Number, x.Name, strconv.Itoa(x.Wanted), strconv.Itoa(x.Found), strconv.Itoa(len(x.Variants)),
		string(x.Verdict), x.Reason, number(points), number(of)}
}

// printAssembly prints what a report says of an assembly beside the characteristics.
func printAssembly(w io.Writer, a *report.OfAssembly) {
	if a == nil {
		return
	}
	t := tabwriter.NewWriter(w, 0, 4, 2, ' ', 0)
	fmt.Fprintln(t, "\nItem\tName\tParts list\tFound\tVerdict\t")
	for _, x := range a.Items {
		fmt.Fprintf(t, "%s\t%s\t%d\t%d\t%s\t%s\n", x.Number, x.Name, x.Wanted, x.Found, x.Verdict, x.Reason)
	}
	if len(a.Joints) > 0 {
		fmt.Fprintln(t, "\nJoint\tPlaced\tShould leave\tLeaves\tVerdict\t")
	}
	for _, j := range a.Joints {
		fmt.Fprintf(t, "%s\t%s\t%s\t%s\t%s\t%s\n", j.Name, j.Placed, j.Wanted, j.Found, j.Verdict, j.Reason)
	}
	t.Flush()
	if m := a.Mobility; m != nil {
		fmt.Fprintf(w, "\nMobility: %d of %d, %s\n", m.Found, m.Wanted, m.Verdict)
	}
	for _, m := range a.Motion {
		fmt.Fprintf(w, "%s: driven to %.4g of %.4g, %s\n", m.Name, m.Reached, m.To, m.Verdict)
	}
	for _, c := range a.Collisions {
		fmt.Fprintf(w, "%s: %s\n", c.What, c.Verdict)
	}
}
