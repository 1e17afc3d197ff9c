package desk_test

import (
	"aftermath/core/playbook"
	"aftermath/internal/demo"
	. "aftermath/internal/desk"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/frame"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
	"aftermath/internal/view/code"
)

// A rule is changed by its text: what another window did in between is not undone, and what is no longer there is said.
func TestRulesGoByTheirText(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, category("Waiting", "queue", "late"))
	w := id(t, q, "Waiting")
	edit(t, q, scheme.WriteRule{Category: w, Rule: "tailback"})
	edit(t, q, scheme.WriteRule{Category: w, Was: "queue", Rule: ""}) // one window removes the first
	edit(t, q, scheme.WriteRule{Category: w, Was: "late", Rule: "late + boat"})
	edit(t, q, scheme.WriteRule{Category: w, Rule: "pier", Unless: true})
	edit(t, q, scheme.RestRule{Category: w, Rule: "tailback", On: true})
	c := rulesOf(t, q, "Waiting")
	assert.Equal(t, []string{"late + boat"}, c.Rules)
	assert.Equal(t, []string{"tailback"}, c.Resting)
	assert.Equal(t, []string{"pier"}, c.Unless)
	assert.Equal(t, []uint32{1}, coded(q)["Waiting"], "what rests catches nothing")
	edit(t, q, scheme.RestRule{Category: w, Rule: "tailback"})
	assert.Equal(t, []string{"late + boat", "tailback"}, rulesOf(t, q, "Waiting").Rules)
	for want, e := range map[string]scheme.Edit{
		"no longer in Waiting":                  scheme.WriteRule{Category: w, Was: "queue", Rule: "queues"},
		"has the rule":                          scheme.WriteRule{Category: w, Rule: "tailback"},
		"the rule is empty":                     scheme.WriteRule{Category: w, Rule: " "},
		"is no longer there":                    scheme.RestRule{Category: w, Rule: "queue", On: true},
		"the category is gone":                  scheme.WriteRule{Category: "c99", Rule: "x"},
		"say which rules go":                    scheme.SplitCategory{Category: w, Name: "New"},
		"named twice":                           scheme.MergeCategories{Category: w, Into: w},
		"two categories are called \"waiting\"": scheme.SplitCategory{Category: w, Name: "waiting", Rules: []string{"tailback"}},
	} {
		_, err := q.Edit(q.State().Revision, e)
		require.ErrorIs(t, err, scheme.ErrEdit, want)
		assert.ErrorContains(t, err, want)
	}
}

// The figures under a rule that is being written are those after it was kept, in every slot and focus.
func TestPreviewOfARuleIsWhatComes(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, category("Waiting", "queue / tailback", "late"))
	edit(t, q, category("Tea", "tea"))
	edit(t, q, scheme.WriteRule{Category: id(t, q, "Waiting"), Rule: "pier", Unless: true})
	edit(t, q, scheme.AddCategory{Name: "Else", Alone: true, Rules: []string{"late / cold / pier"}})
	edit(t, q, category("Both", "{Tea} / {Waiting} + boat"))
	edit(t, q, scheme.Decide{Category: id(t, q, "Waiting"), Answers: []survey.Respondent{3}, To: scheme.On})
	edit(t, q, scheme.Decide{Category: id(t, q, "Tea"), Answers: []survey.Respondent{6}, To: scheme.Off})
	slots := []code.RuleQuery{
		{Category: id(t, q, "Waiting")},
		{Category: id(t, q, "Waiting"), Was: "late"},
		{Category: id(t, q, "Waiting"), Unless: true},
		{
			Category: id(t, q, "Waiting"),
			Unless:   true,
			Was:      "pier",
		},
		{Category: id(t, q, "Tea"), Was: "tea"},
		{Category: id(t, q, "Else"), Was: "late / cold / pier"},
	}
	focuses := []focus.Focus{
		nil, {focus.Is(focus.Variable{Name: "route", Op: "=", Values: []string{"North"}})}, {focus.Not(focus.Coded{})},
	}
	compared := 0
	rapid.Check(t, func(rt *rapid.T) {
		want := rapid.SampledFrom(slots).Draw(rt, "slot")
		focus := rapid.SampledFrom(focuses).Draw(rt, "focus")
		want.Rule = rapid.SampledFrom(
			[]string{"boat", "cold / late", "queue - late", "late +1s boat", "*", "[route = South]", "{Tea} + cold", "pier / tea"},
		).Draw(rt, "rule")
		want.Limit = 5
		before := q.State()
		set, err := q.Focus(focus)
		require.NoError(rt, err)
		p, err := code.PreviewRule(ctx, before, focus, want)
		require.NoError(rt, err)
		_, err = q.Edit(before.Revision, scheme.WriteRule{Category: want.Category, Was: want.Was, Rule: want.Rule, Unless: want.Unless})
		if err != nil { // the same rule twice
			require.ErrorIs(rt, err, state.ErrRequest)
			return
		}
		compared++
		gained := map[string]int{}
		lost := map[string]int{}
		for _, r := range q.State().Coding.Results {
			was, _ := before.Coding.Of(r.ID)
			gained[r.ID] = int(roaring.AndNot(r.Answers, was.Answers).AndCardinality(set))
			lost[r.ID] = int(roaring.AndNot(was.Answers, r.Answers).AndCardinality(set))
		}
		require.Equal(rt, []int{gained[want.Category], lost[want.Category]}, []int{p.New, p.Lost}, "%+v", want)
		said := map[string][2]int{}
		for _, o := range p.Others {
			said[o.ID] = [2]int{o.Gained, o.Lost}
		}
		for _, r := range q.State().Coding.Results {
			if r.ID != want.Category {
				require.Equal(rt, [2]int{gained[r.ID], lost[r.ID]}, said[r.ID], "%s: %+v", r.PathName(), want)
			}
		}
		undo(t, q, 1)
	})
	require.Greater(t, compared, 30)
}

