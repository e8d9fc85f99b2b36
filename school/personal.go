package school

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"hammerset/core/personal"
	"hammerset/core/prepare"
	"hammerset/core/report"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
	"hammerset/store"
)

// personalKey keeps the progress of drawing sizes apart from that of other tasks.
func personalKey(exercise int64) int64 { return exercise + 1<<50 }

// PersonalProgress says how far the drawing of sizes is that goes on for an exercise.
func (s *School) PersonalProgress(ctx context.Context, by Person, id int64) (Running, error) {
	if err := s.may(ctx, by, ReadExercise, row{exercise: id}); err != nil {
		return Running{}, err
	}
	return s.running.get(personalKey(id)), nil
}

// drawing is a version for which sizes are drawn.
type drawing struct {
	school    *School
	version   store.Version
	reference []byte
	space     *personal.Space
	have      []store.Variant
}

// drawing begins to draw sizes for a version. It is refused where the version has no ranges for them.
func (s *School) drawing(ctx context.Context, version int64) (*drawing, error) {
	v, reference, err := s.withReference(ctx, version)
	if err != nil {
		return nil, err
	}
	d := &drawing{school: s, version: v, reference: reference}
	ex, err := documents.ReadExercise(v.Document)
	if err != nil {
		return nil, err
	}
	if len(ex.Personal) == 0 {
		return nil, refuse(Faulty, "this exercise has no ranges from which sizes could be drawn",
			"state them where the exercise is edited")
	}
	ref, err := documents.ReadReference(reference)
	if err != nil {
		return nil, err
	}
	if ref.Document == nil {
		return nil, refuse(Faulty, "a STEP file has no driving sizes that could be drawn for each student",
			"take a model as the reference, or issue it with the same sizes for all")
	}
	// The exercise is the seed: a corrected version counts on in the same order where its ranges are the same.
	if d.space, err = personal.New(ex, ref.Document.Parameters, ref.Document.Unit, uint64(v.ExerciseID)); err != nil {
		return nil, refuse(Faulty, err.Error(), "")
	}
	d.have, err = s.store.Variants(ctx, version)
	return d, err
}

// sizes are those of a variant.
func sizes(v store.Variant) map[string]string {
	var out map[string]string
	if json.Unmarshal(v.Values, &out) != nil {
		return nil
	}
	return out
}

// draw gives so many variants that are not taken yet, and makes those that are not there. It is refused where the
// ranges have fewer.
func (d *drawing) draw(ctx context.Context, want int, taken map[int]bool) ([]int, error) {
	progress, done := d.school.running.begin(personalKey(d.version.ExerciseID))
	defer done()
	next := 0
	for _, v := range d.have {
		next = max(next, v.Drawn+1)
	}
	for {
		free, known := d.free(taken)
		if len(free) >= want {
			return free[:want], nil
		}
		progress(task.Progress{Stage: fmt.Sprintf("%d of %d sheets drawn", len(free), want),
			Done: float64(len(free)) / float64(want)})
		var batch []store.Variant
		for ; next < d.space.Possible() && len(batch) < min(want-len(free), 2*d.school.kernel.Size()); next++ {
			set := d.space.Draw(next)
			if !slices.ContainsFunc(known, func(k map[string]string) bool { return !d.space.Apart(k, set) }) {
				values, err := json.Marshal(set)
				if err != nil {
					return nil, err
				}
				batch = append(batch, store.Variant{Drawn: next, Values: values})
			}
		}
		if len(batch) == 0 {
			return nil, d.tooFew(len(free)+len(taken), want+len(taken))
		}
		if err := d.make(ctx, batch); err != nil {
			return nil, err
		}
	}
}

// free are the variants that are not taken, and the sizes of all that there are.
func (d *drawing) free(taken map[int]bool) (free []int, known []map[string]string) {
	for _, v := range d.have {
		if v.Refused != "" {
			continue
		}
		known = append(known, sizes(v))
		if !taken[v.Number] {
			free = append(free, v.Number)
		}
	}
	return free, known
}

// tooFew refuses the ranges, with the number that is possible, and what stands in the way most often.
func (d *drawing) tooFew(are, want int) error {
	reasons := map[string]int{}
	for _, v := range d.have {
		if v.Refused != "" {
			reasons[v.Refused]++
		}
	}
	why := ""
	for _, r := range slices.Sorted(maps.Keys(reasons)) {
		if why == "" || reasons[r] > reasons[why] {
			why = r
		}
	}
	what := fmt.Sprintf("only %d sheets are possible that all differ in two sizes, and %d are needed", are, want)
	if why != "" {
		what += fmt.Sprintf(" (%d sets of sizes cannot be had, mostly since: %s)", len(reasons), why)
	}
	return refuse(Faulty, what, "widen the ranges, take smaller steps, or give another driving size a range")
}

