package termview

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// TimeQuery says over what time is looked at.
type TimeQuery struct {
	By   string `query:"by" doc:"a date or a wave; the first there is if left out"`
	Unit string `query:"unit" enum:"week,month,quarter,year" default:"month" doc:"of a date"`
}

// TimeAxis is what figures over time are drawn on.
type TimeAxis struct {
	By      string             `json:"by" doc:"empty if the study has neither dates nor waves"`
	Dated   bool               `json:"dated" doc:"it is a date, in periods of the unit"`
	Unit    string             `json:"unit"`
	Choices []view.SegmentName `json:"choices" doc:"dates and waves of the study"`
	Periods []Period           `json:"periods"`
	Missing int                `json:"missing" doc:"answers of the focus without a date or wave: they are left out"`
	Small   int                `json:"small" doc:"unweighted base under which a period is marked"`
	Tiny    int                `json:"tiny" doc:"unweighted base under which no share is shown"`

	sets []*roaring.Bitmap
}

// Period is a stretch of time with what a focus narrows by to speak of it.
type Period struct {
	Name string            `json:"name"`
	Base int               `json:"base" doc:"answers of the focus"`
	Only []focus.Condition `json:"only" doc:"conditions of a focus that speaks of this period only"`
}

type periodsKey struct{ variable, unit string }

func (periodsKey) Most() int { return 40 }

// periods gives a date in periods of a unit.
func periods(ctx context.Context, s *state.Study, v *survey.Variable, unit string) (*survey.Variable, error) {
	return state.Remember(ctx, s.Memo, periodsKey{v.Name, unit}, func(context.Context) (*survey.Variable, error) {
		made, err := survey.Derive(
			survey.Derived{Name: v.Name, Kind: "periods", Period: unit, Of: []string{v.Name}}, []*survey.Variable{v},
		)
		if err != nil {
			return nil, fmt.Errorf("%w: %w", state.ErrRequest, err)
		}
		return made, nil
	})
}

// axis lays out the time of a focus.
func axis(ctx context.Context, s *state.State, set *roaring.Bitmap, want TimeQuery) (TimeAxis, error) {
	out := TimeAxis{
		By:      want.By,
		Unit:    cmp.Or(want.Unit, "month"),
		Choices: []view.SegmentName{},
		Periods: []Period{},
		Small:   crosstab.SmallBase,
		Tiny:    crosstab.TinyBase,
	}
	for _, role := range []survey.Role{survey.Date, survey.Wave} {
		for _, v := range s.Study.Variables {
			if v.Role == role {
				out.Choices = append(out.Choices, view.NameOf(v))
			}
		}
	}
	if out.By == "" {
		if len(out.Choices) == 0 {
			return out, nil
		}
		out.By = out.Choices[0].Name
	}
	v, err := s.Study.Variable(out.By)
	if err != nil {
		return out, err
	}
	values := v
	if out.Dated = v.Role == survey.Date; out.Dated {
		if values, err = periods(ctx, s.Study, v, out.Unit); err != nil {
			return out, err
		}
	}
	out.Missing = view.CountWithout(set, values.Filled())
	for _, name := range s.Study.InTime(values) {
		here := values.With(name)
		p := Period{
			Name: name,
			Base: int(set.AndCardinality(here)),
			Only: []focus.Condition{focus.Is(focus.Variable{Name: v.Name, Op: "=", Values: []string{name}})},
		}
		if out.Dated {
			first, last := days(v, here)
			p.Only = []focus.Condition{
				focus.Is(focus.Variable{Name: v.Name, Op: ">=", Values: []string{first}}),
				focus.Is(focus.Variable{Name: v.Name, Op: "<=", Values: []string{last}}),
			}
		}
		out.Periods, out.sets = append(out.Periods, p), append(out.sets, here)
	}
	return out, nil
}

