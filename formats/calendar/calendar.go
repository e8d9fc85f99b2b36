// Package calendar writes calendars as iCalendar (RFC 5545).
package calendar

import (
	"time"

	ical "github.com/arran4/golang-ical"
)

// Event is something that happens at one time. Its UID never changes, and Sequence rises with every change (RFC 5545,
// 3.8.7.4), so that a reader takes the newest.
type Event struct {
	UID       string
	Sequence  int
	At        time.Time
	Changed   time.Time
	Summary   string
	Details   string
	Address   string // of the page that it is about
	Cancelled bool
}

// Write writes a calendar of a name. Times are in UTC, and lines are folded by octets.
func Write(name string, events []Event) []byte {
	c := ical.NewCalendarFor("Hammerset")
	c.SetMethod(ical.MethodPublish)
	c.SetXWRCalName(name)
	for _, e := range events {
		x := c.AddEvent(e.UID)
		x.SetDtStampTime(e.Changed.UTC())
		x.SetModifiedAt(e.Changed.UTC())
		x.SetSequence(e.Sequence)
		x.SetStartAt(e.At.UTC())
		x.SetEndAt(e.At.UTC())
		x.SetSummary(e.Summary)
		x.SetDescription(e.Details)
		x.SetURL(e.Address)
		x.SetStatus(ical.ObjectStatusConfirmed)
		if e.Cancelled {
			x.SetStatus(ical.ObjectStatusCancelled)
		}
		x.SetTimeTransparency(ical.TransparencyTransparent)
	}
	return []byte(c.Serialize(ical.WithNewLineWindows))
}