// make has variants worked out and keeps them, also those that cannot be had.
func (d *drawing) make(ctx context.Context, batch []store.Variant) error {
	var reqs []*task.Request
	for _, v := range batch {
		reqs = append(reqs, &task.Request{Kind: task.Personal, Exercise: d.version.Document, Reference: d.reference,
			Set: sizes(v)})
	}
	answers, errs := d.school.kernel.Try(ctx, reqs, nil)
	references := make([][]byte, len(batch))
	for i := range batch {
		if err := ctx.Err(); err != nil {
			return err
		}
		var te *task.Error
		if errors.As(errs[i], &te) && te.Kind != task.Killed { // of these sizes, and not of the machine
			batch[i].Refused = clip(te.What, 900)
			continue
		}
		if errs[i] != nil {
			return errs[i]
		}
		if err := workedOut(&batch[i], &references[i], answers[i]); err != nil {
			return err
		}
	}
	err := d.school.store.AddVariants(ctx, d.version.ID, batch, references)
	if err == nil {
		d.have, err = d.school.store.Variants(ctx, d.version.ID)
	}
	return err
}

// workedOut fills a variant in with what the kernel has made of it.
func workedOut(v *store.Variant, reference *[]byte, raw json.RawMessage) error {
	var made struct {
		Refused                       string
		Exercise, Reference, Prepared json.RawMessage
		Values                        json.RawMessage
	}
	if err := json.Unmarshal(raw, &made); err != nil {
		return err
	}
	if made.Refused != "" {
		v.Refused = clip(made.Refused, 900)
		return nil
	}
	ex, err := documents.ReadExercise(made.Exercise)
	if err != nil {
		return err
	}
	if v.Hash, err = ex.Measured(made.Reference); err != nil {
		return err
	}
	v.Document, v.Prepared, v.Stated, *reference = made.Exercise, made.Prepared, made.Values, made.Reference
	return nil
}

// clip shortens a text to so many bytes.
func clip(text string, most int) string {
	if len(text) > most {
		return strings.ToValidUTF8(text[:most], "") + " …"
	}
	return text
}

// assign gives students of an issue variants of their own.
func (s *School) assign(ctx context.Context, issue int64, students []int64, numbers []int) error {
	var list []store.Assigned
	for i, student := range students {
		list = append(list, store.Assigned{Student: student, Variant: numbers[i]})
	}
	return s.store.Assign(ctx, issue, list)
}

// ownSizes sees to it that a student has sizes of the own at an issue with personal sizes: who joins late gets the
// next.
func (s *School) ownSizes(ctx context.Context, i store.Issue, student int64) error {
	if !i.Personal {
		return nil
	}
	own, err := s.store.OwnAt(ctx, i.ID)
	if err != nil || own[student].Variant > 0 {
		return err
	}
	d, err := s.drawing(ctx, i.VersionID)
	if err != nil {
		return err
	}
	taken := map[int]bool{}
	for _, o := range own {
		taken[o.Variant] = o.Variant > 0
	}
	delete(taken, 0)
	numbers, err := d.draw(ctx, 1, taken)
	if err != nil {
		return err
	}
	return s.assign(ctx, i.ID, []int64{student}, numbers)
}

// versionFor gives a version as a student has it at an issue, which is at the own sizes where there are such.
func (s *School) versionFor(ctx context.Context, version int64, i store.Issue, student int64) (store.Version, error) {
	v, refused, err := s.store.VersionFor(ctx, version, i.ID, student)
	if err == nil && refused != "" {
		err = refuse(Conflict, fmt.Sprintf("the sizes of this student cannot be had in version %d: %s", v.Number, refused),
			"correct the exercise so that they can")
	}
	return v, err
}

// referenceFor gives a version as a student has it, with the file of its reference.
func (s *School) referenceFor(ctx context.Context, version int64, i store.Issue, student int64) (store.Version, []byte,
	error) {
	v, err := s.versionFor(ctx, version, i, student)
	if err != nil {
		return v, nil, err
	}
	reference, err := s.store.File(ctx, v.ReferenceSHA)
	return v, reference, err
}

// sheetFor gives a version as a student has it, with its sheet, on which the name stands where the sizes are the own.
func (s *School) sheetFor(ctx context.Context, version int64, i store.Issue, student int64) (v store.Version,
	p prepare.Prepared, err error) {
	if v, err = s.versionFor(ctx, version, i, student); err != nil {
		return v, p, err
	}
	if p, err = prepared(v); err != nil || v.Variant == 0 {
		return v, p, err
	}
	u, err := s.store.User(ctx, student)
	return v, signed(p, v, u.Name), err
}

