package desk

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/rule"
	"aftermath/core/text"
)

// LexiconState is what was decided about words, with what it does.
type LexiconState struct {
	Language  string                `json:"language" doc:"code; und for none that is known"`
	Languages []LanguageName        `json:"languages" doc:"those there are stemmers, stop words and negators for"`
	Guess     lexicon.LanguageGuess `json:"guess" doc:"what the answers look like"`
	Lexicon   lexicon.Lexicon       `json:"lexicon"`
	Base      []string              `json:"base" doc:"the base stop words"`
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

// Lexicon gives what was decided about words.
func (q *Question) Lexicon(s *State) LexiconState {
	out := LexiconState{Language: s.Playbook.Language, Lexicon: s.View.Lexicon.Clone(), Base: lexicon.BaseStopWords(s.View.Lexicon.StopWords.Base),
		Guess: s.kept.language(q), Clashes: append([]lexicon.Clash{}, s.View.Clashes...), Merges: []MergeFigures{}, Lists: []ListFigures{}}
	for _, code := range lexicon.Languages() {
		out.Languages = append(out.Languages, LanguageName{code, lexicon.LanguageNames[code]})
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
		f := MergeFigures{Unseen: []string{}, Answers: int(s.View.Phrases(s.View.MergeTerm(i)).Answers(s.View.Index).AndCardinality(s.View.Index.Answered()))}
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
			if slices.ContainsFunc(slices.Concat(r.Rules, r.Unless), func(x frame.RuleResult) bool { return namesList(x.Source, l.Name) }) {
				f.Used = append(f.Used, r.PathName())
			}
		}
		out.Lists = append(out.Lists, f)
	}
	return out
}

func namesList(src, name string) (named bool) {
	rule.Names(src, func(k rule.Kind, names []string) ([]string, bool) {
		named = named || k == rule.List && names[0] == name
		return nil, false
	})
	return named
}

// language tells the language of the answers, once per reading.
func (k *kept) language(q *Question) lexicon.LanguageGuess {
	k.languageOnce.Do(func() { k.guess = lexicon.GuessLanguage(q.Answers) })
	return k.guess
}

func stopWords(p *playbook.Playbook, s *State, e Edit) (string, error) {
	sw := &p.Lexicon.StopWords
	to, from := &sw.Add, &sw.Keep
	if e.Kind == "show" {
		to, from = from, to
	}
	for _, label := range e.Terms {
		if len(s.View.Typed(label)) == 0 {
			return "", fmt.Errorf("%w: %q is no term", ErrRequest, label)
		}
		// A word of the term that the other list names would win against this, or be left behind.
		names := []string{label}
		if t, ok := s.View.Find(label); ok {
			for _, w := range s.View.Terms[t].Words {
				names = append(names, s.View.Index.Surface(w), s.View.Index.Spelling(w))
			}
		}
		*from = slices.DeleteFunc(*from, func(w string) bool { return slices.Contains(names, w) })
		if !slices.Contains(*to, label) {
			*to = append(*to, label)
		}
	}
	verb := map[string]string{"hide": "Hid ", "show": "Brought back "}[e.Kind]
	return verb + strings.Join(e.Terms, ", "), nil
}

func merge(p *playbook.Playbook, s *State, e Edit) (string, error) {
	label := strings.TrimSpace(e.Label)
	l := &p.Lexicon
	at := slices.IndexFunc(l.Merges, func(m lexicon.Merge) bool { return strings.EqualFold(m.Term, label) })
	if e.Kind == "split" {
		if at < 0 {
			return "", fmt.Errorf("%w: there is no merge %q", ErrRequest, label)
		}
		m := &l.Merges[at]
		for _, member := range e.Terms {
			throwOut(l, m, s, member)
		}
		if len(e.Terms) == 0 || len(m.Variants) == 0 {
			l.Merges = slices.Delete(l.Merges, at, at+1)
			return "Parted the merge " + label, nil
		}
		return "Took " + strings.Join(e.Terms, ", ") + " out of " + label, nil
	}
	if label == "" {
		return "", fmt.Errorf("%w: the merge needs a label", ErrRequest)
	}
	if at < 0 {
		at = len(l.Merges)
		l.Merges = append(l.Merges, lexicon.Merge{Term: label})
	}
	for _, term := range e.Terms {
		if strings.EqualFold(term, label) {
			continue
		}
		if len(s.View.Typed(term)) == 0 {
			return "", fmt.Errorf("%w: cleaning leaves nothing of %q, so no answer holds it", ErrRequest, term)
		}
		// A word that was parted by hand from what it is merged with belongs there again.
		l.Parted = slices.DeleteFunc(l.Parted, func(w string) bool { return w == term })
		// A merge that is merged brings its variants along.
		if other := slices.IndexFunc(l.Merges, func(m lexicon.Merge) bool { return strings.EqualFold(m.Term, term) }); other >= 0 {
			l.Merges[at].Variants = append(l.Merges[at].Variants, l.Merges[other].Variants...)
			l.Merges = slices.Delete(l.Merges, other, other+1)
			if other < at {
				at--
			}
		}
		if !slices.Contains(l.Merges[at].Variants, term) {
			l.Merges[at].Variants = append(l.Merges[at].Variants, term)
		}
	}
	return "Merged " + strings.Join(e.Terms, ", ") + " as " + label, nil
}

