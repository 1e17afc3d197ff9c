package desk

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math"
	"time"

	"aftermath/internal/backup"
	"aftermath/internal/desk/intake"
)

// Backup writes a study, or with 0 all that are not deleted, as they are at one moment, with all that belongs to them.
func (d *Desk) Backup(ctx context.Context, study int64, to io.Writer) error {
	var studies []int64
	if study != 0 {
		studies = []int64{study}
	}
	return d.store.Backup(ctx, studies, to, func(done, total int) { d.progress("Backing up:", done, total) })
}

// Restore brings in the studies of a back-up, beside those that there are: all of them or none. A study whose name is taken
// gets another one. The file is looked through first, and what is damaged in it is said.
func (d *Desk) Restore(ctx context.Context, path string) ([]Record, error) {
	most, err := d.mostRestored()
	if err != nil {
		return nil, err
	}
	from, err := backup.Open(ctx, path, most)
	if err != nil {
		return nil, fmt.Errorf("%w; nothing was restored", err)
	}
	defer from.Close()
	size := int64(0)
	for _, p := range from.Parts {
		size += p.Bytes
	}
	if err := d.roomFor(intake.Source{Size: size}); err != nil {
		return nil, err
	}
	given := map[string]bool{}
	name := func(wanted string) (string, error) {
		wanted, err := studyName(wanted)
		if err != nil {
			return "", err
		}
		name, err := d.FreeName(ctx, wanted)
		for n := 2; err == nil && given[name]; n++ {
			name, err = d.FreeName(ctx, fmt.Sprintf("%s (%d)", wanted, n))
		}
		given[name] = true
		return name, err
	}
	ids, err := d.store.Restore(ctx, from, name, func(done, total int) { d.progress("Restoring:", done, total) })
	if err != nil {
		return nil, err
	}
	d.Events.Send(Event{Kind: "studies"})
	var out []Record
	for _, id := range ids {
		r, err := d.Record(ctx, id)
		if err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	return out, nil
}

// unbounded is how much a back-up may unpack to where it is not known how much room there is, in bytes.
const unbounded = 1 << 40

// mostRestored is how many bytes a back-up may unpack to.
func (d *Desk) mostRestored() (int64, error) {
	if d.MostRestored > 0 {
		return d.MostRestored, nil
	}
	if d.Free == nil {
		return unbounded, nil
	}
	free, err := d.Free()
	return int64(min(free, unbounded)), err
}

// Verified is what came of reading a back-up back.
type Verified struct {
	Studies int    // in it
	Study   string // the one that was restored on trial; empty where there is none
	Figures int    // of that one, which are the same as when it was backed up
}

// Verify reads a back-up back: all of it by its checksums, and one study, which pick chooses, by restoring it apart from all
// others, opening its questions and holding their figures against those that the back-up has of them.
func (d *Desk) Verify(ctx context.Context, path string, pick func(studies []backup.Study) int) (out Verified, err error) {
	from, err := backup.Open(ctx, path, math.MaxInt64)
	if err != nil {
		return out, err
	}
	defer from.Close()
	out.Studies = len(from.Studies)
	if out.Studies == 0 {
		return out, nil
	}
	study := from.Studies[pick(from.Studies)]
	out.Study = study.Name
	apart, leave, err := d.store.Apart(ctx)
	if err != nil {
		return out, err
	}
	defer func() { err = errors.Join(err, leave()) }()
	keep := func(name string) (string, error) { return name, nil }
	ids, err := apart.Restore(ctx, from.Only(study), keep, func(int, int) {})
	if err != nil {
		return out, err
	}
	trial := New(apart)
	r, err := trial.Record(ctx, ids[0])
	if err != nil {
		return out, err
	}
	if r.Rows.Len() != study.Respondents || r.Revision != study.Revision {
		return out, fmt.Errorf("%w: %q was backed up with %d respondents and comes back with %d", backup.ErrBackup, study.Name, study.Respondents, r.Rows.Len())
	}
	out.Figures = 1
	for _, q := range r.Questions {
		before := q.Figures // as they were when it was backed up; nil where nobody had asked for them
		opened, err := trial.Question(ctx, q.ID)
		if err != nil {
			return out, fmt.Errorf("%q of %q can't be opened: %w", q.Name, study.Name, err)
		}
		if now := figures(opened.State()); before != nil && *now != *before {
			return out, fmt.Errorf("%w: %q of %q was backed up with %d coded of %d answers and comes back with %d of %d",
				backup.ErrBackup, q.Name, study.Name, before.Coded, before.Answered, now.Coded, now.Answered)
		} else if before != nil {
			out.Figures += 2
		}
		opened.close() // one is in memory at a time
	}
	return out, nil
}

// BackedUp says how the last back-up went that was made on schedule.
type BackedUp struct {
	Folder  string    `json:"folder,omitempty" doc:"where back-ups are kept; none where none are made by themselves"`
	At      time.Time `json:"at" doc:"when the last one was made, or tried"`
	Problem string    `json:"problem,omitempty" doc:"why it could not be made"`
	Read    string    `json:"read,omitempty" doc:"what came of reading it back, in words"`
	// Whole says that it was read back, and is what it should be.
	Whole bool `json:"whole,omitempty" doc:"it was read back, and is whole"`
}

// SetBackedUp takes note of how the last back-up went.
func (d *Desk) SetBackedUp(b BackedUp) {
	d.backedUp.Store(&b)
	d.Events.Send(Event{Kind: "studies"})
}

// BackedUp is how the last back-up went.
func (d *Desk) BackedUp() BackedUp {
	if b := d.backedUp.Load(); b != nil {
		return *b
	}
	return BackedUp{}
}