// carrySizes makes the variants of another version for the students of an issue, at the sizes that they have: a
// corrected version keeps them. It is refused with a list of those that are no longer possible.
func (s *School) carrySizes(ctx context.Context, i store.Issue, onto int64) error {
	if !i.Personal || onto == i.VersionID {
		return nil
	}
	own, err := s.store.OwnAt(ctx, i.ID)
	if err != nil {
		return err
	}
	was, err := s.store.Variants(ctx, i.VersionID)
	if err != nil {
		return err
	}
	v, reference, err := s.withReference(ctx, onto)
	if err != nil {
		return err
	}
	d := &drawing{school: s, version: v, reference: reference}
	if d.have, err = s.store.Variants(ctx, onto); err != nil {
		return err
	}
	var batch []store.Variant
	for _, o := range own {
		k := slices.IndexFunc(was, func(w store.Variant) bool { return w.Number == o.Variant })
		there := slices.ContainsFunc(d.have, func(h store.Variant) bool { return h.Number == o.Variant })
		if k >= 0 && !there {
			batch = append(batch, store.Variant{Number: o.Variant, Drawn: was[k].Drawn, Values: was[k].Values})
		}
	}
	slices.SortFunc(batch, func(a, b store.Variant) int { return a.Number - b.Number })
	if len(batch) > 0 {
		progress, done := s.running.begin(personalKey(v.ExerciseID))
		defer done()
		progress(task.Progress{Stage: "sizes of students taken over"})
		if err := d.make(ctx, batch); err != nil {
			return err
		}
	}
	return s.stillAllowed(ctx, i, d, own)
}

// stillAllowed lists the students whose sizes cannot be had any more.
func (s *School) stillAllowed(ctx context.Context, i store.Issue, d *drawing, own map[int64]store.Own) error {
	roster, err := s.store.Roster(ctx, i.ClassID)
	if err != nil {
		return err
	}
	var lost []string
	for _, st := range roster {
		for _, h := range d.have {
			if h.Number == own[st.ID].Variant && h.Refused != "" {
				lost = append(lost, fmt.Sprintf("%s (%s): %s", st.Name, sizeWords(sizes(h)), h.Refused))
			}
		}
	}
	if len(lost) == 0 {
		return nil
	}
	return refuse(Conflict, fmt.Sprintf("version %d cannot be had at the sizes of %d students: %s", d.version.Number,
		len(lost), strings.Join(lost, "; ")), "correct the exercise so that it can: each keeps the sizes that were issued")
}

// sizeWords lists sizes for people: width 46 mm, height 30 mm.
func sizeWords(set map[string]string) string {
	var out []string
	for _, name := range slices.Sorted(maps.Keys(set)) {
		out = append(out, name+" "+set[name])
	}
	return strings.Join(out, ", ")
}

// whose says whose sheet an attempt has the sizes of, where it is not the student's own: of another student of the
// issue, by name, or the plain one, which students do not see. Empty where it has those of nobody.
func (s *School) whose(ctx context.Context, a store.Attempt, i store.Issue, r *report.Report) (string, error) {
	if !i.Personal || r == nil || r.Count(report.In) == len(r.Characteristics) {
		return "", nil
	}
	own, err := s.store.OwnAt(ctx, i.ID)
	if err != nil {
		return "", err
	}
	variants, err := s.store.Variants(ctx, versionOf(a, i))
	if err != nil {
		return "", err
	}
	roster, err := s.store.Roster(ctx, i.ClassID)
	if err != nil {
		return "", err
	}
	for _, st := range roster {
		n := own[st.ID].Variant
		k := slices.IndexFunc(variants, func(v store.Variant) bool { return v.Number == n })
		if st.ID == a.Student || n == 0 || n == own[a.Student].Variant || k < 0 {
			continue
		}
		var stated map[string]float64
		if variants[k].Stated != nil {
			if err := json.Unmarshal(variants[k].Stated, &stated); err != nil {
				return "", err
			}
		}
		if has(r, stated) {
			return st.Name, nil
		}
	}
	return "", nil
}

// has tells whether an attempt measures what another sheet states throughout, where that differs from the own one: at
// least at two characteristics.
func has(r *report.Report, stated map[string]float64) bool {
	differ := 0
	for _, c := range r.Characteristics {
		is, ok := stated[c.ID]
		if !ok || c.Measured == nil {
			continue
		}
		within := math.Max(0.011, math.Max(c.Nominal-c.Lower, c.Upper-c.Nominal))
		if math.Abs(is-c.Nominal) < 1e-9 {
			continue
		}
		if math.Abs(*c.Measured-is) > within {
			return false
		}
		if math.Abs(*c.Measured-c.Nominal) > within {
			differ++
		}
	}
	return differ >= 2
}

// PersonalSizes are the sizes of one student at an issue.
type PersonalSizes struct {
	Variant int
	Sizes   string
}

// sizesAt lists the sizes that students of an issue have, by student.
func (s *School) sizesAt(ctx context.Context, i store.Issue, own map[int64]store.Own) (map[int64]PersonalSizes, error) {
	if !i.Personal {
		return nil, nil
	}
	variants, err := s.store.Variants(ctx, i.VersionID)
	if err != nil {
		return nil, err
	}
	out := map[int64]PersonalSizes{}
	for student, o := range own {
		for _, v := range variants {
			if o.Variant > 0 && v.Number == o.Variant {
				out[student] = PersonalSizes{o.Variant, sizeWords(sizes(v))}
			}
		}
	}
	return out, nil
}

// signed prints whose sheet it is, and which variant, on a sheet of the own sizes.
func signed(p prepare.Prepared, v store.Version, name string) prepare.Prepared {
	if v.Variant > 0 && p.Drawing != nil {
		p.Drawing = p.Drawing.Signed(fmt.Sprintf("%s, sizes %d", name, v.Variant))
	}
	return p
}