// days are the first and the last date of a set of respondents.
func days(v *survey.Variable, set *roaring.Bitmap) (first, last string) {
	low, high := math.Inf(1), math.Inf(-1)
	for it := set.Iterator(); it.HasNext(); {
		d := v.Numbers[it.Next()]
		low, high = min(low, d), max(high, d)
	}
	iso := func(d float64) string {
		return time.Unix(0, 0).UTC().AddDate(0, 0, int(math.Floor(d))).Format(time.DateOnly)
	}
	return iso(low), iso(high)
}

// Timeline is the shares of subjects over time.
type Timeline struct {
	TimeAxis
	Lines []TimeLine `json:"lines"`
}

// TimeLine is a subject over time.
type TimeLine struct {
	Name   string      `json:"name"`
	Points []TimePoint `json:"points"`
}

// TimePoint is a subject in one period.
type TimePoint struct {
	Answers int     `json:"answers"`
	Share   float64 `json:"share" doc:"of the answers of the focus in the period, 0 to 1"`
	Low     float64 `json:"low" doc:"lower end of the 95 % interval (Wilson)"`
	High    float64 `json:"high" doc:"upper end"`
}

// TimelineOf follows subjects over time.
func TimelineOf(ctx context.Context, s *state.State, f focus.Focus, subjects []Subject, want TimeQuery) (Timeline, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Timeline{}, err
	}
	over, err := axis(ctx, s, set, want)
	if err != nil {
		return Timeline{}, err
	}
	out := Timeline{TimeAxis: over, Lines: []TimeLine{}}
	for _, x := range subjects {
		with, err := f.With(x.Condition()).Answers(ctx, s)
		if err != nil {
			return Timeline{}, err
		}
		line := TimeLine{Name: x.Text, Points: []TimePoint{}}
		for i, p := range over.Periods {
			k := int(with.AndCardinality(over.sets[i]))
			low, high := crosstab.Wilson(view.Share(k, p.Base), float64(p.Base))
			line.Points = append(line.Points, TimePoint{k, view.Share(k, p.Base), low, high})
		}
		out.Lines = append(out.Lines, line)
	}
	return out, nil
}

// Rising is the terms that are said more in one period than in all before it.
type Rising struct {
	TimeAxis
	Now    string       `json:"now" doc:"the period that is compared with all before it"`
	Base   int          `json:"base" doc:"answers of the focus in it"`
	Before int          `json:"before" doc:"and before it"`
	Tested int          `json:"tested" doc:"terms with enough answers in it, or expected in it"`
	Terms  []TermRising `json:"terms" doc:"that rose, the least likely by chance first"`
	Fell   []TermRising `json:"fell" doc:"that fell, the least likely by chance first"`
	Each   []Moved      `json:"each" doc:"what moved in each period against all before it, in the order of the periods"`
}

// Moved is how many terms rose and fell in a period.
type Moved struct {
	Name string `json:"name" doc:"of the period"`
	Rose int    `json:"rose"`
	Fell int    `json:"fell"`
}

// TermRising is a term that is said more than before.
type TermRising struct {
	Label  string  `json:"label"`
	Now    int     `json:"now" doc:"answers in the period"`
	Before int     `json:"before" doc:"answers before it"`
	Share  float64 `json:"share" doc:"in the period, 0 to 1"`
	Past   float64 `json:"past" doc:"share before it"`
	P      float64 `json:"p" doc:"one-sided Fisher's exact test against the term's own past, adjusted for the number of tests, up and down (Benjamini-Hochberg)"`
	Strip  []int   `json:"strip" doc:"answers with it in each period"`

	fell bool
}

// leastRising is how many answers of the period a term must have to be tested for a rise; for a fall, so many must be expected.
const leastRising = 5

