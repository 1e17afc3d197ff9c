package clean

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk/state"
)

// Alike counts the answers that have the same words as another, case, spacing and punctuation aside.
type Alike struct {
	Answers int          `json:"answers"`
	Groups  int          `json:"groups"`
	Exact   int          `json:"exact" doc:"answers that are the same to the letter as another"`
	Top     []AlikeGroup `json:"top" doc:"the largest groups"`
}

// AlikeGroup is a group of answers that are alike.
type AlikeGroup struct {
	Number  survey.Respondent `json:"number" doc:"of the respondent of its first answer, which names it"`
	Text    string            `json:"text" doc:"of its first answer, shortened"`
	Answers int               `json:"answers"`
}

// How much is listed of answers that are alike.
const (
	maxGroups   = 40
	maxTextList = 90 // runes
)

func alikeOf(ctx context.Context, s *state.State) (Alike, error) {
	found, err := s.Alike(ctx)
	if err != nil {
		return Alike{}, err
	}
	out := Alike{Groups: len(found.Groups), Answers: int(found.All.GetCardinality()), Exact: found.Exact, Top: []AlikeGroup{}}
	for _, g := range found.Groups[:min(len(found.Groups), maxGroups)] {
		first := int(g[0])
		out.Top = append(out.Top, AlikeGroup{s.Respondent(first), state.Shortened(s.Original(first).Text, maxTextList), len(g)})
	}
	return out, nil
}

// Checks are what may be wrong with the cleaning, each with a mend.
type Checks struct {
	Hazards   []HazardFound   `json:"hazards"`
	Leftovers []LeftoverFound `json:"leftovers"`
}

// HazardFound is an order of two steps that spoils answers.
type HazardFound struct {
	First   int         `json:"first" doc:"place of the step that does harm, from 0"`
	Second  int         `json:"second" doc:"place of the later step"`
	Name    string      `json:"name" doc:"by which it is put aside"`
	Aside   bool        `json:"aside,omitempty"`
	Late    bool        `json:"late" doc:"the second makes what the first looks for; else the first takes away what the second looks for"`
	Answers int         `json:"answers"`
	Proof   []Proof     `json:"proof" doc:"some of them"`
	Mend    []text.Step `json:"mend" doc:"the steps in a better order"`
}

// LeftoverFound is a word that looks like a left-over of cleaning.
type LeftoverFound struct {
	Word    string       `json:"word"`
	Name    string       `json:"name" doc:"by which it is put aside"`
	Aside   bool         `json:"aside,omitempty"`
	Answers int          `json:"answers"`
	From    []LeftoverOf `json:"from" doc:"what the originals say there, the most frequent first"`
	Mend    []text.Step  `json:"mend,omitempty" doc:"the steps with a replacement that takes it away, if there is one"`
	Rule    string       `json:"rule,omitempty" doc:"what the replacement finds"`
	Mends   int          `json:"mends" doc:"among the first 400 answers with the word: those that it makes read differently"`
}

// LeftoverOf is a stretch of the originals.
type LeftoverOf struct {
	Text    string `json:"text"`
	Answers int    `json:"answers" doc:"among the first 400 answers with the word"`
}

// maxTraced is how many answers are read again to tell where a left-over comes from.
const maxTraced = 400

// ChecksOf looks for orders of steps that spoil something, and for left-overs. The first time after cleaning it reads all
// answers several times over.
func ChecksOf(ctx context.Context, s *state.State) (Checks, error) {
	found, err := state.Remember(
		ctx, s.Text, checksKey{s.Scheme.Mask}, func(ctx context.Context) (Checks, error) { return checks(ctx, s) },
	)
	// What was put aside changes with no reading.
	out := Checks{slices.Clone(found.Hazards), slices.Clone(found.Leftovers)}
	for i := range out.Hazards {
		out.Hazards[i].Aside = slices.Contains(s.Scheme.Aside, out.Hazards[i].Name)
	}
	for i := range out.Leftovers {
		out.Leftovers[i].Aside = slices.Contains(s.Scheme.Aside, out.Leftovers[i].Name)
	}
	return out, err
}

// checksKey names the checks of a reading; what is shown of them depends on whether personal data is masked.
type checksKey struct{ mask bool }

func (checksKey) Most() int { return 2 }

// Warnings is how many mends there are for what the checks have found; 0 until they were looked for.
func Warnings(s *state.State) int {
	found, _ := state.Known[checksKey, Checks](s.Text, checksKey{s.Scheme.Mask})
	mends := map[string]bool{}
	for _, l := range found.Leftovers {
		if l.Mends > 0 && !slices.Contains(s.Scheme.Aside, l.Name) {
			mends[l.Rule] = true
		}
	}
	n := len(mends)
	for _, h := range found.Hazards {
		if !slices.Contains(s.Scheme.Aside, h.Name) {
			n++
		}
	}
	return n
}

