package main

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"fmt"
	"log/slog"
	"math/big"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/accounts"
	"aftermath/internal/desk"
	"aftermath/internal/files"
	"aftermath/internal/kept"
	"aftermath/internal/pg/pgtest"
	"aftermath/internal/store"
)

// The server doesn't start where others could read what is sent, or come in without an account; what is wrong is said before anything is
// touched.
func TestServeIsRefusedWhereOthersCouldComeIn(t *testing.T) {
	defer slog.SetDefault(slog.Default())
	base := serveOptions{listen: "127.0.0.1:0", memory: 3200, log: "text"}
	base.url = pgtest.Database(t)
	for says, change := range map[string]func(o *serveOptions){
		"can be read on the way": func(o *serveOptions) { o.listen = "0.0.0.0:0" },
		"it has no account":      func(o *serveOptions) { o.listen, o.plain = "0.0.0.0:0", true },
		"aftermath user add":     func(o *serveOptions) { o.address = "http://research.example" },
		"reached by others":      func(o *serveOptions) { o.proxies, o.address = []string{"127.0.0.1"}, "https://research.example" },
		"go together":            func(o *serveOptions) { o.secure.cert = "x" },
		"needs --oidc-client":    func(o *serveOptions) { o.provider.Issuer = "https://id.example" },
		"needs --url":            func(o *serveOptions) { o.proxies = []string{"127.0.0.1"} },
		"200 or more":            func(o *serveOptions) { o.memory = 1 },
		"--log is":               func(o *serveOptions) { o.log = "xml" },
		"a minute or more":       func(o *serveOptions) { o.backups = schedule{dir: t.TempDir(), every: time.Second, keep: 1} },
		"no such file":           func(o *serveOptions) { o.secure.cert, o.secure.key = "/none", "/none" },
	} {
		o := &serveOptions{listen: base.listen, memory: base.memory, log: base.log, database: base.database, keepLog: 24 * time.Hour, connections: 10}
		change(o)
		assert.ErrorContains(t, serve(t.Context(), o, nil), says)
	}
	s, err := store.Open(t.Context(), base.url)
	require.NoError(t, err)
	defer s.Close()
	_, err = accounts.New(s).Add(t.Context(), "Ada", "", "a dozen letters", true, true)
	require.NoError(t, err)
	o := &serveOptions{listen: base.listen, memory: base.memory, log: base.log, database: base.database, keepLog: 24 * time.Hour, connections: 10}
	o.proxies, o.address = []string{"nowhere"}, "https://research.example"
	assert.ErrorContains(t, serve(t.Context(), o, nil), "trusted proxies")
	// With an account it serves; a second server on the same database is told so, and so is one whose last administrator is closed.
	serving := func() *serveOptions {
		return &serveOptions{listen: "0.0.0.0:0", memory: 3200, log: "json", plain: true, database: base.database, keepLog: 24 * time.Hour, connections: 10}
	}
	ctx, stop := context.WithTimeout(t.Context(), time.Minute)
	defer stop()
	served, refused := make(chan error, 1), error(nil)
	go func() {
		served <- serve(ctx, serving(), func(ctx context.Context, _ *kept.Keeper) error {
			refused = serve(ctx, serving(), nil)
			stop()
			return nil
		})
	}()
	assert.NoError(t, <-served)
	assert.ErrorIs(t, refused, store.ErrClaimed)
	assert.ErrorContains(t, refused, fmt.Sprintf("process %d on", os.Getpid()))
	pgtest.Exec(t, base.url, "update users set disabled = now()")
	for _, o := range []*serveOptions{serving(), {listen: "127.0.0.1:0", memory: 3200, log: "text", database: base.database, keepLog: 24 * time.Hour, connections: 10}} {
		assert.ErrorContains(t, serve(t.Context(), o, nil), "aftermath user open NAME")
	}
}

// certify writes a certificate for 127.0.0.1 with a number of its own.
func certify(t *testing.T, number int64, cert, key string) {
	private, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	of := &x509.Certificate{SerialNumber: big.NewInt(number), Subject: pkix.Name{CommonName: "test"}, NotAfter: time.Now().Add(time.Hour),
		IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)}}
	made, err := x509.CreateCertificate(rand.Reader, of, of, &private.PublicKey, private)
	require.NoError(t, err)
	secret, err := x509.MarshalECPrivateKey(private)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(key, pem.EncodeToMemory(&pem.Block{Type: "EC PRIVATE KEY", Bytes: secret}), 0o600))
	require.NoError(t, os.WriteFile(cert, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: made}), 0o600))
}

