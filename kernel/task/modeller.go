package task

// Kinds of tasks of the modeller.
const (
	Model   = "model"   // rebuild a model with all that can be picked in it
	Measure = "measure" // measure one or two picks
	Edit    = "edit"    // move, remove, rename: changes that follow rules
	Changes = "changes" // what differs between two states
	Look    = "look"    // the findings of sketches and steps
	Reach   = "reach"   // the interval of a parameter in which the model holds
	Export  = "export"  // STEP, or a mesh
	Follow  = "follow"  // how far an attempt follows the reference
	Had     = "had"     // the characteristics that a model has already
)