func TestMissesAndWhy(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, category("Waiting", "queue + late - boat"))
	edit(t, q, scheme.Decide{Category: id(t, q, "Waiting"), Answers: []survey.Respondent{6}, To: scheme.On})
	s, w := q.State(), id(t, q, "Waiting")
	m, err := code.MissesOf(ctx, s, nil, code.RuleQuery{Rule: "queue + late - boat", Category: w, Limit: 5}, "")
	require.NoError(t, err)
	var ways []string
	for _, x := range m.Ways {
		ways = append(ways, fmt.Sprint(x.Lacks, ": ", x.Answers, " by ", x.Rule))
	}
	assert.Equal(
		t, []string{"taken away by boat: 1 by queue + late", "no late: 1 by queue - boat"}, ways, "answer 6 has the category by hand",
	)
	assert.Equal(t, 2, m.Total)
	why := func(answer survey.Respondent) string {
		x, err := code.WhyOf(s, answer, w)
		require.NoError(t, err)
		out := x.Reason
		for _, p := range x.Rules[0].Parts {
			out += fmt.Sprintf("; %s %v %v", p.Text, p.Found, p.Words)
		}
		return out
	}
	assert.Equal(
		t,
		"none of its rules matches; queue + late - boat false []; queue + late true [queues, late]; queue true [queues]; late true [late]; boat true [boat]",
		why(1),
	)
	assert.Equal(
		t,
		"none of its rules matches; queue + late - boat false []; queue + late false []; queue true [queue]; late false []; boat false []",
		why(0),
	)
	assert.True(t, strings.HasPrefix(why(6), "it was put there by hand"))
	assert.True(t, strings.HasPrefix(why(4), "the answer says nothing that can be coded"))
	_, err = code.WhyOf(s, 99, w)
	assert.ErrorIs(t, err, state.ErrRequest)
}

// themes makes up answers with two themes that no category has, one of them in several words.
func themes() (rows [][]string) {
	said := []string{
		"the queue was long", "queue again", "seats were broken and the socket was dead", "no socket near the seats",
		"seats, socket, all broken", "dogs on deck", "my dog was cold", "late", "tea", "coffee", "toast", "soup", "maps", "music",
		"radio", "shop", "ramp", "gate", "map", "lamp", "rope", "anchor", "whistle", "flag",
	}
	for i := range 480 {
		rows = append(rows, []string{fmt.Sprint(i), []string{"North", "South"}[i/24%2], "5", "1", said[i%24]})
	}
	return rows
}

func TestDraftsComeFromWhatIsUncoded(t *testing.T) {
	_, q := open(t, themes()...)
	edit(t, q, category("Waiting", "queue"))
	drafts := func() map[string]code.Draft {
		d, err := code.DraftsOf(ctx, q.State(), nil, "")
		require.NoError(t, err)
		require.Equal(t, 440, d.Base)
		out := map[string]code.Draft{}
		for _, x := range d.Drafts {
			for _, term := range x.Terms {
				out[term] = x
			}
		}
		return out
	}
	d := drafts()
	require.Contains(t, d, "seats")
	assert.Equal(t, d["seats"], d["socket"], "they come together")
	assert.NotEqual(t, d["seats"].Rule, d["dogs"].Rule)
	assert.NotContains(t, d, "queue", "that is coded")
	assert.Equal(t, 60, d["seats"].Gained)
	before := q.State().Coding.Coded.GetCardinality()
	preview, err := q.Preview(category(d["seats"].Name, d["seats"].Rule))
	require.NoError(t, err)
	assert.Equal(t, int(before)+d["seats"].Gained, preview.Coded, "the coverage that was promised")
	edit(t, q, scheme.RefuseDraft{Rule: d["seats"].Rule})
	assert.NotContains(t, drafts(), "seats")
	edit(t, q, scheme.ProposeAgain{})
	assert.Contains(t, drafts(), "seats")
}