// A renewed certificate is taken up by itself; while it can't be read, the one before holds.
func TestCertificatesAreTakenUpWhenRenewed(t *testing.T) {
	dir := t.TempDir()
	c := &certificate{cert: filepath.Join(dir, "cert"), key: filepath.Join(dir, "key")}
	certify(t, 1, c.cert, c.key)
	config, err := c.config()
	require.NoError(t, err)
	l, err := tls.Listen("tcp", "127.0.0.1:0", config)
	require.NoError(t, err)
	server := &http.Server{Handler: http.NotFoundHandler()}
	go func() { _ = server.Serve(l) }()
	defer server.Close()
	serial := func() int64 {
		conn, err := tls.Dial("tcp", l.Addr().String(), &tls.Config{InsecureSkipVerify: true})
		require.NoError(t, err)
		defer conn.Close()
		return conn.ConnectionState().PeerCertificates[0].SerialNumber.Int64()
	}
	later := func() {
		c.mu.Lock()
		defer c.mu.Unlock()
		c.asked = time.Time{}
	}
	assert.EqualValues(t, 1, serial())
	require.NoError(t, os.WriteFile(c.cert, []byte("half"), 0o600))
	require.NoError(t, os.Chtimes(c.cert, time.Time{}, time.Now().Add(time.Second)))
	later()
	assert.EqualValues(t, 1, serial())
	certify(t, 2, c.cert, c.key)
	require.NoError(t, os.Chtimes(c.cert, time.Time{}, time.Now().Add(2*time.Second)))
	later()
	assert.EqualValues(t, 2, serial())
}

// The newest back-ups stay; what else lies in the folder is no business of ours.
func TestOldBackupsGo(t *testing.T) {
	o := schedule{dir: t.TempDir(), every: time.Hour, keep: 2}
	for _, name := range []string{"aftermath-20261126T180000Z", "aftermath-20261124T180000Z", "aftermath-20261125T180000Z", "aftermath-2026-11-20", "notes"} {
		file(t, o.dir, name+backupEnding, "x")
	}
	assert.Equal(t, []string{filepath.Join(o.dir, "aftermath-20261124T180000Z"+backupEnding)}, o.tooMany())
	o.keep = 9
	assert.Empty(t, o.tooMany())
}

// A back-up on schedule is read back, restored on trial and said, with one of the accounts beside it; a file that says that it is of
// tomorrow, when a clock was wrong, holds up none.
func TestBackupsOnSchedule(t *testing.T) {
	address := pgtest.Database(t)
	s, err := store.Open(t.Context(), address)
	require.NoError(t, err)
	defer s.Close()
	d := desk.New(s)
	o := schedule{dir: t.TempDir(), every: time.Hour, keep: 2}
	tomorrow := time.Now().Add(24 * time.Hour).UTC().Format("aftermath-" + momentLayout)
	file(t, o.dir, tomorrow+backupEnding, "from a machine whose clock was wrong")
	_, ok := o.last(time.Now())
	require.False(t, ok)
	ctx, stop := context.WithCancel(t.Context())
	done := make(chan struct{})
	begin := func() { done = make(chan struct{}); go func() { o.run(ctx, d, s); close(done) }() }
	_, err = d.LoadTable(t.Context(), "Ferries", []survey.Spec{{Name: "answer", Role: survey.OpenEnded}}, &files.Table{Rows: [][]string{{"late"}, {"cold tea"}}},
		func(int) playbook.Playbook { return playbook.New("en") })
	require.NoError(t, err)
	begin()
	require.Eventually(t, func() bool { return !d.BackedUp().At.IsZero() }, time.Minute, 20*time.Millisecond)
	stop()
	<-done
	b := d.BackedUp()
	assert.Empty(t, b.Problem)
	assert.True(t, b.Whole)
	assert.Contains(t, b.Read, `1 study, read back whole; "Ferries" was restored on trial`)
	made := o.made()
	require.Len(t, made, 2, "the new one, and that of tomorrow")
	assert.FileExists(t, accountsBeside(made[0]))
	last, ok := o.last(time.Now())
	require.True(t, ok)
	assert.WithinDuration(t, time.Now(), last, time.Minute)
	log, err := s.Log(t.Context(), 0, 10)
	require.NoError(t, err)
	require.Len(t, log, 1)
	assert.Equal(t, b.Read, log[0].Detail)
	// One that can't be restored on trial is there all the same, and is not made again and again.
	pgtest.Exec(t, address, "alter database "+pgtest.Query(t, address, "select current_database()::text")+" set default_transaction_read_only = on")
	pgtest.Exec(t, address, "select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()")
	later := time.Now().Add(time.Second)
	require.Eventually(t, func() bool { return s.Ping(t.Context()) == nil }, time.Minute, 10*time.Millisecond)
	_, err = o.make(t.Context(), d, s, later)
	require.ErrorIs(t, err, errUnproved)
	require.ErrorContains(t, err, "on trial failed")
	require.Len(t, o.made(), 3)
	// Where none can be written it is said.
	require.NoError(t, os.RemoveAll(o.dir))
	_, err = o.make(t.Context(), d, s, time.Now())
	require.Error(t, err)
	require.NotErrorIs(t, err, errUnproved)
}
