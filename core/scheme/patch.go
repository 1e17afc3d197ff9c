package scheme

import (
	"reflect"
	"slices"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/text"
)

// Patch leads from one scheme to another. It holds what differs and nothing else, so that what takes an edit back is about as
// large as the edit.
type Patch struct {
	Whole       *playbook.Playbook     `json:"whole,omitempty"` // all but the decisions: kept by programs that knew no finer patches
	Language    *string                `json:"language,omitempty"`
	Mask        *bool                  `json:"mask,omitempty"`
	Single      *bool                  `json:"single,omitempty"`
	Inflections *bool                  `json:"inflections,omitempty"`
	Compared    *bool                  `json:"compared,omitempty"` // whether comparatives stand apart
	Base        *string                `json:"base,omitempty"`     // language of the base stop words
	Cleaning    Splices[text.Step]     `json:"cleaning,omitempty"`
	NoAnswers   Splices[string]        `json:"noAnswers,omitempty"`
	Hidden      Splices[string]        `json:"hidden,omitempty"`
	Kept        Splices[string]        `json:"kept,omitempty"` // off the stop words
	Merges      Splices[lexicon.Merge] `json:"merges,omitempty"`
	Lists       Splices[lexicon.List]  `json:"lists,omitempty"`
	Parted      Splices[string]        `json:"parted,omitempty"`
	Apart       Splices[lexicon.Merge] `json:"apart,omitempty"`
	Refused     Splices[string]        `json:"refused,omitempty"` // drafts
	NotPersonal Splices[string]        `json:"notPersonal,omitempty"`
	Aside       Splices[string]        `json:"aside,omitempty"`  // warnings
	Fields      Splices[frame.Field]   `json:"fields,omitempty"` // of categories
	Frame       Splices[frame.Row]     `json:"frame,omitempty"`
	Decisions   []Marks                `json:"decisions,omitempty"`
}

// Touched says what depends on what a patch changes, and has to be worked out anew.
type Touched struct {
	Text      bool // how answers are read
	Lexicon   bool
	Frame     bool
	Decisions bool
}

// Coding says whether any category may have other answers.
func (t Touched) Coding() bool { return t != Touched{} }

// Touches says what a patch changes.
func (p Patch) Touches() Touched {
	if p.Whole != nil {
		return Touched{true, true, true, true}
	}
	return Touched{
		Text: p.Language != nil || len(p.Cleaning) > 0 || len(p.NoAnswers) > 0 || p.Mask != nil || len(p.NotPersonal) > 0,
		Lexicon: p.Inflections != nil || p.Compared != nil || p.Base != nil || len(p.Hidden) > 0 || len(p.Kept) > 0 ||
			len(p.Merges) > 0 || len(p.Lists) > 0 || len(p.Parted) > 0 || len(p.Apart) > 0,
		Frame:     len(p.Frame) > 0 || p.Single != nil,
		Decisions: len(p.Decisions) > 0,
	}
}

// Diff gives the patch that leads from one scheme to another.
func Diff(from, to Scheme) Patch {
	l, m := from.Lexicon, to.Lexicon
	return Patch{
		Language: other(from.Language, to.Language), Mask: other(from.Mask, to.Mask), Single: other(from.Single, to.Single),
		Inflections: other(l.Inflections, m.Inflections), Compared: other(l.ComparativesApart, m.ComparativesApart),
		Base:     other(l.StopWords.Base, m.StopWords.Base),
		Cleaning: splices(from.Cleaning, to.Cleaning), NoAnswers: splices(from.NoAnswers, to.NoAnswers),
		Hidden: splices(l.StopWords.Add, m.StopWords.Add), Kept: splices(l.StopWords.Keep, m.StopWords.Keep),
		Merges: splices(l.Merges, m.Merges), Lists: splices(l.Lists, m.Lists),
		Parted: splices(l.Parted, m.Parted), Apart: splices(l.Apart, m.Apart),
		Refused: splices(from.RefusedDrafts, to.RefusedDrafts), NotPersonal: splices(from.NotPersonal, to.NotPersonal),
		Aside: splices(from.Aside, to.Aside), Fields: splices(from.Fields, to.Fields), Frame: splices(from.Frame.Rows(), to.Frame.Rows()),
		Decisions: from.Decisions.To(to.Decisions),
	}
}

