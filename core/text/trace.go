package text

// Stage is what one step made of an answer.
type Stage struct {
	Step  Step   `json:"step"`
	Text  string `json:"text" doc:"after the step"`
	Edits []Mark `json:"edits" doc:"what the step changed, on the original"`
}

// Trace cleans one answer and tells what each step did.
func (p *Pipeline) Trace(original string) (Cleaned, []Stage) {
	var c Cleaned
	c.reading.start(original)
	stages := make([]Stage, len(p.run))
	for i, run := range p.run {
		edits := []Mark{}
		c.reading.traced = &edits
		run(&c.reading)
		if c.reading.apply() {
			c.Touched |= 1 << i
		}
		stages[i] = Stage{p.steps[i], c.reading.text, edits}
	}
	c.reading.traced = nil
	c.Text = c.reading.text
	c.Words = split(&c.reading, p.language, nil, &c.pieces)
	return c, stages
}

// overlaps says whether an edit on the original touches original[start:end]; one that only puts something in touches
// the places beside it.
func (m Mark) overlaps(start, end int) bool {
	if m.Start == m.End || start == end {
		return m.Start <= end && start <= m.End
	}
	return m.Start < end && start < m.End
}

// StepsOf says which stages, from 0, have a part in a mark.
func StepsOf(m Mark, stages []Stage) []int {
	out := []int{}
	for i, s := range stages {
		for _, e := range s.Edits {
			if e.overlaps(m.Start, m.End) {
				out = append(out, i)
				break
			}
		}
	}
	return out
}