func TestHealthOfTheFrame(t *testing.T) {
	_, q := open(t, themes()...)
	edit(t, q, category("Waiting", "queue", "queue + again", "zebra"))
	edit(t, q, category("Seats", "seats"))
	edit(t, q, category("Sockets", "socket"))
	edit(t, q, category("Cold dogs", "dog + cold", "(late"))
	edit(t, q, scheme.WriteRule{Category: id(t, q, "Seats"), Rule: "queue", Unless: true})
	h, err := code.HealthOf(ctx, q.State(), nil, 30)
	require.NoError(t, err)
	var said []string
	for _, r := range h.Rules {
		said = append(said, r.Category.Name+": "+r.Rule+": "+r.Message)
	}
	slices.Sort(said)
	require.Len(t, said, 4, "%v", said)
	assert.Contains(t, said[0], "Cold dogs: (late: ")
	assert.Contains(t, said[1], "Seats: queue: takes nothing away")
	assert.Contains(t, said[2], "Waiting: queue + again: adds nothing")
	assert.Contains(t, said[3], "Waiting: zebra: matches no answer")
	require.Len(t, h.Overlaps, 1)
	assert.Equal(
		t, []any{"Seats", "Sockets", 60, 1.0},
		[]any{h.Overlaps[0].A.Name, h.Overlaps[0].B.Name, h.Overlaps[0].Both, h.Overlaps[0].Share},
	)
	assert.Equal(t, 60, h.Matrix[1][2])
	require.Len(t, h.Small, 1)
	assert.Equal(
		t, code.CategoryCount{ID: id(t, q, "Cold dogs"), Name: "Cold dogs", Short: h.Small[0].Short, Top: 3, Answers: 20}, h.Small[0],
	)
	unused := map[string]int{}
	for _, u := range h.Unused {
		unused[u.Label] = u.Answers
	}
	assert.Equal(t, 20, unused["late"], "a rule that can't be read looks for nothing")
	assert.NotContains(t, unused, "socket")
	assert.Equal(
		t, code.SegmentCoverage{Variable: "route", Value: "North", Base: 240, Coded: 60, Share: 0.25, Rest: 0.25}, h.Segments[0],
	)

	// A merge is looked for as one, its words are not.
	edit(t, q, scheme.MergeTerms{Label: "queue", Terms: []string{"was long"}})
	edit(t, q, scheme.MergeTerms{Label: "wet feet", Terms: []string{"on deck"}})
	edit(t, q, category("Wet", "wet feet"))
	h, err = code.HealthOf(ctx, q.State(), nil, 30)
	require.NoError(t, err)
	labels := []string{}
	for _, u := range h.Unused {
		labels = append(labels, u.Label)
	}
	assert.NotContains(t, labels, "wet feet")
	assert.NotContains(t, labels, "queue")
}

