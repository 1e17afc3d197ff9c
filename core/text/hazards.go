package text

import (
	"html"
	"slices"
	"strings"
)

// Hazard is an order of two steps in which the one spoils the other's work.
type Hazard struct {
	First, Second int  // places of the steps, from 0
	Late          bool // Second makes what First looks for; else First takes away what Second looks for
}

// Inspector finds, in answers, what the order of the steps spoils. It is safe for use by several goroutines.
type Inspector struct {
	pipeline *Pipeline
	without  []*Pipeline   // by step: the pipeline without it, nil where it spoils nothing
	moved    [][]*Pipeline // by step and later step: the pipeline with the one moved behind the other
}

// again lists the steps that change nothing when they are run on what they left: if one then still finds something at
// the end, a later step has made it.
var again = []string{"markup", "links", "typography", "contractions", "accents", "glued", "repeats"}

// NewInspector makes ready the steps, which must be those of a pipeline that could be made.
func NewInspector(language string, steps []Step) (*Inspector, error) {
	p, err := NewPipeline(language, steps)
	if err != nil {
		return nil, err
	}
	in := &Inspector{pipeline: p, without: make([]*Pipeline, len(steps)), moved: make([][]*Pipeline, len(steps))}
	for i := range steps {
		in.moved[i] = make([]*Pipeline, len(steps))
		for j := i + 1; j < len(steps); j++ {
			if !spoils(steps[i].Kind(), steps[j].Kind()) {
				continue
			}
			if in.without[i], err = NewPipeline(language, slices.Delete(slices.Clone(steps), i, i+1)); err != nil {
				return nil, err
			}
			if in.moved[i][j], err = NewPipeline(language, Moved(steps, i, j)); err != nil {
				return nil, err
			}
		}
	}
	return in, nil
}

// spoils says whether a step may take away what a later one looks for. Only the analyst's own replacements and swaps do so
// without meaning to, and only they may be written for what an earlier step has changed; tags and addresses are taken out
// on purpose.
func spoils(first, second string) bool {
	return own(first) || own(second) && first != "markup" && first != "links"
}

// own says whether a step does what the analyst wrote down.
func own(id string) bool { return id == "replace" || id == "letters" }

// Inspect gives the hazards that show in one answer.
func (in *Inspector) Inspect(original string, c *Cleaned) []Hazard {
	p := in.pipeline
	p.CleanInto(c, original)
	if c.Touched == 0 {
		return nil
	}
	out := in.tooLate(original, c)
	for i := range p.run {
		if c.Touched>>i&1 == 1 && in.without[i] != nil {
			out = append(out, in.spoilt(original, i)...)
		}
	}
	return out
}

// tooLate finds the steps that would find something which a later step has made.
func (in *Inspector) tooLate(original string, c *Cleaned) (out []Hazard) {
	p := in.pipeline
	var stages []Stage
	for i, s := range p.steps {
		if c.Touched>>(i+1) == 0 || !slices.Contains(again, s.Kind()) {
			continue
		}
		if stages == nil {
			_, stages = p.Trace(original)
		}
		if finds(p.run[i], stages[i].Text) {
			continue
		}
		for k := i + 1; k < len(stages); k++ {
			if c.Touched>>k&1 == 1 && finds(p.run[i], stages[k].Text) {
				out = append(out, Hazard{i, k, true})
				break
			}
		}
	}
	return out
}

// finds says whether a step would change a text.
func finds(run func(*reading), text string) bool {
	r := reading{original: text, text: text}
	run(&r)
	return r.apply() && r.text != text
}

// spoilt finds the later steps that find more when step i is left out, in words that are still there in the end and
// would be read otherwise if i came after them.
func (in *Inspector) spoilt(original string, i int) (out []Hazard) {
	c, stages := in.pipeline.Trace(original)
	_, free := in.without[i].Trace(original)
	for j := i + 1; j < len(stages); j++ {
		if in.moved[i][j] == nil {
			continue
		}
		var moved *Cleaned
		for _, e := range free[j-1].Edits {
			if own(in.pipeline.steps[i].Kind()) {
				// Words are replaced on purpose; what goes by the way is signs.
				if !slices.ContainsFunc(stages[i].Edits, func(m Mark) bool {
					return m.overlaps(e.Start, e.End) && !strings.ContainsFunc(original[m.Start:m.End], wordRune)
				}) {
					continue
				}
			} else if !strings.ContainsFunc(html.UnescapeString(original[e.Start:e.End]), wordRune) {
				continue // a sign that is looked for by itself is not missed
			}
			if slices.ContainsFunc(stages[j].Edits, func(done Mark) bool { return done.overlaps(e.Start, e.End) }) {
				continue
			}
			if moved == nil {
				m := in.moved[i][j].Clean(original)
				moved = &m
			}
			now, then := wordsIn(c.Words, e), wordsIn(moved.Words, e)
			if len(now) > 0 && !slices.Equal(now, then) {
				out = append(out, Hazard{i, j, false})
				break
			}
		}
	}
	return out
}

// wordsIn are the words that stand where an edit is.
func wordsIn(ws []Word, e Mark) (out []string) {
	for _, w := range ws {
		if e.overlaps(w.Start, w.End) {
			out = append(out, w.Surface)
		}
	}
	return out
}
