package chart_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/frame"
	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/chart"
)

var ctx = context.Background()

// rider is a respondent as a table is counted by going through all of them.
type rider struct {
	id, route, text string
	topics          []string
	wave            string
	weight          float64
	score           int // -1: none
}

func (r rider) says(words ...string) bool {
	return slices.ContainsFunc(words, func(w string) bool { return slices.Contains(strings.Fields(r.text), w) })
}

// tabled are the categories of the riders' frame by name: what makes an answer one of theirs, by itself.
var tabled = []struct {
	name, in string
	own      string // word
	effort   string // value of the field
}{
	{"Ways", "", "crew", "high"}, {"Queue", "Ways", "queue", "low"}, {"Boat", "Ways", "boat", "high"}, {"Rain", "", "rain", ""},
	{"Fares", "", "ticket", "low"},
}

// leveled are the categories that rows of a level may be.
var leveled = map[string][]string{
	"all": {"Ways", "Queue", "Boat", "Rain", "Fares"}, "nets": {"Ways", "Rain", "Fares"}, "categories": {"Queue", "Boat", "Rain", "Fares"},
}

// rowsOf are the categories that rows of a query may be of, with a value of the field, or with any if that is "any".
func rowsOf(q chart.Query, value string) (out []string) {
	level := q.Rows
	if q.Group != "" && level == "nets" {
		level = "all"
	}
	for _, c := range tabled {
		if slices.Contains(leveled[level], c.name) && (value == "any" || c.effort == value) && (q.Where == "" || c.effort != "high") {
			out = append(out, c.name)
		}
	}
	return out
}

func (r rider) has(category string) bool {
	for _, c := range tabled {
		if (c.name == category || c.in == category) && r.says(c.own) {
			return true
		}
	}
	return false
}

func (r rider) coded() bool { return r.mentions() > 0 }

func (r rider) mentions(categories ...string) (n int) {
	for _, c := range tabled {
		if (categories == nil || slices.Contains(categories, c.name) || slices.Contains(categories, c.in)) && r.says(c.own) {
			n++
		}
	}
	return n
}

func anyRiders(t *rapid.T, most int) ([]rider, *state.State) {
	cells := make([][]string, 7)
	var riders []rider
	for i := range rapid.IntRange(3, most).Draw(t, "riders") {
		r := rider{id: fmt.Sprint("p", rapid.IntRange(0, most).Draw(t, "id"))}
		r.text = strings.Join(
			rapid.SliceOfN(rapid.SampledFrom([]string{"crew", "queue", "boat", "rain", "ticket", "window"}), 0, 3).Draw(t, "text"), " ",
		)
		r.route = rapid.SampledFrom([]string{"North", "south", "South", ""}).Draw(t, "route")
		r.topics = rapid.SliceOfNDistinct(rapid.SampledFrom([]string{"price", "food"}), 0, 2, rapid.ID).Draw(t, "topics")
		r.wave = rapid.SampledFrom([]string{"2024", "2025", "2026"}).Draw(t, "wave")
		r.weight = rapid.SampledFrom([]float64{0.5, 1, 2}).Draw(t, "weight")
		r.score = rapid.IntRange(-1, 10).Draw(t, "score")
		score := fmt.Sprint(r.score)
		if r.score < 0 {
			score = ""
		}
		if i < 3 { // so that each value is there
			r.route, r.topics, r.wave = []string{"North", "South", "south"}[i], []string{"price", "food"}, []string{"2024", "2025", "2026"}[i]
		}
		riders = append(riders, r)
		for c, cell := range []string{r.id, r.route, strings.Join(r.topics, ";"), r.wave, fmt.Sprint(r.weight), score, r.text} {
			cells[c] = append(cells[c], cell)
		}
	}
	book := playbook.New("en")
	for _, c := range tabled {
		made := frame.Category{Name: c.name, Rules: []string{c.own}}
		if c.effort != "" {
			made.Fields = map[string]string{"Effort": c.effort}
		}
		if c.in == "" {
			book.Frame = append(book.Frame, made)
		} else {
			net := &book.Frame[0]
			net.Children = append(net.Children, made)
		}
	}
	book.Frame.Complete(nil, 0)
	book.Fields = frame.Fields{{FieldName: frame.FieldName{Name: "Effort"}, FieldType: frame.ListField{Choices: []string{"low", "high"}}}}
	s, err := state.Unstored(ctx, []survey.Spec{
		{Name: "id", Role: survey.Identifier}, {Name: "route", Role: survey.Segment}, {Name: "topics", Role: survey.Several, Delimiter: ";"},
		{Name: "wave", Role: survey.Wave}, {Name: "weight", Role: survey.Weight}, {Name: "score", Role: survey.Number},
		{Name: "answer", Role: survey.OpenEnded},
	}, cells, 6, book)
	require.NoError(t, err)
	return riders, s
}

