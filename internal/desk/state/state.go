// Package state is one question at one revision: its answers, how they are read, what counts as a term, which categories they
// have. A state does not change once made; an edit makes the next one.
package state

import (
	"context"
	"errors"
	"maps"
	"runtime"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/core/terms"
	"aftermath/internal/desk/cells"
)

// ErrRequest is behind every error that is the asker's doing.
var ErrRequest = errors.New("this can't be done")

// Question says which question a state is of.
type Question struct {
	ID     int64 // 0 for one that is in no store
	Name   string
	Column int // its place in the study
}

// Links lead from a state to what lies outside of it. Any may be nil.
type Links struct {
	// Earlier gives an earlier state by a reference, applied to the answers and variables of the given one, and what it is
	// called.
	Earlier func(ctx context.Context, now *State, ref string) (*State, string, error)
	// Sibling gives another question of the study, as it is now, by its name.
	Sibling func(ctx context.Context, name string) (*State, error)
	// EarlierText says whether an earlier state reads the answers by other steps: it costs a reading of all of them then.
	EarlierText func(ctx context.Context, now *State, ref string) (other bool, err error)
	// Progress tells how far long work is.
	Progress func(what string) func(done int)
}

// State is a question at one revision.
type State struct {
	Question
	Revision  int
	Study     *Study
	Answers   []string // the originals, by row, as they may be shown
	Scheme    scheme.Scheme
	Decisions frame.Decisions // those of the scheme, by row
	Reading   playbook.Reading
	View      *lexicon.View
	Counter   *terms.Counter
	Coding    *frame.Coding
	Links     Links

	Memo *Memo // what was worked out of this state
	Text *Memo // what was worked out of the reading of the answers alone, for as long as that stands
	// Terms is what was worked out of the terms in the answers, for as long as reading and lexicon stand.
	Terms *Memo
}

// Playbook is the document of the scheme.
func (s *State) Playbook() *playbook.Playbook { return &s.Scheme.Playbook }

// Answered is the number of answers that say something.
func (s *State) Answered() int { return int(s.Reading.Index.Answered().GetCardinality()) }

// Suggested are the answers to which categories were put on since they are likely, unread.
func (s *State) Suggested() *roaring.Bitmap {
	return roaring.FastOr(slices.Collect(maps.Values(s.Decisions.Suggested))...)
}

// Decided are the answers that a category was put on or taken off by hand.
func (s *State) Decided() *roaring.Bitmap {
	all := slices.Collect(maps.Values(s.Decisions.On))
	return roaring.FastOr(slices.AppendSeq(all, maps.Values(s.Decisions.Off))...)
}

// Respondent is who gave the answer in a row.
func (s *State) Respondent(row int) survey.Respondent { return s.Study.Rows.Respondent(row) }

// Drawn are so many of a set of rows at random, or all of them where there are no more. Who is drawn depends on the seed and the
// respondent alone, whatever rows come and go: a larger sample holds the smaller one.
func (s *State) Drawn(rows *roaring.Bitmap, size int, seed uint64) *roaring.Bitmap {
	return s.Study.Rows.Of(survey.RespondentsOf(s.DrawnInOrder(rows, size, seed)...))
}

// DrawnInOrder are those respondents in the order in which they are drawn.
func (s *State) DrawnInOrder(rows *roaring.Bitmap, size int, seed uint64) []survey.Respondent {
	drawn := frame.Drawn(s.Study.Rows.Respondents(rows).Numbers(), size, seed)
	out := make([]survey.Respondent, len(drawn))
	for i, p := range drawn {
		out[i] = survey.Respondent(p)
	}
	return out
}

// Progress tells how far long work is, if it is long and anybody wants to know.
func (s *State) Progress(what string) func(done int) {
	if s.Links.Progress == nil || len(s.Answers) < 20_000 {
		return nil
	}
	return s.Links.Progress(what)
}

// Begin reads the answers of a question, applies its lexicon and codes them.
func Begin(ctx context.Context, q Question, study *Study, revision int, to scheme.Scheme, links Links) (*State, error) {
	s := &State{
		Question:  q,
		Revision:  revision,
		Study:     study,
		Answers:   study.Cells.Shown(q.Column),
		Scheme:    to,
		Decisions: to.Decisions.In(study.Rows),
		Links:     links,
	}
	var err error
	if err = s.read(ctx, "opening"); err != nil {
		return nil, err
	}
	return s.finished(ctx, nil)
}

