package scheme

import (
	"fmt"
	"strings"

	"aftermath/core/frame"
	"aftermath/core/playbook"
)

// BringFrame brings a code frame in: in the place of the one there is, where categories under the same path keep their decisions
// by hand, or after it, where a top category whose name is taken gets a further number.
type BringFrame struct {
	Frame  frame.Frame  `json:"frame"`
	Fields frame.Fields `json:"fields,omitempty" doc:"fields that its categories have; one that is here already keeps its type"`
	After  bool         `json:"after,omitempty" doc:"after the categories there are, not in their place"`
}

// TakePlaybook takes cleaning, lexicon and code frame of a playbook in the place of what there is. Categories under the same path
// keep their decisions by hand.
type TakePlaybook struct {
	Playbook playbook.Playbook `json:"playbook"`
}

// CopyFrom takes parts of another question's scheme in the place of what there is. Categories under the same path keep their
// decisions by hand.
type CopyFrom struct {
	Question int64  `json:"question"`
	Parts    []Part `json:"parts" minItems:"1"`
}

// GoBack makes an earlier state of the scheme the present one, decisions by hand and all.
type GoBack struct {
	State string `json:"state" doc:"the number of a revision, or = and the name of a state"`
}

// Part is a part of a scheme that can be copied.
type Part string

// The parts.
const (
	CleaningPart Part = "cleaning"
	LexiconPart  Part = "lexicon"
	FramePart    Part = "frame"
)

// Kind tells it apart.
func (BringFrame) Kind() string { return "frame" }

// Kind tells it apart.
func (TakePlaybook) Kind() string { return "playbook" }

// Kind tells it apart.
func (CopyFrom) Kind() string { return "copy" }

// Kind tells it apart.
func (GoBack) Kind() string { return "go back" }

func (e BringFrame) change(s *Scheme, _ Situation) (string, error) {
	brought := e.Frame.Clone()
	if err := s.takeFields(brought, e.Fields.Clone()); err != nil {
		return "", err
	}
	summary := fmt.Sprintf("Brought in a code frame of %d categories", brought.Len())
	if !e.After {
		s.replaceFrame(brought)
		return summary, nil
	}
	for _, c := range brought {
		old := c.Name
		asNew(&c)
		if c.Name = freeName(s.Frame, c.Name); c.Name != old { // its own rules speak of itself
			own := Scheme{Playbook: playbook.Playbook{Frame: frame.Frame{c}}}
			own.moved([]string{old}, []string{c.Name})
			c = own.Frame[0]
		}
		s.Frame = append(s.Frame, c)
	}
	return summary + ", after the ones there were", nil
}

// replaceFrame puts another code frame in the place of the one there is: keys come from paths.
func (s *Scheme) replaceFrame(by frame.Frame) {
	s.Frame = by
	for p := range s.Frame.All() {
		p.ID = ""
	}
}

func (e TakePlaybook) change(s *Scheme, _ Situation) (string, error) {
	taken := e.Playbook.Clone()
	by := taken.Frame
	taken.Aftermath, taken.Frame, taken.Variables, taken.Derived = s.Aftermath, nil, s.Variables, s.Derived
	s.Playbook = taken
	s.replaceFrame(by)
	return "Loaded a playbook", nil
}

func (e CopyFrom) change(s *Scheme, at Situation) (string, error) {
	if len(e.Parts) == 0 {
		return "", refuse("say what is to be copied")
	}
	from, err := at.Question(e.Question)
	if err != nil {
		return "", err
	}
	from = from.Clone()
	var names []string
	for _, part := range e.Parts {
		switch part {
		case CleaningPart:
			s.Cleaning, s.NoAnswers = from.Cleaning, from.NoAnswers
		case LexiconPart:
			s.Lexicon = from.Lexicon
		case FramePart:
			s.replaceFrame(from.Frame)
			s.Single, s.Fields = from.Single, from.Fields
		default:
			return "", refuse("there is no part %q; there are cleaning, lexicon and frame", part)
		}
		names = append(names, string(part))
	}
	return "Copied " + strings.Join(names, ", ") + " from another question", nil
}

func (e GoBack) change(s *Scheme, at Situation) (string, error) {
	then, name, err := at.State(e.State)
	if err != nil {
		return "", err
	}
	s.Playbook, s.Decisions = then.Playbook.Clone(), then.Decisions
	return "Went back to " + name, nil
}

// numbered is a name that is not taken: as it is, or with the first number from 2 on that makes it so.
func numbered(name string, taken func(string) bool) string {
	try := name
	for i := 2; taken(try); i++ {
		try = fmt.Sprintf("%s %d", name, i)
	}
	return try
}
