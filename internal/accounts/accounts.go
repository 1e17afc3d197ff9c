// Package accounts knows who may come in: by password, by another provider's word (OpenID Connect), or by a token; and what
// each may do with a study.
package accounts

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"sync"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/alexedwards/scs/v2"
	"github.com/hashicorp/golang-lru/v2"
	"golang.org/x/sync/semaphore"
	"golang.org/x/time/rate"

	"aftermath/internal/store"
)

// Errors that callers branch on.
var (
	ErrRequest  = errors.New("this can't be done")
	ErrRefused  = errors.New("the name or the password is wrong, or the account is closed")
	ErrTooOften = errors.New("too many attempts")
)

// How long somebody stays signed in.
const (
	Idle     = 2 * time.Hour  // without doing anything
	Absolute = 12 * time.Hour // in all
	touch    = time.Minute    // between two notes of when something was done last
)

// Attempts to sign in that failed: so many at once, then one in so long. Many may sit behind one address.
const (
	attemptsOnAccount = 5
	attemptsFrom      = 20
	attemptEvery      = 20 * time.Second
	attemptsKnown     = 10_000 // accounts and addresses that are remembered
)

// Accounts are those of a store.
type Accounts struct {
	store    *store.Store
	Sessions *scs.SessionManager
	attempts *lru.Cache[string, *rate.Limiter]
	hashing  *semaphore.Weighted

	mu      sync.Mutex
	asked   time.Time
	anybody bool
}

// New gives the accounts of a store.
func New(s *store.Store) *Accounts {
	attempts, _ := lru.New[string, *rate.Limiter](attemptsKnown) // fails for no size only
	sessions := scs.New()
	sessions.Lifetime, sessions.IdleTimeout = Absolute, Idle
	sessions.Store = sessionStore{s, sessions.Codec}
	return &Accounts{store: s, Sessions: sessions, attempts: attempts, hashing: semaphore.NewWeighted(hashedAtOnce)}
}

// On says whether there is an account: then nobody comes in without one. Closing accounts never opens the door: once on, it
// stays so until the program is started anew.
func (a *Accounts) On(ctx context.Context) (bool, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.anybody || time.Since(a.asked) < time.Second {
		return a.anybody, nil
	}
	any, err := a.store.AnyUser(ctx)
	if err != nil && !a.asked.IsZero() {
		return false, nil // while the database is away nobody can add the first one: what is in memory can be read
	}
	if err != nil {
		return false, err
	}
	a.asked, a.anybody = time.Now(), any
	return any, nil
}

// Add adds an account: with a password, or with the address by which another provider vouches for them, or both.
func (a *Accounts) Add(ctx context.Context, name, email, password string, admin bool) (store.User, error) {
	name = strings.Join(strings.Fields(name), " ")
	if name == "" || utf8.RuneCountInString(name) > 100 || strings.ContainsFunc(name, unicode.IsControl) {
		return store.User{}, fmt.Errorf("%w: an account needs a name of up to 100 letters", ErrRequest)
	}
	u := store.User{Name: name, Email: strings.TrimSpace(email), Admin: admin}
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
	err := a.store.PutUser(ctx, &u)
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

// SetPassword gives an account another password, and ends its sessions.
func (a *Accounts) SetPassword(ctx context.Context, u store.User, password string) (err error) {
	if err := checkPassword(u.Name, password); err != nil {
		return err
	}
	if u.Password, err = a.hash(ctx, password); err != nil {
		return err
	}
	return errors.Join(a.store.PutUser(ctx, &u), a.store.DropSessions(ctx, u.ID))
}

// Close closes an account, or opens it again. Its sessions end.
func (a *Accounts) Close(ctx context.Context, u store.User, closed bool) error {
	u.Disabled = nil
	if closed {
		now := time.Now()
		u.Disabled = &now
	}
	return errors.Join(a.store.PutUser(ctx, &u), a.store.DropSessions(ctx, u.ID))
}

// attempt says whether another attempt may be made now on an account, from an address. Afterwards it is told whether it
// succeeded: then it counts for nothing.
func (a *Accounts) attempt(name, address string) (ended func(succeeded bool), err error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	account, from := "of "+strings.ToLower(name), "from "+address
	if a.limiter(from, attemptsFrom).Tokens() < 1 || !a.limiter(account, attemptsOnAccount).Allow() {
		return nil, ErrTooOften
	}
	return func(succeeded bool) {
		a.mu.Lock()
		defer a.mu.Unlock()
		if succeeded {
			a.attempts.Remove(account)
		} else {
			a.limiter(from, attemptsFrom).Allow()
		}
	}, nil
}

// limiter counts attempts of one kind; the lock is held.
func (a *Accounts) limiter(of string, most int) *rate.Limiter {
	l, known := a.attempts.Get(of)
	if !known {
		l = rate.NewLimiter(rate.Every(attemptEvery), most)
		a.attempts.Add(of, l)
	}
	return l
}

// SignIn gives the account of a name and its password. Attempts are slowed, per account and per address, and all are in the log; a name
// that no account has is not: it may be a password that was typed into the wrong field.
func (a *Accounts) SignIn(ctx context.Context, name, password, address string) (store.User, error) {
	u, err := a.store.UserCalled(ctx, name)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return u, err
	}
	known := err == nil
	entry := store.LogEntry{Who: u.Name, Address: address, Action: "sign-in refused"}
	if !known {
		entry.Detail = "there is no account of that name"
	}
	ended, err := a.attempt(name, address)
	if err != nil {
		entry.Detail = err.Error()
		a.Log(ctx, entry)
		return store.User{}, err
	}
	right, err := a.matches(ctx, password, u.Password) // also where there is no such account, so that nobody learns that from how long it takes
	switch {
	case err != nil:
		return u, err
	case !known || !right || u.Disabled != nil:
		ended(false)
		a.Log(ctx, entry)
		return store.User{}, ErrRefused
	}
	ended(true)
	a.Log(ctx, store.LogEntry{Who: u.Name, Address: address, Action: "signed in"})
	return u, nil
}

