package code

import (
	"aftermath/internal/view/termview"

	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"aftermath/core/lexicon"
	"aftermath/core/rule"
	"aftermath/core/survey"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// Completions are what may come in the place of what is being written in a rule.
type Completions struct {
	From    int          `json:"from" doc:"the rune from which on an option replaces what is there"`
	Options []Completion `json:"options" doc:"the most fitting first"`
}

// Completion is one of them.
type Completion struct {
	Text   string `json:"text" doc:"what it puts there"`
	Label  string `json:"label"`
	What   string `json:"what" enum:"term,word,list,category,variable,value"`
	Detail string `json:"detail" doc:"its figure, in words"`
}

const mostOptions = 12

// Complete says what may come at a rune of a rule that is being written.
func Complete(ctx context.Context, s *state.State, src string, at int) (Completions, error) {
	t := rule.TypingAt(src, at)
	out := Completions{From: t.From, Options: []Completion{}}
	typed := strings.ToLower(t.Prefix)
	type option struct {
		Completion
		rank int
	}
	var all []option
	add := func(text, label, what string, answers int, detail string) {
		low := strings.ToLower(label)
		if !strings.HasPrefix(low, typed) && (what == "term" || what == "word" || !strings.Contains(low, typed)) || low == typed {
			return
		}
		all = append(all, option{Completion{text, label, what, detail}, answers})
	}
	switch t.Kind {
	case rule.Word:
		if typed == "" {
			break
		}
		counted, err := termview.Count(ctx, s, nil, 1, false)
		if err != nil {
			return out, err
		}
		for _, r := range counted.Rows {
			label := s.View.Terms[r.Terms[0]].Label
			add(label, label, "term", r.Answers, view.Plural(r.Answers, "answer"))
		}
	case rule.Quote, rule.Exact:
		if typed == "" {
			break
		}
		ix := s.View.Index
		for w := range uint32(ix.Vocabulary()) {
			if surface := ix.Surface(w); strings.HasPrefix(surface, typed) {
				add(surface, surface, "word", ix.Count(w), view.Plural(ix.Count(w), "time"))
			}
		}
	case rule.List:
		for i, name := range append([]string{"negators"}, listNames(s)...) {
			entries, _ := s.View.Entries(name)
			detail := fmt.Sprintf("%d entries", len(entries))
			if len(entries) == 1 {
				detail = "one entry"
			}
			add(rule.Named(rule.List, name), name, "list", -i, detail)
		}
		for _, name := range slices.Concat(lexicon.Values, lexicon.ClassLists) {
			if found, ok := s.View.BuiltIn(name); ok {
				n := int(found.Answers(s.View.Index).GetCardinality())
				add(rule.Named(rule.List, name), name, "list", -1000, "built in, "+view.Plural(n, "answer"))
			}
		}
	case rule.Category:
		for i, r := range s.Coding.Results {
			if !r.Alone {
				n := int(r.Answers.GetCardinality())
				text := strings.TrimPrefix(rule.Named(rule.Category, r.Path...), "{")
				if closed := []rune(src); at < len(closed) && closed[at] == '}' {
					text = strings.TrimSuffix(text, "}")
				}
				add(text, r.PathName(), "category", -i, view.Plural(n, "answer"))
			}
		}
	case rule.Condition:
		if t.Variable == "" {
			for i, v := range s.Study.Variables {
				add(rule.Named(rule.Condition, v.Name)+" = ", v.Name, "variable", -i, valuesInWords(v))
			}
			break
		}
		for _, v := range s.Study.Variables {
			if !v.Named(t.Variable) {
				continue
			}
			for _, value := range append(slices.Clone(v.Values), survey.Missing) {
				n := int(v.With(value).GetCardinality())
				if value == survey.Missing {
					n = len(s.Answers) - int(v.Filled().GetCardinality())
				}
				add(rule.Named(rule.Condition, value), value, "value", n, view.Plural(n, "respondent"))
			}
		}
	}
	slices.SortStableFunc(all, func(a, b option) int { return cmp.Compare(b.rank, a.rank) })
	for _, o := range all[:min(len(all), mostOptions)] {
		out.Options = append(out.Options, o.Completion)
	}
	return out, nil
}

func listNames(s *state.State) (out []string) {
	for _, l := range s.View.Lexicon.Lists {
		out = append(out, l.Name)
	}
	return out
}

func valuesInWords(v *survey.Variable) string {
	switch {
	case v.Role == survey.Date:
		return "a date"
	case v.Numbers != nil && len(v.Values) == 0:
		return "a number"
	}
	return view.Plural(len(v.Values), "value")
}
