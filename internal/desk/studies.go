package desk

import (
	"context"
	"fmt"
	"time"
	"unicode/utf8"

	"aftermath/core/survey"
	"aftermath/internal/desk/state"
	"aftermath/internal/store"
)

// Record is a study as lists show it.
type Record struct {
	state.Setup
	Created   time.Time
	Changed   time.Time        // when it, or one of its questions, was last edited
	Until     *time.Time       // of a deleted one: when it goes for good
	Questions []QuestionRecord // of the columns that are open-ended now
}

// QuestionRecord is a question as lists show it.
type QuestionRecord struct {
	ID      int64
	Name    string
	Changed *time.Time     // when it was last edited; nil if never
	Figures *store.Figures // nil where they were not worked out since it, or its study, was changed
}

// Studies lists the studies that are there, or those that are deleted and can be restored, the newest first.
func (d *Desk) Studies(ctx context.Context, deleted bool) ([]Record, error) {
	all, err := d.store.Studies(ctx, deleted)
	if err != nil {
		return nil, err
	}
	questions, err := d.store.Questions(ctx, 0)
	if err != nil {
		return nil, err
	}
	of := map[int64][]store.Question{}
	for _, q := range questions {
		of[q.StudyID] = append(of[q.StudyID], q)
	}
	out := []Record{}
	for _, s := range all {
		out = append(out, d.record(s, of[s.ID]))
	}
	return out, nil
}

// Record gives one study as lists show it.
func (d *Desk) Record(ctx context.Context, id int64) (Record, error) {
	s, err := d.store.Study(ctx, id)
	if err != nil {
		return Record{}, err
	}
	questions, err := d.store.Questions(ctx, id)
	return d.record(s, questions), err
}

func (d *Desk) record(s store.Study, questions []store.Question) Record {
	out := Record{Setup: setupOf(s), Created: s.Created, Changed: s.Changed}
	if s.Deleted != nil {
		until := s.Deleted.Add(d.KeptAside)
		out.Until = &until
	}
	for _, q := range questions {
		// A column that is open-ended no longer keeps its question, out of sight, in case it becomes so again.
		if q.Column >= len(s.Columns) || s.Columns[q.Column].Role != survey.OpenEnded {
			continue
		}
		if f := q.Figures; f != nil && (f.Revision != q.Revision || f.StudyRevision != s.Revision) {
			q.Figures = nil
		}
		out.Questions = append(out.Questions, QuestionRecord{ID: q.ID, Name: s.Columns[q.Column].Name, Changed: q.Changed, Figures: q.Figures})
	}
	return out
}

// figures are the counts of a state for lists.
func figures(s *state.State) *store.Figures {
	return &store.Figures{
		Revision:      s.Revision,
		StudyRevision: s.Study.Revision,
		Answered:      s.Answered(),
		Coded:         int(s.Coding.Coded.GetCardinality()),
	}
}

// DeleteStudy puts a study aside for KeptAside, and forgets it.
func (d *Desk) DeleteStudy(ctx context.Context, id int64) error {
	mu := d.setup(id)
	if err := mu.Acquire(ctx, 1); err != nil {
		return err
	}
	defer mu.Release(1)
	if err := d.store.DeleteStudy(ctx, id); err != nil {
		return err
	}
	d.forgetStudy(id)
	d.Events.Send(Event{Kind: "studies", Study: id})
	return nil
}

// RestoreStudy brings back a deleted study as it was.
func (d *Desk) RestoreStudy(ctx context.Context, id int64) (Record, error) {
	if err := d.store.RestoreStudy(ctx, id); err != nil {
		return Record{}, err
	}
	d.Events.Send(Event{Kind: "studies", Study: id})
	return d.Record(ctx, id)
}

// PurgeStudy deletes a study for good that was deleted before.
func (d *Desk) PurgeStudy(ctx context.Context, id int64) error {
	n, err := d.store.Purge(ctx, id, 0)
	if err == nil && n == 0 {
		err = ErrNotFound
	}
	d.Events.Send(Event{Kind: "studies"})
	return err
}

// Purge deletes for good what was deleted longer ago than KeptAside.
func (d *Desk) Purge(ctx context.Context) error {
	n, err := d.store.Purge(ctx, 0, d.KeptAside)
	if n > 0 {
		d.Events.Send(Event{Kind: "studies"})
	}
	return err
}

// CopyStudy makes a second study of all that belongs to one, its history included.
func (d *Desk) CopyStudy(ctx context.Context, id int64) (Record, error) {
	mu := d.setup(id)
	if err := mu.Acquire(ctx, 1); err != nil {
		return Record{}, err
	}
	defer mu.Release(1)
	of, err := d.store.Study(ctx, id)
	if err != nil {
		return Record{}, err
	}
	name, err := d.FreeName(ctx, "Copy of "+of.Name)
	if err != nil {
		return Record{}, err
	}
	copied, err := d.store.CopyStudy(ctx, id, name)
	if err != nil {
		return Record{}, err
	}
	d.Events.Send(Event{Kind: "studies"})
	return d.Record(ctx, copied.ID)
}

// FreeName gives a name that no study has: the wanted one, or that with a number.
func (d *Desk) FreeName(ctx context.Context, wanted string) (string, error) {
	all, err := d.store.Studies(ctx, false)
	if err != nil {
		return "", err
	}
	taken := map[string]bool{}
	for _, s := range all {
		taken[s.Name] = true
	}
	name := wanted
	for n := 2; taken[name]; n++ {
		name = fmt.Sprintf("%s (%d)", wanted, n)
	}
	return name, nil
}

// studyName checks a name that is given to a study.
func studyName(name string) (string, error) {
	name = state.OneLine(name)
	switch {
	case name == "":
		return "", fmt.Errorf("%w: the study needs a name", state.ErrRequest)
	case utf8.RuneCountInString(name) > 200:
		return "", fmt.Errorf("%w: the name of a study has at most 200 letters", state.ErrRequest)
	}
	return name, nil
}
