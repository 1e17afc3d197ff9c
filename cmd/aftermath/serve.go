package main

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/spf13/cobra"

	"aftermath/core/words"
	"aftermath/internal/accounts"
	"aftermath/internal/api"
	"aftermath/internal/demo"
	"aftermath/internal/desk"
	"aftermath/internal/folder"
	"aftermath/internal/kept"
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
	keepLog      time.Duration
	restoreMax   int // MiB; 0: what is free on the disk of the data
	connections  int
	memory       int // MiB
	secure       certificate
	proxies      []string
	plain        bool
	address      string // as people reach it
	provider     accounts.ProviderOptions
	metrics      string
	log          string
}

func (o *serveOptions) flags(c *cobra.Command) {
	f := c.Flags()
	f.StringVar(
		&o.listen, "listen", "127.0.0.1:8420",
		"address to serve on; beyond this machine, or behind a proxy, only with an account (aftermath user add) and over TLS",
	)
	o.database.flags(c)
	o.backups.flags(c)
	f.DurationVar(&o.keepDeleted, "keep-deleted", 30*24*time.Hour, "how long a deleted study can be restored")
	f.DurationVar(&o.keepLog, "keep-log", 365*24*time.Hour, "how long the log of who did what is kept")
	f.IntVar(&o.restoreMax, "restore-max", 0, "MiB that a back-up may unpack to (default: as much as is free on the disk of the data)")
	f.IntVar(&o.connections, "connections", 40, "connections to the database at most, and no more than half of those that it lets in; who asks for one more waits")
	f.IntVar(
		&o.memory, "memory", 3200,
		"MiB that questions in memory may take; those used longest ago are let go of, and opened again when asked for",
	)
	f.StringVar(
		&o.secure.cert, "tls-cert", "", "file of the TLS certificate, with those that vouch for it; read again when it changes",
	)
	f.StringVar(&o.secure.key, "tls-key", "", "file of its key")
	f.StringSliceVar(
		&o.proxies, "trusted-proxy", nil,
		"addresses or ranges of a proxy before the server, which speaks TLS with browsers and says where they are",
	)
	f.BoolVar(
		&o.plain, "plain-http", false,
		"serve beyond this machine without TLS all the same: passwords and answers can be read on the way",
	)
	f.StringVar(
		&o.address, "url", "", "address that people reach the server by, as https://research.example; needed for OpenID Connect",
	)
	f.StringVar(
		&o.provider.Issuer, "oidc-issuer", "",
		"address of an OpenID Connect provider to sign in by; its secret is taken from AFTERMATH_OIDC_SECRET",
	)
	f.StringVar(&o.provider.ClientID, "oidc-client", "", "what the provider knows this server as")
	f.StringVar(&o.provider.Name, "oidc-name", "single sign-on", "what the provider is called on the page of sign-in")
	f.StringVar(&o.metrics, "metrics", "", "address to serve Prometheus metrics on (default: none); nobody signs in there")
	f.StringVar(&o.log, "log", "text", "how the log is written: text or json; debug, or debug-json, with every request")
	f.BoolVar(&o.privateFetch, "allow-private-fetch", false, "follow links to addresses inside this machine and network too")
	f.StringSliceVar(
		&o.hosts, "host", []string{"localhost", "127.0.0.1", "::1"}, "names that browsers may reach the server by",
	)
}

func serveCommand() *cobra.Command {
	var o serveOptions
	c := &cobra.Command{Use: "serve", Short: "Serve the application", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error { return serve(c.Context(), &o, nil) }}
	o.flags(c)
	return c
}

func demoCommand() *cobra.Command {
	var o serveOptions
	c := &cobra.Command{Use: "demo", Short: "Serve the application with the demo study", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			return serve(c.Context(), &o, func(ctx context.Context, k *kept.Keeper) error { return k.HaveDemo(ctx) })
		}}
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

