// Package focus is the set of answers that everything on the screen speaks of, as a list of conditions.
package focus

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/lexicon"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk/state"
)

// Condition is one piece of a focus. Kind says which of the other parts count.
type Condition struct {
	Kind   string   `json:"kind" enum:"words,term,row,variable,category,rule,coded,settled,status,step,decided,answers,alike,block,branch,short,sample,personal,hazard,changed,person"`
	Text   string   `json:"text,omitempty" doc:"words: a rule; term: its label; row: two or three terms; branch: a rule, term or row, by op; block: words in a row, as they are read; status, step: its name; sample: random or first; personal: mail, phone, card, iban, postcode or link; changed: gained or lost; decided: empty for put on, any, both (as the rules say), apart (against them), suggested, noted, or by; person: empty for the category, any, or none"`
	Name   string   `json:"name,omitempty" doc:"variable, person: its name; decided: who made them, with by"`
	Op     string   `json:"op,omitempty" doc:"variable: = != < <= > >=; branch: words, term or row"`
	Values []string `json:"values,omitempty" doc:"variable, person: one is enough; category: in place of id, categories of which one is enough; branch: words that come one after the other, stop words passed over; changed: two states of the scheme, each the number of a revision, = and a name, or now"`
	ID     string   `json:"id,omitempty" doc:"category, rule, changed, person: the category; changed: none for any"`
	Rule   int      `json:"rule,omitempty" doc:"rule: which of the category's rules, from 1"`
	N      int      `json:"n,omitempty" doc:"short: fewer words than this; branch: 1 for words that follow, 0 for those that lead to it; sample: how many of the answered; alike: like the answer of this respondent, plus one, 0 for all that are like another; hazard: place of the first step, from 0"`
	M      int      `json:"m,omitempty" doc:"hazard: place of the second step; alike: nearly, by so many percent; sample: its seed"`
	Not    bool     `json:"not,omitempty" doc:"the opposite"`

	Answers []survey.Respondent `json:"answers,omitempty" doc:"answers: those of these respondents"`
}

// AnyStatus is the status of all answers: with it a focus speaks of those that say nothing too.
const AnyStatus = "any"

// Focus is the set of answers that meet all conditions. Without a condition on the status it speaks of the answered.
type Focus []Condition

// MaxConditions is how many conditions a focus may have.
const MaxConditions = 200

// Parse reads a focus as the address line carries it: JSON, empty for all answers.
func Parse(s string) (Focus, error) {
	if s == "" {
		return nil, nil
	}
	var f Focus
	if err := json.Unmarshal([]byte(s), &f); err != nil {
		return nil, fmt.Errorf("%w: the focus can't be read: %w", state.ErrRequest, err)
	}
	if len(f) > MaxConditions {
		return nil, fmt.Errorf("%w: a focus has up to %d conditions", state.ErrRequest, MaxConditions)
	}
	return f, nil
}

// With is the focus narrowed by a further condition; the given one stays as it is.
func (f Focus) With(c Condition) Focus { return append(slices.Clone(f), c) }

// Key names what a focus says: two have the same key just when they have the same conditions, in whatever order.
type Key string

// Key gives the one key of the focus. Everything that is kept for a focus is kept under it.
func (f Focus) Key() Key {
	parts := make([]string, len(f))
	for i, c := range f {
		data, err := json.Marshal(c) // strings and numbers only
		if err != nil {
			panic(err)
		}
		parts[i] = string(data)
	}
	slices.Sort(parts)
	return Key(strings.Join(slices.Compact(parts), ","))
}

type setKey struct{ focus Key }

func (setKey) Most() int { return 64 }

// Answers works out the rows of a focus. The caller must not change the set.
func (f Focus) Answers(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	return state.Remember(
		ctx, s.Memo, setKey{f.Key()}, func(ctx context.Context) (*roaring.Bitmap, error) { return f.narrow(ctx, s) },
	)
}

// wider are the conditions that bring answers into a focus which say nothing.
var wider = []string{"status", "step", "answers", "personal", "hazard"}

func (f Focus) narrow(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	ix := s.Reading.Index
	set := ix.Answered().Clone()
	if slices.ContainsFunc(f, func(c Condition) bool { return slices.Contains(wider, c.Kind) }) {
		set.AddRange(0, uint64(ix.Len()))
	}
	for _, c := range f {
		part, err := c.answers(ctx, s)
		if err != nil {
			return nil, err
		}
		if c.Not {
			set.AndNot(part)
		} else {
			set.And(part)
		}
	}
	return set, nil
}

func gone(what string) error { return fmt.Errorf("%w: %s is gone", state.ErrRequest, what) }

