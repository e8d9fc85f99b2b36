package quantity

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Error says what is wrong with a formula, where, and what to write instead.
type Error struct {
	Formula string
	Offset  int // byte offset of the place in Formula
	Message string
	Remedy  string
}

// Error names the character at which the formula fails, counted in letters from
// one.
func (e *Error) Error() string {
	s := fmt.Sprintf("%s (at character %d of %q)", e.Message, utf8.RuneCountInString(e.Formula[:e.Offset])+1, e.Formula)
	if e.Remedy != "" {
		s += "; " + e.Remedy
	}
	return s
}

// Formula is a parsed formula. The grammar is
//
//	sum     = product { ("+" | "-") product }
//	product = signed { ("*" | "/") signed }
//	signed  = [ "+" | "-" ] power
//	power   = primary [ "^" signed ]
//	primary = literal | name | name "(" sum { "," sum } ")" | "(" sum ")" [ unit ]
//	literal = number [ fraction ] [ unit ] | fraction [ unit ]
//
// A unit binds to the whole literal before it: "3/16 in" and "1 1/2 in" are
// read as a fraction and a mixed number of inches.
type Formula struct {
	source   string
	root     node
	literals []Literal
}

// Literal is a number with its unit, as it stands in a formula from byte At to End. The value of one without a
// unit is a plain number.
type Literal struct {
	At, End int
	Value   Quantity
}

// maxNesting bounds the depth of parentheses, signs and powers, so that hostile
// text cannot exhaust the stack; maxLength bounds the text of one formula.
const (
	maxNesting = 100
	maxLength  = 1000
)

// Parse reads a formula. The error is an *Error.
func Parse(source string) (*Formula, error) {
	if len(source) > maxLength {
		return nil, &Error{Formula: source[:20], Message: fmt.Sprintf("a formula of %d characters is too long", len(source)),
			Remedy: "split it into parameters"}
	}
	p := &parser{src: source}
	p.next()
	if p.tok.kind == tokEnd {
		return nil, p.fail(p.tok.pos, "the formula is empty", "write a value such as 12 mm")
	}
	root, err := p.sum()
	if err != nil {
		return nil, err
	}
	if p.tok.kind != tokEnd {
		return nil, p.fail(p.tok.pos, fmt.Sprintf("%q is not expected here", p.tok.text),
			"put an operator (+ - * / ^) before it or remove it")
	}
	return &Formula{source: source, root: root, literals: p.literals}, nil
}

// Literals lists the numbers that stand in the formula, in their order.
func (f *Formula) Literals() []Literal { return f.literals }

// With writes the formula with another text in place of a literal.
func (f *Formula) With(l Literal, text string) string {
	return f.source[:l.At] + text + f.source[l.End:]
}

// Source is the text that was parsed.
func (f *Formula) Source() string { return f.source }

// Names lists the parameters that the formula uses, each once, in order of
// their first use.
func (f *Formula) Names() []string {
	var out []string
	seen := map[string]bool{}
	var walk func(n node)
	walk = func(n node) {
		if n.op == opName && !seen[n.name] {
			seen[n.name] = true
			out = append(out, n.name)
		}
		for _, a := range n.args {
			walk(a)
		}
	}
	walk(f.root)
	return out
}

// Eval computes the formula; lookup gives the value of a named parameter.
func (f *Formula) Eval(lookup func(name string) (Quantity, bool)) (Quantity, error) {
	return f.eval(f.root, lookup)
}

// EvalAs computes the formula where a quantity of dimension want is needed. A
// plain number is then read in the unit: "12" means 12 mm in a millimetre
// document, and an angle without a unit is in degrees.
func (f *Formula) EvalAs(want Dim, unit Unit, lookup func(name string) (Quantity, bool)) (Quantity, error) {
	q, err := f.Eval(lookup)
	if err != nil {
		return q, err
	}
	if q.Dim == want {
		return q, nil
	}
	if q.Dim == Number {
		switch want {
		case Length:
			return Quantity{q.Value * unit.Factor, Length}, nil
		case Angle:
			return Quantity{q.Value * Degree.Factor, Angle}, nil
		}
	}
	return q, &Error{Formula: f.source, Message: fmt.Sprintf("this is %s, and %s is needed", q.Dim, want),
		Remedy: "check the units in the formula"}
}

