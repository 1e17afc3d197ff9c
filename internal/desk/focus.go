package desk

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"sync"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/lexicon"
	"aftermath/core/rule"
	"aftermath/core/text"
)

// Condition is one piece of a focus. Kind says which of the other parts count.
type Condition struct {
	Kind   string   `json:"kind" enum:"words,term,row,variable,category,rule,coded,settled,status,step,decided,answers,alike,short,personal,hazard,changed"`
	Text   string   `json:"text,omitempty" doc:"words: a rule; term: its label; row: two or three terms; status, step: its name; personal: mail or phone; changed: gained or lost"`
	Name   string   `json:"name,omitempty" doc:"variable: its name"`
	Op     string   `json:"op,omitempty" doc:"variable: = != < <= > >="`
	Values []string `json:"values,omitempty" doc:"variable: one is enough; changed: two states of the scheme, each the number of a revision, = and a name, or now"`
	ID     string   `json:"id,omitempty" doc:"category, rule, changed: the category; changed: none for any"`
	Rule   int      `json:"rule,omitempty" doc:"rule: which of the category's rules, from 1"`
	N      int      `json:"n,omitempty" doc:"short: fewer words than this; alike: like this answer, by number from 1, 0 for all that are like another; hazard: place of the first step, from 0"`
	M      int      `json:"m,omitempty" doc:"hazard: place of the second step"`
	Not    bool     `json:"not,omitempty" doc:"the opposite"`

	Answers []uint32 `json:"answers,omitempty" doc:"answers: these, by number"`
}

// AnyStatus is the status of all answers: with it a focus speaks of those that say nothing too.
const AnyStatus = "any"

// Focus is the set of answers that everything on the screen speaks of: those that meet all conditions. Without a
// condition on the status it speaks of the answered.
type Focus []Condition

// ParseFocus reads a focus as the address line carries it: JSON, empty for all answers.
func ParseFocus(s string) (Focus, error) {
	if s == "" {
		return nil, nil
	}
	var f Focus
	if err := json.Unmarshal([]byte(s), &f); err != nil {
		return nil, fmt.Errorf("%w: the focus can't be read: %w", ErrRequest, err)
	}
	return f, nil
}

// focusCache keeps the sets of recent focuses of one state: every view asks for the same few.
type focusCache struct {
	mu    sync.Mutex
	state *State
	sets  map[string]*roaring.Bitmap
}

