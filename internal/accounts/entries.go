package accounts

import (
	"cmp"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"aftermath/internal/store"
)

// Scopes of a token.
const (
	ScopeRead  = "read"
	ScopeWrite = "write"
)

const tokenPrefix = "aftermath_"

// maxTokenAge is how long a token may be good for.
const maxTokenAge = 366 * 24 * time.Hour

// NewToken makes a token of an open account, which is told once and not kept.
func (a *Accounts) NewToken(
	ctx context.Context, of Asker, name, scope string, lasts time.Duration,
) (token string, kept store.Token, err error) {
	name = strings.Join(strings.Fields(name), " ")
	switch {
	case !of.Known():
		return "", kept, ErrNobody
	case of.ReadsOnly():
		return "", kept, fmt.Errorf("%w: a token to read makes no other token", ErrRequest)
	case name == "" || utf8.RuneCountInString(name) > 100:
		return "", kept, fmt.Errorf("%w: a token needs a name of up to 100 letters", ErrRequest)
	case scope != ScopeRead && scope != ScopeWrite:
		return "", kept, fmt.Errorf("%w: a token is to read or to write, not to %q", ErrRequest, scope)
	case lasts <= 0 || lasts > maxTokenAge:
		return "", kept, fmt.Errorf("%w: a token lasts up to a year", ErrRequest)
	}
	token = tokenPrefix + rand.Text() + rand.Text()
	kept = store.Token{UserID: of.ID(), Name: name, Hash: sumOf(token), Scope: scope, Ends: time.Now().Add(lasts)}
	return token, kept, a.store.AddToken(ctx, &kept)
}

// Open gives an account by its name as one who asks; it fails with store.ErrNotFound or, for a closed one, ErrNobody.
func (a *Accounts) Open(ctx context.Context, name string) (Asker, error) {
	u, err := a.store.UserCalled(ctx, name)
	if err != nil {
		return Asker{}, err
	}
	return asker(u, "")
}

func (a *Accounts) useToken(ctx context.Context, c Credentials, used bool) (Asker, error) {
	t, err := a.store.Token(ctx, sumOf(c.Token))
	if err != nil {
		return Asker{}, nobody(err)
	}
	u, err := a.store.User(ctx, t.UserID)
	if err != nil {
		return Asker{}, nobody(err)
	}
	by, err := asker(u, t.Scope)
	if err == nil && used {
		noteLeftOut(a.store.UseToken(ctx, t, c.Address))
	}
	return by, err
}

// noteLeftOut goes on where the use of something could not be noted: who only reads needs no database that can be written to.
func noteLeftOut(err error) {
	if err != nil {
		slog.Debug("that somebody came in was not noted", "error", err)
	}
}

// nobody is ErrNobody where something was not found.
func nobody(err error) error {
	if errors.Is(err, store.ErrNotFound) {
		return ErrNobody
	}
	return err
}

func sumOf(secret string) []byte {
	sum := sha256.Sum256([]byte(secret))
	return sum[:]
}

func sessionName(cookie string) string { return hex.EncodeToString(sumOf(cookie)) }

// EntryKind is by what somebody comes in.
type EntryKind string

// The kinds.
const (
	BySession EntryKind = "session"
	ByToken   EntryKind = "token"
)

// Entry is something that lets somebody in.
type Entry struct {
	Kind    EntryKind
	ID      int64
	User    int64
	Name    string // of a token; of a session, what the browser says that it is
	Scope   string // of a token
	Created time.Time
	Used    *time.Time
	From    string // the address that it was used from last
	Ends    time.Time
}

// Entries lists all that lets a user in, or with 0 everybody, what was used last first.
func (a *Accounts) Entries(ctx context.Context, user int64) (out []Entry, err error) {
	sessions, err := a.store.Sessions(ctx, user)
	if err != nil {
		return nil, err
	}
	for _, s := range sessions {
		out = append(out, Entry{BySession, s.ID, s.UserID, s.Agent, "", s.Created, &s.Used, s.Address, s.Expiry})
	}
	tokens, err := a.store.Tokens(ctx, user)
	for _, t := range tokens {
		out = append(out, Entry{ByToken, t.ID, t.UserID, t.Name, t.Scope, t.Created, t.Used, t.UsedFrom, t.Ends})
	}
	last := func(e Entry) time.Time {
		if e.Used != nil {
			return *e.Used
		}
		return e.Created
	}
	slices.SortStableFunc(out, func(x, y Entry) int { return cmp.Or(last(y).Compare(last(x)), cmp.Compare(y.ID, x.ID)) })
	return out, err
}

// EndEntry ends something that lets a user in; user 0: anybody.
func (a *Accounts) EndEntry(ctx context.Context, user int64, kind EntryKind, id int64) (of store.User, err error) {
	end := a.store.EndSession
	if kind == ByToken {
		end = a.store.EndToken
	}
	whose, err := end(ctx, user, id)
	if err != nil {
		return of, err
	}
	a.tellEnded(whose)
	return a.store.User(ctx, whose)
}
