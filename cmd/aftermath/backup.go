package main

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"aftermath/internal/backup"
	"aftermath/internal/desk"
	"aftermath/internal/store"
)

const backupEnding = ".aftermath.zip"

func backupCommand() *cobra.Command {
	var at database
	var study, out string
	var people bool
	c := &cobra.Command{
		Use:   "backup",
		Short: "Write a back-up of all studies, of one, or of the accounts; a server may run and people may work meanwhile",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if people && study != "" {
				return errors.New("--accounts and --study do not go together: accounts have a back-up of their own")
			}
			return at.open(c.Context(), func(s *store.Store) error {
				d := desk.New(s)
				write := func(w io.Writer) error { return s.BackupAccounts(c.Context(), w) }
				if !people {
					id, err := studyOf(c.Context(), d, study)
					if err != nil {
						return err
					}
					if all, err := d.Studies(c.Context(), false); err != nil || len(all) == 0 {
						return errors.Join(err, fmt.Errorf("there are no studies in %s; nothing was written", at.where()))
					}
					write = func(w io.Writer) error { return d.Backup(c.Context(), id, w) }
				}
				made, err := readBack(c.Context(), out, write)
				if err == nil && people {
					fmt.Fprintf(c.OutOrStdout(), "backed up the accounts of %s\n", at.where())
				} else if err == nil {
					fmt.Fprintf(c.OutOrStdout(), "backed up %s of %s\n", plural(made, "study", "studies"), at.where())
				}
				return err
			})
		},
	}
	at.flags(c)
	c.Flags().StringVar(&study, "study", "", "name or number of the study (default: all that are not deleted)")
	c.Flags().BoolVar(&people, "accounts", false, "accounts, what is shared with them, and the house style, in the place of studies")
	c.Flags().StringVar(&out, "out", "", "file to write, "+backupEnding+" by custom; it holds what people wrote, and only you can read it")
	_ = c.MarkFlagRequired("out")
	return c
}

// readBack writes a back-up and reads it back before it takes its name; it gives how many studies are in it.
func readBack(ctx context.Context, path string, write func(w io.Writer) error) (studies int, err error) {
	return studies, writeChecked(0o600, path, write, func(written string) error {
		a, err := backup.Open(ctx, written, math.MaxInt64)
		if err != nil {
			return fmt.Errorf("the back-up can't be read back; none was kept: %w", err)
		}
		studies = len(a.Studies)
		return a.Close()
	})
}

// studyOf finds a study by its name or number; 0 where none is called for.
func studyOf(ctx context.Context, d *desk.Desk, called string) (int64, error) {
	if called == "" {
		return 0, nil
	}
	all, err := d.Studies(ctx, false)
	if err != nil {
		return 0, err
	}
	var ids, names []string
	for _, r := range all {
		ids, names = append(ids, strconv.FormatInt(r.ID, 10)), append(names, r.Name)
	}
	id, err := chosen("study", called, ids, names)
	if err != nil {
		return 0, err
	}
	return strconv.ParseInt(id, 10, 64)
}

func restoreCommand() *cobra.Command {
	var at database
	var most int
	c := &cobra.Command{
		Use:   "restore FILE",
		Short: "Bring in the studies of a back-up, beside those that there are, or its accounts, where there are none; all or, if anything is wrong with it, nothing",
		Args:  cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return at.open(c.Context(), func(s *store.Store) error {
				if a, err := backup.Open(c.Context(), args[0], math.MaxInt64); err == nil && a.Accounts {
					defer a.Close()
					return restoreAccounts(c, s, a)
				} else if err == nil {
					_ = a.Close()
				}
				d := desk.New(s)
				d.MostRestored = int64(most) << 20
				restored, err := d.Restore(c.Context(), args[0])
				if err != nil {
					return err
				}
				for _, r := range restored {
					fmt.Fprintf(c.OutOrStdout(), "restored study %d, %q, with %d respondents\n", r.ID, r.Name, r.Rows.Len())
				}
				return nil
			})
		},
	}
	c.Flags().IntVar(&most, "restore-max", 0, "MiB that the back-up may unpack to (default: no bound but the room on the disk)")
	at.flags(c)
	return c
}

func restoreAccounts(c *cobra.Command, s *store.Store, from *backup.Archive) error {
	n, left, err := s.RestoreAccounts(c.Context(), from)
	if errors.Is(err, store.ErrAccounts) {
		return errors.New("there are accounts here already, so that none were restored; those of a back-up come in only where there is none")
	}
	if err != nil {
		return err
	}
	fmt.Fprintf(c.OutOrStdout(), "restored %d accounts\n", n)
	for _, what := range left {
		fmt.Fprintf(c.OutOrStdout(), "not shared, as no study of that name is here, or several: %s\n", what)
	}
	return nil
}

// schedule is when back-ups of all studies are made by themselves, and where they are kept.
type schedule struct {
	dir   string
	every time.Duration
	keep  int
}

func (o *schedule) flags(c *cobra.Command) {
	c.Flags().StringVar(&o.dir, "backup-dir", "", "folder for back-ups of all studies, made while the server runs (default: none are made)")
	c.Flags().DurationVar(&o.every, "backup-every", 24*time.Hour, "how often a back-up is made")
	c.Flags().IntVar(&o.keep, "backup-keep", 14, "how many back-ups are kept: the newest")
}

func (o *schedule) check() error {
	switch {
	case o.dir == "":
		return nil
	case o.every < time.Minute:
		return fmt.Errorf("--backup-every is %v; it must be a minute or more", o.every)
	case o.keep < 1:
		return fmt.Errorf("--backup-keep is %d; at least one is kept", o.keep)
	}
	return os.MkdirAll(o.dir, 0o700)
}