// Log adds to the log. What can't be added is in the server's own log.
func (a *Accounts) Log(ctx context.Context, e store.LogEntry) {
	if err := a.store.AddLog(context.WithoutCancel(ctx), e); err != nil {
		slog.Error("the log can't be added to", "who", e.Who, "action", e.Action, "error", err)
	}
}

// Scopes of a token.
const (
	ScopeRead  = "read"
	ScopeWrite = "write"
)

const tokenPrefix = "aftermath_"

// longestToken is how long a token may hold.
const longestToken = 366 * 24 * time.Hour

// NewToken makes a token, which is told once and not kept.
func (a *Accounts) NewToken(ctx context.Context, u store.User, name, scope string, lasts time.Duration) (token string, kept store.Token, err error) {
	name = strings.Join(strings.Fields(name), " ")
	switch {
	case name == "" || utf8.RuneCountInString(name) > 100:
		return "", kept, fmt.Errorf("%w: a token needs a name of up to 100 letters", ErrRequest)
	case scope != ScopeRead && scope != ScopeWrite:
		return "", kept, fmt.Errorf("%w: a token is to read or to write, not to %q", ErrRequest, scope)
	case lasts <= 0 || lasts > longestToken:
		return "", kept, fmt.Errorf("%w: a token lasts up to a year", ErrRequest)
	}
	token = tokenPrefix + rand.Text() + rand.Text()
	kept = store.Token{UserID: u.ID, Name: name, Hash: sumOf(token), Scope: scope, Ends: time.Now().Add(lasts)}
	return token, kept, a.store.AddToken(ctx, &kept)
}

// UseToken gives the user of a token, and what it is for.
func (a *Accounts) UseToken(ctx context.Context, token string) (store.User, string, error) {
	t, err := a.store.UseToken(ctx, sumOf(token))
	if err != nil {
		return store.User{}, "", err
	}
	u, err := a.store.User(ctx, t.UserID)
	if err == nil && u.Disabled != nil {
		err = store.ErrNotFound
	}
	return u, t.Scope, err
}

func sumOf(secret string) []byte {
	sum := sha256.Sum256([]byte(secret))
	return sum[:]
}

// sessionStore keeps sessions in the database, under a sum of what the browser holds.
type sessionStore struct {
	store *store.Store
	codec scs.Codec
}

func (s sessionStore) FindCtx(ctx context.Context, token string) ([]byte, bool, error) {
	return s.store.SessionData(ctx, hex.EncodeToString(sumOf(token)))
}

func (s sessionStore) CommitCtx(ctx context.Context, token string, data []byte, expiry time.Time) error {
	_, values, err := s.codec.Decode(data)
	if err != nil {
		return err
	}
	user, _ := values[userKey].(int64)
	return s.store.PutSession(ctx, hex.EncodeToString(sumOf(token)), user, data, expiry)
}

func (s sessionStore) DeleteCtx(ctx context.Context, token string) error {
	return s.store.DropSession(ctx, hex.EncodeToString(sumOf(token)))
}

// Those without a context are asked for by the interface, and never called.
func (s sessionStore) Find(token string) ([]byte, bool, error) {
	return s.FindCtx(context.Background(), token)
}
func (s sessionStore) Delete(token string) error { return s.DeleteCtx(context.Background(), token) }
func (s sessionStore) Commit(token string, data []byte, expiry time.Time) error {
	return s.CommitCtx(context.Background(), token, data, expiry)
}

// Users lists all accounts, by name.
func (a *Accounts) Users(ctx context.Context) ([]store.User, error) { return a.store.Users(ctx) }

// User gives an account.
func (a *Accounts) User(ctx context.Context, id int64) (store.User, error) {
	return a.store.User(ctx, id)
}

// Called gives an account by its name.
func (a *Accounts) Called(ctx context.Context, name string) (store.User, error) {
	return a.store.UserCalled(ctx, name)
}

// SetAdmin makes a user an admin, or takes that away.
func (a *Accounts) SetAdmin(ctx context.Context, u store.User, admin bool) error {
	u.Admin = admin
	return a.store.PutUser(ctx, &u)
}

// Tokens lists a user's tokens.
func (a *Accounts) Tokens(ctx context.Context, u store.User) ([]store.Token, error) {
	return a.store.Tokens(ctx, u.ID)
}

// DropToken deletes a token of a user.
func (a *Accounts) DropToken(ctx context.Context, u store.User, id int64) error {
	return a.store.DropToken(ctx, u.ID, id)
}

// LogEntries gives the log, the newest first, from before an entry, if given.
func (a *Accounts) LogEntries(ctx context.Context, before int64, limit int) ([]store.LogEntry, error) {
	return a.store.Log(ctx, before, limit)
}

// Right says whether a password is that of a user; attempts are slowed.
func (a *Accounts) Right(ctx context.Context, u store.User, password, address string) error {
	ended, err := a.attempt(u.Name, address)
	if err != nil {
		return err
	}
	right, err := a.matches(ctx, password, u.Password)
	switch {
	case err != nil:
		return err
	case !right:
		ended(false)
		return ErrRefused
	}
	ended(true)
	return nil
}
