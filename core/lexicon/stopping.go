package lexicon

import (
	"strings"

	"aftermath/core/text"
)

// hideStopWords marks the terms that lists, clouds and suggestions leave out, and the rows that were hidden by themselves.
func (v *View) hideStopWords() {
	// What is hidden and kept by words of the index, and by labels of merges that may stand nowhere.
	stop, keep := make([]bool, v.Index.Vocabulary()), make([]bool, v.Index.Vocabulary())
	stopTyped, keepTyped := map[string]bool{}, map[string]bool{}
	for _, w := range baseStopWords[v.Lexicon.StopWords.Base] {
		for _, form := range []string{w, text.Fold(w)} { // as the words stand with and without the step that folds accents
			stopTyped[form] = true
			if n, ok := v.Index.Word(form); ok {
				stop[n] = true
			}
		}
	}
	v.stopRows = map[[3]int32]bool{}
	mark := func(in []bool, names map[string]bool, typed []string, rows bool) {
		for _, t := range typed {
			words := v.Typed(t)
			names[strings.Join(words, " ")] = true
			if len(words) == 1 {
				if n, ok := v.Index.Word(words[0]); ok {
					in[n] = true
				}
			}
			if key, ok := v.rowKey(words); ok {
				v.stopRows[key] = rows
			}
		}
	}
	mark(stop, stopTyped, v.Lexicon.StopWords.Add, true)
	mark(keep, keepTyped, v.Lexicon.StopWords.Keep, false)
	for i := range v.Terms {
		t := &v.Terms[i]
		hidden, kept := false, false
		for _, w := range t.Words {
			hidden, kept = hidden || stop[w], kept || keep[w]
		}
		if t.Merge >= 0 {
			name := strings.Join(v.Typed(t.Label), " ")
			hidden, kept = hidden || stopTyped[name], kept || keepTyped[name]
		}
		t.Stop = hidden && !kept
	}
}

// rowKey are the terms of two or three words in a row.
func (v *View) rowKey(words []string) (key [3]int32, ok bool) {
	if len(words) != 2 && len(words) != 3 {
		return key, false
	}
	key[2] = -1
	for i, w := range words {
		t, ok := v.term(w)
		if !ok {
			return key, false
		}
		key[i] = int32(t)
	}
	return key, true
}

// RowHidden says whether a row of two or three terms (the third -1 for none) was hidden by itself.
func (v *View) RowHidden(terms [3]int32) bool { return v.stopRows[terms] }

// FindRow gives the terms that two or three typed words in a row stand for, each by itself, and what they are found by;
// the third term is -1 for none.
func (v *View) FindRow(typed string) (terms [3]int32, found Sequence, ok bool) {
	terms, ok = v.rowKey(v.Typed(typed))
	if ok {
		found = v.RowSequence(terms)
	}
	return terms, found, ok
}

// RowSequence is what a row of terms is found by: the single words of each.
func (v *View) RowSequence(terms [3]int32) Sequence {
	var s Sequence
	for _, t := range terms {
		if t >= 0 {
			s = append(s, v.sets[t])
		}
	}
	return s
}
