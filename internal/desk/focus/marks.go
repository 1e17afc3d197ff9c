package focus

import (
	"slices"
	"strings"

	"aftermath/core/corpus"
	"aftermath/core/lexicon"
	"aftermath/core/rule"
	"aftermath/internal/desk/state"
)

// Part is a piece of an answer, marked or not.
type Part struct {
	Text string  `json:"text"`
	Read *string `json:"read,omitempty" doc:"what people read in its place, where it is a tag or an entity"`
	Hit  bool    `json:"hit,omitempty"`
}

// Marker finds what in an answer a focus speaks of.
type Marker struct {
	state    *state.State
	programs []*rule.Program
	phrases  []lexicon.Phrases
	blocks   [][]uint32 // words in a row
}

// Marker collects all that a focus names by words: its rules, terms, and the rules of its categories.
func (f Focus) Marker(s *state.State) Marker {
	m := Marker{state: s}
	for _, c := range f {
		if !c.Not {
			c.mark(&m)
		}
	}
	return m
}

// addRule has a marker mark what a rule matches; one that can't be read matches nothing.
func (m *Marker) addRule(source string) {
	if p, _ := m.state.Coding.Compile(source); p != nil {
		m.programs = append(m.programs, p)
	}
}

// Parts cuts the original of an answer into marked and unmarked pieces.
func (m Marker) Parts(row int) []Part {
	ix, original := m.state.Reading.Index, m.state.Original(row)
	hit := map[int]bool{}
	var spans [][2]int // bytes of the original
	for _, p := range m.programs {
		if e, ok := m.state.Coding.Matcher().Explain(p, row); ok {
			for _, w := range e.Words {
				hit[w] = true
			}
			spans = append(spans, e.Stretches...)
		}
	}
	for _, found := range m.phrases {
		found.Each(ix.Answer(row), ix.Sentences(row), func(start, length int) {
			for i := range length {
				hit[start+i] = true
			}
		})
	}
	for _, block := range m.blocks {
		for _, start := range corpus.RowIn(ix.Answer(row), block) {
			for i := range block {
				hit[start+i] = true
			}
		}
	}
	if len(hit) > 0 {
		spans = append(spans, m.wordSpans(original.Text, hit)...)
	}
	slices.SortFunc(spans, func(a, b [2]int) int { return a[0] - b[0] })
	var out []Part
	add := func(from, to int, hit bool) {
		for _, p := range original.Pieces(from, to) {
			part := Part{Text: p.Text, Hit: hit}
			if p.Read != p.Text {
				part.Read = &p.Read
			}
			out = append(out, part)
		}
	}
	at := 0
	for _, s := range spans {
		start, end := max(s[0], at), s[1]
		if start >= end {
			continue
		}
		add(at, start, false)
		add(start, end, true)
		at = end
	}
	add(at, len(original.Text), false)
	if len(out) == 0 {
		out = append(out, Part{})
	}
	return out
}

// wordSpans are where marked words stand in the original. Words side by side are marked as one.
func (m Marker) wordSpans(original string, hit map[int]bool) (spans [][2]int) {
	words := m.state.Reading.Pipeline.Clean(original).Words
	for i, w := range words {
		if !hit[i] {
			continue
		}
		if n := len(spans) - 1; n >= 0 && hit[i-1] && words[i-1].Sentence == w.Sentence &&
			strings.TrimSpace(original[words[i-1].End:max(w.Start, words[i-1].End)]) == "" {
			spans[n][1] = max(w.End, spans[n][1])
			continue
		}
		spans = append(spans, [2]int{w.Start, w.End})
	}
	return spans
}