// value says whether a rider has a value of a variable; of none, whether they have any.
func (r rider) value(variable, value string) bool {
	of := map[string][]string{"route": {r.route}, "topics": r.topics, "wave": {r.wave}}[variable]
	if value == "" {
		return len(of) > 0 && of[0] != ""
	}
	return slices.Contains(of, value)
}

// A table is counted by going through the riders, and each of its cells opens the answers that it counts.
func TestTableAgainstCounting(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		riders, s := anyRiders(t, 40)
		nests := rapid.SliceOfN(rapid.SampledFrom([][]string{
			{"route"}, {"topics"}, {"wave"}, {"route", "topics"}, {"topics", "route"}, {"wave", "route", "topics"},
		}), 0, 3).Draw(t, "nests")
		by, err := json.Marshal(append([][]string{}, nests...))
		require.NoError(t, err)
		q := chart.Query{
			By: string(by), Weighted: rapid.Bool().Draw(t, "weighted"), Least: rapid.IntRange(0, 12).Draw(t, "least"),
			Base:  rapid.SampledFrom([]string{"", chart.BaseRespondents, chart.BaseCoded, chart.BaseMentions}).Draw(t, "base"),
			Rows:  rapid.SampledFrom([]string{"all", "nets", "categories"}).Draw(t, "rows"),
			Sort:  rapid.SampledFrom([]string{"frame", "size", "name", "field:Effort"}).Draw(t, "sort"),
			Group: rapid.SampledFrom([]string{"", "", "Effort"}).Draw(t, "group"),
			Where: rapid.SampledFrom([]string{"", "", `{"Effort": ["low", ""]}`}).Draw(t, "where"),
		}
		var f focus.Focus
		in := riders
		narrow := func(is func(r rider) bool) {
			in = slices.DeleteFunc(slices.Clone(in), func(r rider) bool { return !is(r) })
		}
		if rapid.Bool().Draw(t, "focus") {
			f = focus.Focus{focus.Is(focus.Variable{Name: "wave", Op: "!=", Values: []string{"2024"}})}
			narrow(func(r rider) bool { return r.wave != "2024" })
		}
		switch q.Base {
		case "":
			narrow(func(r rider) bool { return r.text != "" })
		case chart.BaseCoded, chart.BaseMentions:
			narrow(rider.coded)
		}
		for n, nest := range nests {
			missing := 0
			for _, r := range in {
				if slices.ContainsFunc(nest, func(v string) bool { return !r.value(v, "") }) {
					missing++
				}
			}
			got, err := chart.ChartOf(ctx, s, f, q)
			require.NoError(t, err)
			require.Equal(t, missing, got.Nests[n].Missing, nest)
		}
		if len(nests) == 1 {
			narrow(func(r rider) bool {
				return !slices.ContainsFunc(nests[0], func(v string) bool { return !r.value(v, "") })
			})
		}
		got, err := chart.ChartOf(ctx, s, f, q)
		require.NoError(t, err)

		weight := func(r rider) float64 {
			if q.Weighted {
				return r.weight
			}
			return 1
		}
		hidden := []string{}
		for _, row := range got.Rows {
			if row.Kind == chart.RowHidden {
				hidden = append(hidden, row.Path[strings.LastIndex(row.Path, "/")+1:])
			}
		}
		for i := range hidden {
			hidden[i] = strings.TrimSpace(hidden[i])
		}
		for i, column := range got.Columns {
			of := in
			if column.Nest >= 0 {
				require.Equal(t, nests[column.Nest], got.Nests[column.Nest].Variables)
				for k, v := range nests[column.Nest] {
					of = slices.DeleteFunc(slices.Clone(of), func(r rider) bool { return !r.value(v, column.Values[k]) })
				}
			}
			base, categories := 0.0, 0.0
			for _, r := range of {
				categories += weight(r) * float64(r.mentions())
				base += weight(r)
			}
			if len(of) > 0 {
				require.InDelta(t, categories/base, got.Mean[i].Value, 1e-9)
			}
			if q.Base == chart.BaseMentions {
				base = categories
			}
			require.InDelta(t, base, got.Bases[i].Weighted, 1e-9)
			for r, row := range got.Rows {
				name := row.Path[strings.LastIndex(row.Path, "/")+1:]
				name = strings.TrimSpace(name)
				is := func(p rider) bool {
					switch row.Kind {
					case chart.RowAny:
						return p.coded()
					case chart.RowUncoded:
						return !p.coded()
					case chart.RowOthers:
						return slices.ContainsFunc(hidden, p.has)
					case chart.RowValue:
						return slices.ContainsFunc(rowsOf(q, row.ID[1:]), p.has)
					}
					return p.has(name)
				}
				n, sum := 0, 0.0
				for _, p := range of {
					times := 0
					if is(p) {
						times = 1
					}
					if q.Base == chart.BaseMentions {
						switch row.Kind {
						case chart.RowAny:
							times = p.mentions()
						case chart.RowOthers:
							times = p.mentions(hidden...)
						case chart.RowValue:
							times = p.mentions(rowsOf(q, row.ID[1:])...)
						default:
							times = p.mentions(name)
						}
					}
					n, sum = n+times, sum+float64(times)*weight(p)
				}
				cell := got.Cells[r][i]
				require.Equal(t, n, cell.Answers, "%s in %v", row.Path, column.Values)
				require.InDelta(t, sum, cell.Weighted, 1e-9)
				if base > 0 {
					require.InDelta(t, sum/base, cell.Share, 1e-9)
				}
				// Pressing it shows them.
				open := slices.Concat(f, got.Conditions, column.Conditions, row.Conditions)
				answers, err := open.Answers(ctx, s)
				require.NoError(t, err)
				behind := 0
				for _, p := range of {
					if is(p) {
						behind++
					}
				}
				require.EqualValues(t, behind, answers.GetCardinality(), "%s in %v: %v", row.Path, column.Values, open)
			}
		}
		checkRows(t, got, q)
		parts := true // no answer, and no mention, is counted in two of the rows
		for _, c := range tabled {
			for _, p := range in {
				n := 0
				for _, row := range got.Rows {
					of := categoriesOf(q, row)
					covers := slices.Contains(of, c.name) || slices.Contains(of, c.in)
					if q.Base != chart.BaseMentions {
						covers = slices.ContainsFunc(of, p.has)
					}
					if covers {
						n++
					}
				}
				parts = parts && n < 2
			}
		}
		if len(in) > 0 {
			require.Equal(t, parts, got.Parts)
		}
	})
}

