package solid

import "fmt"

// Product is what a STEP file of an assembly is made of: a part with a shape, or Uses of
// others. Volume and Area are stated with a part where they are more than 0.
type Product struct {
	Name         string
	Shape        Shape
	Uses         []Use
	Colour       *[3]float64 // red, green and blue from 0 to 1
	Volume, Area float64
}

// Use is a product placed in another one.
type Use struct {
	Product int
	Name    string
	Place   Transform
}

// CheckProducts sees that every product has a shape or is made of others, and none of itself.
func CheckProducts(list []Product) error {
	state := make([]int, len(list)) // 1: on the way down, 2: done
	var down func(i int) error
	down = func(i int) error {
		if state[i] == 1 {
			return fmt.Errorf("the product %s is made of itself", list[i].Name)
		}
		if state[i] == 2 {
			return nil
		}
		if list[i].Shape == nil && len(list[i].Uses) == 0 {
			return fmt.Errorf("the product %s has neither a shape nor parts", list[i].Name)
		}
		state[i] = 1
		for _, u := range list[i].Uses {
			if u.Product < 0 || u.Product >= len(list) {
				return fmt.Errorf("the product %s is made of one that there is not", list[i].Name)
			}
			if err := down(u.Product); err != nil {
				return err
			}
		}
		state[i] = 2
		return nil
	}
	for i := range list {
		if err := down(i); err != nil {
			return err
		}
	}
	return nil
}