type operation int

const (
	opValue operation = iota
	opName
	opAdd
	opSub
	opMul
	opDiv
	opPow
	opNeg
	opCall
)

type node struct {
	op    operation
	pos   int
	value Quantity
	name  string
	args  []node
}

// fail is an error at a node of the formula.
func (f *Formula) fail(n node, msg, remedy string) error {
	return &Error{Formula: f.source, Offset: n.pos, Message: msg, Remedy: remedy}
}

// eval works a node out after its arguments. What is no finite number is an
// error where it arises, so that it never becomes the size of something.
func (f *Formula) eval(n node, lookup func(string) (Quantity, bool)) (Quantity, error) {
	switch n.op {
	case opValue:
		return n.value, nil
	case opName:
		if n.name == "pi" {
			return Quantity{math.Pi, Number}, nil
		}
		if lookup != nil {
			if q, ok := lookup(n.name); ok {
				return q, nil
			}
		}
		return Quantity{}, f.fail(n, fmt.Sprintf("there is no parameter named %q", n.name),
			"add it to the parameter table or correct the spelling")
	}
	args := make([]Quantity, len(n.args))
	for i, a := range n.args {
		q, err := f.eval(a, lookup)
		if err != nil {
			return q, err
		}
		args[i] = q
	}
	q, err := f.apply(n, args)
	if err != nil {
		return q, err
	}
	if math.IsNaN(q.Value) || math.IsInf(q.Value, 0) {
		return q, f.fail(n, "the result is not a finite number", "check for a division by zero or a root of a negative value")
	}
	return q, nil
}

// apply carries out an operator on quantities. Dimensions are the exponents of
// length and angle: sums need equal ones, products add and quotients subtract
// them.
func (f *Formula) apply(n node, a []Quantity) (Quantity, error) {
	switch n.op {
	case opNeg:
		return Quantity{-a[0].Value, a[0].Dim}, nil
	case opAdd, opSub:
		if a[0].Dim != a[1].Dim {
			remedy := "give both the same kind of unit"
			if a[0].Dim == Number || a[1].Dim == Number {
				remedy = "write a unit after the plain number, for example 3 mm"
			}
			return Quantity{}, f.fail(n, fmt.Sprintf("units clash: %s and %s cannot be added or subtracted", a[0].Dim, a[1].Dim),
				remedy)
		}
		if n.op == opAdd {
			return Quantity{a[0].Value + a[1].Value, a[0].Dim}, nil
		}
		return Quantity{a[0].Value - a[1].Value, a[0].Dim}, nil
	case opMul:
		return Quantity{a[0].Value * a[1].Value, Dim{a[0].Dim.Length + a[1].Dim.Length, a[0].Dim.Angle + a[1].Dim.Angle}}, nil
	case opDiv:
		return Quantity{a[0].Value / a[1].Value, Dim{a[0].Dim.Length - a[1].Dim.Length, a[0].Dim.Angle - a[1].Dim.Angle}}, nil
	case opPow:
		return f.power(n, a[0], a[1])
	}
	return f.call(n, a)
}

// power raises to a power. A quantity with a unit takes whole exponents of its
// dimension alone, within what a drawing can state: mm² to the power 1/2 is a
// length, mm to the power 1/2 is nothing.
func (f *Formula) power(n node, base, exp Quantity) (Quantity, error) {
	if exp.Dim != Number {
		return Quantity{}, f.fail(n, fmt.Sprintf("an exponent must be a plain number, not %s", exp.Dim), "")
	}
	v := math.Pow(base.Value, exp.Value)
	if base.Dim == Number {
		return Quantity{v, Number}, nil
	}
	l, g := float64(base.Dim.Length)*exp.Value, float64(base.Dim.Angle)*exp.Value
	if l != math.Trunc(l) || g != math.Trunc(g) || math.Abs(l) > 12 || math.Abs(g) > 12 {
		return Quantity{}, f.fail(n, fmt.Sprintf("%s to the power %g has no unit on a drawing", base.Dim, exp.Value), "")
	}
	return Quantity{v, Dim{int(l), int(g)}}, nil
}

