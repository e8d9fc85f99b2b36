package shapes

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strconv"

	"hammerset/core/assembly"
	"hammerset/core/part"
)

// PutIn is a part that a file has become, with its shape.
type PutIn struct {
	Part  assembly.Part   `json:"part"`
	Shape *assembly.Shape `json:"shape"`
}

// PutModel makes the parts of a model document: one for each of its solids. File is the document as it is kept, and
// number that of the first part in the parts list.
func (m *Maker) PutModel(ctx context.Context, doc *part.Document, file []byte, name string,
	number int) ([]PutIn, error) {
	b, err := m.rebuilt(ctx, doc, nil)
	if err != nil {
		return nil, err
	}
	var out []PutIn
	titles := doc.Titles()
	for _, body := range b.Bodies {
		made, err := m.body(doc, b, body)
		if err != nil {
			return nil, err
		}
		p := Kept(file, ".json", name, number+len(out))
		if len(b.Bodies) > 1 {
			p = OneOf(p, body.ID)
			p.Name = name + ", " + cmp.Or(solidName(doc, body.ID), titles[body.ID])
		}
		out = append(out, PutIn{p, made.Shape})
	}
	return out, nil
}

// solidName is what a document calls a solid.
func solidName(doc *part.Document, of string) string {
	for _, n := range doc.Solids {
		if n.Of == of {
			return n.Name
		}
	}
	return ""
}

// PutSTEP makes the parts of a STEP file likewise.
func (m *Maker) PutSTEP(ctx context.Context, file []byte, name string, number int) ([]PutIn, error) {
	list, uncertainty, err := m.solids(ctx, file)
	if err != nil {
		return nil, err
	}
	if len(list) > assembly.MaxParts {
		return nil, &Error{fmt.Sprintf("the STEP file holds %d solids, and an assembly has at most %d parts", len(list),
			assembly.MaxParts), "open it as an assembly, where equal solids are one part"}
	}
	var out []PutIn
	for i, s := range list {
		made, err := m.solid(s, uncertainty)
		if err != nil {
			return nil, err
		}
		p := Kept(file, ".step", name, number+i)
		if len(list) > 1 {
			p = OneOf(p, strconv.Itoa(i))
			p.Name = fmt.Sprintf("%s, solid %d", name, i+1)
		}
		out = append(out, PutIn{p, made.Shape})
	}
	return out, nil
}

// Kept is a part of a file that is kept under its SHA-256.
func Kept(file []byte, ending, name string, number int) assembly.Part {
	sum := sha256.Sum256(file)
	sha := hex.EncodeToString(sum[:])
	return assembly.Part{ID: "p" + sha[:8], Name: name, File: "part-" + sha[:8] + ending, SHA256: sha,
		Number: strconv.Itoa(number)}
}

// OneOf is the part of one solid of several in its file.
func OneOf(p assembly.Part, of string) assembly.Part {
	p.ID, p.Solid = p.ID+"-"+of, of
	return p
}
