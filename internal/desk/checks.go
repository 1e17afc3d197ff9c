package desk

import (
	"cmp"
	"context"
	"regexp"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/text"
)

// kept is what was worked out of one reading of the answers, for as long as it stands.
type kept struct {
	alikeOnce sync.Once
	alike     alike

	mu      sync.Mutex // held while hazards are looked for
	looked  bool
	hazards []playbook.Hazard
	found   atomic.Int64 // mends that there are

	languageOnce sync.Once
	guess        lexicon.LanguageGuess

	search search // for terms that may be one
}

func (k *kept) warnings() int { return int(k.found.Load()) }

// Alike counts the answers that have the same words as another, case, spacing and punctuation aside.
type Alike struct {
	Answers int          `json:"answers"`
	Groups  int          `json:"groups"`
	Exact   int          `json:"exact" doc:"answers that are the same to the letter as another"`
	Top     []AlikeGroup `json:"top" doc:"the largest groups"`
}

// AlikeGroup is a group of answers that are alike.
type AlikeGroup struct {
	Number  int    `json:"number" doc:"of its first answer, which names it"`
	Text    string `json:"text" doc:"of its first answer, shortened"`
	Answers int    `json:"answers"`
}

type alike struct {
	Alike
	all     *roaring.Bitmap
	groupOf map[uint32][]uint32 // by the number of its first answer
}

// How much is listed of answers that are alike.
const (
	maxGroups   = 40
	maxTextList = 90 // runes
)

func (k *kept) alikeOf(q *Question, s *State) *alike {
	k.alikeOnce.Do(func() {
		a := &k.alike
		a.all, a.groupOf, a.Top = roaring.New(), map[uint32][]uint32{}, []AlikeGroup{}
		for _, g := range s.Reading.Index.Alike() {
			if !s.Reading.Index.Answered().Contains(g[0]) {
				continue
			}
			a.Groups++
			a.Answers += len(g)
			a.all.AddMany(g)
			a.groupOf[g[0]] = g
			same := map[string]int{}
			for _, n := range g {
				same[q.Answers[n]]++
			}
			for _, n := range same {
				if n > 1 {
					a.Exact += n
				}
			}
			if len(a.Top) < maxGroups {
				a.Top = append(a.Top, AlikeGroup{int(g[0]), shortened(q.Answers[g[0]]), len(g)})
			}
		}
	})
	return &k.alike
}

func shortened(s string) string {
	s = strings.Join(strings.Fields(s), " ")
	if r := []rune(s); len(r) > maxTextList {
		return string(r[:maxTextList]) + "…"
	}
	return s
}

// hazardsOf looks for hazards, once per reading. Those who come while it goes on wait for it.
func (k *kept) hazardsOf(ctx context.Context, q *Question, s *State) ([]playbook.Hazard, error) {
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.looked {
		return k.hazards, nil
	}
	found, err := s.Playbook.Inspect(ctx, q.Answers, runtime.GOMAXPROCS(0), q.progress("checking the order of the steps"))
	if err == nil {
		k.hazards, k.looked = found, true
	}
	return found, err
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
	Late    bool        `json:"late" doc:"the second makes what the first looks for; else the first takes away what the second looks for"`
	Answers int         `json:"answers"`
	Proof   []Proof     `json:"proof" doc:"some of them"`
	Mend    []text.Step `json:"mend" doc:"the steps in a better order"`
}

// LeftoverFound is a word that looks like a left-over of cleaning.
type LeftoverFound struct {
	Word    string       `json:"word"`
	Answers int          `json:"answers"`
	From    []LeftoverOf `json:"from" doc:"what the originals say there, the most frequent first"`
	Mend    []text.Step  `json:"mend,omitempty" doc:"the steps with a replacement that takes it away, if there is one"`
	Rule    string       `json:"rule,omitempty" doc:"what the replacement finds"`
	Mends   int          `json:"mends" doc:"answers in which the replacement finds something"`
}

// LeftoverOf is a stretch of the originals.
type LeftoverOf struct {
	Text    string `json:"text"`
	Answers int    `json:"answers" doc:"among the first 400 answers with the word"`
}

