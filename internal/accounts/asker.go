package accounts

import (
	"context"

	"aftermath/internal/store"
)

// Asker is who asks for something: an account that is open, or, as the zero value, nobody. Only this package makes one, of accounts
// that it has seen to be open.
type Asker struct {
	user  store.User
	scope string // of a token; empty for a session
}

// asker gives an open account as one who asks, and nobody for a closed one.
func asker(u store.User, scope string) (Asker, error) {
	if u.ID == 0 || u.Disabled != nil {
		return Asker{}, ErrNobody
	}
	return Asker{u, scope}, nil
}

// Known says whether it is somebody.
func (a Asker) Known() bool { return a.user.ID != 0 }

// ID is the number of the account; 0 for nobody.
func (a Asker) ID() int64 { return a.user.ID }

// Name is the name of the account; empty for nobody.
func (a Asker) Name() string { return a.user.Name }

// Admin says whether it is an administrator.
func (a Asker) Admin() bool { return a.user.Admin }

// HasPassword says whether the account has a password.
func (a Asker) HasPassword() bool { return a.user.Password != "" }

// ReadsOnly says whether a token to read is what they come by.
func (a Asker) ReadsOnly() bool { return a.scope == ScopeRead }

// Credentials are what a request brings along to say who asks.
type Credentials struct {
	Token   string // of a program; where there is one, the cookie is not looked at
	Cookie  string // of a browser's session
	Address string // that it comes from
	Agent   string // what the browser says that it is
}

// Identify gives who asks, or fails with ErrNobody. Used says that somebody asks for something, and not only still listens: idle time
// counts from then, and it is noted from where. The note is left out where the database takes none.
func (a *Accounts) Identify(ctx context.Context, c Credentials, used bool) (Asker, error) {
	if c.Token != "" {
		return a.useToken(ctx, c, used)
	}
	return a.useSession(ctx, c, used)
}
