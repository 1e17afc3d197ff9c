package accounts

import (
	"context"
	"errors"
	"time"

	"aftermath/internal/store"
)

// What a session holds.
const (
	userKey = "user"
	seenKey = "seen" // when something was done last, in seconds
)

// Begin begins a session of a user, in the place of the one that the browser had, and gives what the browser holds of it and
// until when.
func (a *Accounts) Begin(ctx context.Context, before string, u store.User) (cookie string, expiry time.Time, err error) {
	if ctx, err = a.Sessions.Load(ctx, before); err != nil {
		return "", expiry, err
	}
	if err := a.Sessions.RenewToken(ctx); err != nil { // what somebody else may know of is of no use
		return "", expiry, err
	}
	a.Sessions.Put(ctx, userKey, u.ID)
	a.Sessions.Put(ctx, seenKey, time.Now().Unix())
	return a.Sessions.Commit(ctx)
}

// Who gives the user of a session, or ErrNotFound.
func (a *Accounts) Who(ctx context.Context, cookie string) (store.User, error) {
	if cookie == "" {
		return store.User{}, store.ErrNotFound
	}
	ctx, err := a.Sessions.Load(ctx, cookie)
	if err != nil {
		return store.User{}, err
	}
	id := a.Sessions.GetInt64(ctx, userKey)
	if id == 0 {
		return store.User{}, store.ErrNotFound
	}
	u, err := a.store.User(ctx, id)
	if err == nil && u.Disabled != nil {
		err = store.ErrNotFound
	}
	if err != nil {
		return u, err
	}
	if now := time.Now(); now.Sub(time.Unix(a.Sessions.GetInt64(ctx, seenKey), 0)) > touch {
		a.Sessions.Put(ctx, seenKey, now.Unix())
		_, _, err = a.Sessions.Commit(ctx)
	}
	return u, err
}

// End ends a session; with everywhere, all of its user.
func (a *Accounts) End(ctx context.Context, cookie string, everywhere bool) error {
	u, err := a.Who(ctx, cookie)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	if ctx, err = a.Sessions.Load(ctx, cookie); err != nil {
		return err
	}
	err = a.Sessions.Destroy(ctx)
	if everywhere && u.ID != 0 {
		err = errors.Join(err, a.store.DropSessions(ctx, u.ID))
	}
	return err
}
