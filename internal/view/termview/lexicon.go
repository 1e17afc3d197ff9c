package termview

import (
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/rule"
	"aftermath/core/words"
	"aftermath/internal/desk/state"
)

// LexiconState is what was decided about words, with what it does.
type LexiconState struct {
	Language  string                `json:"language" doc:"code; und for none that is known"`
	Languages []LanguageName        `json:"languages" doc:"those there are stemmers, stop words and negators for"`
	Table     bool                  `json:"table" doc:"there is a table of the words of the language"`
	Guess     lexicon.LanguageGuess `json:"guess" doc:"what the answers look like"`
	Lexicon   lexicon.Lexicon       `json:"lexicon"`
	Base      []string              `json:"base" doc:"the base stop words"`
	Little    []LittleWord          `json:"little" doc:"words that say little in comments and are not hidden, those in most answers first"`
	Negators  []string              `json:"negators" doc:"the built-in list @negators"`
	Clashes   []lexicon.Clash       `json:"clashes" doc:"variants that two merges ask for"`
	Merges    []MergeFigures        `json:"merges" doc:"of each merge, in the order of the lexicon"`
	Lists     []ListFigures         `json:"lists" doc:"of each term list, in the order of the lexicon"`
}

// LanguageName is a language by its code and name.
type LanguageName struct {
	Code string `json:"code"`
	Name string `json:"name"`
}

// MergeFigures is what a merge finds.
type MergeFigures struct {
	Answers int      `json:"answers"`
	Unseen  []string `json:"unseen" doc:"variants that stand in no answer"`
}

// ListFigures is what a term list finds, and which rules name it.
type ListFigures struct {
	Answers int      `json:"answers"`
	Unseen  []string `json:"unseen" doc:"entries that stand in no answer"`
	Used    []string `json:"used" doc:"categories with a rule that names it"`
}

// LexiconOf gives what was decided about words.
func LexiconOf(ctx context.Context, s *state.State) (LexiconState, error) {
	language, err := guess(ctx, s)
	if err != nil {
		return LexiconState{}, err
	}
	out := LexiconState{
		Language: s.Scheme.Language,
		Table:    words.Of(s.Scheme.Language) != nil,
		Lexicon:  s.View.Lexicon.Clone(),
		Base:     lexicon.BaseStopWords(s.View.Lexicon.StopWords.Base),
		Guess:    language,
		Clashes:  append([]lexicon.Clash{}, s.View.Clashes...),
		Merges:   []MergeFigures{},
		Lists:    []ListFigures{},
		Little:   []LittleWord{},
	}
	for _, code := range lexicon.Languages() {
		out.Languages = append(out.Languages, LanguageName{code, lexicon.LanguageNames[code]})
	}
	if out.Little, err = sayLittle(ctx, s); err != nil {
		return out, err
	}
	out.Negators, _ = s.View.Entries(lexicon.Negators)
	found := func(entries []string) (answers int, unseen []string) {
		all := roaring.New()
		unseen = []string{}
		for _, e := range entries {
			with := s.View.ListPhrases(e).Answers(s.View.Index)
			if with.IsEmpty() {
				unseen = append(unseen, e)
			}
			all.Or(with)
		}
		return int(all.AndCardinality(s.View.Index.Answered())), unseen
	}
	for i, m := range out.Lexicon.Merges {
		f := MergeFigures{
			Unseen:  []string{},
			Answers: int(s.View.Phrases(s.View.MergeTerm(i)).Answers(s.View.Index).AndCardinality(s.View.Index.Answered())),
		}
		for _, variant := range m.Variants {
			if s.View.VariantAnswers(variant).IsEmpty() {
				f.Unseen = append(f.Unseen, variant)
			}
		}
		out.Merges = append(out.Merges, f)
	}
	for _, l := range out.Lexicon.Lists {
		f := ListFigures{Used: []string{}}
		f.Answers, f.Unseen = found(l.Entries)
		for _, r := range s.Coding.Results {
			if slices.ContainsFunc(
				slices.Concat(r.Rules, r.Unless), func(x frame.RuleResult) bool { return namesList(x.Source, l.Name) },
			) {
				f.Used = append(f.Used, r.PathName())
			}
		}
		out.Lists = append(out.Lists, f)
	}
	return out, nil
}

// LittleWord is a term that says little, with its answers.
type LittleWord struct {
	Term    string `json:"term"`
	Answers int    `json:"answers" doc:"of the question"`
}

// sayLittle are the terms that would go if words that say little were hidden.
func sayLittle(ctx context.Context, s *state.State) ([]LittleWord, error) {
	counted, err := Count(ctx, s, nil, 1, false)
	if err != nil {
		return nil, err
	}
	answers := map[int]int{}
	for _, r := range counted.Rows {
		answers[int(r.Terms[0])] = r.Answers
	}
	out := []LittleWord{}
	seen := map[int]bool{}
	for _, w := range lexicon.SayLittle(s.Scheme.Language) {
		t, ok := s.View.Find(w)
		if !ok || seen[t] || s.View.Terms[t].Stop || s.View.Terms[t].Merge >= 0 || answers[t] == 0 {
			continue
		}
		seen[t] = true
		out = append(out, LittleWord{s.View.Terms[t].Label, answers[t]})
	}
	slices.SortStableFunc(out, func(a, b LittleWord) int { return b.Answers - a.Answers })
	return out, nil
}

func namesList(src, name string) (named bool) {
	rule.Names(src, func(k rule.Kind, names []string) ([]string, bool) {
		named = named || k == rule.List && names[0] == name
		return nil, false
	})
	return named
}

type guessKey struct{}

func (guessKey) Most() int { return 1 }

// guess tells the language of the answers, once per reading.
func guess(ctx context.Context, s *state.State) (lexicon.LanguageGuess, error) {
	return state.Remember(
		ctx, s.Text, guessKey{},
		func(context.Context) (lexicon.LanguageGuess, error) { return lexicon.GuessLanguage(s.Answers), nil },
	)
}
