package desk

import (
	"fmt"
	"maps"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/playbook"
)

// marks works out the decisions that an edit makes.
func (q *Question) marks(s *State, e Edit) ([]HandMark, string, error) {
	if len(e.Answers) == 0 {
		return nil, "", fmt.Errorf("%w: no answers were given", ErrRequest)
	}
	if e.To == "" || e.Kind == "settle" && e.To == "rules" {
		return nil, "", fmt.Errorf("%w: say on or off", ErrRequest)
	}
	what := fmt.Sprintf("%d answers", len(e.Answers))
	if len(e.Answers) == 1 {
		what = "one answer"
	}
	summary := map[string]string{"on": "Settled ", "off": "Unsettled "}[e.To] + what
	category := ""
	if e.Kind == "decide" {
		c, ok := s.Coding.Of(e.ID)
		if !ok {
			return nil, "", fmt.Errorf("%w: the category is gone", ErrRequest)
		}
		if len(c.Children) > 0 {
			return nil, "", fmt.Errorf("%w: %q is a net; decisions go to a category inside it", ErrRequest, c.Name)
		}
		category = c.ID
		summary = map[string]string{"on": "Put %s on %s by hand", "off": "Took %s off %s by hand", "rules": "Left %s to the rules on %s"}[e.To]
		summary = fmt.Sprintf(summary, c.PathName(), what)
	}
	var out []HandMark
	for _, a := range e.Answers {
		if int(a) >= len(q.Answers) {
			return nil, "", fmt.Errorf("%w: there is no answer %d", ErrRequest, a)
		}
		if s.mark(a, category) != e.To {
			out = append(out, HandMark{a, category, e.To})
		}
	}
	return out, summary, nil
}

// mark is the decision that stands on an answer.
func (s *State) mark(answer uint32, category string) string {
	has := func(set *roaring.Bitmap) bool { return set != nil && set.Contains(answer) }
	switch {
	case category == "" && has(s.Decisions.Settled):
		return "on"
	case category == "":
		return "off"
	case has(s.Decisions.On[category]):
		return "on"
	case has(s.Decisions.Off[category]):
		return "off"
	}
	return "rules"
}

// withMarks gives decisions with some changed; the earlier ones stay as they are.
func withMarks(d frame.Decisions, marks []HandMark) frame.Decisions {
	if len(marks) == 0 {
		return d
	}
	out := frame.Decisions{On: maps.Clone(d.On), Off: maps.Clone(d.Off), Settled: d.Settled.Clone()}
	fresh := map[string]bool{}
	for _, m := range marks {
		if m.Category == "" {
			set(out.Settled, m.Answer, m.To == "on")
			continue
		}
		if !fresh[m.Category] {
			fresh[m.Category] = true
			for _, in := range []map[string]*roaring.Bitmap{out.On, out.Off} {
				if in[m.Category] == nil {
					in[m.Category] = roaring.New()
				} else {
					in[m.Category] = in[m.Category].Clone()
				}
			}
		}
		set(out.On[m.Category], m.Answer, m.To == "on")
		set(out.Off[m.Category], m.Answer, m.To == "off")
	}
	return out
}

func set(in *roaring.Bitmap, answer uint32, on bool) {
	if on {
		in.Add(answer)
	} else {
		in.Remove(answer)
	}
}

// marksLost are the decisions on categories that a new scheme no longer has: they go with it, and undo brings them back.
func marksLost(s *State, p playbook.Playbook) []HandMark {
	var out []HandMark
	for _, in := range []map[string]*roaring.Bitmap{s.Decisions.On, s.Decisions.Off} {
		for id, answers := range in {
			if _, ok := p.Frame.Find(id); ok {
				continue
			}
			for it := answers.Iterator(); it.HasNext(); {
				out = append(out, HandMark{it.Next(), id, "rules"})
			}
		}
	}
	return out
}