// call applies a function. Trigonometric functions take angles (a plain number
// is read as radians, as in mathematics) and their inverses give angles.
func (f *Formula) call(n node, a []Quantity) (Quantity, error) {
	arity := func(k int) error {
		if len(a) != k {
			return f.fail(n, fmt.Sprintf("%s takes %s, not %d", n.name, Count(k, "value", "values"), len(a)), "")
		}
		return nil
	}
	one := func(g func(float64) float64, in func(Dim) bool, out func(Dim) Dim) (Quantity, error) {
		if err := arity(1); err != nil {
			return Quantity{}, err
		}
		if !in(a[0].Dim) {
			return Quantity{}, f.fail(n, fmt.Sprintf("%s cannot be taken of %s", n.name, a[0].Dim), "")
		}
		return Quantity{g(a[0].Value), out(a[0].Dim)}, nil
	}
	angular := func(d Dim) bool { return d == Angle || d == Number }
	plain := func(d Dim) bool { return d == Number }
	any := func(Dim) bool { return true }
	same := func(d Dim) Dim { return d }
	to := func(d Dim) func(Dim) Dim { return func(Dim) Dim { return d } }
	switch n.name {
	case "sin":
		return one(math.Sin, angular, to(Number))
	case "cos":
		return one(math.Cos, angular, to(Number))
	case "tan":
		return one(math.Tan, angular, to(Number))
	case "asin":
		return one(math.Asin, plain, to(Angle))
	case "acos":
		return one(math.Acos, plain, to(Angle))
	case "atan":
		return one(math.Atan, plain, to(Angle))
	case "sqrt":
		even := func(d Dim) bool { return d.Length%2 == 0 && d.Angle%2 == 0 }
		return one(math.Sqrt, even, func(d Dim) Dim { return Dim{d.Length / 2, d.Angle / 2} })
	case "abs":
		return one(math.Abs, any, same)
	case "round":
		return one(math.Round, plain, same)
	case "floor":
		return one(math.Floor, plain, same)
	case "ceil":
		return one(math.Ceil, plain, same)
	case "atan2", "hypot", "min", "max":
		if err := arity(2); err != nil {
			return Quantity{}, err
		}
		if a[0].Dim != a[1].Dim {
			return Quantity{}, f.fail(n, fmt.Sprintf("units clash: %s and %s in %s", a[0].Dim, a[1].Dim, n.name),
				"give both the same kind of unit")
		}
		switch n.name {
		case "atan2":
			return Quantity{math.Atan2(a[0].Value, a[1].Value), Angle}, nil
		case "hypot":
			return Quantity{math.Hypot(a[0].Value, a[1].Value), a[0].Dim}, nil
		case "min":
			return Quantity{math.Min(a[0].Value, a[1].Value), a[0].Dim}, nil
		}
		return Quantity{math.Max(a[0].Value, a[1].Value), a[0].Dim}, nil
	}
	return Quantity{}, f.fail(n, fmt.Sprintf("there is no function named %q", n.name),
		"use sin, cos, tan, asin, acos, atan, atan2, sqrt, hypot, abs, min, max, round, floor or ceil")
}

type tokenKind int

const (
	tokEnd tokenKind = iota
	tokNumber
	tokName
	tokSymbol
)

type token struct {
	kind  tokenKind
	text  string
	value float64
	whole bool // a number written as digits only
	pos   int
}

type parser struct {
	src   string
	at    int
	tok   token
	depth int
	end   int // of what was read before the token
	// literals are the numbers that were read.
	literals []Literal
}

// fail is an error at a place of the text.
func (p *parser) fail(pos int, msg, remedy string) error {
	return &Error{Formula: p.src, Offset: pos, Message: msg, Remedy: remedy}
}

// isNameStart tells what a name can begin with; the degree sign is a unit by
// itself.
func isNameStart(r rune) bool { return unicode.IsLetter(r) || r == '_' || r == '°' }

// next reads one token.
func (p *parser) next() {
	p.end = p.at
	for p.on(" \t\n") {
		p.at++
	}
	start := p.at
	if p.at >= len(p.src) {
		p.tok = token{kind: tokEnd, pos: start}
		return
	}
	r, size := utf8.DecodeRuneInString(p.src[p.at:])
	switch {
	case p.on(digits + "."):
		p.number()
	case isNameStart(r):
		for p.at < len(p.src) {
			r, size = utf8.DecodeRuneInString(p.src[p.at:])
			if !isNameStart(r) && !unicode.IsDigit(r) {
				break
			}
			p.at += size
		}
		p.tok = token{kind: tokName, text: p.src[start:p.at], pos: start}
	default:
		p.at += size
		p.tok = token{kind: tokSymbol, text: p.src[start:p.at], pos: start}
	}
}

