package focus

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk/state"
)

// AnyStatus is the status of all answers: with it a focus speaks of those that say nothing too.
const AnyStatus = "any"

// Status passes answers with a status.
type Status struct {
	Name string `json:"text" doc:"name of the status, or any"`
}

// Kind is status.
func (Status) Kind() string { return "status" }

// Scope is the reading.
func (Status) Scope() Scope { return Scope{On: OnReading, Unanswered: true} }

func (t Status) answers(_ context.Context, s *state.State) (*roaring.Bitmap, error) {
	ix := s.Reading.Index
	if t.Name == AnyStatus {
		set := roaring.New()
		set.AddRange(0, uint64(ix.Len()))
		return set, nil
	}
	if i := slices.Index(text.StatusNames[:], t.Name); i >= 0 {
		return ix.Status(text.Status(i)), nil
	}
	return nil, fmt.Errorf("%w: there is no status %q", state.ErrRequest, t.Name)
}

func (Status) mark(*Marker) {}

// Step passes answers that a cleaning step changed.
type Step struct {
	ID string `json:"text" doc:"name of the step"`
}

// Kind is step.
func (Step) Kind() string { return "step" }

// Scope is the reading.
func (Step) Scope() Scope { return Scope{On: OnReading, Unanswered: true} }

func (t Step) answers(_ context.Context, s *state.State) (*roaring.Bitmap, error) {
	set, any := roaring.New(), false
	for i, step := range s.Scheme.Cleaning {
		if step.Kind() == t.ID {
			set.Or(s.Reading.Index.Touched(i))
			any = true
		}
	}
	if !any {
		return nil, gone("the cleaning step in the focus")
	}
	return set, nil
}

func (Step) mark(*Marker) {}

// Short passes answers with fewer words.
type Short struct {
	Words int `json:"n" minimum:"0" doc:"fewer words than this"`
}

// Kind is short.
func (Short) Kind() string { return "short" }

// Scope is the reading.
func (Short) Scope() Scope { return Scope{On: OnReading} }

func (t Short) answers(_ context.Context, s *state.State) (*roaring.Bitmap, error) {
	return s.Reading.Index.Shorter(t.Words), nil
}

func (Short) mark(*Marker) {}

// MinAlikePercent is from how many percent on answers are nearly alike: under it signatures miss too many.
const MinAlikePercent = 60

// Alike passes answers that read like another, word for word or nearly.
type Alike struct {
	Like    int `json:"n,omitempty" minimum:"0" doc:"like the answer of this respondent, plus one; 0 for all that are like another"`
	Percent int `json:"m,omitempty" minimum:"0" maximum:"100" doc:"nearly alike, by so many percent, from 60; 0: the same words"`
}

// Kind is alike.
func (Alike) Kind() string { return "alike" }

// Scope is the reading.
func (Alike) Scope() Scope { return Scope{On: OnReading} }

func (t Alike) answers(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	if t.Percent > 0 {
		return t.nearly(ctx, s)
	}
	alike, err := s.Alike(ctx)
	if err != nil {
		return nil, err
	}
	if t.Like == 0 {
		return alike.All, nil
	}
	if row, there := s.Study.Rows.Row(survey.Respondent(t.Like - 1)); there {
		if g, ok := alike.Of(row); ok {
			return roaring.BitmapOf(g...), nil
		}
		return roaring.BitmapOf(uint32(row)), nil
	}
	return nil, gone("the answer whose like are in the focus")
}

func (t Alike) nearly(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	if t.Percent < MinAlikePercent || t.Percent > 100 {
		return nil, fmt.Errorf("%w: answers are nearly alike from %d to 100 percent", state.ErrRequest, MinAlikePercent)
	}
	near, err := s.NearlyAlike(ctx, t.Percent)
	if err != nil {
		return nil, err
	}
	if t.Like == 0 {
		return near.All, nil
	}
	if row, there := s.Study.Rows.Row(survey.Respondent(t.Like - 1)); there {
		if g, ok := near.Of(row); ok {
			return roaring.BitmapOf(g...), nil
		}
	}
	return nil, gone("the group of answers in the focus")
}

func (Alike) mark(*Marker) {}

// Sample passes so many of the answered, at random or from the top.
type Sample struct {
	How  string `json:"text" enum:"random,first" doc:"drawn at random, or the first"`
	Size int    `json:"n" minimum:"1" doc:"how many of the answered"`
	Seed int    `json:"m,omitempty" minimum:"0" doc:"of the random numbers"`
}

// Kind is sample.
func (Sample) Kind() string { return "sample" }

// Scope is the reading.
func (Sample) Scope() Scope { return Scope{On: OnReading} }

func (t Sample) answers(_ context.Context, s *state.State) (*roaring.Bitmap, error) {
	answered := s.Reading.Index.Answered()
	switch {
	case t.Size < 1 || t.Seed < 0:
		return nil, fmt.Errorf("%w: a sample has at least one answer", state.ErrRequest)
	case t.How == "random":
		return s.Drawn(answered, t.Size, uint64(t.Seed)), nil
	case t.How != "first":
		return nil, fmt.Errorf("%w: a sample is random or the first, not %q", state.ErrRequest, t.How)
	case uint64(t.Size) >= answered.GetCardinality():
		return answered, nil
	}
	last, err := answered.Select(uint32(t.Size - 1))
	if err != nil {
		return nil, err
	}
	set := answered.Clone()
	set.RemoveRange(uint64(last)+1, uint64(answered.Maximum())+1)
	return set, nil
}

func (Sample) mark(*Marker) {}

// Personal passes answers with personal data of a kind.
type Personal struct {
	What string `json:"text" enum:"mail,phone,card,iban,postcode,link"`
}

// Kind is personal.
func (Personal) Kind() string { return "personal" }

// Scope is the scheme, which lists what is not personal.
func (Personal) Scope() Scope { return Scope{On: OnScheme, Unanswered: true} }

func (t Personal) answers(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	kind := slices.Index(text.PersonalKinds, t.What)
	if kind < 0 {
		return nil, fmt.Errorf(
			"%w: there is no personal data of kind %q; there are %s", state.ErrRequest, t.What, strings.Join(text.PersonalKinds, ", "),
		)
	}
	found, err := s.Personal(ctx)
	if err != nil {
		return nil, err
	}
	return found.Of[kind], nil
}

func (Personal) mark(*Marker) {}

// Hazard passes answers in which one cleaning step leaves fragments for a later one.
type Hazard struct {
	First  int `json:"n,omitempty" minimum:"0" doc:"place of the first step, from 0"`
	Second int `json:"m,omitempty" minimum:"0" doc:"place of the second step"`
}

// Kind is hazard.
func (Hazard) Kind() string { return "hazard" }

// Scope is the reading.
func (Hazard) Scope() Scope { return Scope{On: OnReading, Unanswered: true} }

func (t Hazard) answers(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	hazards, err := s.Hazards(ctx)
	set := roaring.New()
	for _, h := range hazards {
		if h.First == t.First && h.Second == t.Second {
			set.Or(h.Answers)
		}
	}
	return set, err
}

func (Hazard) mark(*Marker) {}
