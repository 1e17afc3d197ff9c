package store

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"time"

	"github.com/jackc/pgx/v5"
)

// ErrClaimed says that another server works on the database; its message says which.
var ErrClaimed = errors.New("another Aftermath server works on this database")

// serverLock is the number of the advisory lock that a server holds on its database.
const serverLock = 0x61667465726d6174 // "aftermat"

// Claim is a database held for one server: two would each go on from what they have in memory, and know nothing of each other's edits.
type Claim struct {
	config *pgx.ConnConfig
	every  time.Duration // between two looks whether it is held
	conn   *pgx.Conn
}

// Claim takes the database for this process, until it is let go of or the connection ends.
func (s *Store) Claim(ctx context.Context) (*Claim, error) {
	config := s.config.Copy()
	host, _ := os.Hostname()
	config.RuntimeParams["application_name"] = fmt.Sprintf("aftermath server, process %d on %s", os.Getpid(), host)
	c := &Claim{config: config, every: s.edge.probeEvery}
	return c, c.take(ctx)
}

func (c *Claim) take(ctx context.Context) error {
	conn, err := pgx.ConnectConfig(ctx, c.config)
	if err != nil {
		return err
	}
	var taken bool
	if err = conn.QueryRow(ctx, "select pg_try_advisory_lock($1)", int64(serverLock)).Scan(&taken); err == nil && taken {
		c.conn = conn
		return nil
	}
	defer closeSoon(conn)
	if err != nil {
		return err
	}
	var name string
	var since time.Time
	err = conn.QueryRow(ctx, `select a.application_name, a.backend_start from pg_locks l join pg_stat_activity a using (pid)
		where l.locktype = 'advisory' and l.granted and (l.classid::bigint << 32 | l.objid::bigint) = $1
		and l.database = (select oid from pg_database where datname = current_database())`, int64(serverLock)).Scan(&name, &since)
	if err != nil {
		return ErrClaimed
	}
	return fmt.Errorf("%w: %s, since %s; stop that one first, or give this one another database", ErrClaimed, name, since.Format("2006-01-02 15:04:05"))
}

// Keep holds the claim until the context ends. Where the database was away it is taken again; it fails with ErrClaimed where another
// server was faster.
func (c *Claim) Keep(ctx context.Context) error {
	for {
		select {
		case <-ctx.Done():
			return nil
		case <-time.After(c.every):
		}
		within, cancel := context.WithTimeout(ctx, hangsAfter)
		var err error
		if c.conn == nil {
			if err = c.take(within); err == nil {
				slog.Info("the database is this server's again")
			}
		} else if _, err = c.conn.Exec(within, "select 1"); err != nil && c.conn.IsClosed() {
			c.conn = nil
		}
		cancel()
		if errors.Is(err, ErrClaimed) {
			return err
		}
	}
}

// LetGo gives the database free.
func (c *Claim) LetGo() { closeSoon(c.conn) }
