package pool

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	lru "github.com/hashicorp/golang-lru/v2"

	"hammerset/kernel/task"
)

// Reports keeps the reports of parts of assemblies as JSON, by task.Request.PartKey. What is not kept is nil.
type Reports interface {
	PartReport(ctx context.Context, key string) ([]byte, error)
	KeepPartReport(ctx context.Context, key string, report []byte) error
}

// memory keeps the reports that were asked for last in the memory of the process.
type memory struct{ known *lru.Cache[string, []byte] }

// mostKnown is how many reports of parts a process keeps.
const mostKnown = 500

func newMemory() *memory {
	known, err := lru.New[string, []byte](mostKnown)
	if err != nil {
		panic(err) // of a size below one
	}
	return &memory{known}
}

func (m *memory) PartReport(_ context.Context, key string) ([]byte, error) {
	data, _ := m.known.Get(key)
	return data, nil
}

func (m *memory) KeepPartReport(_ context.Context, key string, report []byte) error {
	m.known.Add(key, report)
	return nil
}

// parts checks parts of an assembly: one that is there several times once, and one that is known not at all.
func (p *Pool) parts(ctx context.Context, list []*task.Request, progress func(task.Progress)) (
	map[string]task.PartReport, error) {
	out := map[string]task.PartReport{}
	var todo []*task.Request
	for _, r := range list {
		key := r.PartKey()
		if _, have := out[key]; have {
			continue
		}
		known, err := p.cfg.Reports.PartReport(ctx, key)
		if err != nil {
			return nil, fmt.Errorf("the reports of parts that are kept: %w", err)
		}
		if out[key] = (task.PartReport{}); known == nil {
			todo = append(todo, r)
			continue
		}
		var kept task.PartReport
		if err := json.Unmarshal(known, &kept); err != nil {
			return nil, fmt.Errorf("a report of a part that was kept: %w", err)
		}
		out[key] = kept
	}
	raws, errs := p.Try(ctx, todo, func(r task.Progress) {
		if progress != nil {
			progress(task.Progress{Stage: checkingParts, Done: r.Done})
		}
	})
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	for i, r := range todo {
		var te *task.Error
		var done task.PartReport
		switch {
		case errors.As(errs[i], &te) && (te.Kind == task.Crashed || te.Kind == task.TimedOut):
			out[r.PartKey()] = task.PartReport{Error: te} // one part that cannot be checked, and not the whole
			continue
		case errors.As(errs[i], &te) && te.Kind == task.Unusable:
			done.Error = te
		case errs[i] != nil:
			return nil, errs[i]
		default:
			if err := json.Unmarshal(raws[i], &done); err != nil {
				return nil, err
			}
		}
		out[r.PartKey()] = done
		kept, err := json.Marshal(done)
		if err == nil {
			err = p.cfg.Reports.KeepPartReport(ctx, r.PartKey(), kept)
		}
		if err != nil {
			return nil, fmt.Errorf("keep the report of a part: %w", err)
		}
	}
	return out, nil
}

// checkingParts is the stage of a check of an assembly in which its parts are checked.
const checkingParts = "checking the parts"