// categoriesOf are the categories that a row is of; none of rows that sum up.
func categoriesOf(q chart.Query, row chart.Row) []string {
	switch row.Kind {
	case chart.RowCategory, chart.RowHidden:
		return []string{strings.TrimSpace(row.Path[strings.LastIndex(row.Path, "/")+1:])}
	case chart.RowValue:
		return rowsOf(q, row.ID[1:])
	}
	return nil
}

// checkRows holds the rows of a table against what was asked for.
func checkRows(t require.TestingT, got chart.Chart, q chart.Query) {
	want := rowsOf(q, "any")
	if q.Group != "" && q.Rows == "nets" {
		want = nil
	}
	var names, values []string
	over := "" // the value that the row stands below
	for i, row := range got.Rows {
		if row.ID == "" {
			continue
		}
		if row.Kind == chart.RowValue {
			over = row.ID[1:]
			values = append(values, over)
			require.Zero(t, row.Depth)
			continue
		}
		if q.Group != "" && row.Kind == chart.RowCategory {
			name := row.Path[strings.LastIndex(row.Path, "/ ")+1:]
			require.Contains(t, rowsOf(q, over), strings.TrimSpace(name), "below its value")
			require.Positive(t, row.Depth)
		}
		names = append(names, row.Path[strings.LastIndex(row.Path, "/ ")+1:])
		small := q.Base != chart.BaseMentions && got.Cells[i][0].Answers < q.Least
		if q.Base != chart.BaseMentions {
			require.Equal(t, small, row.Kind == chart.RowHidden, row.Path)
		}
		if i > 0 && got.Rows[i-1].Kind == row.Kind && got.Rows[i-1].Depth == row.Depth {
			switch q.Sort {
			case "size":
				require.GreaterOrEqual(t, got.Cells[i-1][0].Share, got.Cells[i][0].Share)
			case "name":
				require.LessOrEqual(t, got.Rows[i-1].Name, row.Name)
			case "field:Effort":
				effort := func(i int) int {
					at := slices.IndexFunc(tabled, func(c struct{ name, in, own, effort string }) bool {
						return strings.HasSuffix(got.Rows[i].Path, c.name)
					})
					return slices.Index([]string{"low", "high", ""}, tabled[at].effort)
				}
				require.LessOrEqual(t, effort(i-1), effort(i))
			}
		}
	}
	for i := range names {
		names[i] = strings.TrimSpace(names[i])
	}
	require.ElementsMatch(t, want, names)
	if q.Group == "" {
		require.Empty(t, values)
		return
	}
	var some []string // values that any category has, in the order of the field if no other is asked for
	for _, value := range []string{"low", "high", ""} {
		if len(rowsOf(q, value)) > 0 {
			some = append(some, value)
		}
	}
	if q.Sort == "frame" || q.Sort == "field:Effort" {
		require.Equal(t, some, values)
	}
	require.ElementsMatch(t, some, values)
}