func other[T comparable](from, to T) *T {
	if from == to {
		return nil
	}
	return &to
}

// Patched makes one change after the other. The scheme must be the one that the first patch leads from, in the parts that it
// speaks of; it is not changed, and copied once, however many they are.
func (s Scheme) Patched(patches ...Patch) Scheme {
	s = s.Clone()
	rows, moved := s.Frame.Rows(), false
	for _, p := range patches {
		if p.Whole != nil {
			s.Playbook = p.Whole.Clone()
			rows = s.Frame.Rows()
		}
		p.settings(&s.Playbook)
		if len(p.Frame) > 0 {
			rows = p.Frame.apply(rows)
			moved = true
		}
		s.Decisions = s.Decisions.With(p.Decisions)
	}
	if moved {
		s.Frame = frame.FromRows(rows)
	}
	return s
}

// settings makes the changes of everything but the frame and the decisions.
func (p Patch) settings(to *playbook.Playbook) {
	set(&to.Language, p.Language)
	set(&to.Mask, p.Mask)
	set(&to.Single, p.Single)
	l := &to.Lexicon
	set(&l.Inflections, p.Inflections)
	set(&l.ComparativesApart, p.Compared)
	set(&l.StopWords.Base, p.Base)
	to.Cleaning, to.NoAnswers = p.Cleaning.apply(to.Cleaning), p.NoAnswers.apply(to.NoAnswers)
	l.StopWords.Add, l.StopWords.Keep = p.Hidden.apply(l.StopWords.Add), p.Kept.apply(l.StopWords.Keep)
	l.Merges, l.Lists = p.Merges.apply(l.Merges), p.Lists.apply(l.Lists)
	l.Parted, l.Apart = p.Parted.apply(l.Parted), p.Apart.apply(l.Apart)
	to.RefusedDrafts, to.NotPersonal = p.Refused.apply(to.RefusedDrafts), p.NotPersonal.apply(to.NotPersonal)
	to.Aside, to.Fields = p.Aside.apply(to.Aside), p.Fields.apply(to.Fields)
}

func set[T any](to *T, value *T) {
	if value != nil {
		*to = *value
	}
}

// Splice puts items in the place of others in a list.
type Splice[T any] struct {
	At  int `json:"at"`            // the first item that goes, in the list as it was
	Out int `json:"out,omitempty"` // how many go
	In  []T `json:"in,omitempty"`  // what comes there
}

// Splices are changes of one list, ascending and without overlaps.
type Splices[T any] []Splice[T]

// splices gives what leads from one list to another: one stretch, or, where both are of one length, each stretch that differs.
func splices[T any](from, to []T) (out Splices[T]) {
	same := func(a, b T) bool { return reflect.DeepEqual(a, b) }
	first := 0
	for first < len(from) && first < len(to) && same(from[first], to[first]) {
		first++
	}
	last := 0
	for last < min(len(from), len(to))-first && same(from[len(from)-1-last], to[len(to)-1-last]) {
		last++
	}
	a, b := from[first:len(from)-last], to[first:len(to)-last]
	switch {
	case len(a) == 0 && len(b) == 0:
		return nil
	case len(a) != len(b):
		return Splices[T]{{first, len(a), slices.Clone(b)}}
	}
	for i := 0; i < len(a); i++ {
		if same(a[i], b[i]) {
			continue
		}
		start := i
		for i < len(a) && !same(a[i], b[i]) {
			i++
		}
		out = append(out, Splice[T]{first + start, i - start, slices.Clone(b[start:i])})
	}
	return out
}

// apply makes the changes. Places beyond the list are taken for its end.
func (p Splices[T]) apply(list []T) []T {
	if len(p) == 0 {
		return list
	}
	out := []T{}
	at := 0
	for _, s := range p {
		from := min(max(s.At, at), len(list))
		out = append(append(out, list[at:from]...), s.In...)
		at = min(from+s.Out, len(list))
	}
	return append(out, list[at:]...)
}
