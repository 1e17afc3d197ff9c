package desk

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
)

func category(q *Question, name string, rules ...string) Edit {
	return Edit{Kind: "add category", Category: &frame.Category{Name: name, Rules: rules}}
}

func rulesOf(t testing.TB, q *Question, path ...string) frame.Category {
	p, ok := q.State().Playbook.Frame.ByPath(path)
	require.True(t, ok, "%v", path)
	return *p.Category
}

// A rule is changed by its text: what another window did in between is not undone, and what is no longer there is said.
func TestRulesGoByTheirText(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, category(q, "Waiting", "queue", "late"))
	w := id(t, q, "Waiting")
	edit(t, q, Edit{Kind: "rule", ID: w, Rule: "tailback"})
	edit(t, q, Edit{Kind: "rule", ID: w, Was: "queue", Rule: ""}) // one window removes the first
	edit(t, q, Edit{Kind: "rule", ID: w, Was: "late", Rule: "late + boat"})
	edit(t, q, Edit{Kind: "rule", ID: w, Rule: "pier", Unless: true})
	edit(t, q, Edit{Kind: "rest", ID: w, Was: "tailback", To: "on"})
	c := rulesOf(t, q, "Waiting")
	assert.Equal(t, []string{"late + boat"}, c.Rules)
	assert.Equal(t, []string{"tailback"}, c.Resting)
	assert.Equal(t, []string{"pier"}, c.Unless)
	assert.Equal(t, []uint32{1}, coded(q)["Waiting"], "what rests catches nothing")
	edit(t, q, Edit{Kind: "rest", ID: w, Was: "tailback", To: "off"})
	assert.Equal(t, []string{"late + boat", "tailback"}, rulesOf(t, q, "Waiting").Rules)
	for want, e := range map[string]Edit{
		"no longer in Waiting":   {Kind: "rule", ID: w, Was: "queue", Rule: "queues"},
		"has the rule":           {Kind: "rule", ID: w, Rule: "tailback"},
		"the rule is empty":      {Kind: "rule", ID: w, Rule: " "},
		"is no longer there":     {Kind: "rest", ID: w, Was: "queue", To: "on"},
		"the category is gone":   {Kind: "rule", ID: "c99", Rule: "x"},
		"say which rules go":     {Kind: "split category", ID: w, Name: "New"},
		"two categories":         {Kind: "merge categories", ID: w, Into: w},
		"a category \"waiting\"": {Kind: "split category", ID: w, Name: "waiting", Rules: []string{"tailback"}},
	} {
		_, err := q.Edit(ctx, q.State().Revision, e)
		require.ErrorIs(t, err, ErrRequest, want)
		assert.ErrorContains(t, err, want)
	}
}

// Whatever two categories had, by rules and by hand, the merged one has; a category and what was split off it have together
// what it had.
func TestMergeAndSplitLoseNothing(t *testing.T) {
	_, q := open(t, sample...)
	words := []string{"queue", "late", "boat", "tea", "tailback", "cold"}
	rapid.Check(t, func(rt *rapid.T) {
		some := func(label string, least int) []string {
			return rapid.SliceOfNDistinct(rapid.SampledFrom(words), least, 3, func(s string) string { return s }).Draw(rt, label)
		}
		start := q.State().Revision
		for _, name := range []string{"A", "B"} {
			edit(t, q, Edit{Kind: "add category", Category: &frame.Category{Name: name, Rules: some("rules", 1), Unless: some("unless", 0), Off: rapid.IntRange(0, 4).Draw(rt, "off") == 0}})
			for _, to := range []string{"on", "off"} {
				answers := rapid.SliceOfNDistinct(rapid.SampledFrom([]uint32{0, 1, 2, 3, 6}), 1, 2, func(a uint32) uint32 { return a }).Draw(rt, to)
				edit(t, q, Edit{Kind: "decide", ID: id(t, q, name), Answers: answers, To: to})
			}
		}
		a, b := coded(q)["A"], coded(q)["B"]
		want := roaring.Or(roaring.BitmapOf(a...), roaring.BitmapOf(b...)).ToArray()
		split := Edit{Kind: "split category", ID: id(t, q, "A"), Name: "C", Rules: rulesOf(t, q, "A").Rules[:1]}
		edit(t, q, split)
		both := roaring.Or(roaring.BitmapOf(coded(q)["A"]...), roaring.BitmapOf(coded(q)["C"]...))
		for _, answer := range a {
			require.True(rt, both.Contains(answer), "split off %v", split.Rules)
		}
		undo(t, q, 1)
		into := Edit{Kind: "merge categories", ID: id(t, q, "A"), Into: id(t, q, "B")}
		preview, err := q.Preview(ctx, into)
		require.NoError(rt, err)
		effect := edit(t, q, into)
		require.Equal(rt, preview.Categories, effect.Categories)
		require.Equal(rt, want, append([]uint32{}, coded(q)["B"]...))
		require.NotContains(rt, coded(q), "A")
		undo(t, q, q.State().Revision-start)
		require.Empty(rt, coded(q))
	})
}

