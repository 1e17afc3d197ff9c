package focus

import (
	"context"
	"fmt"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/oneof"
	"aftermath/internal/desk/state"
)

// Condition is one piece of a focus: a test that its answers pass, or with Not fail.
type Condition struct {
	Test
	Inversion
}

// Inversion says that the answers of a condition are those that fail its test.
type Inversion struct {
	Not bool `json:"not,omitempty" doc:"the opposite"`
}

// Is is the condition that a test is passed.
func Is(t Test) Condition { return Condition{Test: t} }

// Not is the condition that a test is failed.
func Not(t Test) Condition { return Condition{t, Inversion{true}} }

// Test decides for each answer of a question whether it passes. Each kind is a type with what it needs and nothing else; Kinds lists
// them.
type Test interface {
	oneof.Kinded
	// Scope is what the test depends on.
	Scope() Scope
	// answers are the rows that pass. The caller must not change the set.
	answers(ctx context.Context, s *state.State) (*roaring.Bitmap, error)
	// mark adds to a marker the words that the test looks for; most tests look for none.
	mark(m *Marker)
}

// Kinds are all tests there are, each with nothing in it.
var Kinds = []Test{
	Words{}, Term{}, Row{}, Block{}, Branch{}, // what an answer says
	Variable{}, Person{}, Respondents{}, // who gave it
	Status{}, Step{}, Short{}, Alike{}, Sample{}, Personal{}, Hazard{}, // how it reads
	Coded{}, Category{}, CategoryRule{}, Decided{}, Settled{}, Changed{}, // how it is coded
}

// Dependence is the part of a question that decides who passes a test. Each part includes those before it: an edit of a later part
// changes nothing for a test that depends on an earlier one.
type Dependence int

// Dependences.
const (
	OnRespondents Dependence = iota // the values of respondents: the same for every question of the study
	OnReading                       // the cleaned text and its statuses
	OnScheme                        // lexicon, frame, coding and decisions
	OnHistory                       // earlier or named states of the scheme
)

// Scope is what a test depends on.
type Scope struct {
	On Dependence
	// Unanswered says that the test speaks of answers that say nothing too: a focus with it is not limited to the answered.
	Unanswered bool
	// Categories are the keys of the categories that the test names.
	Categories []string
}

// MarshalJSON writes the condition with its kind.
func (c Condition) MarshalJSON() ([]byte, error) { return oneof.Encode(c.Test, c.Inversion) }

// UnmarshalJSON reads a condition. What its kind does not know is an error, and so is what it lacks.
func (c *Condition) UnmarshalJSON(data []byte) (err error) {
	c.Inversion = Inversion{}
	if c.Test, err = oneof.Decode("condition", Kinds, data, &c.Inversion); err != nil {
		return fmt.Errorf("%w: %w", state.ErrRequest, err)
	}
	return nil
}

func gone(what string) error { return fmt.Errorf("%w: %s is gone", state.ErrRequest, what) }
