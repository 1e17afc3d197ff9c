package terms

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"unicode"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/lexicon"
	"aftermath/core/words"
)

// Theme is what seems to speak of one subject, the most frequent first: each one term, or two that stand side by side.
type Theme [][]int

// What a subject is looked for among, and what is taken for one.
const (
	maxThemeCandidates    = 400  // most frequent terms among which subjects are looked for
	maxFocusShare         = 0.15 // share of answers from which a term is what all speak of
	minFocusShare         = 0.004
	minAnswers            = 4
	minTimesEveryday      = 3    // times as often as in everyday speech, for nouns and names
	minTimesEverydayOther = 20   // and for other words
	minSentenceShare      = 0.6  // of the sentences of the rarer of two terms, those with both, from which they speak of one subject,
	minLift               = 5    // so many times as many as by chance
	minThemeCloseness     = 0.33 // closeness in meaning from which two terms name one subject
	maxThemeTerms         = 6
	maxBeside             = 2   // terms of a theme that only stand in the same sentences
	minRowShare           = 0.3 // of the places of the rarer of two terms, those beside the other, from which both are a name of two words;
	// a term of whose places as many are in such names is no subject by itself
	minRowLift    = 10  // so many times as many as by chance
	maxWhereShare = 0.5 // of the places of a term, those behind a word as "in" or "at", from which it says where something was,
	whereWindow   = 3   // and how many words before it such a word may stand
)

// Themes looks for subjects in the answers of a focus: terms that are said more often than in everyday speech, by about as many
// as one would make a category of, with those that share their sentences or their meaning. Words of praise and blame are no
// subjects, nor is what the whole study is about, by its name, nor what mostly says where something was. The most frequent comes
// first.
func (s Suggester) Themes(ctx context.Context, focus *roaring.Bitmap, study string) ([]Theme, error) {
	chosen, err := s.subjects(ctx, focus, study)
	if err != nil {
		return nil, err
	}
	seen, err := s.beside(ctx, focus, chosen)
	if err != nil {
		return nil, err
	}
	least := max(minAnswers, minFocusShare*float64(focus.GetCardinality()))
	t := themes{view: s.View, table: words.Of(s.Language), chosen: chosen, seen: seen}
	return t.grouped(t.anchors(least)), nil
}

// subjects are the terms that may name a subject, the most frequent first.
func (s Suggester) subjects(ctx context.Context, focus *roaring.Bitmap, study string) ([]int, error) {
	v := s.View
	table, usual := words.Of(s.Language), NewEveryday(v, s.Language)
	answers, err := s.AnswersPer(ctx, focus, s.Workers)
	if err != nil {
		return nil, err
	}
	base, named := float64(focus.GetCardinality()), wordsOf(study)
	total := 0
	for it := focus.Iterator(); it.HasNext(); {
		total += len(v.Index.Answer(int(it.Next())))
	}
	var chosen []int
	for t, term := range v.Terms {
		k := float64(answers[t])
		if term.Stop || k < minAnswers || k < minFocusShare*base || k > maxFocusShare*base && base > 100 ||
			!subject(table, term.Label) || names(table, named, term.Label) {
			continue
		}
		if usual != nil {
			unusual := usual.More(t, int(answers[t]), total)
			if unusual < minTimesEveryday || unusual < minTimesEverydayOther && !noun(table, term.Label) {
				continue
			}
		}
		chosen = append(chosen, t)
	}
	slices.SortFunc(chosen, func(a, b int) int { return cmp.Or(int(answers[b])-int(answers[a]), a-b) })
	return chosen[:min(len(chosen), maxThemeCandidates)], nil
}

// themes makes themes of chosen terms.
type themes struct {
	view   *lexicon.View
	table  *words.Table
	chosen []int
	seen   besides
}

// anchor is what a theme may begin with: one term, or two that are a name, by their places among the chosen.
type anchor struct {
	row   []int
	times int32
	where int32 // of these, those that say where something was
}

