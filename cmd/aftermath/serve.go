package main

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"sync"
	"time"

	"github.com/spf13/cobra"

	"aftermath/core/words"
	"aftermath/internal/api"
	"aftermath/internal/demo"
	"aftermath/internal/desk"
	"aftermath/internal/folder"
	"aftermath/internal/pg"
	"aftermath/internal/store"
	"aftermath/ui"
)

type serveOptions struct {
	database
	listen       string
	hosts        []string
	privateFetch bool
	backups      schedule
	keepDeleted  time.Duration
}

func (o *serveOptions) flags(c *cobra.Command) {
	c.Flags().StringVar(
		&o.listen, "listen", "127.0.0.1:8420", "address to serve on; beyond this machine only with AFTERMATH_PASSWORD set",
	)
	o.database.flags(c)
	o.backups.flags(c)
	c.Flags().DurationVar(&o.keepDeleted, "keep-deleted", 30*24*time.Hour, "how long a deleted study can be restored")
	c.Flags().BoolVar(&o.privateFetch, "allow-private-fetch", false, "follow links to addresses inside this machine and network too")
	c.Flags().StringSliceVar(
		&o.hosts, "host", []string{"localhost", "127.0.0.1", "::1"}, "names that browsers may reach the server by",
	)
}

func serveCommand() *cobra.Command {
	var o serveOptions
	c := &cobra.Command{Use: "serve", Short: "Serve the application", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error { return serve(c.Context(), o, nil) }}
	o.flags(c)
	return c
}

func demoCommand() *cobra.Command {
	var o serveOptions
	c := &cobra.Command{Use: "demo", Short: "Serve the application with the demo study", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error { return serve(c.Context(), o, loadDemo) }}
	o.flags(c)
	var out string
	var seed uint64
	var n int
	data := &cobra.Command{Use: "data", Short: "Write the demo's data and its truth file as CSV", Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error { return demo.Write(out, demo.Make(seed, n)) }}
	data.Flags().StringVar(&out, "out", "", "folder to write into")
	data.Flags().Uint64Var(&seed, "seed", demo.Seed, "seed: the same seed gives the same data")
	data.Flags().IntVar(&n, "respondents", demo.Respondents, "how many respondents")
	_ = data.MarkFlagRequired("out")
	c.AddCommand(data)
	return c
}

// serve runs until the context ends, then stops in order.
func serve(ctx context.Context, o serveOptions, prepare func(context.Context, *desk.Desk) error) (err error) {
	password := os.Getenv("AFTERMATH_PASSWORD")
	if err := errors.Join(api.CheckListen(o.listen, password), o.backups.check()); err != nil {
		return err
	}
	// The address first: a second server must not touch the first one's database.
	listener, err := net.Listen("tcp", o.listen)
	if err != nil {
		return fmt.Errorf("%w; is it running already?", err)
	}
	defer listener.Close()
	var private *pg.Server
	if o.url == "" {
		if o.data, err = dataFolder(o.data); err != nil {
			return err
		}
		if private, err = pg.Start(ctx, o.data); err != nil {
			return err
		}
		defer func() { err = errors.Join(err, private.Stop(context.WithoutCancel(ctx))) }()
		o.url = private.URL
	}
	s, err := store.Open(ctx, o.url)
	if err != nil {
		return err
	}
	defer s.Close()
	d := desk.New(s)
	d.KeptAside = o.keepDeleted
	// What runs beside the server ends before the database is stopped: what stops on purpose must not be started again.
	ctx, end := context.WithCancel(ctx)
	var beside sync.WaitGroup
	defer func() { end(); beside.Wait() }()
	if private != nil {
		d.Free = private.Free
		beside.Go(func() {
			private.Watch(ctx, func() {
				h := private.Health()
				d.SetTrouble(desk.Trouble{Away: h.Down, Text: h.Problem})
			})
		})
	}
	beside.Go(func() { o.backups.run(ctx, d) })
	go words.Of("en") // it is read once, and the first question that is opened need not wait for it
	if prepare != nil {
		if err := prepare(ctx, d); err != nil {
			return err
		}
	}
	interfaceFiles, err := fs.Sub(ui.Dist, "dist")
	if err != nil {
		return err
	}
	uploads, dropUploads, err := uploadFolder(private != nil, o.data)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, dropUploads()) }()
	h := &http.Server{
		Handler: api.New(
			api.Options{Desk: d, UI: interfaceFiles, Password: password, Hosts: o.hosts, Uploads: uploads, Private: o.privateFetch},
		),
		ReadHeaderTimeout: 10 * time.Second,
		IdleTimeout:       2 * time.Minute,
		BaseContext:       func(net.Listener) context.Context { return ctx },
	} // open event streams end with us
	failed := make(chan error, 1)
	go func() { failed <- h.Serve(listener) }()
	sweep := time.NewTicker(time.Minute)
	defer sweep.Stop()
	fmt.Printf("Aftermath is ready at http://%s  (Ctrl-C stops it; everything is kept)\n", listener.Addr())
	for ctx.Err() == nil {
		select {
		case err = <-failed:
			return err
		case <-sweep.C:
			d.LetGo(idleFor)
			if err := d.Purge(ctx); err != nil {
				slog.Error("deleting for good what was deleted long ago", "error", err)
			}
		case <-ctx.Done():
		}
	}
	stop, cancel := context.WithTimeout(context.WithoutCancel(ctx), stopWithin)
	defer cancel()
	if err = h.Shutdown(stop); errors.Is(err, context.DeadlineExceeded) {
		return h.Close() // who is still there is slow or idle: all work for them has ended with the context
	}
	return err
}

const (
	// idleFor is how long a question stays in memory that nobody uses.
	idleFor = 30 * time.Minute
	// stopWithin is how long those who are being answered when the server is stopped have to take it.
	stopWithin = 5 * time.Second
)

// dataFolder is where the private database is kept.
func dataFolder(given string) (string, error) {
	if given == "" {
		return pg.DefaultDir()
	}
	return filepath.Abs(given)
}

// uploadFolder makes an empty folder for files on their way in: beside the private database, where there is one, else where temporary
// files are.
func uploadFolder(private bool, data string) (dir string, leave func() error, err error) {
	in := os.TempDir()
	if private {
		in = data
	}
	return folder.Temporary(in, "aftermath-uploads")
}

// loadDemo loads the demo study, unless one of its name is there.
func loadDemo(ctx context.Context, d *desk.Desk) error {
	all, err := d.Studies(ctx, false)
	if err != nil || slices.ContainsFunc(all, func(r desk.Record) bool { return r.Name == demo.Name }) {
		return err
	}
	_, err = d.LoadDemo(ctx)
	return err
}

func openapiCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "openapi",
		Short: "Print the OpenAPI document",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			doc, err := api.Document()
			if err != nil {
				return err
			}
			_, err = c.OutOrStdout().Write(doc)
			return err
		},
	}
}
