package partition

import (
	"fmt"
	"math/rand"
	"testing"
)

// Both partitions agree with sets that are relabelled by hand, and the root of the set that was
// joined to stays.
func TestAgainstRelabelling(t *testing.T) {
	r := rand.New(rand.NewSource(1))
	for range 200 {
		n := 1 + r.Intn(40)
		numbers, names, label := Of(n), &Names{}, make([]int, n)
		name := func(i int) string { return fmt.Sprint("p", i) }
		for i := range label {
			label[i] = i
		}
		for range r.Intn(2 * n) {
			a, b := r.Intn(n), r.Intn(n)
			root := numbers.Root(a)
			numbers.Join(a, b)
			names.Join(name(a), name(b))
			if numbers.Root(b) != root {
				t.Fatalf("the root of %d became %d", root, numbers.Root(b))
			}
			old := label[b]
			for i := range label {
				if label[i] == old {
					label[i] = label[a]
				}
			}
		}
		for i := range n {
			for k := range n {
				if same := label[i] == label[k]; same != (numbers.Root(i) == numbers.Root(k)) ||
					same != (names.Root(name(i)) == names.Root(name(k))) {
					t.Fatalf("%d and %d together: %v", i, k, same)
				}
			}
			if names.Root(name(i)) != name(numbers.Root(i)) {
				t.Fatalf("%d has the roots %s and %d", i, names.Root(name(i)), numbers.Root(i))
			}
		}
	}
}
