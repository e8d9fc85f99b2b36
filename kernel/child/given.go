package child

import (
	"context"

	"hammerset/core/exercise"
	"hammerset/core/modeller"
	"hammerset/formats/documents"
	"hammerset/formats/pack"
	"hammerset/kernel/task"
)

// givenParts packs the parts of an exercise of the kind assembly that its students are given: each as a STEP file, and
// as the model document where it is one. Of the others not a byte goes out.
func (w *Worker) givenParts(ctx context.Context, req *task.Request) (*modeller.Exported, error) {
	ex, err := documents.ReadExercise(req.Exercise)
	if err != nil {
		return nil, err
	}
	if ex.Kind != exercise.Assembly {
		return nil, noneGiven()
	}
	ref, err := documents.ReadAssemblyReference(ex, req.Reference)
	if err != nil {
		return nil, err
	}
	table, err := ref.Document.Table(nil)
	if err != nil {
		return nil, err
	}
	var files []pack.File
	taken := map[string]bool{}
	for _, item := range ex.Assembly.Items {
		if !item.Given {
			continue
		}
		p, _ := ref.Document.Part(item.Part) // the reference has been read, and has the part
		name := unused(folderOf(p.Name), taken)
		made, err := w.made(ctx, p, ref.Files[p.File], table, 0)
		if err != nil {
			return nil, err
		}
		data, as, err := w.referenceOf(p, ref.Files[p.File], made, table)
		if err != nil {
			return nil, err
		}
		if as.Document != nil {
			files = append(files, pack.File{Name: name + ".json", Body: data})
			if data, err = w.stepOf(p, made); err != nil {
				return nil, err
			}
		}
		files = append(files, pack.File{Name: name + ".step", Body: data})
	}
	if len(files) == 0 {
		return nil, noneGiven()
	}
	out := &modeller.Exported{Name: ex.Number}
	out.Data, err = pack.Write(files)
	return out, err
}

func noneGiven() error {
	return &modeller.Refused{What: "no part of this exercise is given", Remedy: "model all its parts"}
}
