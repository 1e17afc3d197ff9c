package kept

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"aftermath/internal/desk"
	"aftermath/internal/desk/earlier"
	"aftermath/internal/desk/state"
	"aftermath/internal/store"
	"aftermath/internal/view/report"
	"aftermath/internal/view/review"
)

// ReportInfo is a report as lists show it.
type ReportInfo struct {
	ID       int64  `json:"id"`
	Name     string `json:"name"`
	Revision int64  `json:"revision" doc:"grows by every change; a change says which it has seen"`
	Gone     bool   `json:"gone,omitempty" doc:"deleted; it can be brought back"`
}

// ReportState is a report with what it says now.
type ReportState struct {
	ReportInfo
	Undo   string          `json:"undo,omitempty" doc:"what undoing takes back; empty: nothing can be"`
	Redo   string          `json:"redo,omitempty" doc:"what is done again by redoing"`
	Page   report.Document `json:"page"`
	Frozen []FrozenInfo    `json:"frozen" doc:"the newest first"`
}

// FrozenInfo is a report as it read at one moment, as lists show it.
type FrozenInfo struct {
	ID   int64     `json:"id"`
	Name string    `json:"name"`
	By   string    `json:"by,omitempty"`
	At   time.Time `json:"at" doc:"when it was frozen"`
	Gone bool      `json:"gone,omitempty" doc:"deleted; it can be brought back"`
}

func reportInfo(r store.Report) ReportInfo {
	return ReportInfo{ID: r.ID, Name: r.Name, Revision: r.Revision, Gone: r.Gone != nil}
}

// Reports lists the reports of a study, the oldest first.
func (k *Keeper) Reports(ctx context.Context, study int64) ([]ReportInfo, error) {
	all, err := k.store.Reports(ctx, study)
	out := []ReportInfo{}
	for _, r := range all {
		out = append(out, reportInfo(r))
	}
	return out, err
}

// AddReport begins a report of a study.
func (k *Keeper) AddReport(ctx context.Context, study int64, name string, blocks []report.Block) (ReportInfo, error) {
	name, err := reportName(name)
	if err != nil {
		return ReportInfo{}, err
	}
	first, err := k.reportVersion(ctx, study, blocks, "Began the report")
	if err != nil {
		return ReportInfo{}, err
	}
	r := store.Report{StudyID: study, Name: name}
	err = k.store.AddReport(ctx, &r, *first)
	k.desk.Events.Send(desk.Event{Kind: "reports", Study: study})
	return reportInfo(r), err
}

func reportName(name string) (string, error) {
	name = state.OneLine(name)
	switch {
	case name == "":
		return "", fmt.Errorf("%w: it needs a name", state.ErrRequest)
	case utf8.RuneCountInString(name) > 200:
		return "", fmt.Errorf("%w: a name has at most 200 letters", state.ErrRequest)
	}
	return name, nil
}

// reportVersion is a version of a report of a study, checked.
func (k *Keeper) reportVersion(
	ctx context.Context, study int64, blocks []report.Block, summary string,
) (*store.ReportVersion, error) {
	if err := report.Check(blocks); err != nil {
		return nil, err
	}
	questions, err := k.store.Questions(ctx, study)
	if err != nil {
		return nil, err
	}
	for _, b := range blocks {
		on, any := b.On()
		if any && !slices.ContainsFunc(questions, func(q store.Question) bool { return q.ID == on }) {
			return nil, fmt.Errorf("%w: a part is of a question of another study", state.ErrRequest)
		}
	}
	data, err := json.Marshal(append([]report.Block{}, blocks...))
	if err != nil {
		return nil, err
	}
	if summary = state.OneLine(summary); summary == "" {
		summary = "Changed the report"
	}
	if strings.ContainsRune(summary, 0) || strings.Contains(string(data), `\u0000`) {
		return nil, fmt.Errorf("%w: a null character can't be stored; take it out", state.ErrRequest)
	}
	return &store.ReportVersion{Blocks: data, Summary: summary, By: desk.Maker(ctx)}, nil
}

