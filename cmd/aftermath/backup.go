package main

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"aftermath/internal/desk"
	"aftermath/internal/store"
)

const backupEnding = ".aftermath.zip"

// database is where studies are kept.
type database struct{ url, data string }

func (o *database) flags(c *cobra.Command) {
	c.Flags().StringVar(&o.url, "database", "", "URL of a PostgreSQL server to use instead of a private one")
	c.Flags().StringVar(
		&o.data, "data", "", "folder of the private PostgreSQL (default: in the user's data directory; for root /var/lib/aftermath)",
	)
}

// use works on the studies that are kept, also while a server runs on them.
func (o *database) use(ctx context.Context, work func(d *desk.Desk) error) error {
	return o.open(ctx, func(s *store.Store) error { return work(desk.New(s)) })
}

func backupCommand() *cobra.Command {
	var at database
	var study, out string
	c := &cobra.Command{
		Use:   "backup",
		Short: "Write a back-up of all studies, or of one; a server may run and people may work meanwhile",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			return at.use(c.Context(), func(d *desk.Desk) error {
				id, err := studyOf(c.Context(), d, study)
				if err != nil {
					return err
				}
				return writeFor(0o600, out, func(w io.Writer) error { return d.Backup(c.Context(), id, w) })
			})
		},
	}
	at.flags(c)
	c.Flags().StringVar(&study, "study", "", "name or number of the study (default: all that are not deleted)")
	c.Flags().StringVar(&out, "out", "", "file to write, "+backupEnding+" by custom; it holds what people wrote, and only you can read it")
	_ = c.MarkFlagRequired("out")
	return c
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
	c := &cobra.Command{
		Use:   "restore FILE",
		Short: "Bring in the studies of a back-up, beside those that there are; all of them or, if anything is wrong with it, none",
		Args:  cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return at.use(c.Context(), func(d *desk.Desk) error {
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
	at.flags(c)
	return c
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

// run makes back-ups until the context ends: the first when the newest that there is has become old enough.
func (o *schedule) run(ctx context.Context, d *desk.Desk) {
	if o.dir == "" {
		return
	}
	left, _ := filepath.Glob(filepath.Join(o.dir, ".aftermath-*")) // of a server that was killed while it wrote
	for _, half := range left {
		_ = os.Remove(half)
	}
	pause := time.Duration(0)
	if made := o.made(); len(made) > 0 {
		if info, err := os.Stat(made[len(made)-1]); err == nil {
			d.SetBackedUp(desk.BackedUp{Folder: o.dir, At: info.ModTime()})
			pause = max(0, o.every-time.Since(info.ModTime()))
		}
	}
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(pause):
		}
		now := time.Now()
		path := filepath.Join(o.dir, now.UTC().Format("aftermath-20060102T150405Z")+backupEnding)
		err := writeFor(0o600, path, func(w io.Writer) error { return d.Backup(ctx, 0, w) })
		switch {
		case ctx.Err() != nil:
			return
		case err != nil:
			slog.Error("no back-up was made", "path", path, "error", err)
			d.SetBackedUp(desk.BackedUp{Folder: o.dir, At: now, Problem: err.Error()})
			pause = min(o.every, 10*time.Minute)
			continue
		}
		d.SetBackedUp(desk.BackedUp{Folder: o.dir, At: now})
		for _, old := range o.tooMany() {
			if err := os.Remove(old); err != nil {
				slog.Error("an old back-up can't be deleted", "error", err)
			}
		}
		pause = o.every
	}
}

// made are the back-ups in the folder that were made on schedule, the oldest first: their names say when.
func (o *schedule) made() (paths []string) {
	all, _ := filepath.Glob(filepath.Join(o.dir, "aftermath-*"+backupEnding))
	for _, path := range all {
		moment := strings.TrimSuffix(strings.TrimPrefix(filepath.Base(path), "aftermath-"), backupEnding)
		if _, err := time.Parse("20060102T150405Z", moment); err == nil {
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
