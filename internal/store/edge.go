package store

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
)

// A server that takes longer than this to answer "select 1" hangs: whoever waits for it is told so.
const (
	hangsAfter = 8 * time.Second
	probeEvery = 2 * time.Second
)

// ErrHung says that the database does not answer, though it can be reached.
var ErrHung = errors.New("the database does not answer")

// ErrFull says that the disk of the database is full.
var ErrFull = errors.New("the disk of the database is full")

// edge is where connections leave for the database. While the database hangs, what waits on one is cut off and no other is opened;
// what ends because the disk is full is called so.
type edge struct {
	hangsAfter, probeEvery time.Duration
	// full says whether the disk of the database is full; nil where that is not known.
	full func() bool

	mu   sync.Mutex
	hung bool
	open map[*edgeConn]bool
}

// edgeConn is a connection that the edge knows of.
type edgeConn struct {
	net.Conn
	edge *edge
}

// dial opens a connection.
func (e *edge) dial(ctx context.Context, network, address string) (net.Conn, error) {
	if e.hangs() {
		return nil, ErrHung
	}
	var d net.Dialer
	c, err := d.DialContext(ctx, network, address)
	if err != nil {
		return nil, e.named(err)
	}
	e.mu.Lock()
	defer e.mu.Unlock()
	conn := &edgeConn{c, e}
	e.open[conn] = true
	return conn, nil
}

func (e *edge) hangs() bool {
	e.mu.Lock()
	defer e.mu.Unlock()
	return e.hung
}

// named calls the end of a connection by its reason, where there is one of ours.
func (e *edge) named(err error) error {
	switch {
	case err == nil:
		return nil
	case e.hangs():
		return fmt.Errorf("%w: %w", ErrHung, err)
	case e.full != nil && e.full(): // PostgreSQL stops when it can't write its log
		return fmt.Errorf("%w: %w", ErrFull, err)
	}
	return err
}

func (c *edgeConn) Read(p []byte) (int, error) {
	n, err := c.Conn.Read(p)
	var timeout net.Error
	if errors.As(err, &timeout) && timeout.Timeout() { // who waited has left
		return n, err
	}
	return n, c.edge.named(err)
}

func (c *edgeConn) Close() error {
	c.edge.mu.Lock()
	delete(c.edge.open, c)
	c.edge.mu.Unlock()
	return c.Conn.Close()
}

// set takes note of whether the database hangs, and cuts off what waits for it.
func (e *edge) set(hung bool) {
	e.mu.Lock()
	defer e.mu.Unlock()
	e.hung = hung
	if hung {
		for c := range e.open {
			_ = c.Conn.Close() // whoever reads from it is told
		}
	}
}

// probe looks whether the database answers until the context ends, on a connection of its own, and says when it does no more and when
// it does again.
func (e *edge) probe(ctx context.Context, config *pgx.ConnConfig, changed func(hung bool)) {
	var conn *pgx.Conn
	defer func() { closeSoon(conn) }()
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(e.probeEvery):
		}
		within, cancel := context.WithTimeout(ctx, e.hangsAfter)
		var err error
		if conn == nil {
			conn, err = pgx.ConnectConfig(within, config)
		}
		if err == nil {
			_, err = conn.Exec(within, "select 1")
		}
		hangs := err != nil && within.Err() != nil && ctx.Err() == nil
		cancel()
		if err != nil {
			closeSoon(conn)
			conn = nil
		}
		if hangs == e.hangs() || ctx.Err() != nil {
			continue
		}
		e.set(hangs)
		if hangs {
			slog.Error("the database does not answer; what waits for it is refused until it does", "waited", e.hangsAfter)
		} else {
			slog.Info("the database answers again")
		}
		changed(hangs)
	}
}

// closeSoon closes a connection without waiting for a server that may not answer.
func closeSoon(conn *pgx.Conn) {
	if conn != nil {
		within, cancel := context.WithTimeout(context.Background(), time.Second)
		defer cancel()
		_ = conn.Close(within)
	}
}