// added puts blocks at the end. Quotes join those that stand there last, of the same question.
func added(to, more []report.Block) []report.Block {
	for _, b := range more {
		if last := len(to) - 1; last >= 0 {
			there, isQuotes := to[last].Part.(report.QuotesPart)
			if q, areQuotes := b.Part.(report.QuotesPart); isQuotes && areQuotes && there.Question == q.Question && q.Title == "" {
				there.Quotes = append(there.Quotes, q.Quotes...)
				to[last].Part = there
				continue
			}
		}
		to = append(to, b)
	}
	return to
}

func (k *Keeper) reportOf(ctx context.Context, study, id int64) (store.Report, store.ReportVersion, error) {
	r, at, err := k.store.Report(ctx, id)
	if err == nil && r.StudyID != study {
		err = desk.ErrNotFound
	}
	return r, at, err
}

// DropReport deletes a report, or brings it back.
func (k *Keeper) DropReport(ctx context.Context, study, id int64, away bool) error {
	if _, _, err := k.reportOf(ctx, study, id); err != nil {
		return err
	}
	defer k.desk.Events.Send(desk.Event{Kind: "reports", Study: study})
	return k.store.DropReport(ctx, id, away)
}

// Report gives a report with what it says now.
func (k *Keeper) Report(ctx context.Context, study, id int64) (ReportState, error) {
	r, at, err := k.reportOf(ctx, study, id)
	if err != nil {
		return ReportState{}, err
	}
	out := ReportState{ReportInfo: reportInfo(r), Frozen: []FrozenInfo{}}
	if r.Version > 1 {
		out.Undo = at.Summary
	}
	if r.Version < r.Newest {
		next, err := k.store.ReportVersion(ctx, id, r.Version+1)
		if err != nil {
			return out, err
		}
		out.Redo = next.Summary
	}
	frozen, err := k.store.FrozenReports(ctx, id)
	if err != nil {
		return out, err
	}
	for _, f := range frozen {
		out.Frozen = append(out.Frozen, FrozenInfo{f.ID, f.Name, f.By, f.At, f.Gone != nil})
	}
	out.Page, err = k.page(ctx, r, at)
	return out, err
}

// page works out what a version of a report says now.
func (k *Keeper) page(ctx context.Context, r store.Report, at store.ReportVersion) (report.Document, error) {
	record, err := k.desk.Record(ctx, r.StudyID)
	if err != nil {
		return report.Document{}, err
	}
	blocks, err := blocksOf(at)
	if err != nil {
		return report.Document{}, fmt.Errorf("report %d: %w", r.ID, err)
	}
	style, err := k.HouseStyle(ctx)
	if err != nil {
		return report.Document{}, err
	}
	out := report.Document{Style: style, Study: record.Name, Name: r.Name, At: time.Now(), Sections: []report.Section{}}
	for _, b := range blocks {
		p, err := k.part(ctx, record, b)
		if err != nil {
			return out, err
		}
		out.Sections = append(out.Sections, p)
	}
	return out, nil
}

// blocksOf are the blocks of a version of a report.
func blocksOf(at store.ReportVersion) (blocks []report.Block, err error) {
	data, err := earlier.Blocks(at.Blocks)
	if err != nil {
		return nil, err
	}
	return blocks, json.Unmarshal(data, &blocks)
}

func (k *Keeper) part(ctx context.Context, of desk.Record, b report.Block) (report.Section, error) {
	on, any := b.On()
	if !any {
		return report.Unfilled(b, ""), nil
	}
	if !slices.ContainsFunc(of.Questions, func(q desk.QuestionRecord) bool { return q.ID == on }) {
		return report.Unfilled(b, "Its column is not open-ended any more. In Data it can be made so again."), nil
	}
	q, err := k.desk.Question(ctx, on)
	if err != nil {
		return report.Section{}, err
	}
	p, err := report.Fill(ctx, q.State(), b)
	if m, is := p.Content.(report.MethodContent); err == nil && is {
		m.Method.Agreement, err = k.agreed(ctx, q)
	}
	return p, err
}