// RisingOf finds the terms whose share in a period (the last one if empty) is higher, or lower, than before it, and says of
// every period how many these are.
func RisingOf(ctx context.Context, s *state.State, f focus.Focus, want TimeQuery, now string, limit int) (Rising, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Rising{}, err
	}
	over, err := axis(ctx, s, set, want)
	if err != nil {
		return Rising{}, err
	}
	out := Rising{TimeAxis: over, Terms: []TermRising{}, Fell: []TermRising{}, Each: []Moved{}}
	at := len(over.Periods) - 1
	for at > 0 && over.Periods[at].Base == 0 { // the last one that the focus has answers of
		at--
	}
	if now != "" {
		if at = slices.IndexFunc(over.Periods, func(p Period) bool { return p.Name == now }); at < 0 {
			return out, fmt.Errorf("%w: there is no period %q", state.ErrRequest, now)
		}
	}
	moved, err := movements(ctx, s, set, over)
	if err != nil {
		return out, err
	}
	for i, m := range moved {
		out.Each = append(out.Each, Moved{over.Periods[i].Name, len(m.rose), len(m.fell)})
	}
	if at < 1 {
		return out, nil
	}
	m := moved[at]
	out.Now, out.Base, out.Before, out.Tested = over.Periods[at].Name, m.base, m.before, m.tested
	line := func(x TermRising) TermRising {
		t, _ := s.View.Find(x.Label)
		with := roaring.And(s.View.Phrases(t).Answers(s.View.Index), set)
		for _, period := range over.sets {
			x.Strip = append(x.Strip, int(with.AndCardinality(period)))
		}
		return x
	}
	for _, x := range m.rose[:min(limit, len(m.rose))] {
		out.Terms = append(out.Terms, line(x))
	}
	for _, x := range m.fell[:min(limit, len(m.fell))] {
		out.Fell = append(out.Fell, line(x))
	}
	return out, ctx.Err()
}

// movement is what rose and fell in a period, the least likely by chance first.
type movement struct {
	base, before, tested int
	rose, fell           []TermRising
}

// movements are those of each period, against all before it.
func movements(ctx context.Context, s *state.State, set *roaring.Bitmap, over TimeAxis) ([]movement, error) {
	out := make([]movement, len(over.Periods))
	past, befores := roaring.New(), make([]int32, len(s.View.Terms))
	for i := range over.Periods {
		current := roaring.And(set, over.sets[i])
		nows, err := s.Counter.AnswersPer(ctx, current, state.Workers())
		if err != nil {
			return nil, err
		}
		if again := past.Intersects(current); again { // a respondent in two periods counts in the later one only
			if befores, err = s.Counter.AnswersPer(ctx, roaring.AndNot(past, current), state.Workers()); err != nil {
				return nil, err
			}
			past.AndNot(current)
		}
		out[i] = moving(s, nows, int(current.GetCardinality()), befores, int(past.GetCardinality()))
		past.Or(current)
		for t, n := range nows {
			befores[t] += n
		}
	}
	return out, nil
}

// moving tests each term of a period against its own past, up and down.
func moving(s *state.State, nows []int32, base int, befores []int32, before int) movement {
	out := movement{base: base, before: before}
	if base == 0 || before == 0 {
		return out
	}
	var p []float64
	var found []TermRising
	tested := 0
	for t := range nows {
		k, b := int(nows[t]), int(befores[t])
		expected := float64(b) / float64(before) * float64(base)
		if s.View.Terms[t].Stop || k < leastRising && expected < leastRising {
			continue
		}
		tested++
		x := TermRising{
			Label: s.View.Terms[t].Label, Now: k, Before: b, Share: view.Share(k, base), Past: view.Share(b, before),
		}
		if k >= leastRising {
			found, p = append(found, x), append(p, crosstab.MoreThanBefore(k, base, b, before))
		}
		if expected >= leastRising {
			x.fell = true
			found, p = append(found, x), append(p, crosstab.MoreThanBefore(b, before, k, base))
		}
	}
	out.tested = tested
	for i, adjusted := range crosstab.FalseDiscovery(p) {
		x := found[i]
		x.P = adjusted
		switch {
		case adjusted > 0.05 || x.fell != (x.Share < x.Past):
		case x.fell:
			out.fell = append(out.fell, x)
		default:
			out.rose = append(out.rose, x)
		}
	}
	for _, list := range [][]TermRising{out.rose, out.fell} {
		slices.SortFunc(list, func(a, b TermRising) int {
			return cmp.Or(cmp.Compare(a.P, b.P), b.Now-a.Now, b.Before-a.Before, strings.Compare(a.Label, b.Label))
		})
	}
	return out
}
