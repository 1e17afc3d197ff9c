package desk

import (
	"slices"
	"strconv"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/survey"
	"aftermath/core/text"
)

// Answer is one answer as lists show it.
type Answer struct {
	Number  int      `json:"number" doc:"of the respondent, from 0"`
	Parts   []Part   `json:"parts" doc:"the original, cut at its highlights"`
	Who     []string `json:"who" doc:"what is known of the respondent, shortly"`
	Status  string   `json:"status"`
	Settled bool     `json:"settled,omitempty"`
	Codes   []Code   `json:"codes"`
}

// Code is a category that an answer has, with the reason.
type Code struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Short  string `json:"short"`
	Top    int    `json:"top" doc:"place of its top category in the frame, from 0: its colour"`
	Rules  []int  `json:"rules" doc:"numbers of the rules that match, from 1"`
	ByHand bool   `json:"byHand,omitempty"`
}

// Page is a stretch of a list of answers.
type Page struct {
	Total   int      `json:"total"`
	Offset  int      `json:"offset" doc:"place of the first one listed"`
	Answers []Answer `json:"answers"`
}

// List gives the answers of a focus from offset on, in the order of the file. With a number at 0 or above, offset counts
// from the first answer that is not before that number, and may be negative.
func (q *Question) List(s *State, f Focus, at, offset, limit int) (Page, error) {
	set, err := q.Focus(s, f)
	if err != nil {
		return Page{}, err
	}
	if at > 0 {
		offset += int(set.Rank(uint32(at - 1)))
	}
	offset = max(offset, 0)
	p := Page{Total: int(set.GetCardinality()), Offset: offset, Answers: []Answer{}}
	m := s.marker(f)
	for i := offset; i < min(offset+limit, p.Total); i++ {
		n, err := set.Select(uint32(i))
		if err != nil {
			return Page{}, err
		}
		p.Answers = append(p.Answers, q.answer(s, m, int(n)))
	}
	return p, nil
}

func (q *Question) answer(s *State, m marker, n int) Answer {
	a := Answer{Number: n, Parts: m.parts(q.Answers[n], n), Who: s.who(n), Settled: s.Decisions.Settled.Contains(uint32(n)), Codes: []Code{}}
	for i, name := range text.StatusNames {
		if s.Reading.Index.Status(text.Status(i)).Contains(uint32(n)) {
			a.Status = name
		}
	}
	for _, r := range s.Coding.Results {
		if code, ok := codeOf(r, uint32(n), s.Decisions); ok {
			a.Codes = append(a.Codes, code)
		}
	}
	return a
}

// codeOf gives a category of an answer with the reason; not a net that only has what its children have.
func codeOf(r *frame.Result, n uint32, d frame.Decisions) (Code, bool) {
	if !r.Answers.Contains(n) {
		return Code{}, false
	}
	rules, byHand := r.Why(n, d)
	if len(r.Children) > 0 && len(rules) == 0 {
		return Code{}, false
	}
	c := Code{ID: r.ID, Name: r.Name, Short: r.Short, Top: r.Top, Rules: []int{}, ByHand: byHand}
	for _, i := range rules {
		c.Rules = append(c.Rules, i+1)
	}
	return c, true
}

// who says in a few words who the respondent is: at most two segments, the date, and a number.
func (s *State) who(n int) []string {
	out := []string{}
	room := map[survey.Role]int{survey.Segment: 2, survey.Date: 1, survey.Number: 1}
	for i, spec := range s.Study.Columns {
		cell := s.Study.Cells[i][n]
		if cell == "" || room[spec.Role] == 0 {
			continue
		}
		room[spec.Role]--
		if spec.Role == survey.Number {
			cell = spec.Name + " " + cell
		}
		out = append(out, cell)
	}
	return out
}

// Cell is a cell of the data as exports write it: in open-ended columns personal data is masked if the question says so.
func (s *State) Cell(row, column int) string {
	cell := s.Study.Cells[column][row]
	if s.Playbook.Mask && s.Study.Columns[column].Role == survey.OpenEnded {
		return text.Mask(cell)
	}
	return cell
}

// Respondent names the respondent of an answer: by the first column of identifiers, else by the row from 1.
func (s *State) Respondent(answer int) string {
	for i, spec := range s.Study.Columns {
		if spec.Role == survey.Identifier {
			return s.Cell(answer, i)
		}
	}
	return strconv.Itoa(answer + 1)
}

// Overview is a question's state in figures, for the rail.
type Overview struct {
	Revision     int            `json:"revision"`
	Respondents  int            `json:"respondents"`
	Statuses     map[string]int `json:"statuses"`
	Answered     int            `json:"answered"`
	Coded        int            `json:"coded" doc:"answered with a category"`
	Left         int            `json:"left" doc:"answered, not coded, not settled"`
	Settled      int            `json:"settled"`
	Terms        int            `json:"terms" doc:"different ones in the answered, stop words aside"`
	Hidden       int            `json:"hidden" doc:"terms that are stop words"`
	Categories   int            `json:"categories"`
	RuleProblems int            `json:"ruleProblems" doc:"rules that can't be read"`
	Focus        int            `json:"focus" doc:"answers in the focus that was given"`
	Warnings     int            `json:"warnings" doc:"mends that there are for hazards and left-overs of cleaning; 0 until they were looked for"`
	ByHand       int            `json:"byHand" doc:"answers with a category put on by hand"`
}

// Overview gives the figures.
func (q *Question) Overview(s *State, f Focus) (Overview, error) {
	set, err := q.Focus(s, f)
	if err != nil {
		return Overview{}, err
	}
	ix := s.Reading.Index
	o := Overview{Revision: s.Revision, Warnings: s.kept.warnings(), Respondents: len(q.Answers), Statuses: map[string]int{}, Focus: int(set.GetCardinality())}
	for i, name := range text.StatusNames {
		o.Statuses[name] = int(ix.Status(text.Status(i)).GetCardinality())
	}
	o.Answered = s.Answered()
	uncoded := roaring.AndNot(ix.Answered(), s.Coding.Coded)
	o.Coded = o.Answered - int(uncoded.GetCardinality())
	o.Settled = int(uncoded.AndCardinality(s.Decisions.Settled))
	o.Left = int(uncoded.GetCardinality()) - o.Settled
	said, err := q.count(s, nil, 1, false)
	if err != nil {
		return Overview{}, err
	}
	for _, r := range said.Rows {
		if s.View.Terms[r.Terms[0]].Stop {
			o.Hidden++
		} else {
			o.Terms++
		}
	}
	byHand := roaring.New()
	for _, on := range s.Decisions.On {
		byHand.Or(on)
	}
	o.ByHand = int(byHand.GetCardinality())
	for _, r := range s.Coding.Results {
		o.Categories++
		for _, x := range slices.Concat(r.Rules, r.Unless) {
			if len(x.Problems) > 0 && !x.Problems[0].Warning {
				o.RuleProblems++
			}
		}
	}
	return o, nil
}