// answers are the rows that meet a condition, Not aside. The caller must not change the set.
func (c Condition) answers(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	ix := s.Reading.Index
	switch c.Kind {
	case "words":
		p, problems := s.Coding.Compile(c.Text)
		if p == nil {
			return nil, fmt.Errorf(
				"%w: %q can't be read as a rule: %s", state.ErrRequest, state.Shortened(c.Text, 200), problems[0].Message,
			)
		}
		return s.Coding.Matcher().Answers(ctx, p)
	case "term":
		if t, ok := s.View.Find(c.Text); ok {
			return s.View.Phrases(t).Answers(s.View.Index), nil
		}
		return roaring.New(), nil
	case "row":
		if _, sequence, ok := s.View.FindRow(c.Text); ok {
			return lexicon.NewPhrases(sequence).Answers(s.View.Index), nil
		}
		return roaring.New(), nil
	case "block":
		return ix.Holding(c.block(s)), nil
	case "variable":
		return c.byVariable(s)
	case "category", "rule":
		return c.byCategory(s)
	case "person":
		return c.byPerson(ctx, s)
	case "coded":
		return s.Coding.Coded, nil
	case "answers":
		return s.Study.Rows.Of(survey.RespondentsOf(c.Answers...)), nil
	case "alike":
		return c.alike(ctx, s)
	case "short":
		return ix.Shorter(c.N), nil
	case "branch":
		return c.branch(ctx, s)
	case "sample":
		return c.sample(s)
	case "personal":
		kind := slices.Index(text.PersonalKinds, c.Text)
		if kind < 0 {
			return nil, fmt.Errorf("%w: there is no personal data of kind %q; there are %s", state.ErrRequest, c.Text, strings.Join(text.PersonalKinds, ", "))
		}
		found, err := s.Personal(ctx)
		if err != nil {
			return nil, err
		}
		return found.Of[kind], nil
	case "hazard":
		hazards, err := s.Hazards(ctx)
		set := roaring.New()
		for _, h := range hazards {
			if h.First == c.N && h.Second == c.M {
				set.Or(h.Answers)
			}
		}
		return set, err
	case "changed":
		return c.changed(ctx, s)
	case "settled":
		return s.Decisions.Settled, nil
	case "decided":
		return c.decided(s)
	case "status":
		if c.Text == AnyStatus {
			set := roaring.New()
			set.AddRange(0, uint64(ix.Len()))
			return set, nil
		}
		if i := slices.Index(text.StatusNames[:], c.Text); i >= 0 {
			return ix.Status(text.Status(i)), nil
		}
	case "step":
		return c.byStep(s)
	}
	return nil, fmt.Errorf("%w: there is no condition %q %q", state.ErrRequest, c.Kind, c.Text)
}

// decided are the answers with decisions of a kind.
func (c Condition) decided(s *state.State) (*roaring.Bitmap, error) {
	set := roaring.New()
	for _, r := range s.Coding.Results {
		if c.ID != "" && c.ID != r.ID {
			continue
		}
		on, off := bits(s.Decisions.On[r.ID]), bits(s.Decisions.Off[r.ID])
		switch c.Text {
		case "":
			set.Or(on)
		case "any":
			set.Or(roaring.Or(on, off))
		case "both":
			set.Or(roaring.And(on, r.ByRules))
			set.Or(roaring.AndNot(off, r.ByRules))
		case "apart":
			set.Or(roaring.AndNot(on, r.ByRules))
			set.Or(roaring.And(off, r.ByRules))
		case "suggested":
			set.Or(bits(s.Decisions.Suggested[r.ID]))
		case "noted", "by":
			set.Or(s.Study.Rows.Of(s.Scheme.Decisions.Where(r.ID, func(o scheme.Origin) bool {
				return c.Text == "noted" && o.Note != "" || c.Text == "by" && o.By == c.Name && !o.Suggested
			})))
		default:
			return nil, fmt.Errorf("%w: there are no decisions called %q", state.ErrRequest, c.Text)
		}
	}
	return set, nil
}

func bits(set *roaring.Bitmap) *roaring.Bitmap {
	if set == nil {
		return roaring.New()
	}
	return set
}

func (c Condition) byVariable(s *state.State) (*roaring.Bitmap, error) {
	v, err := s.Study.Variable(c.Name)
	if err != nil {
		return nil, err
	}
	op := c.Op
	if op == "" {
		op = "="
	}
	set, err := v.Select(op, c.Values, len(s.Answers))
	if err != nil {
		return nil, fmt.Errorf("%w: %w", state.ErrRequest, err)
	}
	return set, nil
}