// throwOut takes a member out of a merge: its variant goes, and a single word that the label or another variant would still
// reach is parted by hand.
func throwOut(l *lexicon.Lexicon, m *lexicon.Merge, s *State, member string) {
	words := s.View.Typed(member)
	m.Variants = slices.DeleteFunc(m.Variants, func(variant string) bool {
		return variant == member || len(words) > 1 && s.reaches(variant, words)
	})
	if len(words) == 1 && slices.ContainsFunc(append([]string{m.Term}, m.Variants...), func(v string) bool { return s.reaches(v, words) }) {
		l.Parted = append(l.Parted, member)
	}
}

// reaches says whether a variant finds those words in a row.
func (s *State) reaches(variant string, words []string) bool {
	typed := s.View.Typed(variant)
	if len(typed) != len(words) {
		return false
	}
	for i := range typed {
		if word, ok := s.View.Index.Word(words[i]); !ok || !s.View.Inflected(typed[i]).Has(word) {
			return false
		}
	}
	return true
}

// part makes words stand apart from the others of their stem; join lets them back.
func part(p *playbook.Playbook, s *State, e Edit) (string, error) {
	l := &p.Lexicon
	if len(e.Terms) == 0 {
		return "", fmt.Errorf("%w: say which words", ErrRequest)
	}
	if e.Kind == "join" {
		l.Parted = slices.DeleteFunc(l.Parted, func(w string) bool { return slices.Contains(e.Terms, w) })
		return "Joined " + strings.Join(e.Terms, ", ") + " with the others of the stem again", nil
	}
	for _, w := range e.Terms {
		if len(s.View.Typed(w)) != 1 {
			return "", fmt.Errorf("%w: %q is not one word", ErrRequest, w)
		}
		if !slices.Contains(l.Parted, w) {
			l.Parted = append(l.Parted, w)
		}
	}
	return "Parted " + strings.Join(e.Terms, ", ") + " from " + cmp.Or(e.Label, "the others of the stem"), nil
}

// listTerms puts terms into a term list, which is made if it is not there; unlist takes them out, or the whole list away.
func listTerms(p *playbook.Playbook, e Edit) (string, error) {
	l := &p.Lexicon
	name := strings.TrimPrefix(strings.TrimSpace(e.Label), "@")
	at := slices.IndexFunc(l.Lists, func(x lexicon.List) bool { return x.Name == name })
	if e.Kind == "unlist" {
		if at < 0 {
			return "", fmt.Errorf("%w: there is no term list @%s", ErrRequest, name)
		}
		if len(e.Terms) == 0 {
			l.Lists = slices.Delete(l.Lists, at, at+1)
			return "Removed the term list @" + name, nil
		}
		l.Lists[at].Entries = slices.DeleteFunc(l.Lists[at].Entries, func(x string) bool { return slices.Contains(e.Terms, x) })
		return "Took " + strings.Join(e.Terms, ", ") + " off @" + name, nil
	}
	if name == "" {
		return "", fmt.Errorf("%w: the term list needs a name", ErrRequest)
	}
	if at < 0 {
		at = len(l.Lists)
		l.Lists = append(l.Lists, lexicon.List{Name: name, Entries: []string{}})
	}
	for _, t := range e.Terms {
		if t = strings.TrimSpace(t); t != "" && !slices.Contains(l.Lists[at].Entries, t) {
			l.Lists[at].Entries = append(l.Lists[at].Entries, t)
		}
	}
	if len(e.Terms) == 0 {
		return "Made the term list @" + name, nil
	}
	return "Put " + strings.Join(e.Terms, ", ") + " on @" + name, nil
}

