// Package scheme is what an analyst decided about one question (cleaning, lexicon, code frame, decisions by hand), and the edits
// of it. Each edit is a type of its own: it checks itself, applies itself, and says in words what it did; what it touched and
// what takes it back is worked out from what differs afterwards.
package scheme

import (
	"errors"
	"fmt"

	"aftermath/core/playbook"
	"aftermath/core/rule"
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

// Bounds of what a scheme may hold. They are far over what people write, and keep every edit and its preview quick.
const (
	MaxCategories = 5000
	MaxRules      = 20_000  // in the whole frame
	MaxEntries    = 100_000 // of merges, and of term lists, together
)

// Check says what is wrong with a scheme: what the playbook says, and what is over its bounds. Rules that can't be read stand as
// they are, but none may be longer than rule.MaxLength.
func (s Scheme) Check() error {
	if err := s.Playbook.Check(); err != nil {
		return fmt.Errorf("%w: %w", ErrEdit, err)
	}
	categories, rules := 0, 0
	for p := range s.Frame.All() {
		categories++
		for _, list := range [][]string{p.Rules, p.Unless, p.Resting} {
			rules += len(list)
			for _, src := range list {
				if len(src) > rule.MaxLength {
					return refuse("a rule of %s is longer than %d letters; part it into several", p.PathName(), rule.MaxLength)
				}
			}
		}
	}
	entries := 0
	for _, m := range s.Lexicon.Merges {
		entries += 1 + len(m.Variants)
	}
	for _, l := range s.Lexicon.Lists {
		entries += 1 + len(l.Entries)
	}
	switch {
	case categories > MaxCategories:
		return refuse("a code frame holds up to %d categories", MaxCategories)
	case rules > MaxRules:
		return refuse("a code frame holds up to %d rules", MaxRules)
	case entries > MaxEntries:
		return refuse("merges and term lists hold up to %d entries together", MaxEntries)
	}
	return nil
}

// hands counts the answers of respondents who are there that a category was put on by hand.
func (s Scheme) hands(category string, rows survey.Rows) int {
	return int(rows.Of(s.Decisions.On[category]).GetCardinality())
}
