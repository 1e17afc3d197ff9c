package kept

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"aftermath/core/survey"
	"aftermath/internal/desk"
	"aftermath/internal/desk/state"
	"aftermath/internal/store"
	"aftermath/internal/view/review"
)

// Agreed is the coder that stands for what coders agree on: what they gave alike, and what was settled between them.
const Agreed = "(agreed)"

// SampleInfo is a sample of a question.
type SampleInfo struct {
	ID     int64  `json:"id"`
	Name   string `json:"name"`
	Size   int    `json:"size"`
	How    How    `json:"how"`
	MadeBy string `json:"madeBy,omitempty"`
	// At is when it was made.
	At     time.Time   `json:"at"`
	Gone   bool        `json:"gone,omitempty" doc:"thrown away; it can be brought back"`
	Coders []CoderInfo `json:"coders"`
	Apart  int         `json:"apart" doc:"answers that several have coded, not alike, and that were not settled"`
}

// How says how a sample was drawn.
type How struct {
	Seed  uint64           `json:"seed"`
	By    string           `json:"by,omitempty" doc:"= for coded and not, else the name of a variable; empty for one part"`
	Parts []review.Stratum `json:"parts"`
	Read  bool             `json:"read,omitempty" doc:"it was not drawn here, but read from a file"`
}

// CoderInfo is somebody who codes a sample.
type CoderInfo struct {
	Name  string `json:"name" doc:"as they called themselves; empty where they did not; (agreed) for what coders agree on"`
	Coded int    `json:"coded"`
}

// sampled is a sample with all that belongs to it.
type sampled struct {
	store.Sample
	how     How
	members []store.SampleMember
	codes   map[string]review.Given // by coder
}

func (k *Keeper) sample(ctx context.Context, question, id int64) (sampled, error) {
	one, members, err := k.store.Sample(ctx, question, id)
	if err != nil {
		return sampled{}, err
	}
	out := sampled{Sample: one, members: members, codes: map[string]review.Given{}}
	if err := json.Unmarshal(one.Drawn, &out.how); err != nil {
		return out, fmt.Errorf("sample %d: %w", id, err)
	}
	codes, err := k.store.SampleCodes(ctx, id)
	for _, c := range codes {
		if out.codes[c.Coder] == nil {
			out.codes[c.Coder] = review.Given{}
		}
		out.codes[c.Coder][c.Number] = c.Categories
	}
	return out, err
}

// coders are those who have coded, by name; what they agree on is none of them.
func (s sampled) coders() (out []string) {
	for name := range s.codes {
		if name != Agreed {
			out = append(out, name)
		}
	}
	slices.Sort(out)
	return out
}

// settled gives what coders agree on, and the answers on which they do not.
func (s sampled) settled() (agreed review.Given, apart []survey.Respondent) {
	agreed = review.Given{}
	for _, m := range s.members {
		if given, ok := s.codes[Agreed][m.Number]; ok {
			agreed[m.Number] = given
			continue
		}
		var all [][]string
		for _, name := range s.coders() {
			if given, ok := s.codes[name][m.Number]; ok {
				all = append(all, given)
			}
		}
		switch {
		case len(all) < 2:
		case slices.ContainsFunc(all, func(x []string) bool { return !sameSet(x, all[0]) }):
			apart = append(apart, m.Number)
		default:
			agreed[m.Number] = all[0]
		}
	}
	return agreed, apart
}

func sameSet(a, b []string) bool {
	return slices.Equal(slices.Compact(slices.Sorted(slices.Values(a))), slices.Compact(slices.Sorted(slices.Values(b))))
}

// given is what a coder gave.
func (s sampled) given(coder string) review.Given {
	if coder == Agreed {
		agreed, _ := s.settled()
		return agreed
	}
	return s.codes[coder]
}

// weights gives how many answers each that was coded stands for.
func (s sampled) weights(given review.Given) func(survey.Respondent) float64 {
	coded, part := make([]int, len(s.how.Parts)), map[survey.Respondent]int{}
	for _, m := range s.members {
		part[m.Number] = m.Stratum
		if _, ok := given[m.Number]; ok && m.Stratum < len(coded) {
			coded[m.Stratum]++
		}
	}
	return func(p survey.Respondent) float64 {
		i := part[p]
		if i >= len(coded) || coded[i] == 0 || s.how.Read {
			return 1
		}
		return float64(s.how.Parts[i].Answers) / float64(coded[i])
	}
}

// Samples lists the samples of a question, the newest first.
func (k *Keeper) Samples(ctx context.Context, question int64) ([]SampleInfo, error) {
	all, err := k.store.Samples(ctx, question)
	if err != nil {
		return nil, err
	}
	out := []SampleInfo{}
	for _, one := range all {
		s, err := k.sample(ctx, question, one.ID)
		if err != nil {
			return nil, err
		}
		out = append(out, s.info())
	}
	return out, nil
}

