package prepare

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"slices"
	"strings"

	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/sheet"
)

// Laying is what sheets are laid out from without a kernel: all that it has said of a reference and of its views. It is
// written as JSON, so that a sheet is laid out where it is looked at.
type Laying struct {
	// Sheets have what counted for how their views were projected.
	Sheets    exercise.Sheets  `json:"sheets"`
	Projected *sheet.Projected `json:"projected"`
	Notes     []part.Note      `json:"notes"`
	Called    []string         `json:"called"` // the faces of the reference in words
	Metrics   sheet.Metrics    `json:"-"`

	key string
}

// Laid are sheets as they are after some commands, with the one that is looked at drawn.
type Laid struct {
	Sheets          exercise.Sheets
	On              int
	Drawing         *sheet.Drawing
	Characteristics []exercise.Characteristic
}

// ErrElsewhere says that a command cannot be carried out without a kernel, or takes long.
var ErrElsewhere = errors.New("this is not worked out here")

// sign gives it a key, which no other has that differs in anything.
func (l *Laying) sign(reference string) error {
	views, err := json.Marshal(l.Sheets)
	sum := sha256.Sum256(append([]byte(reference), views...))
	l.key = hex.EncodeToString(sum[:16])
	return err
}

// known are the views of a set that are projected.
func (l *Laying) known(set exercise.Sheets) map[string]*sheet.Projection {
	return l.Projected.Known(l.Sheets, set)
}

// draw lays out the sheet of a number.
func (l *Laying) draw(ex *exercise.Exercise, number int) (*sheet.Drawing, error) {
	return sheet.LayOut(ex, &ex.Sheets[number], l.Projected, l.Metrics, l.Notes...)
}

// Set lays out all sheets of an exercise, one under the other, as those who read them have them. It is ErrElsewhere
// where a view is not projected.
func (l *Laying) Set(ex *exercise.Exercise) (*sheet.Drawing, error) {
	if len(l.known(ex.Sheets)) < len(ex.Sheets.Views()) {
		return nil, ErrElsewhere
	}
	set, err := sheet.LayOutSet(ex, l.Projected, l.Metrics, l.Notes...)
	if err != nil {
		return nil, err
	}
	return sheet.Stacked(set), nil
}

// Preview carries out commands on the sheets of an exercise, one after the other, and draws the one that is looked at
// afterwards: the same as the Editor does, as long as every view is projected. The error is ErrElsewhere where
// something else is needed.
func (l *Laying) Preview(ctx context.Context, ex *exercise.Exercise, commands []sheet.Command, on int) (*Laid, error) {
	for i := range commands {
		c := &commands[i]
		if slices.Contains([]string{sheet.Clear, sheet.Propose, sheet.State, sheet.AskFor}, c.Do) ||
			len(l.known(ex.Sheets)) < len(ex.Sheets.Views()) {
			return nil, ErrElsewhere
		}
		c.Sheet = max(0, min(c.Sheet, len(ex.Sheets)-1))
		d, err := l.draw(ex, c.Sheet)
		if err == nil {
			err = sheet.Settle(ex.Sheets, l.Projected)
		}
		if err == nil {
			err = l.apply(ctx, ex, c, d)
		}
		if err != nil {
			return nil, refused(err)
		}
		if len(l.known(ex.Sheets)) < len(ex.Sheets.Views()) {
			return nil, ErrElsewhere
		}
		if err := l.stand(ex, c); err != nil {
			return nil, err
		}
		on = shown(ex.Sheets, c)
	}
	on = max(0, min(on, len(ex.Sheets)-1))
	d, err := l.draw(ex, on)
	return &Laid{Sheets: ex.Sheets, On: on, Drawing: d, Characteristics: ex.Characteristics}, err
}

// apply carries out a command on a sheet that is drawn so.
func (l *Laying) apply(ctx context.Context, ex *exercise.Exercise, c *sheet.Command, d *sheet.Drawing) error {
	s := &ex.Sheets[c.Sheet]
	marks := len(s.Marks)
	if err := c.Apply(ex, s, l.Projected, d, l.label); err != nil {
		return err
	}
	return l.fit(ctx, ex, s, marks)
}

// fit has the mark after so many look for a free place, where it finds its place by itself.
func (l *Laying) fit(ctx context.Context, ex *exercise.Exercise, s *exercise.Sheet, marks int) error {
	if len(s.Marks) <= marks || s.Marks[marks].ByHand {
		return nil
	}
	return sheet.Fit(ctx, ex, s, l.Projected, l.Metrics, s.Marks[marks].ID)
}

// stand puts a view where there is room for it that a command has just added.
func (l *Laying) stand(ex *exercise.Exercise, c *sheet.Command) error {
	s := &ex.Sheets[shown(ex.Sheets, c)]
	id := ""
	switch c.Do {
	case sheet.Show, sheet.CutAcross, sheet.Enlarge, sheet.SquareTo:
		id = s.Views[len(s.Views)-1].ID
	case sheet.Onto:
		if _, id, _ = strings.Cut(c.Item, ":"); strings.Contains(id, " ") { // several stand as they stood
			return nil
		}
	default:
		return nil
	}
	if c.Do == sheet.CutAcross {
		if err := sheet.LeaveRibs(s, l.Projected, id); err != nil {
			return err
		}
	}
	return sheet.Stand(ex, s, l.Projected, id, l.Metrics)
}

// label is what a dimension is called that is put where an offer has it.
func (l *Laying) label(o *sheet.Offer) string {
	title, _ := sizeOf(o.Kind, o.Place(), l.Called)
	return title
}

// shown is the number of the sheet that is looked at after a command: a new one, or the one that a view was put onto.
func shown(set exercise.Sheets, c *sheet.Command) int {
	_, view, _ := strings.Cut(c.Item, ":")
	switch {
	case c.Do == sheet.NewSheet:
		return len(set) - 1
	case c.Do == sheet.Onto && set.On(view) >= 0:
		return set.On(view)
	}
	return min(c.Sheet, len(set)-1)
}
