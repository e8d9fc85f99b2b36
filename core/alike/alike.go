// Package alike finds what two files have in common that nobody else's has: it reads traits off files, and says of
// pairs what they share and how many others have that. It accuses nobody.
package alike

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// Kinds of traits.
const (
	Coordinate = "coordinate" // a place in a sketch that no size would give
	Name       = "name"       // given by a person
	Order      = "order"      // of steps, or of components and joints, by their ids
	Time       = "time"       // in the header of a STEP file
	Author     = "author"
	Product    = "product"
	Entities   = "entities" // of a STEP file, in their order
	Value      = "value"    // a wrong one that was measured
)

// weights say how much a trait tells that two files have and hardly anybody else: one person's places, names and wrong
// values may meet another's by chance, a time to the second hardly (common practice, no source).
var weights = map[string]float64{Coordinate: 1, Name: 0.5, Order: 0.5, Time: 3, Author: 1.5, Product: 0.5,
	Entities: 1.5, Value: 1}

// Enough is the sum of weights from which a pair is worth a look.
const Enough = 3

// Trait is one thing that others may have too.
type Trait struct {
	Kind string `json:"kind"`
	Of   string `json:"of"`
}

// String says it in words.
func (t Trait) String() string {
	switch t.Kind {
	case Coordinate:
		return "a point at " + t.Of
	case Order:
		return "everything by the same ids in the same order"
	case Time:
		return "the time stamp " + t.Of
	case Author:
		return "the author “" + t.Of + "”"
	case Product:
		return "the product “" + t.Of + "”"
	case Entities:
		return "all entities of the file in the same order"
	case Value:
		return t.Of
	}
	return "the name “" + t.Of + "”"
}

// Bounds of what is read off a file.
const (
	mostTraits = 300
	longest    = 80
)

// collection gathers traits, each once.
type collection struct {
	list []Trait
	has  map[Trait]bool
}

func (c *collection) add(kind, of string) {
	of = strings.TrimSpace(of)
	t := Trait{kind, of}
	if of == "" || len(of) > longest || len(c.list) >= mostTraits || c.has[t] {
		return
	}
	if c.has == nil {
		c.has = map[Trait]bool{}
	}
	c.list, c.has[t] = append(c.list, t), true
}

// OfModel reads traits off a model document: places in its sketches that are not of whole hundredths, names, and its
// steps by their ids.
func OfModel(data []byte) []Trait {
	var doc struct {
		Parameters []struct{ Name string }
		Steps      []struct {
			ID, Kind, Name string
			Entities       []struct {
				At *[2]float64
			}
		}
	}
	if json.Unmarshal(data, &doc) != nil {
		return nil
	}
	var c collection
	for _, p := range doc.Parameters {
		c.add(Name, p.Name)
	}
	var order []string
	for _, s := range doc.Steps {
		c.add(Name, s.Name)
		order = append(order, s.Kind+" "+s.ID)
		for _, e := range s.Entities {
			if e.At != nil && (odd(e.At[0]) || odd(e.At[1])) {
				c.add(Coordinate, fmt.Sprintf("%s, %s", decimal(e.At[0]), decimal(e.At[1])))
			}
		}
	}
	if len(order) > 0 {
		c.add(Order, hashed(order))
	}
	return c.list
}

// OfAssembly reads traits off the document of an assembly: places of components that are not of whole hundredths,
// names, and its components and joints by their ids.
func OfAssembly(data []byte) []Trait {
	var doc struct {
		Components []struct {
			ID, Name string
			Pose     struct{ Shift [3]float64 }
		}
		Joints []struct{ ID, Kind, Name string }
	}
	if json.Unmarshal(data, &doc) != nil {
		return nil
	}
	var c collection
	var order []string
	for _, x := range doc.Components {
		c.add(Name, x.Name)
		order = append(order, x.ID)
		if s := x.Pose.Shift; odd(s[0]) || odd(s[1]) || odd(s[2]) {
			c.add(Coordinate, fmt.Sprintf("%s, %s, %s", decimal(s[0]), decimal(s[1]), decimal(s[2])))
		}
	}
	for _, j := range doc.Joints {
		c.add(Name, j.Name)
		order = append(order, j.Kind+" "+j.ID)
	}
	if len(order) > 0 {
		c.add(Order, hashed(order))
	}
	return c.list
}

// OfAll are the traits of several files that were handed in together.
func OfAll(files [][]byte) []Trait {
	var c collection
	for _, data := range files {
		for _, t := range Of(data) {
			c.add(t.Kind, t.Of)
		}
	}
	return c.list
}

// odd tells whether a coordinate in mm is not of whole hundredths of a millimetre or of thousandths of an inch.
func odd(v float64) bool {
	off := func(step float64) float64 { return math.Abs(v/step - math.Round(v/step)) }
	return off(0.01) > 1e-4 && off(0.0254) > 1e-4
}