// Two states are compared by the answers they code; a named one stays, whatever is undone; one can go back to each.
func TestStatesOfTheScheme(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, category("Waiting", "queue"))
	edit(t, q, scheme.Decide{Category: id(t, q, "Waiting"), Answers: []survey.Respondent{6}, To: scheme.On})
	w := id(t, q, "Waiting")
	require.NoError(t, name(q, "sent to client"))
	require.ErrorContains(t, name(q, "sent to client"), "already")
	sent := coded(q)
	undo(t, q, 1)
	edit(t, q, scheme.WriteRule{Category: w, Was: "queue", Rule: "tailback"})
	edit(t, q, category("Tea", "tea"))
	edit(t, q, scheme.Hide{Terms: []string{"late"}})
	b, err := code.BetweenOf(ctx, q.State(), nil, "=sent to client", Now)
	require.NoError(t, err)
	assert.Equal(t, []string{"decisions", "lexicon"}, b.Parts)
	assert.Equal(t, []int{3, 2}, []int{b.CodedBefore, b.Coded})
	require.Len(t, b.Categories, 2)
	assert.Equal(
		t,
		code.CategoryBetween{
			ID:      w,
			Name:    "Waiting",
			Short:   b.Categories[0].Short,
			Before:  3,
			After:   1,
			Gained:  1,
			Lost:    3,
			Added:   []string{"tailback"},
			Removed: []string{"queue"},
		},
		b.Categories[0],
	)
	assert.True(t, b.Categories[1].Fresh)
	set, err := q.Focus(focus.Focus{focus.Is(focus.Changed{Category: w, Direction: "lost", States: []string{"=sent to client", "now"}})})
	require.NoError(t, err)
	assert.Equal(t, []uint32{0, 1, 6}, set.ToArray(), "the answers behind the figure")

	// Since then, by category, in the frame itself.
	f, err := code.Frame(ctx, q.State(), nil, "=sent to client")
	require.NoError(t, err)
	assert.Equal(t, []int{1, 3}, []int{f.Categories[0].Gained, f.Categories[0].Gone})

	now := coded(q)
	preview, err := q.Preview(scheme.GoBack{State: "=sent to client"})
	require.NoError(t, err)
	made := edit(t, q, scheme.GoBack{State: "=sent to client"})
	assert.Equal(t, preview.Categories, made.Categories)
	assert.Equal(t, sent, coded(q))
	undo(t, q, 1)
	assert.Equal(t, now, coded(q))
	edit(t, q, scheme.GoBack{State: "1"})
	assert.Equal(t, []uint32{0, 1}, coded(q)["Waiting"], "before the decision")
	edit(t, q, scheme.GoBack{State: "0"})
	assert.Empty(t, coded(q))
	for _, bad := range []string{"=nothing", "x", "-1"} {
		_, _, err := q.State().Links.Earlier(ctx, q.State(), bad)
		assert.ErrorIs(t, err, state.ErrRequest, bad)
	}
}

// A frame that is brought in says which of its rules name what is not here.
func TestFrameThatDoesNotFit(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, category("Waiting", "queue"))
	edit(t, q, scheme.Decide{Category: id(t, q, "Waiting"), Answers: []survey.Respondent{6}, To: scheme.On})
	brought := frame.Frame{
		{Name: "Waiting", Rules: []string{"late"}},
		{Name: "Crew", Rules: []string{"@crew", "[ship = Tern] + late", "{Gone}", "cold"}},
	}
	e := scheme.BringFrame{Frame: brought}
	preview, err := q.Preview(e)
	require.NoError(t, err)
	require.Len(t, preview.Misfits, 3)
	assert.Equal(t, "Crew", preview.Misfits[0].Category)
	assert.Contains(t, preview.Misfits[0].Message, "crew")
	edit(t, q, e)
	assert.Equal(t, []uint32{1, 6}, coded(q)["Waiting"], "by its rule and by hand: the name is the same")
	assert.Equal(t, []uint32{3}, coded(q)["Crew"], "what fits works")
	undo(t, q, 1)
	e.After = true
	edit(t, q, e)
	assert.Equal(
		t, []string{"Waiting", "Waiting 2", "Crew"},
		[]string{q.State().Scheme.Frame[0].Name, q.State().Scheme.Frame[1].Name, q.State().Scheme.Frame[2].Name},
	)
}

