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
	"time"

	"github.com/spf13/cobra"

	"aftermath/core/words"
	"aftermath/internal/api"
	"aftermath/internal/demo"
	"aftermath/internal/desk"
	"aftermath/internal/pg"
	"aftermath/internal/store"
	"aftermath/ui"
)

type serveOptions struct {
	listen, database, data string
	hosts                  []string
	privateFetch           bool
}

func (o *serveOptions) flags(c *cobra.Command) {
	c.Flags().StringVar(
		&o.listen, "listen", "127.0.0.1:8420", "address to serve on; beyond this machine only with AFTERMATH_PASSWORD set",
	)
	c.Flags().StringVar(&o.database, "database", "", "URL of a PostgreSQL server to use instead of a private one")
	c.Flags().StringVar(
		&o.data, "data", "", "folder of the private PostgreSQL (default: in the user's data directory; for root /var/lib/aftermath)",
	)
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
	if err := api.CheckListen(o.listen, password); err != nil {
		return err
	}
	// The address first: a second server must not touch the first one's database.
	listener, err := net.Listen("tcp", o.listen)
	if err != nil {
		return fmt.Errorf("%w; is it running already?", err)
	}
	defer listener.Close()
	private := o.database == ""
	if private {
		if o.data == "" {
			if o.data, err = pg.DefaultDir(); err != nil {
				return err
			}
		} else if o.data, err = filepath.Abs(o.data); err != nil {
			return err
		}
		server, err := pg.Start(ctx, o.data)
		if err != nil {
			return err
		}
		defer func() { err = errors.Join(err, server.Stop(context.WithoutCancel(ctx))) }()
		o.database = server.URL
	}
	s, err := store.Open(ctx, o.database)
	if err != nil {
		return err
	}
	defer s.Close()
	d := desk.New(s)
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
	uploads, err := uploadFolder(private, o.data)
	if err != nil {
		return err
	}
	defer os.RemoveAll(uploads)
	h := &http.Server{
		Handler: api.New(
			api.Options{Desk: d, UI: interfaceFiles, Password: password, Hosts: o.hosts, Uploads: uploads, Private: o.privateFetch},
		),
		ReadHeaderTimeout: 10 * time.Second,
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
	stop, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
	defer cancel()
	return h.Shutdown(stop)
}

// idleFor is how long a question stays in memory that nobody uses.
const idleFor = 30 * time.Minute

// uploadFolder makes an empty folder for files on their way in: beside the private database, where what a killed run has left
// is found and goes, or else a temporary one.
func uploadFolder(private bool, data string) (string, error) {
	if !private {
		return os.MkdirTemp("", "aftermath-")
	}
	dir := filepath.Join(data, "uploads")
	return dir, errors.Join(os.RemoveAll(dir), os.MkdirAll(dir, 0o700))
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