// place says whether an anchor is mostly said as a place.
func (a anchor) place() bool { return float64(a.where) >= maxWhereShare*float64(a.times) }

func (t themes) label(place int) string { return t.view.Terms[t.chosen[place]].Label }

// anchors are the names of two terms that stand side by side at least so often, and the terms that are not mostly pieces
// of these, the most frequent first.
func (t themes) anchors(least float64) (out []anchor) {
	inRows := make([]int32, len(t.chosen))
	for pair, n := range t.seen.rows {
		a, b := pair[0], pair[1]
		if !noun(t.table, t.label(b)) {
			continue // what such a name is of stands last
		}
		x, y := t.seen.times[a].all, t.seen.times[b].all
		if float64(n.all) >= least && float64(n.all) >= minRowShare*float64(min(x, y)) &&
			float64(n.all)*float64(t.seen.words) >= minRowLift*float64(x)*float64(y) {
			out = append(out, anchor{[]int{a, b}, n.all, n.where})
			inRows[a] += n.all
			inRows[b] += n.all
		}
	}
	for a, n := range t.seen.times {
		if float64(inRows[a]) < minRowShare*float64(n.all) {
			out = append(out, anchor{[]int{a}, n.all, n.where})
		}
	}
	slices.SortFunc(out, func(x, y anchor) int { return cmp.Or(int(y.times-x.times), slices.Compare(x.row, y.row)) })
	return out
}

// tie says how much an anchor speaks of the subject of a more frequent one.
type tie struct {
	to       int     // the anchor, by its place
	strength float64 // 0 for none
	meaning  bool    // by what they mean; else, or besides, by the sentences that they share
}

func (t themes) tied(x, y anchor) (out tie) {
	if len(x.row)+len(y.row) > 2 {
		return out
	}
	a, b := x.row[0], y.row[0]
	if near := t.table.Closeness(t.label(a), t.label(b)); near >= minThemeCloseness {
		out.strength, out.meaning = near, true
	}
	both, p, q := float64(t.seen.pairs[a][b]), float64(t.seen.pairs[a][a]), float64(t.seen.pairs[b][b])
	if part, lift := both/q, both*float64(t.seen.sentences)/(p*q); both >= 3 && part >= minSentenceShare && lift >= minLift {
		out.strength = part
	}
	return out
}

// grouped has each anchor, from the most frequent on, take those that are tied to it and to no earlier one. What says where
// something was only stands beside others.
func (t themes) grouped(anchors []anchor) (out []Theme) {
	taken := make([]bool, len(anchors))
	for i, x := range anchors {
		if taken[i] || x.place() {
			continue
		}
		var near []tie
		for j := i + 1; j < len(anchors); j++ {
			if taken[j] {
				continue
			}
			if to := t.tied(x, anchors[j]); to.strength > 0 {
				to.to = j
				near = append(near, to)
			}
		}
		slices.SortStableFunc(near, func(a, b tie) int { return cmp.Compare(b.strength, a.strength) })
		theme, beside := Theme{t.terms(x)}, 0
		for _, n := range near {
			if len(theme) == maxThemeTerms {
				break
			}
			if !n.meaning {
				if beside++; beside > maxBeside {
					continue
				}
			}
			taken[n.to] = true
			theme = append(theme, t.terms(anchors[n.to]))
		}
		out = append(out, theme)
	}
	return out
}

// terms are those of an anchor.
func (t themes) terms(x anchor) (row []int) {
	for _, place := range x.row {
		row = append(row, t.chosen[place])
	}
	return row
}

// subject says whether a word may name what somebody speaks of: not how they like it.
func subject(table *words.Table, label string) bool {
	word := len(label) >= 3 && letters(strings.ReplaceAll(label, " ", ""))
	return word && (table == nil || !evaluative[label] && !evaluative[table.Lemma(label)])
}

// noun says whether a word is mostly a noun, or not in the table: a name.
func noun(table *words.Table, label string) bool {
	classes := table.Of(label)
	return len(classes) == 0 || classes[0] == words.Noun
}

