package robust

import (
	"context"

	"hammerset/core/part"
	"hammerset/core/solid"
)

// Known is what a reference measures at the changed sizes, and how far its sketches hold: found once when an exercise
// is issued, so that no check has to rebuild the reference.
type Known struct {
	Cases []Case `json:"cases"`
	Spans []Span `json:"spans"`
}

// Case is what a reference measures with one size at another value, in millimetres, radians or plain numbers; Inertia
// is the trace of its moments at density one. Where it fails, it measures nothing.
type Case struct {
	Parameter string    `json:"parameter"`
	Value     float64   `json:"value"`
	Fails     bool      `json:"fails,omitempty"`
	Volume    float64   `json:"volume"`
	Area      float64   `json:"area"`
	Inertia   float64   `json:"inertia"`
	Solids    int       `json:"solids"`
	Middle    solid.Vec `json:"middle"`
}

// Learn finds what a sweep has to know of a reference.
func Learn(ctx context.Context, r *part.Rebuilder, reference *part.Document, progress func(float64)) (Known, error) {
	out := Known{Cases: []Case{}, Spans: []Span{}}
	s := &Sweeper{Rebuilder: r, Reference: reference}
	defer s.briefly()()
	table, err := reference.Table(nil)
	if err != nil {
		return out, err
	}
	names := table.Driving()
	for i, name := range names {
		progress(float64(i) / float64(len(names)))
		q, _ := table.Lookup(name)
		for _, percent := range Percents {
			v := Changed(q, percent)
			f, fails, err := s.reference(ctx, name, v)
			if err != nil {
				return out, err
			}
			out.Cases = append(out.Cases, Case{name, v.Value, fails, f.volume, f.area, f.inertia, f.solids, f.middle})
		}
	}
	spans, err := Spans(ctx, reference)
	out.Spans = append(out.Spans, spans...)
	return out, err
}

// Know keeps what was learnt of a reference.
func (c *Cache) Know(reference *part.Document, known Known) error {
	key, err := keyOf(reference)
	if err != nil {
		return err
	}
	for _, k := range known.Cases {
		f := figures{k.Volume, k.Area, k.Inertia, k.Solids, k.Middle}
		c.keep(entryKey(key, k.Parameter, k.Value), cacheEntry{f, k.Fails})
	}
	c.keepSpans(key, known.Spans)
	return nil
}