func TestTableSaysWhatItTests(t *testing.T) {
	var cells [3][]string
	for i := range 400 {
		route, text := "North", "fine"
		if i%2 == 1 {
			route = "South"
		}
		if i%8 == 0 || route == "South" && i%4 == 1 { // a quarter of the North, half of the South
			text = "queue"
		}
		for c, cell := range []string{fmt.Sprint("p", i%200), route, text} {
			cells[c] = append(cells[c], cell)
		}
	}
	book := playbook.New("en")
	book.Frame = frame.Frame{{Name: "Queues", Rules: []string{"queue"}}}
	book.Frame.Complete(nil, 0)
	of := func(role survey.Role, order ...string) chart.Chart {
		s, err := state.Unstored(ctx, []survey.Spec{
			{Name: "id", Role: survey.Identifier}, {Name: "route", Role: role, Order: order}, {Name: "answer", Role: survey.OpenEnded},
		}, cells[:], 2, book)
		require.NoError(t, err)
		c, err := chart.ChartOf(ctx, s, nil, chart.Query{By: "route"})
		require.NoError(t, err)
		return c
	}
	c := of(survey.Segment)
	assert.Equal(t, []int{50, 100}, []int{c.Cells[0][1].Answers, c.Cells[0][2].Answers})
	assert.Equal(t, "A", c.Letters(c.Cells[0][2]), "the South is over the North")
	assert.Zero(t, c.Cells[0][2].Over[0].Paired)
	assert.Equal(t, "chi-square", c.Tests[0][0].Kind)
	assert.Contains(t, strings.Join(c.Notes, "\n"), "corrected after Benjamini and Hochberg")

	c = of(survey.Wave)
	assert.Equal(t, 0, c.Nests[0].Paired, "respondents 1 and 201 go by one name, and both said so in the same wave")
	for i := range cells[0] {
		cells[0][i] = fmt.Sprint("p", i/2) // each has said something in both
	}
	c = of(survey.Wave)
	assert.Equal(t, 200, c.Nests[0].Paired)
	assert.Equal(t, 200, c.Cells[0][2].Over[0].Paired)
	assert.Contains(t, strings.Join(c.Notes, "\n"), "McNemar")
	assert.True(t, of(survey.Segment, "South", "North").Nests[0].Ordered)
	assert.False(t, of(survey.Segment).Nests[0].Ordered)
}

