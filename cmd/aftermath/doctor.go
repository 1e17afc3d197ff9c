package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"os"
	"runtime"
	"time"

	"github.com/spf13/cobra"

	"aftermath/internal/folder"
	"aftermath/internal/pg"
	"aftermath/internal/store"
)

// doctorCommand looks at all that the server needs, and says what is wrong.
func doctorCommand() *cobra.Command {
	var at database
	var listen string
	c := &cobra.Command{
		Use: "doctor", Short: "Look at versions, space, rights, ports, the database and the clock, and say what is wrong", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			e := examination{to: c.OutOrStdout()}
			e.look(c.Context(), at, listen)
			if e.bad > 0 {
				return fmt.Errorf("%d of %d are not well", e.bad, e.all)
			}
			return nil
		},
	}
	at.flags(c)
	c.Flags().StringVar(&listen, "listen", "127.0.0.1:8420", "address that the server is to serve on")
	return c
}

type examination struct {
	to       io.Writer
	all, bad int
}

// say writes what was found, or what is wrong.
func (e *examination) say(what, found string, err error) {
	e.all++
	mark := "ok "
	if err != nil {
		mark, found = "BAD", err.Error()
		e.bad++
	}
	fmt.Fprintf(e.to, "%s  %-12s %s\n", mark, what, found)
}

func (e *examination) look(ctx context.Context, at database, listen string) {
	e.say("program", fmt.Sprintf("%s, %s/%s, %d processors", runtime.Version(), runtime.GOOS, runtime.GOARCH, runtime.NumCPU()), nil)
	e.port(listen)
	if at.url == "" {
		dir, err := dataFolder(at.data)
		e.say("data", dir, err)
		if err != nil {
			return
		}
		version, err := pg.Installed(dir)
		e.say("PostgreSQL", version, err)
		e.rights(dir)
		free, err := pg.FreeIn(dir)
		if err == nil && free < pg.LowSpace {
			err = fmt.Errorf("only %d MB are left on the disk of the data", free>>20)
		}
		e.say("space", fmt.Sprintf("%d MB are left", free>>20), err)
		if err != nil {
			return
		}
	}
	begun := time.Now()
	err := at.open(ctx, func(s *store.Store) error {
		e.say("database", fmt.Sprintf("it answers; it took %v to reach", time.Since(begun).Round(time.Millisecond)), nil)
		now, err := s.Now(ctx)
		if off := time.Since(now).Abs(); err == nil && off > 5*time.Second {
			err = fmt.Errorf("the database's clock and ours are %v apart", off.Round(time.Second))
		}
		e.say("clock", time.Now().Format("2006-01-02 15:04:05 MST"), err)
		studies, err := s.Studies(ctx, false)
		e.say("studies", fmt.Sprint(len(studies)), err)
		return nil
	})
	if err != nil {
		e.say("database", "", err)
	}
}

func (e *examination) port(listen string) {
	l, err := net.Listen("tcp", listen)
	if err == nil {
		e.say("port", listen+" is free", l.Close())
		return
	}
	conn, dialled := net.DialTimeout("tcp", listen, time.Second)
	if dialled == nil {
		_ = conn.Close()
		e.say("port", listen+" is in use: by Aftermath, if it runs", nil)
		return
	}
	e.say("port", "", err)
}

// rights looks whether we can work in the folder of the data, and who does.
func (e *examination) rights(dir string) {
	if _, err := os.Stat(dir); errors.Is(err, os.ErrNotExist) {
		e.say("folder", "it is not there yet; it is made when the server starts first", nil)
		return
	}
	held, err := folder.Hold(dir)
	switch {
	case errors.Is(err, folder.ErrHeld):
		e.say("folder", err.Error()+": the server runs", nil)
	case err != nil:
		e.say("folder", "", err)
	default:
		e.say("folder", "no server runs on it", held.Close())
	}
}