// What may come next in a rule, what a part of it finds, and what might be made of it.
func TestHelpWhileWriting(t *testing.T) {
	_, q := open(t, themes()...)
	edit(t, q, scheme.PutOnList{List: "fittings", Entries: []string{"seats", "socket"}})
	edit(t, q, category("Sockets", "socket"))
	s := q.State()
	next := func(src string) (out []string) {
		c, err := code.Complete(ctx, s, src, len([]rune(src)))
		require.NoError(t, err)
		for _, o := range c.Options {
			out = append(out, o.Text+" ("+o.Detail+")")
		}
		return out
	}
	assert.Contains(t, next("dead / soc"), "socket (60 answers)")
	assert.Contains(t, next("@fit"), "@fittings (2 entries)")
	assert.Equal(t, []string{"Sockets} (60 answers)"}, next("{So"))
	assert.Equal(t, []string{"route =  (2 values)"}, next("[rou"))
	assert.Contains(t, next("[route = No")[0], "North")
	part, err := code.PartAt(ctx, s, nil, "dog + seats", 7)
	require.NoError(t, err)
	assert.Equal(t, []any{"seats", 60}, []any{part.Text, part.Answers})
	part, err = code.PartAt(ctx, s, nil, "dog + seats", 1)
	require.NoError(t, err)
	assert.Equal(t, []code.MemberLine{{Text: "dog", Times: 20}, {Text: "dogs", Times: 20}}, part.Words)
	part, err = code.PartAt(
		ctx, s, focus.Focus{focus.Is(focus.Variable{Name: "route", Op: "=", Values: []string{"North"}})}, "near the seats / queue", 5,
	)
	require.NoError(t, err)
	assert.Equal(
		t, []any{"near the seats", 10, []code.MemberLine{{Text: "near the seats", Times: 10}}},
		[]any{part.Text, part.Answers, part.Words}, "in the focus, and as it stands there",
	)

	sharp, err := code.Sharpen(ctx, s, nil, code.RuleQuery{Rule: "socket", Category: id(t, q, "Sockets")})
	require.NoError(t, err)
	require.NotEmpty(t, sharp.Partners)
	assert.Contains(t, []string{"broken", "dead", "near", "seats"}, sharp.Partners[0].Term)
	for _, p := range slices.Concat(sharp.Partners, sharp.Alternatives, sharp.Missed) {
		before, _ := s.Coding.Try(ctx, "socket")
		after, _ := s.Coding.Try(ctx, p.Rule)
		assert.Equal(
			t, []int{view.CountWithout(after.Answers, before.Answers), view.CountWithout(before.Answers, after.Answers)},
			[]int{p.Gained, p.Lost}, p.Rule,
		)
	}
	// Answers that were taken off by hand speak for an exclusion.
	var wrong []survey.Respondent
	for i := range 480 {
		if i%24 == 3 {
			wrong = append(wrong, survey.Respondent(i))
		}
	}
	edit(t, q, scheme.Decide{Category: id(t, q, "Sockets"), Answers: wrong, To: scheme.Off})
	sharp, err = code.Sharpen(ctx, q.State(), nil, code.RuleQuery{Rule: "socket", Category: id(t, q, "Sockets"), Was: "socket"})
	require.NoError(t, err)
	assert.Equal(t, 20, sharp.Wrong)
	require.NotEmpty(t, sharp.Exclusions)
	assert.Equal(
		t, []any{"socket - near", 20, 20}, []any{sharp.Exclusions[0].Rule, sharp.Exclusions[0].Lost, sharp.Exclusions[0].Wrong},
	)
}

// name gives the present state a name.
func name(w *window, name string) error {
	q, err := w.desk.Question(ctx, w.ID)
	if err != nil {
		return err
	}
	return w.desk.NameState(ctx, q, "", name)
}

// Drafts on the demo's answers with an empty frame, judged by what the generator meant: of twelve, most have at least 0.75 of
// their answers in one of its topics. Nothing is said of too many.
func TestDraftsAgainstTheTruth(t *testing.T) {
	made := demo.Make(demo.Seed, demo.Respondents)
	for column, question := range map[int]string{10: demo.Change, 11: demo.Enjoy} {
		var answers []string
		for _, row := range made.Rows {
			answers = append(answers, row[column])
		}
		truth := map[string]*roaring.Bitmap{}
		for i, row := range made.Truth {
			for topic := range strings.SplitSeq(row[2], ";") {
				if truth[topic] == nil {
					truth[topic] = roaring.New()
				}
				if row[1] == question && topic != "" {
					truth[topic].Add(uint32(i / 2)) // two questions a respondent
				}
			}
		}
		s := unstoredOf(t, playbook.New("en"), answers...)
		s.Study.Name = demo.Name
		drafts, err := code.DraftsOf(ctx, s, nil, "")
		require.NoError(t, err)
		require.Len(t, drafts.Drafts, 12)
		pure, held := 0, roaring.New()
		for _, d := range drafts.Drafts {
			p, problems := s.Coding.Compile(d.Rule)
			require.NotNil(t, p, "%v", problems)
			set, err := s.Coding.Matcher().Answers(ctx, p)
			require.NoError(t, err)
			require.Equal(t, d.Matches, int(set.GetCardinality()))
			require.LessOrEqual(t, float64(d.Matches), 0.15*float64(drafts.Base), d.Name)
			best := 0.0
			for _, topic := range truth {
				best = max(best, float64(topic.AndCardinality(set))/float64(set.GetCardinality()))
			}
			if best >= 0.75 {
				pure++
			}
			held.Or(set)
		}
		share := float64(held.GetCardinality()) / float64(drafts.Base)
		t.Logf("%s: %d of 12 are of one topic; together they hold %.2f of the answers", question, pure, share)
		assert.GreaterOrEqual(t, pure, 9)
		assert.GreaterOrEqual(t, share, 0.42)
	}
}