// With gives the state under another scheme, as it would be at the next revision. Only what depends on what the change touches is
// worked out anew.
func (s *State) With(ctx context.Context, to scheme.Scheme, touched scheme.Touched) (*State, error) {
	return s.with(ctx, s.Study, to, touched)
}

// WithMasking is With where the scheme asks for another masking of the study.
func (s *State) WithMasking(ctx context.Context, m cells.Masking, to scheme.Scheme, touched scheme.Touched) (*State, error) {
	study, err := s.Study.Masked(m)
	if err != nil {
		return nil, err
	}
	return s.with(ctx, study, to, touched)
}

func (s *State) with(ctx context.Context, study *Study, to scheme.Scheme, touched scheme.Touched) (*State, error) {
	next := *s
	next.Scheme, next.Memo = to, nil
	other := study != s.Study
	next.Study, next.Answers = study, study.Cells.Shown(s.Column)
	if touched.Decisions {
		next.Decisions = to.Decisions.In(s.Study.Rows)
	}
	switch {
	case touched.Text || other:
		if err := next.read(ctx, "cleaning"); err != nil {
			return nil, err
		}
	case touched.Lexicon:
		next.View = s.View.With(to.Lexicon)
		next.Counter = terms.NewCounter(next.View, s.Counter)
		next.Terms = NewMemo()
	}
	if other {
		return next.finished(ctx, s.Coding.OfOtherVariables())
	}
	if !touched.Coding() {
		next.Memo = NewMemo()
		return &next, nil
	}
	return next.finished(ctx, s.Coding)
}

// Of gives the state under other variables of the same respondents. Answers that may be shown otherwise now are read anew.
func (s *State) Of(ctx context.Context, study *Study) (*State, error) {
	next := *s
	next.Study, next.Answers = study, study.Cells.Shown(s.Column)
	next.Name = study.Columns[next.Column].Name
	if !study.Cells.Masking().Equal(s.Study.Cells.Masking()) {
		if err := next.read(ctx, "cleaning"); err != nil {
			return nil, err
		}
	}
	return next.finished(ctx, s.Coding.OfOtherVariables())
}

// Alone reads and codes texts as if respondents of whom nothing else is known had said them.
func (s *State) Alone(ctx context.Context, given ...string) (*State, error) {
	reading, err := s.Scheme.Read(ctx, given, 1, nil)
	if err != nil {
		return nil, err
	}
	one := &State{
		Question:  s.Question,
		Answers:   given,
		Scheme:    s.Scheme,
		Decisions: frame.NewDecisions(),
		Reading:   reading,
		View:      s.Scheme.View(reading),
		Memo:      NewMemo(),
		Text:      NewMemo(),
		Terms:     NewMemo(),
	}
	one.Study = &Study{Setup: Setup{Rows: survey.FirstRows(len(given))}, Memo: NewMemo()}
	for _, v := range s.Study.Variables {
		one.Study.Variables = append(one.Study.Variables, v.Unsaid())
	}
	one.Coding, err = s.Scheme.Code(ctx, one.View, one.Answers, one.Study.Variables, one.Decisions, nil)
	return one, err
}

// At gives the state as one at a revision.
func (s *State) At(revision int) *State {
	next := *s
	next.Revision = revision
	return &next
}

// read cleans and indexes all answers.
func (s *State) read(ctx context.Context, what string) (err error) {
	if s.Reading, err = s.Scheme.Read(ctx, s.Answers, Workers(), s.Progress(what)); err != nil {
		return err
	}
	s.View = s.Scheme.View(s.Reading)
	s.Counter = terms.NewCounter(s.View, nil)
	s.Text, s.Terms = NewMemo(), NewMemo()
	return nil
}

// finished codes the answers.
func (s *State) finished(ctx context.Context, earlier *frame.Coding) (_ *State, err error) {
	s.Memo = NewMemo()
	s.Coding, err = s.Scheme.Code(ctx, s.View, s.Answers, s.Study.Variables, s.Decisions, earlier)
	return s, err
}

// LetGo ends what is worked out in the background of a state that is not the current one any more, but for what another state
// shares with it; there may be none.
func (s *State) LetGo(next *State) {
	if next == nil {
		next = &State{}
	}
	if s.Memo != next.Memo {
		s.Memo.LetGo()
	}
	if s.Text != next.Text {
		s.Text.LetGo()
	}
	if s.Terms != next.Terms {
		s.Terms.LetGo()
	}
}

// Workers is how many goroutines share a work.
func Workers() int { return runtime.GOMAXPROCS(0) }
