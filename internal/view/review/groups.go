package review

import (
	"cmp"
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/oneof"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/answers"
	"aftermath/internal/view/code"
)

// GroupKind says what the answers of a group have in common. Each kind is a type with what it needs and nothing else; GroupKinds
// lists them.
type GroupKind interface{ oneof.Kinded }

// GroupKinds are all kinds of groups there are, each with nothing in it.
var GroupKinds = []GroupKind{SameWords{}, NearWords{}, LikelyOne{}, Telling{}}

// SameWords are answers in the same words, case and punctuation aside.
type SameWords struct {
	Like survey.Respondent `json:"like" doc:"the respondent whose answer the others are like, coded or not"`
}

// NearWords are answers in nearly the same words.
type NearWords struct {
	Like   survey.Respondent `json:"like" doc:"the respondent whose answer the others are like, coded or not"`
	Nearly int               `json:"nearly" doc:"how many percent of their words, three in a row, are the same"`
}

// LikelyOne are answers that are likely to have one category.
type LikelyOne struct {
	Category GroupLikely `json:"category"`
}

// Telling are answers that a rule finds, which may be kept.
type Telling struct {
	Name    string `json:"name" doc:"of a category for them"`
	Rule    string `json:"rule" doc:"finds them"`
	Matches int    `json:"matches" doc:"answers of the focus that the rule finds, coded ones too"`
}

// Kind is same.
func (SameWords) Kind() string { return "same" }

// Kind is near.
func (NearWords) Kind() string { return "near" }

// Kind is likely.
func (LikelyOne) Kind() string { return "likely" }

// Kind is words.
func (Telling) Kind() string { return "words" }

// Groups are answers that are left, taken together where one decision or rule may do for all.
type Groups struct {
	Left    int           `json:"left" doc:"answers of the focus that are not coded and not settled"`
	Groups  []AnswerGroup `json:"groups" doc:"those that gain most first"`
	Learned *Learned      `json:"learned,omitempty" doc:"what the likely categories go by; nothing while that is learned for the first time: ask again"`
}

// AnswerGroup is answers that are left and have something in common.
type AnswerGroup struct {
	GroupKind
	GroupAnswers
}

// GroupAnswers are the answers of a group of any kind.
type GroupAnswers struct {
	Gained   int                 `json:"gained" doc:"answers that are left which it would code or settle"`
	Likely   *GroupLikely        `json:"likely,omitempty" doc:"the category that most of them are likely to have"`
	Answers  []survey.Respondent `json:"answers" doc:"of those that are left; at most 1000"`
	Examples []answers.Answer    `json:"examples" doc:"the first of them; at most 3"`
}

// MarshalJSON writes the group with its kind.
func (g AnswerGroup) MarshalJSON() ([]byte, error) { return oneof.Encode(g.GroupKind, g.GroupAnswers) }

// UnmarshalJSON reads a group.
func (g *AnswerGroup) UnmarshalJSON(data []byte) (err error) {
	g.GroupAnswers = GroupAnswers{}
	g.GroupKind, err = oneof.Decode("group", GroupKinds, data, &g.GroupAnswers)
	return err
}

// GroupLikely is a category with its mean chance in a group.
type GroupLikely struct {
	ID     string  `json:"id"`
	Name   string  `json:"name" doc:"its path"`
	Chance float64 `json:"chance" doc:"mean over the answers of the group, 0 to 1"`
}

const (
	minGroup             = 3
	maxGroups            = 40
	maxListed            = 1000
	minMemberProbability = 0.8  // chance from which an answer is in the group of its likely category
	minMeanProbability   = 0.5  // mean chance from which a group is said to be of a category
	maxWeighed           = 1000 // answers of a group over which the mean is taken
)

// nearlyAlike is how many percent of the words of answers, three in a row, are the same that are nearly alike.
const nearlyAlike = 70

// AlikeOf parts what is left of a focus into groups of answers that are alike or nearly so, the largest first. The first time it
// compares all answers.
func AlikeOf(ctx context.Context, s *state.State, f focus.Focus) (Groups, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Groups{}, err
	}
	left := leftOf(s, set)
	out := Groups{Left: int(left.GetCardinality()), Groups: []AnswerGroup{}}
	near, err := s.NearlyAlike(ctx, nearlyAlike)
	if err != nil {
		return out, err
	}
	g := newGrouping(s, f, left)
	out.Learned = g.info()
	type found struct {
		first uint32
		of    *roaring.Bitmap
	}
	var groups []found
	for _, rows := range near.Groups {
		if of := roaring.And(roaring.BitmapOf(rows...), left); of.GetCardinality() > 1 {
			groups = append(groups, found{rows[0], of})
		}
	}
	slices.SortStableFunc(groups, func(a, b found) int { return cmp.Compare(b.of.GetCardinality(), a.of.GetCardinality()) })
	for _, x := range groups[:min(len(groups), maxGroups)] {
		kind := NearWords{s.Respondent(int(x.first)), nearlyAlike}
		out.Groups = append(out.Groups, AnswerGroup{kind, g.group(x.of)})
	}
	return out, ctx.Err()
}