func undo(t testing.TB, q *Question, times int) {
	for range times {
		if _, err := q.Undo(ctx, false); err == ErrNothing {
			return
		} else {
			require.NoError(t, err)
		}
	}
}

// The figures under a rule that is being written are those after it was kept, in every slot and focus.
func TestPreviewOfARuleIsWhatComes(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, category(q, "Waiting", "queue / tailback", "late"))
	edit(t, q, category(q, "Tea", "tea"))
	edit(t, q, Edit{Kind: "rule", ID: id(t, q, "Waiting"), Rule: "pier", Unless: true})
	edit(t, q, Edit{Kind: "add category", Category: &frame.Category{Name: "Else", Alone: true, Rules: []string{"late / cold / pier"}}})
	edit(t, q, category(q, "Both", "{Tea} / {Waiting} + boat"))
	edit(t, q, Edit{Kind: "decide", ID: id(t, q, "Waiting"), Answers: []uint32{3}, To: "on"})
	edit(t, q, Edit{Kind: "decide", ID: id(t, q, "Tea"), Answers: []uint32{6}, To: "off"})
	slots := []RuleQuery{{Category: id(t, q, "Waiting")}, {Category: id(t, q, "Waiting"), Was: "late"}, {Category: id(t, q, "Waiting"), Unless: true},
		{Category: id(t, q, "Waiting"), Unless: true, Was: "pier"}, {Category: id(t, q, "Tea"), Was: "tea"}, {Category: id(t, q, "Else"), Was: "late / cold / pier"}}
	focuses := []Focus{nil, {{Kind: "variable", Name: "route", Op: "=", Values: []string{"North"}}}, {{Kind: "coded", Not: true}}}
	compared := 0
	rapid.Check(t, func(rt *rapid.T) {
		want := rapid.SampledFrom(slots).Draw(rt, "slot")
		focus := rapid.SampledFrom(focuses).Draw(rt, "focus")
		want.Rule = rapid.SampledFrom([]string{"boat", "cold / late", "queue - late", "late +1s boat", "*", "[route = South]", "{Tea} + cold", "pier / tea"}).Draw(rt, "rule")
		want.Limit = 5
		before := q.State()
		set, err := q.Focus(before, focus)
		require.NoError(rt, err)
		p, err := q.PreviewRule(before, focus, want)
		require.NoError(rt, err)
		_, err = q.Edit(ctx, before.Revision, Edit{Kind: "rule", ID: want.Category, Was: want.Was, Rule: want.Rule, Unless: want.Unless})
		if err != nil { // the same rule twice
			require.ErrorIs(rt, err, ErrRequest)
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
	edit(t, q, category(q, "Waiting", "queue + late - boat"))
	edit(t, q, Edit{Kind: "decide", ID: id(t, q, "Waiting"), Answers: []uint32{6}, To: "on"})
	s, w := q.State(), id(t, q, "Waiting")
	m, err := q.Misses(s, nil, RuleQuery{Rule: "queue + late - boat", Category: w, Limit: 5}, "")
	require.NoError(t, err)
	var ways []string
	for _, x := range m.Ways {
		ways = append(ways, fmt.Sprint(x.Lacks, ": ", x.Answers, " by ", x.Rule))
	}
	assert.Equal(t, []string{"taken away by boat: 1 by queue + late", "no late: 1 by queue - boat"}, ways, "answer 6 has the category by hand")
	assert.Equal(t, 2, m.Total)
	why := func(answer int) string {
		x, err := q.Why(s, answer, w)
		require.NoError(t, err)
		out := x.Reason
		for _, p := range x.Rules[0].Parts {
			out += fmt.Sprintf("; %s %v %v", p.Text, p.Found, p.Words)
		}
		return out
	}
	assert.Equal(t, "none of its rules matches; queue + late - boat false []; queue + late true [queues, late]; queue true [queues]; late true [late]; boat true [boat]", why(1))
	assert.Equal(t, "none of its rules matches; queue + late - boat false []; queue + late false []; queue true [queue]; late false []; boat false []", why(0))
	assert.True(t, strings.HasPrefix(why(6), "it was put there by hand"))
	assert.True(t, strings.HasPrefix(why(4), "the answer says nothing that can be coded"))
	_, err = q.Why(s, 99, w)
	assert.ErrorIs(t, err, ErrRequest)
}

// themes makes up answers with two themes that no category has, one of them in several words.
func themes() (rows [][]string) {
	said := []string{"the queue was long", "queue again", "seats were broken and the socket dead", "no socket near the seats", "seats, socket, all broken", "dogs on deck", "my dog was cold", "late",
		"tea", "coffee", "toast", "soup", "maps", "music", "radio", "shop"}
	for i := range 320 {
		rows = append(rows, []string{fmt.Sprint(i), []string{"North", "South"}[i/16%2], "5", "1", said[i%16]})
	}
	return rows
}

func TestDraftsComeFromWhatIsUncoded(t *testing.T) {
	_, q := open(t, themes()...)
	edit(t, q, category(q, "Waiting", "queue"))
	drafts := func() map[string]Draft {
		d, err := q.Drafts(q.State(), nil)
		require.NoError(t, err)
		require.Equal(t, 280, d.Base)
		out := map[string]Draft{}
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
	preview, err := q.Preview(ctx, category(q, d["seats"].Name, d["seats"].Rule))
	require.NoError(t, err)
	assert.Equal(t, int(before)+d["seats"].Gained, preview.Coded, "the coverage that was promised")
	edit(t, q, Edit{Kind: "refuse draft", Rule: d["seats"].Rule})
	assert.NotContains(t, drafts(), "seats")
	edit(t, q, Edit{Kind: "draft again"})
	assert.Contains(t, drafts(), "seats")
}

func TestHealthOfTheFrame(t *testing.T) {
	_, q := open(t, themes()...)
	edit(t, q, category(q, "Waiting", "queue", "queue + again", "zebra"))
	edit(t, q, category(q, "Seats", "seats"))
	edit(t, q, category(q, "Sockets", "socket"))
	edit(t, q, category(q, "Cold dogs", "dog + cold", "(late"))
	edit(t, q, Edit{Kind: "rule", ID: id(t, q, "Seats"), Rule: "queue", Unless: true})
	h, err := q.Health(q.State(), nil, 30)
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
	assert.Equal(t, []any{"Seats", "Sockets", 60, 1.0}, []any{h.Overlaps[0].A.Name, h.Overlaps[0].B.Name, h.Overlaps[0].Both, h.Overlaps[0].Share})
	assert.Equal(t, 60, h.Matrix[1][2])
	require.Len(t, h.Small, 1)
	assert.Equal(t, CategoryCount{id(t, q, "Cold dogs"), "Cold dogs", h.Small[0].Short, 3, 20}, h.Small[0])
	unused := map[string]int{}
	for _, u := range h.Unused {
		unused[u.Label] = u.Answers
	}
	assert.Equal(t, 20, unused["late"], "a rule that can't be read looks for nothing")
	assert.NotContains(t, unused, "socket")
	assert.Equal(t, SegmentCoverage{Variable: "route", Value: "North", Base: 160, Coded: 60, Share: 0.375, Rest: 0.375}, h.Segments[0])

	// A merge is looked for as one, its words are not.
	edit(t, q, Edit{Kind: "merge", Label: "queue", Terms: []string{"was long"}})
	edit(t, q, Edit{Kind: "merge", Label: "wet feet", Terms: []string{"on deck"}})
	edit(t, q, category(q, "Wet", "wet feet"))
	h, err = q.Health(q.State(), nil, 30)
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
	edit(t, q, category(q, "Waiting", "queue"))
	edit(t, q, Edit{Kind: "decide", ID: id(t, q, "Waiting"), Answers: []uint32{6}, To: "on"})
	w := id(t, q, "Waiting")
	require.NoError(t, q.NameState(ctx, q.State(), "", "sent to client"))
	require.ErrorContains(t, q.NameState(ctx, q.State(), "", "sent to client"), "already")
	sent := coded(q)
	undo(t, q, 1)
	edit(t, q, Edit{Kind: "rule", ID: w, Was: "queue", Rule: "tailback"})
	edit(t, q, category(q, "Tea", "tea"))
	edit(t, q, Edit{Kind: "hide", Terms: []string{"late"}})
	b, err := q.Between(ctx, q.State(), nil, "=sent to client", Now)
	require.NoError(t, err)
	assert.Equal(t, []string{"decisions", "lexicon"}, b.Parts)
	assert.Equal(t, []int{3, 2}, []int{b.CodedBefore, b.Coded})
	require.Len(t, b.Categories, 2)
	assert.Equal(t, CategoryBetween{ID: w, Name: "Waiting", Short: b.Categories[0].Short, Before: 3, After: 1, Gained: 1, Lost: 3, Added: []string{"tailback"}, Removed: []string{"queue"}}, b.Categories[0])
	assert.True(t, b.Categories[1].Fresh)
	set, err := q.Focus(q.State(), Focus{{Kind: "changed", ID: w, Text: "lost", Values: []string{"=sent to client", "now"}}})
	require.NoError(t, err)
	assert.Equal(t, []uint32{0, 1, 6}, set.ToArray(), "the answers behind the figure")

	// Since then, by category, in the frame itself.
	f, err := q.Frame(ctx, q.State(), nil, "=sent to client")
	require.NoError(t, err)
	assert.Equal(t, []int{1, 3}, []int{f.Categories[0].Gained, f.Categories[0].Gone})

	now := coded(q)
	preview, err := q.Preview(ctx, Edit{Kind: "go back", State: "=sent to client"})
	require.NoError(t, err)
	effect := edit(t, q, Edit{Kind: "go back", State: "=sent to client"})
	assert.Equal(t, preview.Categories, effect.Categories)
	assert.Equal(t, sent, coded(q))
	undo(t, q, 1)
	assert.Equal(t, now, coded(q))
	edit(t, q, Edit{Kind: "go back", State: "1"})
	assert.Equal(t, []uint32{0, 1}, coded(q)["Waiting"], "before the decision")
	edit(t, q, Edit{Kind: "go back", State: "0"})
	assert.Empty(t, coded(q))
	for _, bad := range []string{"=nothing", "x", "-1"} {
		_, err := q.At(ctx, q.State(), bad)
		assert.ErrorIs(t, err, ErrRequest, bad)
	}
}

// A frame that is brought in says which of its rules name what is not here.
func TestFrameThatDoesNotFit(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, category(q, "Waiting", "queue"))
	edit(t, q, Edit{Kind: "decide", ID: id(t, q, "Waiting"), Answers: []uint32{6}, To: "on"})
	brought := frame.Frame{{Name: "Waiting", Rules: []string{"late"}}, {Name: "Crew", Rules: []string{"@crew", "[ship = Tern] + late", "{Gone}", "cold"}}}
	e := Edit{Kind: "frame", Frame: &brought}
	preview, err := q.Preview(ctx, e)
	require.NoError(t, err)
	require.Len(t, preview.Misfits, 3)
	assert.Equal(t, "Crew", preview.Misfits[0].Category)
	assert.Contains(t, preview.Misfits[0].Message, "crew")
	edit(t, q, e)
	assert.Equal(t, []uint32{1, 6}, coded(q)["Waiting"], "by its rule and by hand: the name is the same")
	assert.Equal(t, []uint32{3}, coded(q)["Crew"], "what fits works")
	undo(t, q, 1)
	e.To = "on"
	edit(t, q, e)
	assert.Equal(t, []string{"Waiting", "Waiting 2", "Crew"}, []string{q.State().Playbook.Frame[0].Name, q.State().Playbook.Frame[1].Name, q.State().Playbook.Frame[2].Name})
}

// What may come next in a rule, what a part of it finds, and what might be made of it.
func TestHelpWhileWriting(t *testing.T) {
	_, q := open(t, themes()...)
	edit(t, q, Edit{Kind: "lexicon", Lexicon: &lexicon.Lexicon{Inflections: true, Lists: []lexicon.List{{Name: "fittings", Entries: []string{"seats", "socket"}}}}})
	edit(t, q, category(q, "Sockets", "socket"))
	s := q.State()
	next := func(src string) (out []string) {
		c, err := q.Complete(s, src, len([]rune(src)))
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
	part, err := q.PartAt(s, nil, "dog + seats", 7)
	require.NoError(t, err)
	assert.Equal(t, []any{"seats", 60}, []any{part.Text, part.Answers})
	part, err = q.PartAt(s, nil, "dog + seats", 1)
	require.NoError(t, err)
	assert.Equal(t, []MemberLine{{"dog", 20}, {"dogs", 20}}, part.Words)
	part, err = q.PartAt(s, Focus{{Kind: "variable", Name: "route", Op: "=", Values: []string{"North"}}}, "near the seats / queue", 5)
	require.NoError(t, err)
	assert.Equal(t, []any{"near the seats", 10, []MemberLine{{"near the seats", 10}}}, []any{part.Text, part.Answers, part.Words}, "in the focus, and as it stands there")

	sharp, err := q.Sharpen(s, nil, RuleQuery{Rule: "socket", Category: id(t, q, "Sockets")})
	require.NoError(t, err)
	require.NotEmpty(t, sharp.Partners)
	assert.Contains(t, []string{"broken", "dead", "near", "seats"}, sharp.Partners[0].Term)
	for _, p := range slices.Concat(sharp.Partners, sharp.Alternatives, sharp.Missed) {
		before, after := s.Coding.Try("socket"), s.Coding.Try(p.Rule)
		assert.Equal(t, []int{countWithout(after.Answers, before.Answers), countWithout(before.Answers, after.Answers)}, []int{p.Gained, p.Lost}, p.Rule)
	}
	// Answers that were taken off by hand speak for an exclusion.
	var wrong []uint32
	for i := range 320 {
		if i%16 == 3 {
			wrong = append(wrong, uint32(i))
		}
	}
	edit(t, q, Edit{Kind: "decide", ID: id(t, q, "Sockets"), Answers: wrong, To: "off"})
	sharp, err = q.Sharpen(q.State(), nil, RuleQuery{Rule: "socket", Category: id(t, q, "Sockets"), Was: "socket"})
	require.NoError(t, err)
	assert.Equal(t, 20, sharp.Wrong)
	require.NotEmpty(t, sharp.Exclusions)
	assert.Equal(t, []any{"socket - near", 20, 20}, []any{sharp.Exclusions[0].Rule, sharp.Exclusions[0].Lost, sharp.Exclusions[0].Wrong})
}