func (s sampled) info() SampleInfo {
	agreed, apart := s.settled()
	out := SampleInfo{
		ID: s.ID, Name: s.Name, Size: len(s.members), How: s.how, MadeBy: s.By, At: s.At, Gone: s.Gone != nil, Coders: []CoderInfo{},
		Apart: len(apart),
	}
	for _, name := range s.coders() {
		out.Coders = append(out.Coders, CoderInfo{name, len(s.codes[name])})
	}
	if len(agreed) > 0 {
		out.Coders = append(out.Coders, CoderInfo{Agreed, len(agreed)})
	}
	return out
}

// MakeSample draws a sample and keeps it.
func (k *Keeper) MakeSample(ctx context.Context, q *desk.Question, how review.Draw) (SampleInfo, error) {
	drawn, err := review.DrawSample(ctx, q.State(), how)
	if err != nil {
		return SampleInfo{}, err
	}
	var members []store.SampleMember
	for i, m := range drawn.Members {
		members = append(members, store.SampleMember{Place: i, Number: m.Respondent, Stratum: m.Stratum})
	}
	return k.keepSample(ctx, q, how.Name, How{Seed: how.Seed, By: how.By, Parts: drawn.Parts}, members, nil)
}

// ReadSample keeps a sample that was coded elsewhere, as of a coder.
func (k *Keeper) ReadSample(ctx context.Context, q *desk.Question, name, coder string, table [][]string) (SampleInfo, error) {
	given, err := review.ReadSample(q.State(), table)
	if err != nil {
		return SampleInfo{}, err
	}
	if coder = review.CleanName(coder); coder == Agreed {
		return SampleInfo{}, fmt.Errorf("%w: %q stands for what coders agree on; give the coder another name", state.ErrRequest, Agreed)
	}
	var members []store.SampleMember
	var codes []store.SampleCode
	for _, p := range survey.RespondentsOf(keysOf(given)...).List() {
		members = append(members, store.SampleMember{Place: len(members), Number: p})
		codes = append(codes, store.SampleCode{Coder: coder, Number: p, Categories: given[p], At: time.Now()})
	}
	parts := []review.Stratum{{Answers: len(members), Drawn: len(members)}}
	return k.keepSample(ctx, q, name, How{Parts: parts, Read: true}, members, codes)
}

func keysOf(given review.Given) (out []survey.Respondent) {
	for p := range given {
		out = append(out, p)
	}
	return out
}

func (k *Keeper) keepSample(
	ctx context.Context, q *desk.Question, name string, how How, members []store.SampleMember, codes []store.SampleCode,
) (SampleInfo, error) {
	name = review.CleanName(name)
	if name == "" {
		return SampleInfo{}, fmt.Errorf("%w: the name is empty", state.ErrRequest)
	}
	data, err := json.Marshal(how)
	if err != nil {
		return SampleInfo{}, err
	}
	made := store.Sample{QuestionID: q.ID, Name: name, Drawn: data, By: desk.Maker(ctx)}
	if err := k.store.MakeSample(ctx, &made, members, codes); err != nil {
		return SampleInfo{}, err
	}
	kept, err := k.sample(ctx, q.ID, made.ID)
	return kept.info(), err
}

// ThrowSample throws a sample away, or brings it back.
func (k *Keeper) ThrowSample(ctx context.Context, question, id int64, away bool) error {
	return k.store.ThrowSample(ctx, question, id, away)
}

// BlindPage is one answer of a sample to be coded.
type BlindPage struct {
	Total  int                 `json:"total" doc:"answers to go through"`
	Coded  int                 `json:"coded" doc:"those of them that this coder has coded"`
	Place  int                 `json:"place" doc:"of this one, from 0"`
	Answer *review.BlindAnswer `json:"answer,omitempty" doc:"nothing where the place holds none"`
	Given  []string            `json:"given" doc:"keys of the categories that this coder gave it"`
	Done   bool                `json:"done" doc:"this coder has coded it; without categories: none applies"`
	Others []OthersCode        `json:"others,omitempty" doc:"what coders gave it, where that is to be settled between them"`
}

// OthersCode is what a coder gave an answer.
type OthersCode struct {
	Name       string   `json:"name"`
	Categories []string `json:"categories" doc:"keys"`
}

// BlindAt gives an answer of a sample to a coder: the one at a place, from 0, or at -1 the first that they have not coded. What
// is coded as agreed goes through the answers on which coders differ, and shows what they gave.
func (k *Keeper) BlindAt(ctx context.Context, q *desk.Question, id int64, coder string, place int) (BlindPage, error) {
	s, err := k.sample(ctx, q.ID, id)
	if err != nil {
		return BlindPage{}, err
	}
	now := q.State()
	mine := s.codes[coder]
	var there []survey.Respondent
	for _, m := range s.members {
		if _, ok := now.Study.Rows.Row(m.Number); !ok {
			continue
		}
		if coder != Agreed || s.differ(m.Number) {
			there = append(there, m.Number)
		}
	}
	out := BlindPage{Total: len(there), Given: []string{}}
	first := -1
	for i, p := range there {
		if _, done := mine[p]; done {
			out.Coded++
		} else if first < 0 {
			first = i
		}
	}
	if place < 0 {
		place = first
	}
	if out.Place = place; place < 0 || place >= len(there) {
		out.Place = len(there)
		return out, nil
	}
	p := there[place]
	row, _ := now.Study.Rows.Row(p)
	answer := review.BlindOf(now, row)
	out.Answer = &answer
	if given, done := mine[p]; done {
		out.Given, out.Done = append(out.Given, given...), true
	}
	if coder == Agreed {
		for _, name := range s.coders() {
			if given, ok := s.codes[name][p]; ok {
				out.Others = append(out.Others, OthersCode{name, given})
			}
		}
	}
	return out, nil
}