// categories are the keys that a condition on categories names.
func (c Condition) categories() []string {
	if c.Kind == "category" && len(c.Values) > 0 {
		return c.Values
	}
	return []string{c.ID}
}

func (c Condition) byCategory(s *state.State) (*roaring.Bitmap, error) {
	if len(c.Values) > 0 && c.Kind == "category" {
		set := roaring.New()
		for _, id := range c.Values {
			r, ok := s.Coding.Of(id)
			if !ok {
				return nil, gone("a category in the focus")
			}
			set.Or(r.Answers)
		}
		return set, nil
	}
	r, ok := s.Coding.Of(c.ID)
	switch {
	case !ok:
		return nil, gone("the category in the focus")
	case c.Kind == "category":
		return r.Answers, nil
	case c.Rule < 1 || c.Rule > len(r.Rules):
		return nil, gone("the rule in the focus")
	}
	return r.Rules[c.Rule-1].Answers, nil
}

// block are the words of a block; none where one of them is in no answer.
func (c Condition) block(s *state.State) (row []uint32) {
	for _, surface := range strings.Fields(c.Text) {
		w, ok := s.Reading.Index.Word(surface)
		if !ok {
			return nil
		}
		row = append(row, w)
	}
	return row
}

func (c Condition) alike(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	if c.M > 0 {
		return c.nearlyAlike(ctx, s)
	}
	alike, err := s.Alike(ctx)
	if err != nil {
		return nil, err
	}
	if c.N == 0 {
		return alike.All, nil
	}
	if row, there := s.Study.Rows.Row(survey.Respondent(c.N - 1)); there {
		if g, ok := alike.Of(row); ok {
			return roaring.BitmapOf(g...), nil
		}
		return roaring.BitmapOf(uint32(row)), nil
	}
	return nil, gone("the answer whose like are in the focus")
}

func (c Condition) nearlyAlike(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	if c.M < LeastAlike || c.M > 100 {
		return nil, fmt.Errorf("%w: answers are nearly alike from %d to 100 percent", state.ErrRequest, LeastAlike)
	}
	near, err := s.NearlyAlike(ctx, c.M)
	if err != nil {
		return nil, err
	}
	if c.N == 0 {
		return near.All, nil
	}
	if row, there := s.Study.Rows.Row(survey.Respondent(c.N - 1)); there {
		if g, ok := near.Of(row); ok {
			return roaring.BitmapOf(g...), nil
		}
	}
	return nil, gone("the group of answers in the focus")
}

// sample is so many of the answered, at random or from the top.
func (c Condition) sample(s *state.State) (*roaring.Bitmap, error) {
	answered := s.Reading.Index.Answered()
	switch {
	case c.N < 1 || c.M < 0:
		return nil, fmt.Errorf("%w: a sample has at least one answer", state.ErrRequest)
	case c.Text != "first":
		return s.Drawn(answered, c.N, uint64(c.M)), nil
	case uint64(c.N) >= answered.GetCardinality():
		return answered, nil
	}
	last, err := answered.Select(uint32(c.N - 1))
	if err != nil {
		return nil, err
	}
	set := answered.Clone()
	set.RemoveRange(uint64(last)+1, uint64(answered.Maximum())+1)
	return set, nil
}

// LeastAlike is from how many percent on answers are nearly alike: under it signatures miss too many.
const LeastAlike = 60

func (c Condition) byStep(s *state.State) (*roaring.Bitmap, error) {
	set, any := roaring.New(), false
	for i, step := range s.Scheme.Cleaning {
		if step.ID == c.Text {
			set.Or(s.Reading.Index.Touched(i))
			any = true
		}
	}
	if !any {
		return nil, gone("the cleaning step in the focus")
	}
	return set, nil
}

// changed are the answers that a category (none: any) gained or lost between two states.
func (c Condition) changed(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	if len(c.Values) != 2 || s.Links.Earlier == nil {
		return nil, gone("one of the two states in the focus")
	}
	var sets [2]*roaring.Bitmap
	for i, ref := range c.Values {
		then, _, err := s.Links.Earlier(ctx, s, ref)
		if err != nil {
			return nil, err
		}
		sets[i] = then.Coding.Coded
		if c.ID != "" {
			sets[i] = roaring.New()
			if r, ok := then.Coding.Of(c.ID); ok {
				sets[i] = r.Answers
			}
		}
	}
	if c.Text == "lost" {
		return roaring.AndNot(sets[0], sets[1]), nil
	}
	return roaring.AndNot(sets[1], sets[0]), nil
}
