package desk

import (
	"context"
	"fmt"
	"io"
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
	from, err := backup.Open(ctx, path)
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
		name, err := d.freeName(ctx, wanted)
		for n := 2; err == nil && given[name]; n++ {
			name, err = d.freeName(ctx, fmt.Sprintf("%s (%d)", wanted, n))
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

// BackedUp says how the last back-up went that was made on schedule.
type BackedUp struct {
	Folder  string    `json:"folder,omitempty" doc:"where back-ups are kept; none where none are made by themselves"`
	At      time.Time `json:"at" doc:"when the last one was made, or tried"`
	Problem string    `json:"problem,omitempty" doc:"why it could not be made"`
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
