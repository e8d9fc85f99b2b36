package child

import (
	"context"
	"encoding/json"
	"errors"

	"hammerset/core/check"
	"hammerset/core/check/assemblies"
	"hammerset/core/report"
	"hammerset/kernel/task"
)

// partsOfAttempt checks the parts of an attempt at an assembly by themselves, as far as their reports did not come with
// the task.
type partsOfAttempt struct {
	w   *Worker
	key *keyOfAssembly
	req *task.Request
}

// check checks parts one after the other, or asks that others check them.
func (p *partsOfAttempt) check(ctx context.Context, list []assemblies.Subject, progress func(float64)) (
	[]*report.Report, []error) {
	out, errs := make([]*report.Report, len(list)), make([]error, len(list))
	first := &task.FirstError{}
	for i := range list {
		if ctx.Err() != nil {
			errs[i] = ctx.Err()
			continue
		}
		r, err := p.task(&list[i])
		if err != nil {
			errs[i] = err
			continue
		}
		switch known, have := p.req.Reports[r.PartKey()]; {
		case have:
			out[i], errs[i] = read(&known, list[i].Attempt.Name)
		case p.req.Spread:
			first.Tasks = append(first.Tasks, r)
		default:
			o, err := p.w.checker.Part(ctx, list[i].Subject, func(_ string, done float64) {
				progress((float64(i) + done) / float64(len(list)))
			})
			if errs[i] = err; err == nil {
				out[i] = o.Report
			}
		}
	}
	if len(first.Tasks) > 0 && len(errs) > 0 {
		errs[0] = first
	}
	return out, errs
}

// task is the check of a part as a task of its own.
func (p *partsOfAttempt) task(s *assemblies.Subject) (*task.Request, error) {
	r := *p.key.parts[s.Part]
	r.Name, r.File = s.Attempt.Name, s.Attempt.STEP
	if s.Attempt.Document != nil {
		var err error
		if r.File, err = json.Marshal(s.Attempt.Document); err != nil {
			return nil, err
		}
	}
	return &r, nil
}

// read gives the report of a part of that name.
func read(known *task.PartReport, name string) (*report.Report, error) {
	if e := known.Error; e != nil {
		return nil, &check.Unusable{What: e.What, Remedy: e.Remedy}
	}
	var r report.Report
	if err := json.Unmarshal(known.Report, &r); err != nil {
		return nil, errors.New("the report of a part cannot be read: " + err.Error())
	}
	r.Attempt.Name = name
	return &r, nil
}
