// Package accounts knows who may come in: by password, by another provider's word (OpenID Connect), or by a token; and what
// each may do with a study.
package accounts

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"sync"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/alexedwards/scs/v2"
	"golang.org/x/sync/semaphore"

	"aftermath/internal/store"
)

// Errors that callers branch on.
var (
	ErrRequest  = errors.New("this can't be done")
	ErrRefused  = errors.New("the name or the password is wrong, or the account is closed")
	ErrTooOften = errors.New("too many attempts")
	ErrNobody   = errors.New("nobody is signed in")
)

// How long somebody stays signed in.
const (
	Idle     = 2 * time.Hour  // without doing anything
	Absolute = 12 * time.Hour // in all
	touch    = time.Minute    // between two notes of when something was done last
)

// Accounts are those of a store.
type Accounts struct {
	store    *store.Store
	Sessions *scs.SessionManager
	attempts *attempts
	hashing  *semaphore.Weighted
	cost     hashCost

	mu      sync.Mutex
	asked   time.Time
	anybody bool
	// ended has a channel for each who listens for as long as they are signed in, with whose it is.
	ended map[chan struct{}]int64
}

// New gives the accounts of a store.
func New(s *store.Store) *Accounts {
	sessions := scs.New()
	sessions.Lifetime, sessions.IdleTimeout = Absolute, Idle
	sessions.Store = sessionStore{s, sessions.Codec}
	return &Accounts{
		store: s, Sessions: sessions, attempts: newAttempts(), hashing: semaphore.NewWeighted(hashedAtOnce),
		cost: hashCost{hashTime, hashMemory, hashThreads}, ended: map[chan struct{}]int64{},
	}
}

// On says whether there is an account, open or closed: then nobody comes in without one, also when all are closed.
func (a *Accounts) On(ctx context.Context) (bool, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.anybody || time.Since(a.asked) < time.Second {
		return a.anybody, nil
	}
	accounts, _, err := a.store.CountUsers(ctx)
	if err != nil && !a.asked.IsZero() {
		return false, nil // while the database is away nobody can add the first one: what is in memory can be read
	}
	if err != nil {
		return false, err
	}
	a.asked, a.anybody = time.Now(), accounts > 0
	return a.anybody, nil
}

// ErrDoor is behind the refusals of Door.
var ErrDoor = errors.New("who may come in is not settled")

// Door says whether a server may begin to serve. One that others than the users of this machine reach needs an account; where there
// are accounts, one of an administrator must be open. The message names the command that mends it.
func (a *Accounts) Door(ctx context.Context, reachable bool) error {
	accounts, admins, err := a.store.CountUsers(ctx)
	switch {
	case err != nil:
		return err
	case accounts == 0 && reachable:
		return fmt.Errorf("%w: this server can be reached by others, and it has no account; add an administrator's first: "+
			"aftermath user add NAME --admin", ErrDoor)
	case accounts > 0 && admins == 0:
		return fmt.Errorf("%w: there are accounts, and none of an administrator that is open; open one again (aftermath user open NAME), "+
			"make somebody an administrator (aftermath user admin NAME), or add one (aftermath user add NAME --admin)", ErrDoor)
	}
	return nil
}

// Add adds an account: with a password, or with the address by which another provider vouches for them, or both. Who begins may
// bring in studies, also before any is shared with them.
func (a *Accounts) Add(ctx context.Context, name, email, password string, admin, begins bool) (store.User, error) {
	name = strings.Join(strings.Fields(name), " ")
	if name == "" || utf8.RuneCountInString(name) > 100 || strings.ContainsFunc(name, unicode.IsControl) {
		return store.User{}, fmt.Errorf("%w: an account needs a name of up to 100 letters", ErrRequest)
	}
	u := store.User{Name: name, Email: strings.TrimSpace(email), Admin: admin, Begins: begins}
	if password == "" && u.Email == "" {
		return u, fmt.Errorf("%w: an account needs a password, or an address that another provider vouches for", ErrRequest)
	}
	if password != "" {
		if err := checkPassword(name, password); err != nil {
			return u, err
		}
		var err error
		if u.Password, err = a.hash(ctx, password); err != nil {
			return u, err
		}
	}
	err := a.store.AddUser(ctx, &u)
	if errors.Is(err, store.ErrTaken) {
		err = fmt.Errorf("%w: another account has the name %q, or its address", ErrRequest, name)
	}
	if err == nil {
		a.mu.Lock()
		defer a.mu.Unlock()
		a.anybody = true
	}
	return u, err
}