// Means are counted by going through the riders.
func TestMeansAgainstCounting(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		riders, s := anyRiders(t, 90)
		q := chart.MeansQuery{Of: "score", Bands: rapid.SampledFrom([]string{"", "[5]", "[3,4.5,9]"}).Draw(t, "bands")}
		q.Weighted = rapid.Bool().Draw(t, "weighted")
		q.Sort = rapid.SampledFrom([]string{"frame", "mean", "apart", "size", "name"}).Draw(t, "sort")
		got, err := chart.MeansOf(ctx, s, nil, q)
		require.NoError(t, err)
		in := slices.DeleteFunc(slices.Clone(riders), func(r rider) bool { return r.text == "" })
		n := len(in)
		in = slices.DeleteFunc(in, func(r rider) bool { return r.score < 0 })
		require.Equal(t, n-len(in), got.Missing)
		check := func(side chart.MeanSide, is func(r rider) bool) {
			sum, total, high, low := 0.0, 0.0, 0.0, 0.0
			bands := make([]float64, len(got.Bands))
			count := 0
			for _, r := range in {
				if !is(r) {
					continue
				}
				w := 1.0
				if q.Weighted {
					w = r.weight
				}
				count++
				sum, total = sum+w, total+w*float64(r.score)
				if r.score > 8 {
					high += w
				}
				if r.score < 7 {
					low += w
				}
				band := 0
				for _, edge := range got.Edges {
					if float64(r.score) >= edge {
						band++
					}
				}
				if len(bands) > 0 {
					bands[band] += w
				}
			}
			require.Equal(t, count, side.Answers)
			if count == 0 {
				return
			}
			require.InDelta(t, total/sum, side.Mean, 1e-9)
			for i := range bands {
				require.InDelta(t, bands[i]/sum, side.Bands[i], 1e-9, got.Bands)
			}
			if got.Scale {
				require.InDelta(t, (high-low)/sum, side.Net.Score, 1e-9)
			}
		}
		check(got.All, func(rider) bool { return true })
		for _, row := range got.Rows {
			is := func(r rider) bool { return r.has(row.Path[strings.LastIndex(row.Path, " ")+1:]) }
			switch row.Kind {
			case chart.RowAny:
				is = rider.coded
			case chart.RowUncoded:
				is = func(r rider) bool { return !r.coded() }
			}
			check(row.With, is)
			check(row.Without, func(r rider) bool { return !is(r) })
			answers, err := slices.Concat(got.Narrow, row.Conditions).Answers(ctx, s)
			require.NoError(t, err)
			require.EqualValues(t, row.With.Answers, answers.GetCardinality())
		}
	})
}

