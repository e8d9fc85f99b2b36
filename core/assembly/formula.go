package assembly

import (
	"fmt"

	"hammerset/core/quantity"
)

// dimensioned is a formula with the dimension of what it gives.
type dimensioned struct {
	formula *string
	dim     quantity.Dim
}

// workOut puts what they give in the place of formulas; one that is empty stays so.
func workOut(table *quantity.Table, list ...dimensioned) error {
	for _, x := range list {
		if *x.formula == "" {
			continue
		}
		v, err := table.Eval(*x.formula, x.dim)
		if err != nil {
			return err
		}
		*x.formula = quantity.Quantity{Value: v, Dim: x.dim}.Formula()
	}
	return nil
}

// formulas are those of a joint: its sizes and its limits.
func (j *Joint) formulas() []dimensioned {
	list := []dimensioned{{&j.Offset, quantity.Length}, {&j.Angle, quantity.Angle}, {&j.Lead, quantity.Length},
		{&j.Distance, quantity.Length}}
	if j.Limits == nil {
		return list
	}
	for _, x := range []struct {
		limit *Limit
		dim   quantity.Dim
	}{{j.Limits.Turn, turning.dim()}, {j.Limits.Slide, sliding.dim()}} {
		if x.limit != nil {
			list = append(list, dimensioned{&x.limit.Least, x.dim}, dimensioned{&x.limit.Most, x.dim})
		}
	}
	return list
}

// clone is a copy of a joint whose limits are its own.
func (j Joint) clone() Joint {
	if j.Limits != nil {
		l := Limits{}
		if t := j.Limits.Turn; t != nil {
			l.Turn = &Limit{t.Least, t.Most}
		}
		if s := j.Limits.Slide; s != nil {
			l.Slide = &Limit{s.Least, s.Most}
		}
		j.Limits = &l
	}
	return j
}

// formulas are those of a coupling.
func (c *Coupling) formulas() []dimensioned {
	kind, _ := couplingOf(c.Kind)
	return []dimensioned{{&c.Ratio, kind.ratio}, {&c.Offset, kind.second.dim()}}
}

// formulas are those of a drive.
func (x *Driving) formulas(d *Document) []dimensioned {
	dim := turning.dim()
	if j, ok := d.Joint(x.Joint); ok {
		if kind, ok := KindOf(j.Kind); ok && len(kind.motions) > 0 {
			dim = kind.motions[0].dim()
		}
	}
	return []dimensioned{{&x.From, dim}, {&x.To, dim}}
}

// Range works out over which range a joint is driven, in radians or mm; ok is false where the document does not say it.
// The error names the formula that cannot be worked out.
func (d *Document) Range(joint string, table *quantity.Table) (from, to float64, ok bool, err error) {
	for i := range d.Drives {
		x := d.Drives[i]
		if x.Joint != joint {
			continue
		}
		f := x.formulas(d)
		if from, err = table.Eval(x.From, f[0].dim); err == nil {
			to, err = table.Eval(x.To, f[1].dim)
		}
		if err != nil {
			err = fmt.Errorf("the range over which the joint is driven: %w", err)
		}
		return from, to, err == nil, err
	}
	return 0, 0, false, nil
}

// Formulas calls change with every formula of the document.
func (d *Document) Formulas(change func(*string)) {
	for i := range d.Parameters {
		p := &d.Parameters[i]
		for _, f := range []*string{&p.Formula, &p.Least, &p.Most} {
			change(f)
		}
	}
	for i := range d.Parts {
		p := &d.Parts[i]
		change(&p.Density)
		for name, f := range p.Values {
			change(&f)
			p.Values[name] = f
		}
	}
	var ties []dimensioned
	for i := range d.Joints {
		ties = append(ties, d.Joints[i].formulas()...)
	}
	for i := range d.Couplings {
		ties = append(ties, d.Couplings[i].formulas()...)
	}
	for i := range d.Drives {
		ties = append(ties, d.Drives[i].formulas(d)...)
	}
	for _, t := range ties {
		change(t.formula)
	}
}