// check says what is wrong with the options by themselves.
func (o *serveOptions) check() error {
	switch {
	case (o.secure.cert == "") != (o.secure.key == ""):
		return errors.New("--tls-cert and --tls-key go together")
	case o.provider.Issuer != "" && (o.address == "" || o.provider.ClientID == ""):
		return errors.New("--oidc-issuer needs --oidc-client and --url")
	case len(o.proxies) > 0 && o.address == "":
		return errors.New("--trusted-proxy needs --url, the address that people reach it by: without it, what their browsers send is taken for another site's")
	case o.memory < 200:
		return fmt.Errorf("--memory is %d MiB; it must be 200 or more", o.memory)
	case o.keepLog < 24*time.Hour:
		return fmt.Errorf("--keep-log is %v; it must be a day or more", o.keepLog)
	case o.restoreMax < 0:
		return fmt.Errorf("--restore-max is %d MiB; it can't be less than nothing", o.restoreMax)
	case o.connections < 4:
		return fmt.Errorf("--connections is %d; it must be 4 or more", o.connections)
	case !o.local() && o.secure.cert == "" && len(o.proxies) == 0 && !o.plain:
		return fmt.Errorf("%s can be reached from other machines, and without TLS what is sent can be read on the way; "+
			"give --tls-cert and --tls-key, or --trusted-proxy if one speaks TLS before it, or listen on 127.0.0.1", o.listen)
	}
	if _, _, err := net.SplitHostPort(o.listen); err != nil {
		return fmt.Errorf("address %q: %w", o.listen, err)
	}
	return o.backups.check()
}

// local says whether only this machine reaches the server.
func (o *serveOptions) local() bool {
	host, _, _ := net.SplitHostPort(o.listen)
	ip := net.ParseIP(host)
	return host == "localhost" || ip != nil && ip.IsLoopback()
}

// reachable says whether others than the users of this machine may reach the server: over the network, or by a proxy before it.
func (o *serveOptions) reachable() bool { return !o.local() || len(o.proxies) > 0 || o.address != "" }

// overTLS says whether browsers reach it by https.
func (o *serveOptions) overTLS() bool {
	return o.secure.cert != "" || strings.HasPrefix(o.address, "https://")
}

// serve runs until the context ends, then stops in order. With a log of JSON, that it failed is a line of it.
func serve(ctx context.Context, o *serveOptions, prepare func(context.Context, *kept.Keeper) error) error {
	if err := setLog(o.log); err != nil {
		return err
	}
	err := o.serve(ctx, prepare)
	if err != nil && strings.HasSuffix(o.log, "json") {
		slog.Error("the server has ended", "error", err)
		err = errors.Join(errLogged, err)
	}
	return err
}