func TestBandsHaveNames(t *testing.T) {
	_, s := anyRidersOf(t, []string{"0", "4", "7", "10"})
	for bands, want := range map[string][]string{
		"": {"0–6", "7–8", "9–10"}, "[5]": {"0–4", "5–10"}, "[1,2]": {"0", "1", "2–10"}, "[4.5]": {"under 4.5", "4.5 and over"},
		"[20]": {"0–19", "20 and over"}, "[-1]": {"under -1", "-1–10"},
	} {
		m, err := chart.MeansOf(ctx, s, nil, chart.MeansQuery{Bands: bands})
		require.NoError(t, err)
		assert.Equal(t, want, m.Bands, bands)
	}
	// What is a scale is told by all numbers, not by those in a focus; one from 1 to 7 has no net score.
	high := focus.Focus{focus.Is(focus.Variable{Name: "score", Op: ">", Values: []string{"5"}})}
	m, err := chart.MeansOf(ctx, s, high, chart.MeansQuery{})
	require.NoError(t, err)
	assert.True(t, m.Scale)
	assert.Equal(t, []string{"0–6", "7–8", "9–10"}, m.Bands)
	_, seven := anyRidersOf(t, []string{"1", "4", "7"})
	m, err = chart.MeansOf(ctx, seven, nil, chart.MeansQuery{})
	require.NoError(t, err)
	assert.False(t, m.Scale)
	assert.Empty(t, m.Bands)
	for _, bad := range []string{"x", "[3,2]", "[1,1]"} {
		_, err := chart.MeansOf(ctx, s, nil, chart.MeansQuery{Bands: bad})
		require.ErrorIs(t, err, state.ErrRequest)
	}
}

// anyRidersOf are answers with these scores.
func anyRidersOf(t *testing.T, scores []string) ([]string, *state.State) {
	texts := make([]string, len(scores))
	for i := range texts {
		texts[i] = "boat"
	}
	s, err := state.Unstored(
		ctx, []survey.Spec{{Name: "score", Role: survey.Number}, {Name: "answer", Role: survey.OpenEnded}}, [][]string{scores, texts}, 1,
		playbook.New("en"),
	)
	require.NoError(t, err)
	return scores, s
}

// What is said of a segment that only stands for another is told once.
func TestFindingsAreToldOnce(t *testing.T) {
	cells := make([][]string, 5)
	random := rand.New(rand.NewPCG(3, 5))
	often := func(share float64) bool { return random.Float64() < share }
	pick := func(yes bool, a, b string) string {
		if yes {
			return a
		}
		return b
	}
	for range 4000 {
		commuter := often(0.4)
		weekly := often(0.1) || commuter && often(0.8) // few others have one
		north := often(0.5)
		var words []string
		if often(0.1) || commuter && often(0.25) { // it is the commuters, whatever their ticket
			words = append(words, "late")
		}
		if often(0.08) || north && often(0.1) {
			words = append(words, "cold")
		}
		for c, cell := range []string{
			pick(commuter, "Commuter", "Visitor"), pick(weekly, "Weekly", "Day"), pick(north, "North", "South"),
			pick(often(0.5), "heads", "tails"), "well " + strings.Join(words, " "),
		} {
			cells[c] = append(cells[c], cell)
		}
	}
	book := playbook.New("en")
	book.Frame = frame.Frame{
		{Name: "Time", Children: []frame.Category{{Name: "Late", Rules: []string{"late"}}}}, {Name: "Cold", Rules: []string{"cold"}},
	}
	book.Frame.Complete(nil, 0)
	var specs []survey.Spec
	for _, name := range []string{"type", "ticket", "route", "coin"} {
		specs = append(specs, survey.Spec{Name: name, Role: survey.Segment})
	}
	s, err := state.Unstored(ctx, append(specs, survey.Spec{Name: "answer", Role: survey.OpenEnded}), cells, 4, book)
	require.NoError(t, err)
	got, err := chart.FindingsOf(ctx, s, nil, chart.Query{})
	require.NoError(t, err)
	var told []string
	for _, f := range got.Findings {
		line := f.Path + " " + f.Value + ":"
		for _, a := range f.Also {
			line += " " + a.Path + " " + a.Value + " " + a.Why
		}
		told = append(told, line)
		open, err := f.Conditions.Answers(ctx, s)
		require.NoError(t, err)
		assert.EqualValues(t, f.Answers, open.GetCardinality())
		assert.Less(t, f.Low, f.Difference)
	}
	assert.Equal(t, []string{
		"Time Commuter: Time / Late Commuter category Time Weekly explained Time / Late Weekly explained", "Cold North:",
	}, told)
	assert.Equal(t, 12, got.Tested, "three categories by four segments of two values each: one test for each")
	assert.Contains(t, got.Findings[1].Said, "where route is North, against")
}