// GroupsOf parts what is left of a focus into groups. An answer may be in several. Likely ones are among them once something was
// learned of the coding, which goes on in the background.
func GroupsOf(ctx context.Context, s *state.State, f focus.Focus) (Groups, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Groups{}, err
	}
	left := leftOf(s, set)
	out := Groups{Left: int(left.GetCardinality()), Groups: []AnswerGroup{}}
	g := newGrouping(s, f, left)
	out.Learned = g.info()
	same, err := g.same(ctx)
	if err != nil {
		return out, err
	}
	drafts, err := code.DraftsOf(ctx, s, f, "")
	if err != nil {
		return out, err
	}
	out.Groups = append(append(append(out.Groups, same...), g.likely()...), g.words(ctx, drafts.Drafts)...)
	slices.SortStableFunc(out.Groups, func(a, b AnswerGroup) int { return cmp.Compare(b.Gained, a.Gained) })
	out.Groups = out.Groups[:min(len(out.Groups), maxGroups)]
	return out, ctx.Err()
}

type grouping struct {
	s       *state.State
	focus   focus.Focus
	left    *roaring.Bitmap
	learned *learned // nothing where nothing was learned yet
	marker  focus.Marker
}

// newGrouping goes by what was learned so far, without waiting for more.
func newGrouping(s *state.State, f focus.Focus, left *roaring.Bitmap) grouping {
	return grouping{s: s, focus: f, left: left, learned: learnedSoFar(s), marker: f.Marker(s)}
}

func (g grouping) info() *Learned {
	if g.learned == nil {
		return nil
	}
	info := g.learned.info(g.s)
	return &info
}

// same are the groups of the same words.
func (g grouping) same(ctx context.Context) (out []AnswerGroup, err error) {
	alike, err := g.s.Alike(ctx)
	if err != nil {
		return nil, err
	}
	for _, rows := range alike.Groups { // the largest first
		if len(rows) < minGroup {
			break
		}
		of := roaring.And(roaring.BitmapOf(rows...), g.left)
		if of.GetCardinality() >= minGroup {
			out = append(out, AnswerGroup{SameWords{g.s.Respondent(int(rows[0]))}, g.group(of)})
		}
		if len(out) == maxGroups {
			break
		}
	}
	return out, ctx.Err()
}

// likely are the groups of what is likely to have one category.
func (g grouping) likely() (out []AnswerGroup) {
	if g.learned == nil {
		return nil
	}
	of := map[int32]*roaring.Bitmap{}
	for it := g.left.Iterator(); it.HasNext(); {
		row := it.Next()
		if best := g.learned.best[row]; best.chance >= minMemberProbability {
			if of[best.category] == nil {
				of[best.category] = roaring.New()
			}
			of[best.category].Add(row)
		}
	}
	for _, r := range g.s.Coding.Results {
		i := slices.Index(g.learned.model.Categories, r.ID)
		if i < 0 || of[int32(i)] == nil || of[int32(i)].GetCardinality() < minGroup {
			continue
		}
		if c := g.chance(of[int32(i)], r); c != nil {
			out = append(out, AnswerGroup{LikelyOne{*c}, g.answers(of[int32(i)])})
		}
	}
	return out
}

// words are the groups that a rule finds.
func (g grouping) words(ctx context.Context, drafts []code.Draft) (out []AnswerGroup) {
	for _, d := range drafts {
		found, err := g.s.Coding.Try(ctx, d.Rule)
		if err != nil {
			return nil
		}
		of := roaring.And(found.Answers, g.left)
		if of.IsEmpty() {
			continue
		}
		marked := g
		marked.marker = g.focus.With(focus.Is(focus.Words{Rule: d.Rule})).Marker(g.s)
		out = append(out, AnswerGroup{Telling{d.Name, d.Rule, d.Matches}, marked.group(of)})
	}
	return out
}

// answers are the answers of a group.
func (g grouping) answers(of *roaring.Bitmap) GroupAnswers {
	x := GroupAnswers{Gained: int(of.GetCardinality()), Examples: []answers.Answer{}}
	for it := of.Iterator(); it.HasNext() && len(x.Answers) < maxListed; {
		row := int(it.Next())
		x.Answers = append(x.Answers, g.s.Respondent(row))
		if len(x.Examples) < 3 {
			x.Examples = append(x.Examples, answers.One(g.s, g.marker, row))
		}
	}
	return x
}

// group are the answers of a group, with the category that most of them are likely to have.
func (g grouping) group(of *roaring.Bitmap) GroupAnswers {
	x := g.answers(of)
	if g.learned == nil {
		return x
	}
	times := map[int32]int{}
	most := int32(-1)
	for it, n := of.Iterator(), 0; it.HasNext() && n < maxWeighed; n++ {
		best := g.learned.best[it.Next()]
		if best.chance > 0 {
			if times[best.category]++; most < 0 || times[best.category] > times[most] {
				most = best.category
			}
		}
	}
	if most >= 0 {
		if r, ok := g.s.Coding.Of(g.learned.model.Categories[most]); ok {
			if c := g.chance(of, r); c != nil && c.Chance >= minMeanProbability {
				x.Likely = c
			}
		}
	}
	return x
}

// chance is the mean chance of a category in a group.
func (g grouping) chance(of *roaring.Bitmap, r *frame.Result) *GroupLikely {
	i := slices.Index(g.learned.model.Categories, r.ID)
	if i < 0 {
		return nil
	}
	sum, n := 0.0, 0
	reader := g.learned.model.NewReader()
	for it := of.Iterator(); it.HasNext() && n < maxWeighed; n++ {
		reader.Read(it.Next())
		sum += reader.Chances()[i]
	}
	return &GroupLikely{r.ID, r.PathName(), sum / float64(n)}
}