func checks(ctx context.Context, s *state.State) (Checks, error) {
	out := Checks{Hazards: []HazardFound{}, Leftovers: []LeftoverFound{}}
	hazards, err := s.Hazards(ctx)
	if err != nil {
		return out, err
	}
	for _, h := range hazards {
		first, second := s.Scheme.Cleaning[h.First].Kind(), s.Scheme.Cleaning[h.Second].Kind()
		found := HazardFound{
			Name:    fmt.Sprintf("order of %s and %s, late %v", first, second, h.Late),
			First:   h.First,
			Second:  h.Second,
			Late:    h.Late,
			Answers: int(h.Answers.GetCardinality()),
			Proof:   []Proof{},
			Mend:    h.Mended,
		}
		for it := h.Answers.Iterator(); it.HasNext() && len(found.Proof) < 3; {
			found.Proof = append(found.Proof, proof(s, int(it.Next())))
		}
		out.Hazards = append(out.Hazards, found)
	}
	for _, l := range text.Leftovers(s.Scheme.Language) {
		if w, ok := s.Reading.Index.Word(l.Word); ok {
			if found := leftover(s, l, w); found.Answers > 0 {
				out.Leftovers = append(out.Leftovers, found)
			}
		}
	}
	slices.SortFunc(
		out.Leftovers, func(a, b LeftoverFound) int { return cmp.Or(b.Answers-a.Answers, strings.Compare(a.Word, b.Word)) },
	)
	return out, nil
}

func leftover(s *state.State, l text.Leftover, word uint32) LeftoverFound {
	at := s.Reading.Index.Postings(word)
	out := LeftoverFound{
		Word:    l.Word,
		Name:    "leftover " + l.Word,
		Answers: int(roaring.BitmapOf(at...).AndCardinality(s.Reading.Index.Answered())),
		From:    []LeftoverOf{},
	}
	from := map[string]int{}
	var c text.Cleaned
	for _, n := range at[:min(maxTraced, len(at))] {
		s.Reading.Pipeline.CleanInto(&c, s.Answers[n])
		for i, w := range c.Words {
			if w.Surface == l.Word {
				start := w.Start
				if i > 0 {
					start = min(start, c.Words[i-1].Start)
				}
				from[strings.ToLower(state.OneLine(s.Answers[n][start:w.End]))]++
				break
			}
		}
	}
	for source, n := range from {
		out.From = append(out.From, LeftoverOf{source, n})
	}
	slices.SortFunc(out.From, func(a, b LeftoverOf) int { return cmp.Or(b.Answers-a.Answers, strings.Compare(a.Text, b.Text)) })
	out.From = out.From[:min(3, len(out.From))]
	mend := withReplacement(s.Scheme.Cleaning, l.Mend)
	if out.Mends = differently(s, mend, at[:min(maxTraced, len(at))]); out.Mends > 0 {
		out.Mend, out.Rule = mend, l.Mend.Find
	}
	return out
}

// differently counts the answers in some rows whose words other steps read otherwise.
func differently(s *state.State, steps []text.Step, rows []uint32) (n int) {
	other, err := text.NewPipeline(s.Scheme.Language, steps)
	if err != nil {
		return 0
	}
	var a, b text.Cleaned
	for _, row := range rows {
		s.Reading.Pipeline.CleanInto(&a, s.Answers[row])
		other.CleanInto(&b, s.Answers[row])
		if !slices.EqualFunc(a.Words, b.Words, func(x, y text.Word) bool { return x.Surface == y.Surface }) {
			n++
		}
	}
	return n
}

// withReplacement adds a replacement where it does good: to the first step of replacements that stands before the
// contractions, else to a new one before them.
func withReplacement(steps []text.Step, r text.Replacement) []text.Step {
	steps = slices.Clone(steps)
	at := slices.IndexFunc(steps, func(s text.Step) bool {
		switch s.StepKind.(type) {
		case text.ContractionsStep, text.AccentsStep, text.GluedStep:
			return true
		}
		return false
	})
	if at < 0 {
		at = len(steps)
	}
	for i, s := range steps[:at] {
		if replace, is := s.StepKind.(text.ReplaceStep); is {
			steps[i].StepKind = text.ReplaceStep{Rules: append(slices.Clone(replace.Rules), r)}
			return steps
		}
	}
	return slices.Insert(steps, at, text.Steps(text.ReplaceStep{Rules: []text.Replacement{r}})...)
}
