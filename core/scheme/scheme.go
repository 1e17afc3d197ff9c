// Package scheme is what an analyst decided about one question (cleaning, lexicon, code frame, decisions by hand), and the edits
// of it. Each edit is a type of its own: it checks itself, applies itself, and says in words what it did; what it touched and
// what takes it back is worked out from what differs afterwards.
package scheme

import (
	"errors"
	"fmt"

	"aftermath/core/playbook"
	"aftermath/core/survey"
)

// Scheme is what was decided about one question. It does not change once made.
type Scheme struct {
	playbook.Playbook
	Decisions Decisions
	// LastKey is the number of the newest category key that was given out in the life of the question. Undo does not take it
	// back: no key is given out twice.
	LastKey int
}

// New is the scheme of a question that begins with a playbook.
func New(p playbook.Playbook, d Decisions) Scheme {
	return Scheme{p, d, p.Frame.LastKey()}
}

// Clone copies all that edits change.
func (s Scheme) Clone() Scheme {
	s.Playbook = s.Playbook.Clone()
	return s
}

// ErrEdit is behind every error about an edit that can't be made.
var ErrEdit = errors.New("this can't be done")

func refuse(format string, args ...any) error {
	return fmt.Errorf("%w: "+format, append([]any{ErrEdit}, args...)...)
}

// Check says what is wrong with a scheme: what the playbook says. Rules that can't be read stand as they are.
func (s Scheme) Check() error {
	if err := s.Playbook.Check(); err != nil {
		return fmt.Errorf("%w: %w", ErrEdit, err)
	}
	return nil
}

// hands counts the answers of respondents who are there that a category was put on by hand.
func (s Scheme) hands(category string, rows survey.Rows) int {
	return int(rows.Of(s.Decisions.On[category]).GetCardinality())
}