func decimal(v float64) string { return strconv.FormatFloat(math.Round(v*1e4)/1e4, 'f', -1, 64) }

func hashed(list []string) string {
	sum := sha256.Sum256([]byte(strings.Join(list, "\n")))
	return hex.EncodeToString(sum[:12])
}

// Of a STEP file (ISO 10303-21): the description of the file in its header, products, and the types of its entities.
var (
	fileName   = regexp.MustCompile(`(?s)FILE_NAME\s*\(\s*'(?:[^']|'')*'\s*,\s*'([^']*)'\s*,\s*\(\s*'((?:[^']|'')*)'`)
	products   = regexp.MustCompile(`=\s*PRODUCT\s*\(\s*'((?:[^']|'')*)'\s*,\s*'((?:[^']|'')*)'`)
	entityType = regexp.MustCompile(`#\d+\s*=\s*\(?\s*([A-Z][A-Z0-9_]*)`)
)

// OfSTEP reads traits off a STEP file: the time stamp and the author of its header, the names of its products, and the
// order of its entities.
func OfSTEP(data []byte) []Trait {
	var c collection
	if m := fileName.FindSubmatch(data); m != nil {
		c.add(Time, string(m[1]))
		if author := strings.ToLower(string(m[2])); author != "author" && author != "unknown" { // nobody's
			c.add(Author, string(m[2]))
		}
	}
	for _, m := range products.FindAllSubmatch(data, 50) {
		c.add(Product, string(m[1]))
		c.add(Product, string(m[2]))
	}
	var order []string
	for _, m := range entityType.FindAllSubmatch(data, -1) {
		order = append(order, string(m[1]))
	}
	if len(order) > 0 {
		c.add(Entities, hashed(order))
	}
	return c.list
}

// Of reads traits off a file, by its content.
func Of(data []byte) []Trait {
	text := strings.TrimLeft(string(data[:min(len(data), 200)]), "\ufeff \t\r\n")
	switch {
	case strings.HasPrefix(text, "{"):
		return slices.Concat(OfModel(data), OfAssembly(data))
	case strings.HasPrefix(text, "ISO-10303-21"):
		return OfSTEP(data)
	}
	return nil
}

// Pair are two files that have in common what hardly anybody else's has.
type Pair struct {
	A, B   int     // of those that were compared
	Shared []Trait // that hardly anybody else has, what tells most first
	Others int     // how many others have the one of these that most have
	Common int     // traits that both have and that are common
}

// fewest is of how many files it says something that nobody else has a trait. Of fewer a time stamp alone does.
const fewest = 4

// Pairs compares files by their traits, each of another person, and gives the pairs that are worth a look. A trait
// tells something when not more than a fifth of all have it, or nobody but two.
func Pairs(of [][]Trait) []Pair {
	who := map[Trait][]int{}
	for i, list := range of {
		for _, t := range list {
			who[t] = append(who[t], i)
		}
	}
	rare := max(2, len(of)/5)
	pairs := map[[2]int]*Pair{}
	for t, have := range who {
		for k, b := range have {
			for _, a := range have[:k] {
				p := pairs[[2]int{a, b}]
				if p == nil {
					p = &Pair{A: a, B: b}
					pairs[[2]int{a, b}] = p
				}
				if len(have) > rare || len(of) < fewest && t.Kind != Time {
					p.Common++
					continue
				}
				p.Shared, p.Others = append(p.Shared, t), max(p.Others, len(have)-2)
			}
		}
	}
	var out []Pair
	for _, p := range pairs {
		sum := 0.0
		for _, t := range p.Shared {
			sum += weights[t.Kind]
		}
		if sum < Enough {
			continue
		}
		slices.SortFunc(p.Shared, func(a, b Trait) int {
			if weights[a.Kind] != weights[b.Kind] {
				return int(2 * (weights[b.Kind] - weights[a.Kind]))
			}
			return strings.Compare(a.Kind+a.Of, b.Kind+b.Of)
		})
		out = append(out, *p)
	}
	slices.SortFunc(out, func(a, b Pair) int {
		if a.A != b.A {
			return a.A - b.A
		}
		return a.B - b.B
	})
	return out
}

// named is how many traits a sentence names.
const named = 4

// Why says what is alike of a pair, of how many that were compared, and what is common.
func (p Pair) Why(compared int) string {
	var list []string
	for _, t := range p.Shared[:min(named, len(p.Shared))] {
		list = append(list, t.String())
	}
	text := strings.Join(list, ", ")
	if more := len(p.Shared) - named; more > 0 {
		text += fmt.Sprintf(" and %d more", more)
	}
	others := "nobody else"
	if p.Others > 0 {
		others = fmt.Sprintf("%d others at most", p.Others)
	}
	text = fmt.Sprintf("both have %s; so has %s of %d", text, others, compared)
	if p.Common > 0 {
		text += fmt.Sprintf(". %d more that both have are common in the class", p.Common)
	}
	return text
}
