package main

import (
	"cmp"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"runtime"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"aftermath/internal/accounts"
	"aftermath/internal/api"
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
			served, err := servedBy(&at, listen)
			if err != nil {
				return err
			}
			e.look(c.Context(), &at, served)
			if e.bad > 0 {
				return fmt.Errorf("%d of %d are not well", e.bad, e.all)
			}
			return nil
		},
	}
	at.flags(c)
	c.Flags().StringVar(&listen, "listen", "", "address that the server is to serve on (default: that of the service, where one is set up; else 127.0.0.1:8420)")
	return c
}

// served is the server that is looked at.
type served struct {
	*serveOptions
	service bool // it is the one of the service, which is to run
}

// servedBy finds out which server and which database are looked at, and with which options the server runs.
func servedBy(at *database, listen string) (out served, err error) {
	given := *at != database{}
	if err := at.resolve(); err != nil {
		return out, err
	}
	out.serveOptions = &serveOptions{}
	var arguments []string
	if s, ours, err := theService(); err != nil {
		return out, err
	} else if out.service = ours && !given && listen == ""; out.service {
		options, err := variableIn(s.Environment, optionsVariable)
		if err != nil {
			return out, err
		}
		arguments = strings.Fields(options)
	}
	flags := &cobra.Command{}
	out.flags(flags)
	if err := flags.ParseFlags(arguments); err != nil {
		return out, fmt.Errorf("the options of the service can't be read: %w", err)
	}
	out.listen = cmp.Or(listen, out.listen)
	return out, nil
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

func (e *examination) look(ctx context.Context, at *database, of served) {
	e.say("program", fmt.Sprintf("%s, %s/%s, %d processors", runtime.Version(), runtime.GOOS, runtime.GOARCH, runtime.NumCPU()), nil)
	what := "a server at " + of.listen
	if of.service {
		what = fmt.Sprintf("the service at %s, as %s says", of.listen, installedFile())
	}
	e.say("looked at", what+"; its data: "+at.where(), nil)
	e.port(of)
	e.certificate(of.secure.cert, of.secure.key)
	if at.url == "" {
		version, err := pg.Installed(at.data)
		e.say("PostgreSQL", version, err)
		e.rights(at.data, of.service)
		free, err := pg.FreeIn(at.data)
		if err == nil && free < pg.LowSpace {
			err = fmt.Errorf("only %d MB are left on the disk of the data", free>>20)
		}
		e.say("space", fmt.Sprintf("%d MB are left", free>>20), err)
		if err != nil {
			return
		}
		if _, err := os.Stat(at.data); errors.Is(err, os.ErrNotExist) {
			e.say("database", "there is none yet; it is made when the server starts first", nil)
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
		people, admins, err := s.CountUsers(ctx)
		if err == nil {
			err = accounts.New(s).Door(ctx, of.reachable())
		}
		e.say("accounts", fmt.Sprintf("%d, %d of them open ones of administrators", people, admins), err)
		return nil
	})
	if err != nil {
		e.say("database", "", err)
	}
	e.backups(of.backups)
}

// certificate looks at the one that the server serves with, where it does.
func (e *examination) certificate(cert, key string) {
	if cert == "" {
		return
	}
	c := certificate{cert: cert, key: key}
	ends, err := c.state()
	e.say("certificate", fmt.Sprintf("%s, good until %s", cert, ends.Format(time.DateOnly)), err)
}

// backups looks whether those on schedule are made.
func (e *examination) backups(o schedule) {
	if o.dir == "" {
		return
	}
	last, ok := o.last(time.Now())
	var err error
	switch {
	case !ok:
		err = fmt.Errorf("there is none in %s yet", o.dir)
	case time.Since(last) > 2*o.every:
		err = fmt.Errorf("the last one in %s is of %s, and one is due every %v", o.dir, last.Format(time.DateTime), o.every)
	}
	e.say("back-ups", "the last one is of "+last.Format(time.DateTime), err)
}

// port looks who answers where the server is to serve.
func (e *examination) port(of served) {
	l, err := net.Listen("tcp", of.listen)
	if err == nil {
		err = l.Close()
		if of.service {
			err = errors.Join(err, fmt.Errorf("nobody answers at %s: the service does not run (systemctl status aftermath)", of.listen))
		}
		e.say("port", of.listen+" is free", err)
		return
	}
	scheme := "http"
	if of.secure.cert != "" {
		scheme = "https"
	}
	_, port, _ := net.SplitHostPort(of.listen)
	client := http.Client{Timeout: 5 * time.Second, Transport: &http.Transport{TLSClientConfig: &tls.Config{
		InsecureSkipVerify: true, // it is asked whether it is there, and told nothing
	}}}
	reply, asked := client.Get(scheme + "://" + net.JoinHostPort("127.0.0.1", port) + "/healthz")
	if asked != nil {
		e.say("port", "", fmt.Errorf("%w, and no Aftermath answers there: %w", err, asked))
		return
	}
	defer reply.Body.Close()
	if reply.Header.Get(api.RequestHeader) == "" {
		e.say("port", "", fmt.Errorf("another program listens on %s", of.listen))
		return
	}
	e.say("port", "Aftermath answers at "+of.listen, nil)
}

// rights looks whether we can work in the folder of the data, and who does.
func (e *examination) rights(dir string, toRun bool) {
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
	case toRun:
		e.say("folder", "", errors.Join(held.Close(), errors.New("no server runs on it, and the service is to run")))
	default:
		e.say("folder", "no server runs on it", held.Close())
	}
}
