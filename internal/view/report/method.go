package report

import (
	"slices"

	"aftermath/core/lexicon"
	"aftermath/core/oneof"
	"aftermath/core/text"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// Method is how the figures of a question came about.
type Method struct {
	Respondents int               `json:"respondents"`
	Statuses    []StatusCount     `json:"statuses" doc:"respondents by what they answered"`
	Language    string            `json:"language"`
	Cleaning    []StepDone        `json:"cleaning" doc:"in their order"`
	NoAnswers   int               `json:"noAnswers" doc:"phrases of refusal"`
	Mask        bool              `json:"mask"`
	Inflections bool              `json:"inflections"`
	StopWords   lexicon.StopWords `json:"stopWords" doc:"they shape lists of terms, never rules"`
	Merges      int               `json:"merges"`
	Lists       int               `json:"lists"`
	Single      bool              `json:"single"`
	Coded       int               `json:"coded" doc:"answers with a category"`
	Settled     int               `json:"settled" doc:"of the others: looked at, and no category needed"`
	Categories  []MethodRules     `json:"categories"`
	Decisions   int               `json:"decisions" doc:"answers with a category put on or taken off by hand"`
	Suggested   int               `json:"suggested" doc:"answers with a category that was put on since it is likely, unread"`
	Weight      string            `json:"weight,omitempty" doc:"the variable with weights, if there is one"`
	Derived     []string          `json:"derived" doc:"variables made of others"`
	Agreement   []MethodAgreed    `json:"agreement" doc:"samples that were coded without seeing how they are coded"`
	UnreadRules int               `json:"unreadRules" doc:"rules that can't be read, and catch nothing"`
}

// StatusCount is how many respondents have a status.
type StatusCount struct {
	Status  string `json:"status"`
	Answers int    `json:"answers"`
}

// StepDone is a step of cleaning and how many answers it touched.
type StepDone struct {
	text.Step
	StepTouched
}

// StepTouched is how many answers a step touched.
type StepTouched struct {
	Answers int `json:"answers"`
}

// MarshalJSON writes the step with its figure.
func (d StepDone) MarshalJSON() ([]byte, error) {
	return oneof.EncodeBy(text.StepKey, d.StepKind, d.StepTouched)
}

// UnmarshalJSON reads a step with its figure; it may have been kept by another version of this program.
func (d *StepDone) UnmarshalJSON(data []byte) (err error) {
	d.StepKind, err = oneof.DecodeKeptBy(text.StepKey, "step", text.StepKinds, data, &d.StepTouched)
	return err
}

// MethodRules is a category with the rules that put answers into it.
type MethodRules struct {
	Path    []string          `json:"path"`
	Short   string            `json:"short"`
	Note    string            `json:"note,omitempty"`
	Fields  map[string]string `json:"fields,omitempty" doc:"values of its fields, by their names"`
	Off     bool              `json:"off,omitempty"`
	Answers int               `json:"answers"`
	Rules   []string          `json:"rules"`
	Unless  []string          `json:"unless"`
	Hand    int               `json:"hand" doc:"answers that it was put on by hand"`
}

// MethodAgreed is how well rules and decisions agree with a sample that was coded by hand.
type MethodAgreed struct {
	Sample    string  `json:"sample"`
	Coder     string  `json:"coder"`
	Answers   int     `json:"answers"`
	Precision float64 `json:"precision"`
	Recall    float64 `json:"recall"`
	Kappa     float64 `json:"kappa"`
}

func methodOf(s *state.State) Method {
	ix, l := s.Reading.Index, s.Scheme.Lexicon
	m := Method{
		Respondents: s.Study.Respondents(), Language: s.Scheme.Language, NoAnswers: len(s.Scheme.NoAnswers), Mask: s.Scheme.Mask,
		Inflections: l.Inflections, StopWords: l.StopWords, Merges: len(l.Merges), Lists: len(l.Lists),
		Single: s.Scheme.Single, Coded: int(s.Coding.Coded.GetCardinality()), Statuses: []StatusCount{}, Cleaning: []StepDone{},
		Categories: []MethodRules{}, Derived: []string{}, Agreement: []MethodAgreed{},
	}
	m.Settled = view.CountWithout(s.Decisions.Settled, s.Coding.Coded)
	for i, name := range slices.Backward(text.StatusNames[:]) {
		m.Statuses = append(m.Statuses, StatusCount{name, int(ix.Status(text.Status(i)).GetCardinality())})
	}
	for i, step := range s.Scheme.Cleaning {
		m.Cleaning = append(m.Cleaning, StepDone{step, StepTouched{int(ix.Touched(i).GetCardinality())}})
	}
	for _, v := range s.Study.Setup.Derived {
		m.Derived = append(m.Derived, v.Name)
	}
	m.Weight = s.Study.Weight()
	for _, r := range s.Coding.Results {
		c := MethodRules{
			Path: r.Path, Short: r.Short, Note: r.Note, Fields: r.Fields, Off: r.Off, Answers: int(r.Answers.GetCardinality()), Rules: []string{},
			Unless: []string{},
		}
		for _, x := range r.Rules {
			c.Rules = append(c.Rules, x.Source)
			if !x.Readable() {
				m.UnreadRules++
			}
		}
		for _, x := range r.Unless {
			c.Unless = append(c.Unless, x.Source)
		}
		if on := s.Decisions.On[r.ID]; on != nil {
			c.Hand = int(on.GetCardinality())
		}
		m.Categories = append(m.Categories, c)
	}
	m.Decisions, m.Suggested = int(s.Decided().GetCardinality()), int(s.Suggested().GetCardinality())
	return m
}