// agreed is how well the coding agrees with each sample that was coded without seeing it.
func (k *Keeper) agreed(ctx context.Context, q *desk.Question) ([]report.MethodAgreed, error) {
	out := []report.MethodAgreed{}
	samples, err := k.Samples(ctx, q.ID)
	if err != nil {
		return out, err
	}
	for _, info := range samples {
		if info.Gone {
			continue
		}
		s, err := k.sample(ctx, q.ID, info.ID)
		if err != nil {
			return out, err
		}
		for _, coder := range info.Coders {
			given := s.given(coder.Name)
			table, err := review.AgreementOf(ctx, q.State(), given, nil, s.weights(given))
			if err != nil {
				return out, err
			}
			o := table.Overall
			out = append(out, report.MethodAgreed{
				Sample: info.Name, Coder: coder.Name, Answers: table.Answers, Precision: o.Precision, Recall: o.Recall, Kappa: o.Kappa,
			})
		}
	}
	return out, nil
}

// Freeze keeps what a report says now under a name: it changes no more.
func (k *Keeper) Freeze(ctx context.Context, study, id int64, name string) (FrozenInfo, error) {
	name, err := reportName(name)
	if err != nil {
		return FrozenInfo{}, err
	}
	r, at, err := k.reportOf(ctx, study, id)
	if err != nil {
		return FrozenInfo{}, err
	}
	page, err := k.page(ctx, r, at)
	if err != nil {
		return FrozenInfo{}, err
	}
	page.Frozen = name
	for _, s := range page.Sections {
		if q, is := s.Content.(report.QuotesContent); is {
			for i := range q.Said {
				q.Said[i].Whole = "" // what a quote leaves out is not in the report
			}
		}
	}
	data, err := json.Marshal(page)
	if err != nil {
		return FrozenInfo{}, err
	}
	f := store.FrozenReport{ReportID: id, Name: name, Page: data, By: desk.Maker(ctx)}
	if err := k.store.AddFrozenReport(ctx, &f); err != nil {
		return FrozenInfo{}, err
	}
	k.desk.Events.Send(desk.Event{Kind: "reports", Study: study})
	return FrozenInfo{f.ID, f.Name, f.By, f.At, false}, nil
}

// FrozenPage is what a report said when it was frozen.
func (k *Keeper) FrozenPage(ctx context.Context, study, id, frozen int64) (out report.Document, err error) {
	if _, _, err := k.reportOf(ctx, study, id); err != nil {
		return out, err
	}
	f, err := k.store.FrozenReport(ctx, id, frozen)
	if err != nil {
		return out, err
	}
	masking, err := k.desk.Masking(ctx, study)
	if err != nil {
		return out, err
	}
	page, err := earlier.Page(f.Page)
	if err != nil {
		return out, err
	}
	// It may have been frozen before the study masked anything.
	page, err = report.Masked(page, masking.Masker())
	if err != nil {
		return out, err
	}
	return out, json.Unmarshal(page, &out)
}

// ReportPage is what a report says now, or said when it was frozen.
func (k *Keeper) ReportPage(ctx context.Context, study, id, frozen int64) (report.Document, error) {
	if frozen != 0 {
		return k.FrozenPage(ctx, study, id, frozen)
	}
	r, at, err := k.reportOf(ctx, study, id)
	if err != nil {
		return report.Document{}, err
	}
	return k.page(ctx, r, at)
}

// DropFrozen deletes a frozen report, or brings it back.
func (k *Keeper) DropFrozen(ctx context.Context, study, id, frozen int64, away bool) error {
	if _, _, err := k.reportOf(ctx, study, id); err != nil {
		return err
	}
	defer k.desk.Events.Send(desk.Event{Kind: "reports", Study: study})
	return k.store.DropFrozenReport(ctx, id, frozen, away)
}