// Change is what is changed of an account; nil: as it is.
type Change struct {
	Closed, Admin, Begins *bool
	Password              *string
}

// Change changes an account: all of it, or nothing. Whatever let somebody in ends where their account is closed, gets another password
// or is no administrator's any more.
func (a *Accounts) Change(ctx context.Context, u store.User, c Change) (store.User, error) {
	to := store.UserChange{Closed: c.Closed, Admin: c.Admin, Begins: c.Begins}
	if c.Password != nil {
		if err := checkPassword(u.Name, *c.Password); err != nil {
			return u, err
		}
		hashed, err := a.hash(ctx, *c.Password)
		if err != nil {
			return u, err
		}
		to.Password = &hashed
	}
	changed, err := a.store.ChangeUser(ctx, u.ID, to)
	if err != nil {
		return u, err
	}
	if c.Password != nil {
		a.attempts.forget(u.Name)
	}
	a.tellEnded(u.ID)
	return changed, nil
}

// Ended gives a channel that something is sent on when what let a user in may have ended; leave ends that.
func (a *Accounts) Ended(user int64) (ended <-chan struct{}, leave func()) {
	c := make(chan struct{}, 1)
	a.mu.Lock()
	defer a.mu.Unlock()
	a.ended[c] = user
	return c, func() {
		a.mu.Lock()
		defer a.mu.Unlock()
		delete(a.ended, c)
	}
}

// tellEnded has all who listen as a user look whether they may still.
func (a *Accounts) tellEnded(user int64) {
	a.mu.Lock()
	defer a.mu.Unlock()
	for c, of := range a.ended {
		if of == user {
			select {
			case c <- struct{}{}:
			default: // it will look anyway
			}
		}
	}
}

// Log adds to the log. What can't be added is in the server's own log.
func (a *Accounts) Log(ctx context.Context, e store.LogEntry) {
	if err := a.store.AddLog(context.WithoutCancel(ctx), e); err != nil {
		slog.Error("the log can't be added to", "who", e.Who, "action", e.Action, "error", err)
	}
}

// count adds what was refused to the log: once for each day, with how often.
func (a *Accounts) count(ctx context.Context, e store.LogEntry) {
	if err := a.store.CountLog(context.WithoutCancel(ctx), e); err != nil {
		slog.Error("the log can't be added to", "who", e.Who, "action", e.Action, "error", err)
	}
}

// Users lists all accounts, by name.
func (a *Accounts) Users(ctx context.Context) ([]store.User, error) { return a.store.Users(ctx) }

// User gives an account, open or closed, to be managed.
func (a *Accounts) User(ctx context.Context, id int64) (store.User, error) {
	return a.store.User(ctx, id)
}

// Called gives an account, open or closed, by its name.
func (a *Accounts) Called(ctx context.Context, name string) (store.User, error) {
	return a.store.UserCalled(ctx, name)
}

// LogEntries gives the log, the newest first, from before an entry, if given.
func (a *Accounts) LogEntries(ctx context.Context, before int64, limit int) ([]store.LogEntry, error) {
	return a.store.Log(ctx, before, limit)
}

// Tidy deletes sessions that are over, and what has been in the log for longer than it is kept.
func (a *Accounts) Tidy(ctx context.Context, keepLog time.Duration) error {
	return errors.Join(a.store.DropSessions(ctx, 0), a.store.ForgetLog(ctx, keepLog))
}