const digits = "0123456789"

// on tells whether the next character is one of some.
func (p *parser) on(some string) bool {
	return p.at < len(p.src) && strings.IndexByte(some, p.src[p.at]) >= 0
}

// number reads a number: digits with a point, and a power of ten. A power without digits is none.
func (p *parser) number() {
	start, whole := p.at, true
	for p.on(digits + ".") {
		whole = whole && p.src[p.at] != '.'
		p.at++
	}
	if mantissa := p.at; p.on("eE") {
		p.at++
		if p.on("+-") {
			p.at++
		}
		power := p.at
		for p.on(digits) {
			p.at++
		}
		if whole = whole && p.at == power; p.at == power {
			p.at = mantissa
		}
	}
	text := p.src[start:p.at]
	v, err := strconv.ParseFloat(text, 64)
	if err != nil {
		p.tok = token{kind: tokSymbol, text: text, pos: start}
		return
	}
	p.tok = token{kind: tokNumber, text: text, value: v, whole: whole, pos: start}
}

// symbol tells whether the next token is this sign.
func (p *parser) symbol(s string) bool { return p.tok.kind == tokSymbol && p.tok.text == s }

// enter counts how deep the formula is nested. Parsing is recursive, and what
// strangers send must not use up the stack.
func (p *parser) enter() error {
	p.depth++
	if p.depth > maxNesting {
		return p.fail(p.tok.pos, "the formula is nested too deeply", "split it into parameters")
	}
	return nil
}

// sum reads terms joined by + and -, from the left: 9 - 3 - 2 is 4.
func (p *parser) sum() (node, error) {
	left, err := p.product()
	for err == nil && (p.symbol("+") || p.symbol("-")) {
		op, pos := opAdd, p.tok.pos
		if p.symbol("-") {
			op = opSub
		}
		p.next()
		var right node
		if right, err = p.product(); err == nil {
			left = node{op: op, pos: pos, args: []node{left, right}}
		}
	}
	return left, err
}

// product reads factors joined by * and /, from the left. There is no implied
// multiplication: 2 mm is a number with a unit, and 2 w is an error.
func (p *parser) product() (node, error) {
	left, err := p.signed()
	for err == nil && (p.symbol("*") || p.symbol("/")) {
		op, pos := opMul, p.tok.pos
		if p.symbol("/") {
			op = opDiv
		}
		p.next()
		var right node
		if right, err = p.signed(); err == nil {
			left = node{op: op, pos: pos, args: []node{left, right}}
		}
	}
	return left, err
}

// signed reads a sign, or a power. The sign binds less than the power and the
// power groups to the right, as in written mathematics: -2^2 is -4, and 2^3^2 is
// 2^9.
func (p *parser) signed() (node, error) {
	if err := p.enter(); err != nil {
		return node{}, err
	}
	defer func() { p.depth-- }()
	if p.symbol("-") || p.symbol("+") {
		neg, pos := p.symbol("-"), p.tok.pos
		p.next()
		n, err := p.signed()
		if neg && err == nil {
			n = node{op: opNeg, pos: pos, args: []node{n}}
		}
		return n, err
	}
	base, err := p.primary()
	if err == nil && p.symbol("^") {
		pos := p.tok.pos
		p.next()
		exp, err := p.signed()
		return node{op: opPow, pos: pos, args: []node{base, exp}}, err
	}
	return base, err
}