// logScheduled adds to the log what became of a back-up. A server that is ending adds it too: the back-up is there.
func logScheduled(ctx context.Context, s *store.Store, detail string) {
	ctx, done := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
	defer done()
	if err := s.AddLog(ctx, store.LogEntry{Who: "the server", Action: "Back up on schedule", Detail: detail}); err != nil {
		slog.Error("the log can't be added to", "error", err)
	}
}

// run makes back-ups until the context ends: the first when the newest that there is has become old enough.
func (o *schedule) run(ctx context.Context, d *desk.Desk, s *store.Store) {
	if o.dir == "" {
		return
	}
	left, _ := filepath.Glob(filepath.Join(o.dir, ".aftermath-*")) // of a server that was killed while it wrote
	for _, half := range left {
		_ = os.Remove(half)
	}
	pause := time.Duration(0)
	if last, ok := o.last(time.Now()); ok {
		d.SetBackedUp(desk.BackedUp{Folder: o.dir, At: last})
		pause = max(0, o.every-time.Since(last))
	}
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(pause):
		}
		if all, err := d.Studies(ctx, false); err == nil && len(all) == 0 {
			pause = soonAgain // there is nothing yet
			continue
		}
		pause = o.every
		now := time.Now()
		made, err := o.make(ctx, d, s, now)
		switch {
		case ctx.Err() != nil:
			return
		case err != nil:
			slog.Error("the back-up on schedule", "folder", o.dir, "error", err)
			made.Problem = err.Error()
			if !errors.Is(err, errUnproved) { // else files would pile up: one was written, and the next is made when it is due
				pause = min(o.every, soonAgain)
			}
		}
		d.SetBackedUp(made)
		logScheduled(ctx, s, cmp.Or(made.Problem, made.Read))
		if err != nil {
			continue
		}
		for _, old := range o.tooMany() {
			if err := errors.Join(os.Remove(old), removeIfThere(accountsBeside(old))); err != nil {
				slog.Error("an old back-up can't be deleted", "error", err)
			}
		}
	}
}

// soonAgain is how long it takes until a back-up is tried again that could not be made, or had nothing in it.
const soonAgain = 10 * time.Minute

// errUnproved says that a back-up of the studies was written and is whole, and something after that failed.
var errUnproved = errors.New("the back-up was written")

// make makes a back-up of all studies and one of the accounts, and reads them back. A file that can't be read back is not kept.
func (o *schedule) make(ctx context.Context, d *desk.Desk, s *store.Store, now time.Time) (desk.BackedUp, error) {
	out := desk.BackedUp{Folder: o.dir, At: now}
	path := filepath.Join(o.dir, now.UTC().Format("aftermath-"+momentLayout)+backupEnding)
	n, err := readBack(ctx, path, func(w io.Writer) error { return d.Backup(ctx, 0, w) })
	if err != nil {
		return out, err
	}
	if _, err := readBack(ctx, accountsBeside(path), func(w io.Writer) error { return s.BackupAccounts(ctx, w) }); err != nil {
		return out, fmt.Errorf("%w, and that of the accounts failed: %w", errUnproved, err)
	}
	v, err := d.Verify(ctx, path, chosenForTrial)
	if err != nil {
		return out, fmt.Errorf("%w to %s, and restoring it on trial failed: %w", errUnproved, path, err)
	}
	out.Whole = true
	out.Read = plural(n, "study", "studies") + ", read back whole"
	if v.Study != "" {
		out.Read += fmt.Sprintf("; %q was restored on trial, and its %d figures are the same", v.Study, v.Figures)
	}
	return out, nil
}

// maxTrial is how many respondents a study has at most that is restored on trial, where there is one so small.
const maxTrial = 200_000

// chosenForTrial is which of some studies is restored on trial: any of those that are not large, else the smallest.
func chosenForTrial(studies []backup.Study) int {
	var small []int
	smallest := 0
	for i, s := range studies {
		if s.Respondents <= maxTrial {
			small = append(small, i)
		}
		if s.Respondents < studies[smallest].Respondents {
			smallest = i
		}
	}
	if len(small) == 0 {
		return smallest
	}
	return small[rand.IntN(len(small))]
}

// accountsBeside is where the accounts are backed up that belong to a back-up of studies.
func accountsBeside(path string) string {
	return strings.TrimSuffix(path, backupEnding) + ".accounts" + backupEnding
}

func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

func removeIfThere(path string) error {
	if err := os.Remove(path); !errors.Is(err, os.ErrNotExist) {
		return err
	}
	return nil
}

const momentLayout = "20060102T150405Z"

// last is when the newest back-up was made, by its name, if one was. One that says that it is of later than now says nothing: a clock
// was wrong, then or now.
func (o *schedule) last(now time.Time) (time.Time, bool) {
	made := o.made()
	for i := len(made) - 1; i >= 0; i-- {
		if at := o.moment(made[i]); !at.After(now) {
			return at, true
		}
	}
	return time.Time{}, false
}

// moment is when a back-up was made, by its name; zero where that does not say it.
func (o *schedule) moment(path string) time.Time {
	name := strings.TrimSuffix(strings.TrimPrefix(filepath.Base(path), "aftermath-"), backupEnding)
	at, err := time.Parse(momentLayout, name)
	if err != nil {
		return time.Time{}
	}
	return at
}

// made are the back-ups in the folder that were made on schedule, the oldest first: their names say when.
func (o *schedule) made() (paths []string) {
	all, _ := filepath.Glob(filepath.Join(o.dir, "aftermath-*"+backupEnding))
	for _, path := range all {
		if !o.moment(path).IsZero() {
			paths = append(paths, path)
		}
	}
	slices.Sort(paths)
	return paths
}

func (o *schedule) tooMany() []string {
	made := o.made()
	return made[:max(0, len(made)-o.keep)]
}
