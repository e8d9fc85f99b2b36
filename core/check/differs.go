package check

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"hammerset/core/address"
	"hammerset/core/diagnose/atlas"
	"hammerset/core/inspect"
	"hammerset/core/report"
	"hammerset/core/solid"
	"hammerset/core/words"
)

// differs says in words what of the attempt lies elsewhere than anything of the reference, and what of that
// one the attempt has not; where causes explain a part of it, the reference with them in it. Of what is missing it
// says what it is, and no size: the sheet has the sizes that a student may know.
func (r *frame) differs(ctx context.Context, ref Reference, found []atlas.Cause, known *inspect.Meshed,
	laid *laid) (*report.Difference, error) {
	mine := &inspect.Meshed{Geometry: laid.geo, Mesh: laid.mesh}
	onto := solid.Identity
	if len(found) > 0 {
		v, err := atlas.With(ctx, r.Rebuilder, r.ex, ref.Document, found)
		if err != nil {
			return nil, err
		}
		if v != nil {
			if known, err = inspect.MeshOf(r.k, v.Shape, v.Geometry); err != nil {
				return nil, err
			}
			pose, match := inspect.FindPose(known.Geometry, mine.Geometry)
			onto = pose.Transform.Then(solid.Translation(inspect.Settle(known.Geometry, mine.Moved(pose.Transform), match)))
		}
	}
	// The box of a geometry that was turned is only an outer one.
	turned := *mine.Geometry
	turned.Box = mine.Mesh.Box()
	gone, extra := known.Strays(mine, onto.Inverse(), atlas.InPlace), mine.Strays(known, onto, atlas.InPlace)
	return &report.Difference{Missing: counted(words.Features(known.Geometry, gone, r.ex.Unit, false)),
		Extra: counted(words.Features(&turned, extra, r.ex.Unit, true)), Faces: address.Faces(extra)}, nil
}

// counted joins equal words: "2 × hole".
func counted(list []string) []string {
	out := []string{}
	slices.Sort(list)
	for len(list) > 0 {
		n := 1
		for n < len(list) && list[n] == list[0] {
			n++
		}
		what := list[0]
		if n > 1 {
			what = fmt.Sprintf("%d × %s", n, strings.TrimPrefix(list[0], "a "))
		}
		out, list = append(out, what), list[n:]
	}
	return out
}
