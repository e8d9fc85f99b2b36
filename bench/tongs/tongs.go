// Package tongs makes assemblies of any size that hold and move: lazy tongs, bars that cross in pairs.
package tongs

import (
	"fmt"
	"math"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Bars of the tongs: their length between the outer holes in mm, and how far each is turned out of the middle line.
const (
	length = 80.0
	turn   = 0.6
)

// Tongs are so many crossed pairs of bars in a row: each pair is joined at its middle, and to the next one at its ends.
// The first bar is pinned: all of it moves in one way, in which the pairs open and close.
func Tongs(pairs int) (*assembly.Document, map[string]*assembly.Shape) {
	d := &assembly.Document{Hammerset: assembly.Version, Name: "tongs", Unit: "mm", Parts: []assembly.Part{{ID: "bar",
		Name: "bar"}}}
	var features []assembly.Feature
	for k, name := range []string{"left", "middle", "right"} {
		features = append(features, assembly.Feature{Name: name, Form: assembly.Cylinder, Words: name + " hole", Hollow: true,
			At: solid.Vec{float64(k-1) * length / 2, 0, 0}, Axis: solid.World.Z, Radius: 3, Length: 5})
	}
	of := map[string]*assembly.Shape{"bar": {Features: features, Box: solid.Box{Min: solid.Vec{-length/2 - 6, -6, -2.5},
		Max: solid.Vec{length/2 + 6, 6, 2.5}}}}
	bar := func(pair, side int) string { return fmt.Sprintf("c%d", 2*pair+side+1) }
	for p := range pairs {
		for side, by := range []float64{turn, -turn} {
			pose, _ := rigid.Of(solid.Rotation(solid.Vec{}, solid.World.Z, by)) // a rotation is one
			pose.Shift[0] = float64(p) * length * math.Cos(turn)
			d.Components = append(d.Components, assembly.Component{ID: bar(p, side), Part: "bar", Pose: pose,
				Pinned: p == 0 && side == 0})
		}
	}
	join := func(a, hole, b, other string) {
		d.Joints = append(d.Joints, assembly.Joint{ID: fmt.Sprintf("j%d", len(d.Joints)+1), Kind: "revolute",
			A: address.Ref{Component: a, Name: hole}, B: address.Ref{Component: b, Name: other}, Sense: assembly.Same})
	}
	for p := range pairs {
		join(bar(p, 1), "middle", bar(p, 0), "middle")
		if p > 0 { // the right end of one bar is at the left end of the other one's follower
			join(bar(p, 1), "left", bar(p-1, 0), "right")
			join(bar(p, 0), "left", bar(p-1, 1), "right")
		}
	}
	return d, of
}