// differ says whether coders gave an answer different categories, be it settled or not.
func (s sampled) differ(p survey.Respondent) bool {
	var first []string
	n := 0
	for _, name := range s.coders() {
		given, ok := s.codes[name][p]
		if !ok {
			continue
		}
		if n++; n == 1 {
			first = given
		} else if !sameSet(given, first) {
			return true
		}
	}
	return false
}

// CodeSample keeps what a coder gives an answer of a sample; nil takes it back.
func (k *Keeper) CodeSample(ctx context.Context, q *desk.Question, id int64, coder string, p survey.Respondent, categories []string) error {
	s, err := k.sample(ctx, q.ID, id)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(s.members, func(m store.SampleMember) bool { return m.Number == p }) {
		return fmt.Errorf("%w: the answer is not in this sample", state.ErrRequest)
	}
	if categories == nil {
		return k.store.DropSampleCode(ctx, id, coder, p)
	}
	frame := q.State().Scheme.Frame
	for _, key := range categories {
		if c, ok := frame.Find(key); !ok || len(c.Children) > 0 {
			return fmt.Errorf("%w: a category that was chosen is gone, or has become a net; nothing was kept for this answer", state.ErrRequest)
		}
	}
	return k.store.PutSampleCode(ctx, store.SampleCode{SampleID: id, Coder: coder, Number: p, Categories: categories})
}

// SampleAgreement is how good the coding is by a sample, now and before.
type SampleAgreement struct {
	review.AgreementTable
	Size    int             `json:"size" doc:"answers of the sample"`
	History []AgreementThen `json:"history" doc:"how it was before and is now, by revision; where it changed"`
}

// AgreementThen is how good the coding of a revision was.
type AgreementThen struct {
	Revision int       `json:"revision"`
	At       time.Time `json:"at" doc:"when it was looked at"`
	ThenFigures
}

// ThenFigures are the overall figures.
type ThenFigures struct {
	Answers   int     `json:"answers" doc:"that were coded by then"`
	Whole     int     `json:"whole"`
	Precision float64 `json:"precision"`
	Recall    float64 `json:"recall"`
	F1        float64 `json:"f1"`
	MacroF1   float64 `json:"macroF1"`
	Kappa     float64 `json:"kappa"`
	Alpha     float64 `json:"alpha"`
}

// AgreementWith holds the coding against what a coder gave a sample, or that coder against another one.
func (k *Keeper) AgreementWith(ctx context.Context, q *desk.Question, id int64, coder string, against *string) (SampleAgreement, error) {
	s, err := k.sample(ctx, q.ID, id)
	if err != nil {
		return SampleAgreement{}, err
	}
	now := q.State()
	given := s.given(coder)
	var other review.Given
	if against != nil {
		if other = s.given(*against); other == nil {
			other = review.Given{}
		}
	}
	out := SampleAgreement{Size: len(s.members), History: []AgreementThen{}}
	if out.AgreementTable, err = review.AgreementOf(ctx, now, given, other, s.weights(given)); err != nil || against != nil {
		return out, err
	}
	kept, err := k.store.SampleHistory(ctx, id, coder)
	if err != nil {
		return out, err
	}
	for _, f := range kept {
		then := AgreementThen{Revision: f.Revision, At: f.At}
		if err := json.Unmarshal(f.Figures, &then.ThenFigures); err != nil {
			return out, fmt.Errorf("sample %d: %w", id, err)
		}
		out.History = append(out.History, then)
	}
	o := out.Overall
	is := ThenFigures{out.Answers, out.Whole, o.Precision, o.Recall, o.F1, o.MacroF1, o.Kappa, o.Alpha}
	if last := len(out.History) - 1; out.Answers > 0 && (last < 0 || out.History[last].ThenFigures != is) {
		figures, err := json.Marshal(is)
		if err := errors.Join(err, k.store.PutSampleFigures(
			ctx, store.SampleFigures{SampleID: id, Coder: coder, Revision: now.Revision, Figures: figures},
		)); err != nil {
			return out, err
		}
		then := AgreementThen{now.Revision, time.Now(), is}
		if last >= 0 && out.History[last].Revision == now.Revision {
			out.History[last] = then
		} else {
			out.History = append(out.History, then)
		}
	}
	return out, nil
}

// BlindTable gives the answers of a sample to be coded elsewhere.
func (k *Keeper) BlindTable(ctx context.Context, q *desk.Question, id int64) ([][]string, error) {
	s, err := k.sample(ctx, q.ID, id)
	if err != nil {
		return nil, err
	}
	var members []survey.Respondent
	for _, m := range s.members {
		members = append(members, m.Number)
	}
	return review.BlindTable(q.State(), members)
}