// Focus works out the set of answers. The caller must not change it.
func (q *Question) Focus(s *State, f Focus) (*roaring.Bitmap, error) {
	key, err := json.Marshal(f)
	if err != nil {
		return nil, err
	}
	c := &q.cache
	c.mu.Lock()
	if c.state != s || len(c.sets) > 64 {
		c.state, c.sets = s, map[string]*roaring.Bitmap{}
	}
	set, ok := c.sets[string(key)]
	c.mu.Unlock()
	if ok {
		return set, nil
	}
	if set, err = q.narrow(s, f); err != nil {
		return nil, err
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.state == s {
		c.sets[string(key)] = set
	}
	return set, nil
}

func (q *Question) narrow(s *State, f Focus) (*roaring.Bitmap, error) {
	ix := s.Reading.Index
	// Other statuses come into a focus only when they are asked for.
	set := ix.Answered().Clone()
	if slices.ContainsFunc(f, func(c Condition) bool {
		return slices.Contains([]string{"status", "step", "answers", "personal", "hazard"}, c.Kind)
	}) {
		set.AddRange(0, uint64(ix.Len()))
	}
	for _, c := range f {
		part, err := q.condition(s, c)
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

func (q *Question) condition(s *State, c Condition) (*roaring.Bitmap, error) {
	gone := func(what string) error { return fmt.Errorf("%w: %s is gone", ErrRequest, what) }
	switch c.Kind {
	case "words":
		p, problems := s.Coding.Compile(c.Text)
		if p == nil {
			return nil, fmt.Errorf("%w: %q can't be read as a rule: %s", ErrRequest, c.Text, problems[0].Message)
		}
		return s.Coding.Matcher().Answers(p), nil
	case "term":
		if t, ok := s.View.Find(c.Text); ok {
			return s.View.Phrases(t).Answers(s.View.Index), nil
		}
		return roaring.New(), nil
	case "row":
		if _, sequence, ok := s.View.FindRow(c.Text); ok {
			return lexicon.Phrases{sequence}.Answers(s.View.Index), nil
		}
		return roaring.New(), nil
	case "variable":
		v, err := s.Study.Variable(c.Name)
		if err != nil {
			return nil, err
		}
		op := c.Op
		if op == "" {
			op = "="
		}
		set, err := v.Select(op, c.Values, len(q.Answers))
		if err != nil {
			return nil, fmt.Errorf("%w: %w", ErrRequest, err)
		}
		return set, nil
	case "category", "rule":
		r, ok := s.Coding.Of(c.ID)
		if !ok {
			return nil, gone("the category in the focus")
		}
		if c.Kind == "category" {
			return r.Answers, nil
		}
		if c.Rule < 1 || c.Rule > len(r.Rules) {
			return nil, gone("the rule in the focus")
		}
		return r.Rules[c.Rule-1].Answers, nil
	case "coded":
		return s.Coding.Coded, nil
	case "answers":
		return roaring.BitmapOf(c.Answers...), nil
	case "alike":
		alike := s.kept.alikeOf(q, s)
		if c.N == 0 {
			return alike.all, nil
		}
		if g, ok := alike.groupOf[uint32(c.N-1)]; ok {
			return roaring.BitmapOf(g...), nil
		}
		return nil, gone("the group of answers in the focus")
	case "short":
		return s.Reading.Index.Shorter(c.N), nil
	case "personal":
		if c.Text == "phone" {
			return s.Reading.Index.Phone(), nil
		}
		return s.Reading.Index.Mail(), nil
	case "hazard":
		hazards, err := s.kept.hazardsOf(context.Background(), q, s)
		if err != nil {
			return nil, err
		}
		set := roaring.New()
		for _, h := range hazards {
			if h.First == c.N && h.Second == c.M {
				set.Or(h.Answers)
			}
		}
		return set, nil
	case "changed":
		if len(c.Values) != 2 {
			return nil, gone("one of the two states in the focus")
		}
		return q.changedBetween(context.Background(), s, c.ID, c.Values[0], c.Values[1], c.Text == "lost")
	case "settled":
		return s.Decisions.Settled, nil
	case "decided":
		set := roaring.New()
		for id, on := range s.Decisions.On {
			if c.ID == "" || c.ID == id {
				set.Or(on)
			}
		}
		return set, nil
	case "status":
		if c.Text == AnyStatus {
			set := roaring.New()
			set.AddRange(0, uint64(len(q.Answers)))
			return set, nil
		}
		if i := slices.Index(text.StatusNames[:], c.Text); i >= 0 {
			return s.Reading.Index.Status(text.Status(i)), nil
		}
	case "step":
		steps := s.Playbook.Cleaning
		set, any := roaring.New(), false
		for i, step := range steps {
			if step.ID == c.Text {
				set.Or(s.Reading.Index.Touched(i))
				any = true
			}
		}
		if any {
			return set, nil
		}
		return nil, gone("the cleaning step in the focus")
	}
	return nil, fmt.Errorf("%w: there is no condition %q %q", ErrRequest, c.Kind, c.Text)
}

// marker finds what in an answer a focus speaks of.
type marker struct {
	programs []*rule.Program
	phrases  []lexicon.Phrases
	state    *State
}

// marker collects all that a focus names by words: its rules, terms, and the rules of its categories.
func (s *State) marker(f Focus) marker {
	m := marker{state: s}
	add := func(src string) {
		if p, _ := s.Coding.Compile(src); p != nil {
			m.programs = append(m.programs, p)
		}
	}
	for _, c := range f {
		if c.Not {
			continue
		}
		switch c.Kind {
		case "words":
			add(c.Text)
		case "term":
			if t, ok := s.View.Find(c.Text); ok {
				m.phrases = append(m.phrases, s.View.Phrases(t))
			}
		case "row":
			if _, sequence, ok := s.View.FindRow(c.Text); ok {
				m.phrases = append(m.phrases, lexicon.Phrases{sequence})
			}
		case "category":
			for _, r := range s.Coding.Results {
				if place, ok := s.Coding.Of(c.ID); ok && len(r.Path) >= len(place.Path) && slices.Equal(r.Path[:len(place.Path)], place.Path) && !r.Off {
					for _, src := range r.Category.Rules {
						add(src)
					}
				}
			}
		case "rule":
			if r, ok := s.Coding.Of(c.ID); ok && c.Rule >= 1 && c.Rule <= len(r.Rules) {
				add(r.Rules[c.Rule-1].Source)
			}
		}
	}
	return m
}

// Part is a stretch of an answer, marked or not.
type Part struct {
	Text string `json:"text"`
	Hit  bool   `json:"hit,omitempty"`
}

// parts cuts the original into marked and unmarked stretches.
func (m marker) parts(original string, answer int) []Part {
	ix := m.state.Reading.Index
	hit := map[int]bool{}
	var stretches [][2]int
	for _, p := range m.programs {
		if e, ok := m.state.Coding.Matcher().Explain(p, answer); ok {
			for _, w := range e.Words {
				hit[w] = true
			}
			stretches = append(stretches, e.Stretches...)
		}
	}
	for _, found := range m.phrases {
		found.Each(ix.Answer(answer), ix.Sentences(answer), func(start, length int) {
			for i := range length {
				hit[start+i] = true
			}
		})
	}
	if len(hit) > 0 {
		// Words side by side are marked as one stretch.
		words := m.state.Reading.Pipeline.Clean(original).Words
		for i, w := range words {
			if !hit[i] {
				continue
			}
			if n := len(stretches) - 1; i > 0 && hit[i-1] && words[i-1].Sentence == w.Sentence && strings.TrimSpace(original[words[i-1].End:max(w.Start, words[i-1].End)]) == "" && n >= 0 && stretches[n][1] == words[i-1].End {
				stretches[n][1] = max(w.End, stretches[n][1])
				continue
			}
			stretches = append(stretches, [2]int{w.Start, w.End})
		}
	}
	slices.SortFunc(stretches, func(a, b [2]int) int { return a[0] - b[0] })
	personal := m.state.personal(original)
	var out []Part
	at := 0
	for _, s := range stretches {
		start, end := max(s[0], at), s[1]
		if start >= end {
			continue
		}
		if start > at {
			out = append(out, Part{Text: masked(original, at, start, personal)})
		}
		out = append(out, Part{Text: masked(original, start, end, personal), Hit: true})
		at = end
	}
	if at < len(original) || len(out) == 0 {
		out = append(out, Part{Text: masked(original, at, len(original), personal)})
	}
	return out
}
