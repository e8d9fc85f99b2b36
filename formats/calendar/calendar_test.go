package calendar

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"
	"unicode/utf8"
)

// A calendar is read by another reader, ical.js of the npm registry, as it was written; lines end with CRLF, have 75
// octets at most and cut no letter in two (RFC 5545, 3.1); times are in UTC (3.3.5, form 2).
func TestCalendar(t *testing.T) {
	at := time.Date(2026, 10, 25, 0, 30, 0, 0, time.FixedZone("CEST", 2*3600)) // in the night in which clocks go back
	long := strings.Repeat("Lagerböcke für die Schaufelradwelle, 軸受; ", 6) + "\nzweite Zeile: \\n, \"so\""
	events := []Event{
		{UID: "issue-1@hammerset", Sequence: 3, At: at, Changed: at.Add(-time.Hour), Summary: "Due: " + long, Details: long,
			Address: "http://127.0.0.1:8080/issues/1"},
		{UID: "issue-2@hammerset", At: at, Changed: at, Summary: "Due: rack stop", Cancelled: true,
			Address: "http://127.0.0.1:8080/issues/2"},
	}
	data := Write("Hammerset: what is due", events)
	for _, line := range bytes.SplitAfter(data, []byte("\r\n")) {
		text := strings.TrimSuffix(string(line), "\r\n")
		whole := len(line) > len(text) || text == ""
		if len(text) > 75 || !utf8.ValidString(text) || strings.ContainsAny(text, "\r\n") || !whole {
			t.Errorf("the line %q", line)
		}
	}
	file := filepath.Join(t.TempDir(), "due.ics")
	if err := os.WriteFile(file, data, 0o644); err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command("node", "--input-type=module", "-e", fmt.Sprintf(`
import fs from "node:fs"; import ICAL from "ical.js";
const c = new ICAL.Component(ICAL.parse(fs.readFileSync(%q, "utf8")));
const all = c.getAllSubcomponents("vevent");
console.log(JSON.stringify({ version: c.getFirstPropertyValue("version"), events: all.map((v) => {
	const e = new ICAL.Event(v);
	return { uid: e.uid, sequence: e.sequence, at: e.startDate.toJSDate().toISOString(), zone: e.startDate.zone.tzid,
		summary: e.summary, details: e.description, status: v.getFirstPropertyValue("status"),
		stamp: v.getFirstPropertyValue("dtstamp").toString(), address: v.getFirstPropertyValue("url") };
}) }));`, file))
	cmd.Dir = "../../web"
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("ical.js: %v", err)
	}
	var got struct {
		Version string
		Events  []struct {
			UID, At, Zone, Summary, Details, Status, Stamp, Address string
			Sequence                                                int
		}
	}
	if err := json.Unmarshal(out, &got); err != nil || got.Version != "2.0" || len(got.Events) != 2 {
		t.Fatalf("%s, %v", out, err)
	}
	for i, e := range events {
		g := got.Events[i]
		status := map[bool]string{true: "CANCELLED", false: "CONFIRMED"}[e.Cancelled]
		if g.UID != e.UID || g.Sequence != e.Sequence || g.At != "2026-10-24T22:30:00.000Z" || g.Zone != "UTC" ||
			g.Summary != e.Summary || g.Details != e.Details || g.Status != status || g.Address != e.Address {
			t.Errorf("it is read as %+v", g)
		}
	}
}