// primary reads a number with its unit, a name, a call, or what is in
// parentheses.
func (p *parser) primary() (node, error) {
	pos := p.tok.pos
	switch {
	case p.tok.kind == tokNumber:
		n, err := p.literal()
		if err == nil {
			l := Literal{At: pos, End: p.end, Value: n.value}
			if n.op == opMul { // by its unit
				of, unit := n.args[0].value, n.args[1].value
				l.Value = Quantity{of.Value * unit.Value, unit.Dim}
			}
			p.literals = append(p.literals, l)
		}
		return n, err
	case p.tok.kind == tokName:
		name := p.tok.text
		p.next()
		if !p.symbol("(") {
			if _, isUnit := LookupUnit(name); isUnit {
				return node{}, p.fail(pos, fmt.Sprintf("the unit %q has no number before it", name),
					"write a number first, for example 1 "+name)
			}
			return node{op: opName, pos: pos, name: name}, nil
		}
		p.next()
		n := node{op: opCall, pos: pos, name: name}
		for {
			arg, err := p.sum()
			if err != nil {
				return n, err
			}
			n.args = append(n.args, arg)
			if p.symbol(",") {
				p.next()
				continue
			}
			return n, p.closing(pos)
		}
	case p.symbol("("):
		p.next()
		n, err := p.sum()
		if err != nil {
			return n, err
		}
		if err := p.closing(pos); err != nil {
			return n, err
		}
		return p.withUnit(n)
	case p.tok.kind == tokEnd:
		return node{}, p.fail(pos, "the formula ends where a value is expected", "complete it or remove the last operator")
	}
	return node{}, p.fail(pos, fmt.Sprintf("%q is not a value", p.tok.text),
		"write a number, a parameter name or a parenthesis here")
}

// closing reads the parenthesis that ends what was opened at a place, which is
// what an error points at.
func (p *parser) closing(open int) error {
	if !p.symbol(")") {
		return p.fail(open, "this parenthesis is not closed", "add the missing )")
	}
	p.next()
	return nil
}

// literal reads a number with an optional fraction and unit. A fraction is read
// as part of the literal only when a unit follows or a whole number stands
// before it; "3/16" alone is an ordinary division with the same value.
func (p *parser) literal() (node, error) {
	first := p.tok
	n := node{op: opValue, pos: first.pos, value: Quantity{first.value, Number}}
	p.next()
	if first.whole && p.tok.kind == tokNumber && p.tok.whole {
		num := p.tok
		p.next()
		if !p.symbol("/") {
			return n, p.fail(num.pos, fmt.Sprintf("%q follows another number", num.text),
				"write a mixed number as 1 1/2, or put an operator between them")
		}
		p.next()
		if p.tok.kind != tokNumber || !p.tok.whole {
			return n, p.fail(p.tok.pos, "a fraction needs a whole number below the line", "write it as 1 1/2")
		}
		den := p.tok
		p.next()
		n.value.Value += num.value / den.value
		return p.withUnit(n)
	}
	if first.whole && p.symbol("/") {
		save := *p
		p.next()
		if p.tok.kind == tokNumber && p.tok.whole {
			den := p.tok
			p.next()
			if _, isUnit := LookupUnit(p.tok.text); isUnit && p.tok.kind == tokName {
				n.value.Value /= den.value
				return p.withUnit(n)
			}
		}
		*p = save
	}
	return p.withUnit(n)
}

// withUnit multiplies n by a unit that follows it, if one does.
func (p *parser) withUnit(n node) (node, error) {
	if p.tok.kind != tokName {
		return n, nil
	}
	u, ok := LookupUnit(p.tok.text)
	if !ok {
		hint := ""
		if strings.EqualFold(p.tok.text, "inch") || strings.EqualFold(p.tok.text, "inches") {
			hint = "write in for inches"
		} else {
			hint = "use mm, cm, m, in, deg or rad, or put an operator before a parameter name"
		}
		return n, p.fail(p.tok.pos, fmt.Sprintf("%q is not a unit", p.tok.text), hint)
	}
	pos := p.tok.pos
	p.next()
	unit := node{op: opValue, pos: pos, value: Quantity{u.Factor, u.Dim}}
	return node{op: opMul, pos: n.pos, args: []node{n, unit}}, nil
}

// Rename writes a formula with one name in place of another. A text that is no
// formula is given back as it is.
func Rename(source, from, to string) string {
	if _, err := Parse(source); err != nil {
		return source
	}
	var out strings.Builder
	p := &parser{src: source}
	last := 0
	for p.next(); p.tok.kind != tokEnd; p.next() {
		if p.tok.kind == tokName && p.tok.text == from {
			out.WriteString(source[last:p.tok.pos] + to)
			last = p.tok.pos + len(from)
		}
	}
	return out.String() + source[last:]
}
