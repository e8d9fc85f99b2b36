package school

import (
	"time"

	"hammerset/store"
)

// ErrNotFound is returned for what is not there, or not the asker's to see: which of the two, nobody is told.
var ErrNotFound = store.ErrNotFound

// Kind sorts refusals by what stands against what was asked for.
type Kind int

const (
	// Unreadable is what was sent, so that nothing is known of it.
	Unreadable Kind = iota + 1
	// Faulty is what was asked for: it breaks a rule.
	Faulty
	// TooLarge is what was sent.
	TooLarge
	// WrongPassword: nobody is signed in by it.
	WrongPassword
	// Forbidden is what the asker's role does not allow.
	Forbidden
	// Conflict: the state of things does not allow it, or not any more.
	Conflict
	// TooMany of the kind were asked for within some time.
	TooMany
)

// Code names a refusal that can be answered at once.
type Code string

const (
	// LookFirst: what the check asks about has not been looked at; return all the same, or look.
	LookFirst Code = "look-first"
	// BuildsOnIt: something builds on what was to be removed; remove that too, or leave it.
	BuildsOnIt Code = "builds-on-it"
	// Twice: the class has the exercise already; issue it once more on purpose, or not.
	Twice Code = "twice"
	// Mesh: a mesh is handed in where a solid is due; hand it in all the same, or not.
	Mesh Code = "mesh"
	// NewerSaved: another version was saved since a draft was begun; save all the same, or begin from that.
	NewerSaved Code = "newer-saved"
)

// Refusal says why something was not done, and what to do instead. Nothing has changed.
type Refusal struct {
	Kind         Kind
	Code         Code
	What, Remedy string
	Wait         time.Duration // how long to wait, of TooMany
}

func (r *Refusal) Error() string {
	if r.Remedy == "" {
		return r.What
	}
	return r.What + ": " + r.Remedy
}

func refuse(kind Kind, what, remedy string) error {
	return &Refusal{Kind: kind, What: what, Remedy: remedy}
}