// renameTerms gives a merge or a term list (whose label begins with "@") another name. Rules that name the list follow.
func renameTerms(p *playbook.Playbook, e Edit) (string, error) {
	l := &p.Lexicon
	to := strings.TrimPrefix(strings.TrimSpace(e.Name), "@")
	if to == "" {
		return "", fmt.Errorf("%w: the new name is empty", ErrRequest)
	}
	if old, isList := strings.CutPrefix(e.Label, "@"); isList {
		at := slices.IndexFunc(l.Lists, func(x lexicon.List) bool { return x.Name == old })
		if at < 0 {
			return "", fmt.Errorf("%w: there is no term list @%s", ErrRequest, old)
		}
		l.Lists[at].Name = to
		rewriteNames(p, func(k rule.Kind, names []string) ([]string, bool) {
			return []string{to}, k == rule.List && names[0] == old
		})
		return "Renamed @" + old + " to @" + to, nil
	}
	at := slices.IndexFunc(l.Merges, func(m lexicon.Merge) bool { return strings.EqualFold(m.Term, e.Label) })
	if at < 0 {
		return "", fmt.Errorf("%w: there is no merge %q", ErrRequest, e.Label)
	}
	// The old label stays a variant, so that nothing that was found is lost.
	m := &l.Merges[at]
	m.Variants = slices.DeleteFunc(m.Variants, func(v string) bool { return v == to })
	if !slices.Contains(m.Variants, m.Term) {
		m.Variants = append(m.Variants, m.Term)
	}
	m.Term = to
	return "Renamed " + e.Label + " to " + to, nil
}

// apart remembers terms that are not to be suggested as one, or lets them be suggested again.
func apart(p *playbook.Playbook, e Edit) (string, error) {
	l := &p.Lexicon
	if e.Label == "" || len(e.Terms) == 0 {
		return "", fmt.Errorf("%w: say which terms are kept apart", ErrRequest)
	}
	at := slices.IndexFunc(l.Apart, func(m lexicon.Merge) bool { return strings.EqualFold(m.Term, e.Label) })
	if e.Kind == "suggest again" {
		if at >= 0 {
			l.Apart[at].Variants = slices.DeleteFunc(l.Apart[at].Variants, func(v string) bool { return slices.Contains(e.Terms, v) })
			if len(l.Apart[at].Variants) == 0 {
				l.Apart = slices.Delete(l.Apart, at, at+1)
			}
		}
		return "Let " + strings.Join(e.Terms, ", ") + " be suggested with " + e.Label + " again", nil
	}
	if at < 0 {
		at = len(l.Apart)
		l.Apart = append(l.Apart, lexicon.Merge{Term: e.Label})
	}
	for _, t := range e.Terms {
		if !slices.Contains(l.Apart[at].Variants, t) {
			l.Apart[at].Variants = append(l.Apart[at].Variants, t)
		}
	}
	return "Kept " + strings.Join(e.Terms, ", ") + " apart from " + e.Label, nil
}

// language sets the language of the answers. The base stop words and the phrases of refusal go along where they were
// those of the language before.
func language(p *playbook.Playbook, to string) (string, error) {
	if to != Unknown && lexicon.LanguageNames[to] == "" {
		return "", fmt.Errorf("%w: the language %q is not known; there are: %s", ErrRequest, to, strings.Join(lexicon.Languages(), ", "))
	}
	if base := &p.Lexicon.StopWords.Base; *base == lexicon.Default(p.Language).StopWords.Base {
		*base = lexicon.Default(to).StopWords.Base
	}
	if slices.Equal(p.NoAnswers, text.DefaultNoAnswers(p.Language)) {
		p.NoAnswers = text.DefaultNoAnswers(to)
	}
	p.Language = to
	return "Set the language to " + cmp.Or(lexicon.LanguageNames[to], "none that is known"), nil
}