// maxTraced is how many answers are read again to tell where a left-over comes from.
const maxTraced = 400

// Checks looks for orders of steps that spoil something, and for left-overs. The first time after cleaning it reads all
// answers several times over.
func (q *Question) Checks(ctx context.Context, s *State) (Checks, error) {
	out := Checks{Hazards: []HazardFound{}, Leftovers: []LeftoverFound{}}
	hazards, err := s.kept.hazardsOf(ctx, q, s)
	if err != nil {
		return out, err
	}
	for _, h := range hazards {
		found := HazardFound{First: h.First, Second: h.Second, Late: h.Late, Answers: int(h.Answers.GetCardinality()), Proof: []Proof{}, Mend: h.Mended}
		for it := h.Answers.Iterator(); it.HasNext() && len(found.Proof) < 3; {
			found.Proof = append(found.Proof, q.proof(s, int(it.Next())))
		}
		out.Hazards = append(out.Hazards, found)
	}
	for _, l := range text.Leftovers(s.Playbook.Language) {
		if w, ok := s.Reading.Index.Word(l.Word); ok {
			if found := q.leftover(s, l, w); found.Answers > 0 {
				out.Leftovers = append(out.Leftovers, found)
			}
		}
	}
	slices.SortFunc(out.Leftovers, func(a, b LeftoverFound) int { return cmp.Or(b.Answers-a.Answers, strings.Compare(a.Word, b.Word)) })
	mends := map[string]bool{}
	for _, l := range out.Leftovers {
		if l.Mends > 0 {
			mends[l.Rule] = true
		}
	}
	s.kept.found.Store(int64(len(out.Hazards) + len(mends)))
	return out, nil
}

func (q *Question) leftover(s *State, l text.Leftover, word uint32) LeftoverFound {
	at := s.Reading.Index.Postings(word)
	out := LeftoverFound{Word: l.Word, Answers: int(roaring.BitmapOf(at...).AndCardinality(s.Reading.Index.Answered())), From: []LeftoverOf{}}
	from := map[string]int{}
	var c text.Cleaned
	for _, n := range at[:min(maxTraced, len(at))] {
		s.Reading.Pipeline.CleanInto(&c, q.Answers[n])
		for i, w := range c.Words {
			if w.Surface == l.Word {
				start := w.Start
				if i > 0 {
					start = min(start, c.Words[i-1].Start)
				}
				from[strings.ToLower(strings.Join(strings.Fields(q.Answers[n][start:w.End]), " "))]++
				break
			}
		}
	}
	for source, n := range from {
		if s.Playbook.Mask {
			source = text.Mask(source)
		}
		out.From = append(out.From, LeftoverOf{source, n})
	}
	slices.SortFunc(out.From, func(a, b LeftoverOf) int { return cmp.Or(b.Answers-a.Answers, strings.Compare(a.Text, b.Text)) })
	out.From = out.From[:min(3, len(out.From))]
	find := l.Mend.Find
	if !l.Mend.Regex {
		find = `(?i)\b` + regexp.QuoteMeta(find) + `\b`
	}
	if re, err := regexp.Compile(find); err == nil {
		for _, n := range at {
			if re.MatchString(q.Answers[n]) {
				out.Mends++
			}
		}
	}
	if out.Mends > 0 {
		out.Mend, out.Rule = withReplacement(s.Playbook.Cleaning, l.Mend), l.Mend.Find
	}
	return out
}

// withReplacement adds a replacement where it does good: to the first step of replacements that stands before the
// contractions, else to a new one before them.
func withReplacement(steps []text.Step, r text.Replacement) []text.Step {
	steps = slices.Clone(steps)
	at := slices.IndexFunc(steps, func(s text.Step) bool { return s.ID == "contractions" || s.ID == "accents" || s.ID == "glued" })
	if at < 0 {
		at = len(steps)
	}
	for i := range steps[:at] {
		if steps[i].ID == "replace" {
			steps[i].Rules = append(slices.Clone(steps[i].Rules), r)
			return steps
		}
	}
	return slices.Insert(steps, at, text.Step{ID: "replace", Rules: []text.Replacement{r}})
}
