package school

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"hammerset/store"
)

const (
	// longestGroup is how long the name of a group may be, in letters.
	longestGroup = 60
	// mostGroups is how many groups a class has at most.
	mostGroups = 40
)

// SetGroup makes a group of a class, where was is empty, or changes the name of one and who is in it. Without anybody
// it is no more.
func (s *School) SetGroup(ctx context.Context, by Person, class int64, was string, g store.Group) error {
	if err := s.may(ctx, by, ChangeClass, row{class: class}); err != nil {
		return err
	}
	g.Name = strings.Join(strings.Fields(g.Name), " ")
	if g.Name == "" || utf8.RuneCountInString(g.Name) > longestGroup {
		return refuse(Faulty, fmt.Sprintf("a group needs a name of at most %d letters", longestGroup), "")
	}
	slices.Sort(g.Students)
	g.Students = slices.Compact(g.Students)
	if err := s.ofClass(ctx, class, g.Students); err != nil {
		return err
	}
	groups, err := s.store.Groups(ctx, class)
	if err != nil {
		return err
	}
	known := slices.ContainsFunc(groups, func(o store.Group) bool { return o.Name == was })
	switch {
	case was != "" && !known:
		return refuse(Conflict, fmt.Sprintf("there is no group %q any more", was), "look at the groups as they are now")
	case was == "" && len(g.Students) == 0:
		return refuse(Faulty, "nobody is in the group", "tick who is in it")
	case was == "" && len(groups) >= mostGroups:
		return refuse(Faulty, fmt.Sprintf("a class has at most %d groups", mostGroups), "")
	}
	err = s.store.SetGroup(ctx, class, was, g, by.ID)
	if errors.Is(err, store.ErrGroupTaken) {
		return refuse(Conflict, fmt.Sprintf("the class has a group %q already", g.Name), "give it another name")
	}
	return err
}

// ofGroups puts those who are in the groups of an order among its students.
func (s *School) ofGroups(ctx context.Context, o *Order) error {
	if len(o.Groups) == 0 {
		return nil
	}
	groups, err := s.store.Groups(ctx, o.Class)
	if err != nil {
		return err
	}
	slices.Sort(o.Groups)
	o.Groups = slices.Compact(o.Groups)
	for _, name := range o.Groups {
		i := slices.IndexFunc(groups, func(g store.Group) bool { return g.Name == name })
		if i < 0 {
			return refuse(Faulty, fmt.Sprintf("the class has no group %q", name), "choose the groups again")
		}
		for _, id := range groups[i].Students {
			if !slices.Contains(o.Students, id) {
				o.Students = append(o.Students, id)
			}
		}
	}
	return nil
}
