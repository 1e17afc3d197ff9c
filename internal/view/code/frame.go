// Package code is what the view Code asks for: the frame with its figures, rules that are being written, drafts, health, and why.
package code

import (
	"context"
	"fmt"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/rule"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// FrameLine is a category with its figures in a focus.
type FrameLine struct {
	frame.Category
	ID    string     `json:"id" doc:"its key"`
	Path  []string   `json:"path"`
	Net   bool       `json:"net,omitempty"`
	Top   int        `json:"top" doc:"place of its top category in the frame, from 0: its colour"`
	Up    string     `json:"up,omitempty" doc:"the net it stands in"`
	Has   int        `json:"has" doc:"answers in the focus"`
	Share float64    `json:"share" doc:"of the answers in the focus, 0 to 1"`
	Only  int        `json:"only" doc:"answers in the focus that no other category has, those in it and above it aside"`
	Hits  []RuleLine `json:"hits"`
	Less  []RuleLine `json:"less" doc:"the rules that take away"`
	Hand  int        `json:"hand" doc:"answers in the focus that it was put on by hand"`
	Whole *Checked   `json:"whole,omitempty" doc:"how right it was found to be, as a whole"`

	Decisions int `json:"decisions" doc:"answers, in the focus or not, that it was put on by hand; with any it can't become a net"`

	Gained int `json:"gained" doc:"answers in the focus that it did not have in the earlier state that was asked for"`
	Gone   int `json:"gone" doc:"answers in the focus that it had then, and has no more"`
}

// RuleLine is a rule of a category with its figure.
type RuleLine struct {
	Source   string         `json:"source"`
	Answers  int            `json:"answers" doc:"in the focus"`
	Problems []rule.Problem `json:"problems"`
	Checked  *Checked       `json:"checked,omitempty" doc:"how right it was found to be"`
}

// FrameTable is the code frame in a focus.
type FrameTable struct {
	Revision   int          `json:"revision"`
	Base       int          `json:"base" doc:"answers in the focus"`
	Coded      int          `json:"coded" doc:"of those, with a category"`
	Since      bool         `json:"since,omitempty" doc:"gained and gone are worked out"`
	Single     bool         `json:"single,omitempty" doc:"each answer is in one category only: the first that has it"`
	Fields     frame.Fields `json:"fields" doc:"properties that categories have, in their order"`
	Categories []FrameLine  `json:"categories"`
}

// Frame gives the code frame with its figures. Since names an earlier state to compare with; none if it is empty. Under
// other cleaning steps the answers would have to be read again: then nothing is compared.
func Frame(ctx context.Context, s *state.State, f focus.Focus, since string) (FrameTable, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return FrameTable{}, err
	}
	var then *state.State
	if since != "" {
		if then, err = lately(ctx, s, since); err != nil {
			return FrameTable{}, err
		}
	}
	t := FrameTable{
		Revision:   s.Revision,
		Base:       int(set.GetCardinality()),
		Coded:      int(set.AndCardinality(s.Coding.Coded)),
		Since:      then != nil,
		Single:     s.Scheme.Single,
		Fields:     append(frame.Fields{}, s.Scheme.Fields...),
		Categories: []FrameLine{},
	}
	var ups []string // keys of the nets above
	for _, r := range s.Coding.Results {
		ups = append(ups[:len(r.Path)-1], r.ID)
		line := FrameLine{
			Category: *r.Category,
			ID:       r.ID,
			Path:     r.Path,
			Net:      len(r.Children) > 0,
			Top:      r.Top,
			Has:      int(set.AndCardinality(r.Answers)),
		}
		line.Children, line.Checks = nil, nil
		line.Whole = checked(s, r, "")
		if len(ups) > 1 {
			line.Up = ups[len(ups)-2]
		}
		line.Share = view.Share(line.Has, t.Base)
		line.Only = int(set.AndCardinality(s.Coding.Only(r)))
		line.Hits, line.Less = ruleLines(r.Rules, set), ruleLines(r.Unless, set)
		for i := range line.Hits {
			line.Hits[i].Checked = checked(s, r, line.Hits[i].Source)
		}
		for i, idle := range r.Idle() {
			if idle != "" {
				line.Hits[i].Problems = append(line.Hits[i].Problems, rule.Problem{Message: idle, Warning: true})
			}
		}
		if then != nil {
			had := roaring.New()
			if was, ok := then.Coding.Of(r.ID); ok {
				had = was.Answers
			}
			line.Gained = int(roaring.AndNot(r.Answers, had).AndCardinality(set))
			line.Gone = int(roaring.AndNot(had, r.Answers).AndCardinality(set))
		}
		if on := s.Decisions.On[r.ID]; on != nil {
			line.Hand, line.Decisions = int(on.AndCardinality(set)), int(on.GetCardinality())
		}
		t.Categories = append(t.Categories, line)
	}
	return t, nil
}

// lately gives an earlier state if it reads the answers by the same steps; nil if not.
func lately(ctx context.Context, s *state.State, ref string) (*state.State, error) {
	if s.Links.Earlier == nil {
		return nil, fmt.Errorf("%w: a question in no store has no past", state.ErrRequest)
	}
	other, err := s.Links.EarlierText(ctx, s, ref)
	if err != nil || other {
		return nil, err
	}
	then, _, err := s.Links.Earlier(ctx, s, ref)
	return then, err
}

func ruleLines(rules []frame.RuleResult, set *roaring.Bitmap) []RuleLine {
	out := []RuleLine{}
	for _, r := range rules {
		out = append(out, RuleLine{Source: r.Source, Answers: int(set.AndCardinality(r.Answers)), Problems: append([]rule.Problem{}, r.Problems...)})
	}
	return out
}