func (o *serveOptions) serve(ctx context.Context, prepare func(context.Context, *kept.Keeper) error) (err error) {
	if err := o.check(); err != nil {
		return err
	}
	// The address first: a second server must not touch the first one's database.
	listener, err := net.Listen("tcp", o.listen)
	if err != nil {
		return fmt.Errorf("%w; is it running already?", err)
	}
	defer listener.Close()
	if o.secure.cert != "" {
		config, err := o.secure.config()
		if err != nil {
			return err
		}
		listener = tls.NewListener(listener, config)
	}
	var private *pg.Server
	if o.url == "" && o.data == "" {
		o.url = os.Getenv(databaseVariable)
	}
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
	s, err := store.OpenWithin(ctx, o.url, o.connections)
	if err != nil {
		return err
	}
	defer s.Close()
	claim, err := s.Claim(ctx)
	if err != nil {
		return err
	}
	defer claim.LetGo()
	d := desk.New(s)
	keeper := kept.New(d, s)
	d.KeptAside, d.MostAnswers, d.MostRestored = o.keepDeleted, o.memory<<20/desk.AnswerSize, int64(o.restoreMax)<<20
	people := accounts.New(s)
	if err := people.Door(ctx, o.reachable()); err != nil {
		return err
	}
	// What runs beside the server ends before the database is stopped: what stops on purpose must not be started again.
	ctx, end := context.WithCancel(ctx)
	var beside sync.WaitGroup
	defer func() { end(); beside.Wait() }()
	var troubles troubles
	if private != nil {
		d.Free = private.Free
		s.FullWhen(func() bool {
			free, err := private.Free()
			return err == nil && free < fullBelow
		})
		beside.Go(func() {
			private.Watch(ctx, func() { d.SetTrouble(troubles.private(private.Health())) })
		})
	}
	beside.Go(func() { s.Watch(ctx, func(hung bool) { d.SetTrouble(troubles.hung(hung)) }) })
	lost := make(chan error, 1)
	beside.Go(func() { lost <- claim.Keep(ctx) })
	beside.Go(func() { o.backups.run(ctx, d, s) })
	handler, leave, err := o.handler(ctx, people, d, keeper, private != nil)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, leave()) }()
	go words.Of("en") // it is read once, and the first question that is opened need not wait for it
	if prepare != nil {
		if err := prepare(ctx, keeper); err != nil {
			return err
		}
	}
	h := &http.Server{
		Handler:           handler,
		ReadHeaderTimeout: 10 * time.Second,
		IdleTimeout:       2 * time.Minute,
		BaseContext:       func(net.Listener) context.Context { return ctx },
		ErrorLog:          slog.NewLogLogger(slog.Default().Handler(), slog.LevelDebug),
	} // open event streams end with us
	failed := make(chan error, 1)
	go func() { failed <- h.Serve(listener) }()
	sweep := time.NewTicker(time.Minute)
	defer sweep.Stop()
	scheme := "http"
	if o.secure.cert != "" {
		scheme = "https"
	}
	if ready := fmt.Sprintf("%s://%s", scheme, listener.Addr()); strings.HasSuffix(o.log, "json") {
		slog.Info("Aftermath is ready", "address", ready)
	} else {
		fmt.Printf("Aftermath is ready at %s  (Ctrl-C stops it; everything is kept)\n", ready)
	}
	for ctx.Err() == nil {
		select {
		case err = <-failed:
			return err
		case err = <-lost:
			if err != nil {
				return err
			}
		case <-sweep.C:
			d.LetGo(idleFor)
			o.secure.watch()
			if err := errors.Join(d.Purge(ctx), people.Tidy(ctx, o.keepLog)); err != nil && ctx.Err() == nil {
				slog.Error("deleting for good what was deleted long ago, sessions that are over and what is old in the log", "error", err)
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

// handler makes what answers, and gives how to clean up behind it.
func (o *serveOptions) handler(ctx context.Context, people *accounts.Accounts, d *desk.Desk, keeper *kept.Keeper, private bool) (http.Handler, func() error, error) {
	var provider *accounts.Provider
	var err error
	if o.provider.Issuer != "" {
		o.provider.Secret, o.provider.Callback = os.Getenv("AFTERMATH_OIDC_SECRET"), strings.TrimSuffix(o.address, "/")+"/auth/back"
		if provider, err = people.NewProvider(ctx, o.provider); err != nil {
			return nil, nil, err
		}
	}
	observe, err := o.serveMetrics(ctx, d)
	if err != nil {
		return nil, nil, err
	}
	interfaceFiles, err := fs.Sub(ui.Dist, "dist")
	if err != nil {
		return nil, nil, err
	}
	hosts := o.hosts
	if u, err := url.Parse(o.address); err == nil && u.Hostname() != "" {
		hosts = append(slices.Clone(hosts), u.Hostname())
	}
	uploads, leave, err := uploadFolder(private, o.data)
	if err != nil {
		return nil, nil, err
	}
	h, err := api.New(api.Options{
		Desk: d, Kept: keeper, Accounts: people, Provider: provider, UI: interfaceFiles, Hosts: hosts, Proxies: o.proxies, Secure: o.overTLS(),
		Uploads: uploads, Private: o.privateFetch, Observe: observe,
	})
	if err != nil {
		err = errors.Join(err, leave())
	}
	return h, leave, err
}

// troubles is what is wrong with the database, as those say who watch it.
type troubles struct {
	mu      sync.Mutex
	health  pg.Health
	hanging time.Time
}

func (t *troubles) private(h pg.Health) desk.Trouble {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.health = h
	return t.now()
}

func (t *troubles) hung(is bool) desk.Trouble {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.hanging = time.Time{}
	if is {
		t.hanging = time.Now()
	}
	return t.now()
}

func (t *troubles) now() desk.Trouble {
	if t.health.Down.IsZero() && !t.hanging.IsZero() {
		return desk.Trouble{Away: t.hanging, Text: "It runs and does not answer."}
	}
	return desk.Trouble{Away: t.health.Down, Text: t.health.Problem}
}

// setLog sets how the log is written.
func setLog(how string) error {
	options := &slog.HandlerOptions{}
	if strings.HasPrefix(how, "debug") {
		options.Level = slog.LevelDebug
	}
	switch how {
	case "text", "debug":
		slog.SetDefault(slog.New(slog.NewTextHandler(os.Stderr, options)))
	case "json", "debug-json":
		slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, options)))
	default:
		return fmt.Errorf("--log is %q; it must be text, json, debug or debug-json", how)
	}
	return nil
}

const (
	// fullBelow is how many bytes left on the disk are too few for PostgreSQL to go on: it needs 16 MB at a time for its log.
	fullBelow = 32 << 20
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

// uploadFolder makes an empty folder for files on their way in: beside the private database, where there is one, else where
// temporary files are.
func uploadFolder(private bool, data string) (dir string, leave func() error, err error) {
	in := os.TempDir()
	if private {
		in = data
	}
	return folder.Temporary(in, "aftermath-uploads")
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
