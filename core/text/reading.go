// Package text makes the second reading of an answer: it cleans the respondent's words step by step, splits the
// result into words and sentences, and knows for every word where it stands in the original.
package text

import "strings"

// reading is the text between two cleaning steps, with its map to the original.
type reading struct {
	original string
	text     string
	// places give, for every byte of text, the stretch of the original that it stands for. Nil while the text still is
	// the original.
	places []place
	edits  []edit
	spare  []place // room for the next places
	traced *[]Mark // if given, takes note of all edits, on the original
	known  bool    // plain is known
	plain  bool    // text is ASCII
}

// place is a stretch of the original, in bytes.
type place struct{ from, to int32 }

// edit replaces text[start:end]. Steps note their edits in ascending order, not overlapping.
type edit struct {
	start, end int
	with       string
}

// start begins the reading of another answer, with the room of the last one.
func (r *reading) start(original string) {
	if r.places != nil {
		r.spare = r.places
	}
	*r = reading{original: original, text: original, edits: r.edits[:0], spare: r.spare}
}

// ascii says whether the text is ASCII.
func (r *reading) ascii() bool {
	if !r.known {
		r.plain, r.known = ascii(r.text), true
	}
	return r.plain
}

// replace notes an edit; apply carries it out. An edit that changes nothing is not noted.
func (r *reading) replace(start, end int, with string) {
	if r.text[start:end] != with {
		r.edits = append(r.edits, edit{start, end, with})
	}
}

// span is the stretch of the original that text[start:end] stands for.
func (r *reading) span(start, end int) (int, int) {
	if r.places == nil {
		return start, end
	}
	if start < end {
		return int(r.places[start].from), int(r.places[end-1].to)
	}
	switch {
	case start < len(r.text):
		return int(r.places[start].from), int(r.places[start].from)
	case start > 0:
		return int(r.places[start-1].to), int(r.places[start-1].to)
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
		if r.traced != nil && (e.start < e.end || e.with != "") {
			start, end := r.span(e.start, e.end)
			*r.traced = append(*r.traced, Mark{start, end, e.with})
		}
		size += len(e.with) - (e.end - e.start)
	}
	var b strings.Builder
	b.Grow(size)
	places := r.spare[:0]
	if places == nil || cap(places) < size { // nil stands for a text that is the original
		places = make([]place, 0, size+size/4)
	}
	keep := func(start, end int) {
		b.WriteString(r.text[start:end])
		if r.places != nil {
			places = append(places, r.places[start:end]...)
			return
		}
		for i := start; i < end; i++ {
			places = append(places, place{int32(i), int32(i + 1)})
		}
	}
	at := 0
	for _, e := range r.edits {
		keep(at, e.start)
		first, last := r.span(e.start, e.end)
		b.WriteString(e.with)
		for range len(e.with) {
			places = append(places, place{int32(first), int32(last)})
		}
		at = e.end
	}
	keep(at, len(r.text))
	r.spare = r.places
	r.text, r.places, r.edits, r.known = b.String(), places, r.edits[:0], false
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
	if r.places == nil {
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
		o := int(r.places[i].from)
		if int(r.places[i].to) == o+1 && o >= given && r.original[o] == r.text[i] {
			flush(i, o)
			read, given = i+1, o+1
		}
	}
	flush(len(r.text), len(r.original))
	return out
}
