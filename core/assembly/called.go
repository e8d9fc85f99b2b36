package assembly

import (
	"regexp"
	"strings"
)

// givenNames are those that programs give: a kind of thing and a number, or what a translator writes.
var givenNames = regexp.MustCompile(`(?i)^((part|body|solid|component|product|compound|assembly|nauo|shape|unnamed|` +
	`untitled|import(ed)?|model|open cascade.*)[ _.-]*\d*([ _.-]?\(?\d+\)?)*|=>.*|c\d+|\d+)$`)

// Called tells whether the name of a part says something of it, and is none that a program gave.
func (p *Part) Called() bool { return !givenNames.MatchString(strings.TrimSpace(p.Name)) }