// evaluative are English words that say how somebody likes something, and words that are said of anything.
var evaluative = func() map[string]bool {
	out := map[string]bool{}
	for _, w := range strings.Fields(`good great nice excellent amazing awesome wonderful fantastic perfect lovely brilliant superb best well
love like enjoy happy please pleasant delight glad thank bad poor terrible awful horrible disappoint disappointing hate dislike worst waste
favorite recommend impress satisfy okay fine decent fabulous outstanding incredible delicious tasty yummy thing lot way bit time year day
week month hour minute people person problem issue reason review star experience product item stuff shocking dreadful joke shame disgrace
anything something everything anyone someone everyone plus sort kind half part whole rest
order buy purchase try use add get receive arrive highly look feel
favourite surprise surprised magic magical marvellous stunning gorgeous beautiful exceptional bearable hopeless ridiculous nightmare useless
pathetic unacceptable appalling annoying frustrating`) {
		out[w] = true
	}
	return out
}()

func wordsOf(name string) []string {
	return strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return !unicode.IsLetter(r) })
}

// names says whether a term is one of some words, or what one of them is a kind of.
func names(table *words.Table, named []string, label string) bool {
	return slices.ContainsFunc(named, func(word string) bool {
		return word == label || table.Lemma(word) == table.Lemma(label) || table.KindOf(word, label)
	})
}

// besides is what is counted of chosen terms.
type besides struct {
	times            []places          // of each
	rows             map[[2]int]places // two side by side
	pairs            [][]int32         // sentences with both, and with each in pairs[a][a]
	words, sentences int               // in all
}

// places are how often something is said, and how often of these to say where something was.
type places struct{ all, where int32 }

func (p places) and(where bool) places {
	p.all++
	if where {
		p.where++
	}
	return p
}

// locative are the English words before the name of a place. Of other languages none are known.
var locative = strings.Fields("in on at by from to into onto off near inside outside past through round behind under")

// behind tells which words of an index stand before the name of a place.
func behind(v *lexicon.View, language string) map[uint32]bool {
	out := map[uint32]bool{}
	if language != "en" {
		return out
	}
	for _, surface := range locative {
		if w, ok := v.Index.Word(surface); ok {
			out[w] = true
		}
	}
	return out
}

// beside counts what stands with and beside each of the chosen terms in the sentences of a focus.
func (s Suggester) beside(ctx context.Context, focus *roaring.Bitmap, chosen []int) (besides, error) {
	v := s.View
	place := make([]int32, len(v.Terms))
	for i, t := range chosen {
		place[t] = int32(i) + 1
	}
	out := besides{times: make([]places, len(chosen)), rows: map[[2]int]places{}, pairs: make([][]int32, len(chosen))}
	for i := range out.pairs {
		out.pairs[i] = make([]int32, len(chosen))
	}
	var here []int
	leads := behind(v, s.Language)
	n := 0
	for it := focus.Iterator(); it.HasNext(); n++ {
		if n%4096 == 0 && ctx.Err() != nil {
			return out, ctx.Err()
		}
		a := int(it.Next())
		said, of := v.Index.Answer(a), v.Index.Sentences(a)
		out.words += len(said)
		for i := 0; i < len(said); {
			here = here[:0]
			before, j := -1, i
			lead := i - whereWindow - 1
			for ; j < len(said) && of[j] == of[i]; j++ {
				if leads[said[j]] {
					lead = j
				}
				p := int(place[v.TermOf(said[j])]) - 1
				if p >= 0 {
					out.times[p] = out.times[p].and(j-lead <= whereWindow)
					if before >= 0 && before != p {
						out.rows[[2]int{before, p}] = out.rows[[2]int{before, p}].and(j-1-lead <= whereWindow)
					}
					if !slices.Contains(here, p) {
						here = append(here, p)
					}
				}
				before = p
			}
			out.sentences++
			for x, p := range here {
				for _, q := range here[x:] {
					out.pairs[p][q]++
					if p != q {
						out.pairs[q][p]++
					}
				}
			}
			i = j
		}
	}
	return out, nil
}
