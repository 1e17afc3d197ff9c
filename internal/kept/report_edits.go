package kept

import (
	"context"
	"errors"
	"fmt"

	"aftermath/core/oneof"
	"aftermath/internal/desk"
	"aftermath/internal/desk/state"
	"aftermath/internal/store"
	"aftermath/internal/view/report"
)

// ReportChange is a change of a report that was seen at a revision.
type ReportChange struct {
	ReportSeen
	ReportEdit
}

// ReportSeen says on which revision of a report a change is made.
type ReportSeen struct {
	Revision int64 `json:"revision" doc:"of the report, as it was seen"`
}

// ReportEdit is one change of a report. Each kind is a type with what it needs and nothing else; ReportEdits lists them.
type ReportEdit interface {
	oneof.Kinded
	// prepare works out what the change makes of a report, before the report is locked.
	prepare(ctx context.Context, of changing) (change, error)
}

// ReportEdits are all changes of a report there are, each with nothing in it.
var ReportEdits = []ReportEdit{SetBlocks{}, AddBlocks{}, NameReport{}, UndoReport{}, RedoReport{}}

// changing is a report that is about to be changed.
type changing struct {
	keeper *Keeper
	study  int64
	is     store.Report
	at     store.ReportVersion
	seen   int64 // the revision that the change is made on
}

// change is made on a report that is still at a revision; it gives a further version of it, or none.
type change struct {
	on   int64
	make func(r *store.Report) (*store.ReportVersion, error)
}

// version is a change that adds a version with other blocks.
func (c changing) version(ctx context.Context, on int64, blocks []report.Block, summary string) (change, error) {
	next, err := c.keeper.reportVersion(ctx, c.study, blocks, summary)
	return change{on, func(*store.Report) (*store.ReportVersion, error) { return next, nil }}, err
}

// MarshalJSON writes the change with its kind.
func (c ReportChange) MarshalJSON() ([]byte, error) { return oneof.Encode(c.ReportEdit, c.ReportSeen) }

// UnmarshalJSON reads a change. What its kind does not know is an error, and so is what it lacks.
func (c *ReportChange) UnmarshalJSON(data []byte) (err error) {
	if c.ReportEdit, err = oneof.Decode("change of a report", ReportEdits, data, &c.ReportSeen); err != nil {
		return fmt.Errorf("%w: %w", state.ErrRequest, err)
	}
	return nil
}

// SetBlocks puts other blocks in the place of those of a report.
type SetBlocks struct {
	Blocks  []report.Block `json:"blocks" doc:"all of them, as they are to be"`
	Summary string         `json:"summary,omitempty" maxLength:"200" doc:"what was changed, in a few words, for undo"`
}

// Kind is blocks.
func (SetBlocks) Kind() string { return "blocks" }

func (e SetBlocks) prepare(ctx context.Context, of changing) (change, error) {
	return of.version(ctx, of.seen, e.Blocks, e.Summary)
}

// AddBlocks puts blocks at the end of a report, whatever was changed since it was seen.
type AddBlocks struct {
	Blocks  []report.Block `json:"blocks" doc:"those that are added at the end"`
	Summary string         `json:"summary,omitempty" maxLength:"200" doc:"what was added, in a few words, for undo"`
}

// Kind is add.
func (AddBlocks) Kind() string { return "add" }

func (e AddBlocks) prepare(ctx context.Context, of changing) (change, error) {
	blocks, err := blocksOf(of.at)
	if err != nil {
		return change{}, err
	}
	return of.version(ctx, of.is.Revision, added(blocks, e.Blocks), e.Summary)
}

// NameReport gives a report another name.
type NameReport struct {
	Name string `json:"name"`
}

// Kind is name.
func (NameReport) Kind() string { return "name" }

func (e NameReport) prepare(_ context.Context, of changing) (change, error) {
	name, err := reportName(e.Name)
	return change{of.seen, func(r *store.Report) (*store.ReportVersion, error) {
		r.Name = name
		return nil, nil
	}}, err
}

// UndoReport takes the last change of the blocks back.
type UndoReport struct{}

// Kind is undo.
func (UndoReport) Kind() string { return "undo" }

func (UndoReport) prepare(_ context.Context, of changing) (change, error) {
	return change{of.seen, func(r *store.Report) (*store.ReportVersion, error) {
		if r.Version <= 1 {
			return nil, desk.ErrNothing
		}
		r.Version--
		return nil, nil
	}}, nil
}

// RedoReport makes the change again that was undone last.
type RedoReport struct{}

// Kind is redo.
func (RedoReport) Kind() string { return "redo" }

func (RedoReport) prepare(_ context.Context, of changing) (change, error) {
	return change{of.seen, func(r *store.Report) (*store.ReportVersion, error) {
		if r.Version >= r.Newest {
			return nil, desk.ErrNothing
		}
		r.Version++
		return nil, nil
	}}, nil
}

// ChangeReport changes a report that is still as it was seen; else it fails with desk.ErrConflict, and nothing is changed.
func (k *Keeper) ChangeReport(ctx context.Context, study, id int64, c ReportChange) (made ReportInfo, err error) {
	for range 5 {
		// What is added goes to the end, whatever was changed in the meantime.
		made, err = k.changeReport(ctx, study, id, c)
		if _, adds := c.ReportEdit.(AddBlocks); !adds || !errors.Is(err, desk.ErrConflict) {
			break
		}
	}
	return made, err
}

func (k *Keeper) changeReport(ctx context.Context, study, id int64, c ReportChange) (ReportInfo, error) {
	is, at, err := k.reportOf(ctx, study, id)
	if err != nil {
		return ReportInfo{}, err
	}
	to, err := c.prepare(ctx, changing{k, study, is, at, c.Revision})
	if err != nil {
		return ReportInfo{}, err
	}
	r, err := k.store.ChangeReport(ctx, id, to.on, to.make)
	if err == nil {
		k.desk.Events.Send(desk.Event{Kind: "reports", Study: study})
	}
	return reportInfo(r), err
}
