package accounts

import (
	"context"
	"errors"
	"time"

	"github.com/alexedwards/scs/v2"

	"aftermath/internal/store"
)

// What a session holds.
const (
	userKey    = "user"
	seenKey    = "seen"    // when something was done last, in seconds
	addressKey = "address" // where from
	agentKey   = "agent"
)

// maxAgent is how much of what a browser says of itself is kept, in bytes.
const maxAgent = 300

// Begin begins a session of somebody, in the place of the one that the browser had, and gives what the browser holds of it and until
// when at most.
func (a *Accounts) Begin(ctx context.Context, before Credentials, in Asker) (cookie string, until time.Time, err error) {
	if !in.Known() {
		return "", until, ErrNobody
	}
	if ctx, err = a.Sessions.Load(ctx, before.Cookie); err != nil {
		return "", until, err
	}
	if err := a.Sessions.RenewToken(ctx); err != nil { // what somebody else may know of is of no use
		return "", until, err
	}
	a.Sessions.Put(ctx, userKey, in.ID())
	a.seen(ctx, before)
	cookie, _, err = a.Sessions.Commit(ctx)
	return cookie, a.Sessions.Deadline(ctx), err
}

// seen takes note of when and from where something was done.
func (a *Accounts) seen(ctx context.Context, c Credentials) {
	a.Sessions.Put(ctx, seenKey, time.Now().Unix())
	a.Sessions.Put(ctx, addressKey, c.Address)
	a.Sessions.Put(ctx, agentKey, c.Agent[:min(len(c.Agent), maxAgent)])
}

func (a *Accounts) useSession(ctx context.Context, c Credentials, used bool) (Asker, error) {
	if c.Cookie == "" {
		return Asker{}, ErrNobody
	}
	ctx, err := a.Sessions.Load(ctx, c.Cookie)
	if err != nil {
		return Asker{}, err
	}
	id := a.Sessions.GetInt64(ctx, userKey)
	if id == 0 {
		return Asker{}, ErrNobody
	}
	u, err := a.store.User(ctx, id)
	if err != nil {
		return Asker{}, nobody(err)
	}
	in, err := asker(u, "")
	if err != nil {
		return Asker{}, err
	}
	since := time.Since(time.Unix(a.Sessions.GetInt64(ctx, seenKey), 0))
	if used && (since > touch || a.Sessions.GetString(ctx, addressKey) != c.Address) {
		a.seen(ctx, c)
		_, _, err = a.Sessions.Commit(onlyUsed(ctx)) // idle time counts from now
		noteLeftOut(err)
	}
	return in, nil
}

type onlyUsedKey struct{}

// onlyUsed has a session that is kept be one that is there: one that was ended meanwhile must not come back by having been used.
func onlyUsed(ctx context.Context) context.Context {
	return context.WithValue(ctx, onlyUsedKey{}, true)
}

// SessionNumber is the number of the session that a cookie is of; 0 where there is none.
func (a *Accounts) SessionNumber(ctx context.Context, cookie string) (int64, error) {
	return a.store.SessionNumber(ctx, sessionName(cookie))
}

// End ends a session; with everywhere, all of its user.
func (a *Accounts) End(ctx context.Context, c Credentials, everywhere bool) error {
	in, err := a.useSession(ctx, c, false)
	if err != nil && !errors.Is(err, ErrNobody) {
		return err
	}
	if ctx, err = a.Sessions.Load(ctx, c.Cookie); err != nil {
		return err
	}
	err = a.Sessions.Destroy(ctx)
	if everywhere && in.Known() {
		err = errors.Join(err, a.store.DropSessions(ctx, in.ID()))
	}
	if in.Known() {
		a.tellEnded(in.ID())
	}
	return err
}

// sessionStore keeps sessions in the database, under a sum of what the browser holds.
type sessionStore struct {
	store *store.Store
	codec scs.Codec
}

func (s sessionStore) FindCtx(ctx context.Context, token string) ([]byte, bool, error) {
	return s.store.SessionData(ctx, sessionName(token))
}

func (s sessionStore) CommitCtx(ctx context.Context, token string, data []byte, expiry time.Time) error {
	_, values, err := s.codec.Decode(data)
	if err != nil {
		return err
	}
	of := store.Session{Used: time.Now(), Expiry: expiry}
	of.UserID, _ = values[userKey].(int64)
	of.Address, _ = values[addressKey].(string)
	of.Agent, _ = values[agentKey].(string)
	if seen, _ := values[seenKey].(int64); seen != 0 {
		of.Used = time.Unix(seen, 0)
	}
	if used, _ := ctx.Value(onlyUsedKey{}).(bool); used {
		return s.store.UseSession(ctx, sessionName(token), data, of)
	}
	return s.store.PutSession(ctx, sessionName(token), data, of)
}

func (s sessionStore) DeleteCtx(ctx context.Context, token string) error {
	return s.store.DropSession(ctx, sessionName(token))
}

// Those without a context are asked for by the interface, and never called.

func (s sessionStore) Find(token string) ([]byte, bool, error) {
	return s.FindCtx(context.Background(), token)
}
func (s sessionStore) Delete(token string) error { return s.DeleteCtx(context.Background(), token) }
func (s sessionStore) Commit(token string, data []byte, expiry time.Time) error {
	return s.CommitCtx(context.Background(), token, data, expiry)
}
