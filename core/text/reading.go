// Package text makes the second reading of an answer: it cleans the respondent's words step by step, splits the
// result into words and sentences, and knows for every word where it stands in the original.
package text

import "strings"

// reading is the text between two cleaning steps, with its map to the original.
type reading struct {
	original string
	text     string
	// from and to give, for every byte of text, the stretch of the original that it stands for. Both are nil while
	// the text still is the original.
	from, to []int32
	edits    []edit
}

// edit replaces text[start:end]. Steps note their edits in ascending order, not overlapping.
type edit struct {
	start, end int
	with       string
}

// replace notes an edit; apply carries it out. An edit that changes nothing is not noted.
func (r *reading) replace(start, end int, with string) {
	if r.text[start:end] != with {
		r.edits = append(r.edits, edit{start, end, with})
	}
}

// span is the stretch of the original that text[start:end] stands for.
func (r *reading) span(start, end int) (int, int) {
	if r.from == nil {
		return start, end
	}
	if start < end {
		return int(r.from[start]), int(r.to[end-1])
	}
	switch {
	case start < len(r.text):
		return int(r.from[start]), int(r.from[start])
	case start > 0:
		return int(r.to[start-1]), int(r.to[start-1])
	}
	return 0, 0
}

// apply carries out the noted edits and says whether there were any.
func (r *reading) apply() bool {
	if len(r.edits) == 0 {
		return false
	}
	size := len(r.text)
	for _, e := range r.edits {
		size += len(e.with) - (e.end - e.start)
	}
	var b strings.Builder
	b.Grow(size)
	from, to := make([]int32, 0, size), make([]int32, 0, size)
	keep := func(start, end int) {
		b.WriteString(r.text[start:end])
		if r.from == nil {
			for i := start; i < end; i++ {
				from, to = append(from, int32(i)), append(to, int32(i+1))
			}
			return
		}
		from, to = append(from, r.from[start:end]...), append(to, r.to[start:end]...)
	}
	at := 0
	for _, e := range r.edits {
		keep(at, e.start)
		first, last := r.span(e.start, e.end)
		b.WriteString(e.with)
		for range len(e.with) {
			from, to = append(from, int32(first)), append(to, int32(last))
		}
		at = e.end
	}
	keep(at, len(r.text))
	r.text, r.from, r.to, r.edits = b.String(), from, to, r.edits[:0]
	return true
}

// Mark is a place where the reading differs from the original: original[Start:End] (bytes) is read as With. An empty
// With was taken out; an empty stretch had With put in.
type Mark struct {
	Start int    `json:"start"`
	End   int    `json:"end"`
	With  string `json:"with"`
}

// marks lists what differs between the original and the reading, in order.
func (r *reading) marks() []Mark {
	if r.from == nil {
		return nil
	}
	var out []Mark
	read, given := 0, 0 // up to where both have been compared
	flush := func(readTo, givenTo int) {
		if readTo > read || givenTo > given {
			out = append(out, Mark{given, givenTo, r.text[read:readTo]})
		}
	}
	for i := range len(r.text) {
		o := int(r.from[i])
		if int(r.to[i]) == o+1 && o >= given && r.original[o] == r.text[i] {
			flush(i, o)
			read, given = i+1, o+1
		}
	}
	flush(len(r.text), len(r.original))
	return out
}
