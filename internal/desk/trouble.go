package desk

import (
	"context"
	"errors"
	"fmt"
	"time"

	"aftermath/internal/desk/intake"
)

// Trouble is what is wrong with the database.
type Trouble struct {
	Away time.Time // since when it can't be reached; zero while it can
	Text string    // what is known of why, or what will be a problem soon
}

// SetTrouble takes note of what is wrong with the database, or with the zero value that nothing is, and tells all who listen.
func (d *Desk) SetTrouble(t Trouble) {
	d.trouble.Store(&t)
	d.Events.Send(t.event())
}

// Trouble is what is wrong with the database, as an event.
func (d *Desk) Trouble() (e Event, any bool) {
	t := d.trouble.Load()
	if t == nil || *t == (Trouble{}) {
		return Event{}, false
	}
	return t.event(), true
}

func (t Trouble) event() Event {
	e := Event{Kind: "database", What: t.Text}
	if !t.Away.IsZero() {
		e.Since = &t.Away
		if e.What == "" {
			e.What = "It is being started again."
		}
	}
	return e
}

// A file takes up to so many times its size in the database, and leaves so much free for everything else.
const (
	sizeStored  = 3
	spaceSpared = 256 << 20 // bytes
)

// ErrRoom says that there is not room enough for what is to come in.
var ErrRoom = errors.New("there is not enough room")

// roomFor refuses a file that would fill the disk of the database, where it is known.
func (d *Desk) roomFor(from intake.Source) error {
	if d.Free == nil {
		return nil
	}
	free, err := d.Free()
	if err != nil {
		return err
	}
	if need := uint64(from.Size)*sizeStored + spaceSpared; free < need {
		return fmt.Errorf(
			"%w: the disk with the data has %d MB left, and this file may take %d MB; nothing was loaded; make room, and load it again",
			ErrRoom, free>>20, need>>20,
		)
	}
	return nil
}

// Ready says whether the database answers.
func (d *Desk) Ready(ctx context.Context) error { return d.store.Ping(ctx) }
