package accounts

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"sync"
	"time"

	"github.com/hashicorp/golang-lru/v2"
	"golang.org/x/time/rate"

	"aftermath/internal/store"
)

// allowance is how many attempts to sign in may fail: so many at once, then one in so long.
type allowance struct {
	atOnce int
	every  time.Duration
}

// Attempts on an account from one address are few. Those from one address are more, since many may sit behind it, and those on one
// account from anywhere more again: somebody else's attempts must not keep the owner out. A browser in which the owner was signed in
// before has an allowance of its own, which nobody else uses up.
var (
	onAccountFrom = allowance{5, 20 * time.Second}
	fromAddress   = allowance{20, 20 * time.Second}
	onAccount     = allowance{100, 6 * time.Second}
	ofKnown       = allowance{20, 20 * time.Second}
)

// maxAttemptsKept is how many allowances are remembered that are partly used up.
const maxAttemptsKept = 20_000

// attempts counts the attempts to sign in that failed.
type attempts struct {
	mu   sync.Mutex
	left *lru.Cache[string, *rate.Limiter]
	now  func() time.Time
}

func newAttempts() *attempts {
	left, _ := lru.New[string, *rate.Limiter](maxAttemptsKept) // fails for no size only
	return &attempts{left: left, now: time.Now}
}

// begin says whether another attempt may be made now. Afterwards it is told whether it succeeded: then it counts for nothing.
func (a *attempts) begin(name, address, known string) (ended func(succeeded bool), err error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	account := "on " + strings.ToLower(name)
	of := map[string]allowance{account + " from " + address: onAccountFrom, "from " + address: fromAddress, account: onAccount}
	if known != "" {
		of = map[string]allowance{account + " by " + known: ofKnown}
	}
	for key, n := range of {
		if a.limiter(key, n).TokensAt(a.now()) < 1 {
			return nil, ErrTooOften
		}
	}
	for key, n := range of {
		a.limiter(key, n).AllowN(a.now(), 1)
	}
	return func(succeeded bool) {
		if !succeeded {
			return
		}
		a.mu.Lock()
		defer a.mu.Unlock()
		for key, n := range of {
			if key == "from "+address { // others may have failed from there
				a.limiter(key, n).AllowN(a.now(), -1)
				continue
			}
			a.left.Remove(key)
		}
	}, nil
}

func (a *attempts) limiter(key string, n allowance) *rate.Limiter {
	l, there := a.left.Get(key)
	if !there {
		l = rate.NewLimiter(rate.Every(n.every), n.atOnce)
		a.left.Add(key, l)
	}
	return l
}

// forget gives all attempts on an account free again.
func (a *attempts) forget(name string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	account := "on " + strings.ToLower(name)
	for _, key := range a.left.Keys() {
		if key == account || strings.HasPrefix(key, account+" from ") || strings.HasPrefix(key, account+" by ") {
			a.left.Remove(key)
		}
	}
}

// KnownBrowser is what a browser keeps in which an account was signed in: it lets nobody in, and has the attempts of others not
// count there. It is good for as long as the password stays the same.
func (a *Accounts) KnownBrowser(of Asker) string { return knownBrowser(of.user) }

func knownBrowser(u store.User) string {
	if u.Password == "" {
		return ""
	}
	sum := hmac.New(sha256.New, []byte(u.Password)) // the hash, which nobody outside knows
	fmt.Fprintf(sum, "known browser of %d", u.ID)
	return base64.RawURLEncoding.EncodeToString(sum.Sum(nil))
}

// SignInRequest is what somebody who signs in brings along.
type SignInRequest struct {
	Name, Password string
	Address        string
	Known          string // what KnownBrowser gave their browser
}

// refusedAction is what the log calls an attempt that failed.
const refusedAction = "sign-in refused"

// SignIn gives the account of a name and its password. Attempts are slowed, and counted in the log; a name that no account has is not
// in it: it may be a password that was typed into the wrong field.
func (a *Accounts) SignIn(ctx context.Context, r SignInRequest) (Asker, error) {
	u, err := a.store.UserCalled(ctx, r.Name)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return Asker{}, err
	}
	entry := store.LogEntry{Who: u.Name, Address: r.Address, Action: refusedAction}
	if u.ID == 0 {
		entry.Detail = "there is no account of that name"
	}
	known := ""
	if mark := knownBrowser(u); mark != "" && hmac.Equal([]byte(mark), []byte(r.Known)) {
		known = mark
	}
	ended, err := a.attempts.begin(r.Name, r.Address, known)
	if err != nil {
		entry.Detail = err.Error()
		a.count(ctx, entry)
		return Asker{}, err
	}
	right, err := a.matches(ctx, r.Password, u.Password) // also where there is no such account, so that nobody learns that from how long it takes
	if err != nil {
		return Asker{}, err
	}
	in, open := asker(u, "")
	if !right || open != nil {
		a.count(ctx, entry)
		return Asker{}, ErrRefused
	}
	ended(true)
	a.Log(ctx, store.LogEntry{Who: u.Name, Address: r.Address, Action: "signed in"})
	return in, nil
}

// Right says whether a password is that of who asks; attempts are slowed.
func (a *Accounts) Right(ctx context.Context, of Asker, password, address string) error {
	ended, err := a.attempts.begin(of.user.Name, address, "")
	if err != nil {
		return err
	}
	right, err := a.matches(ctx, password, of.user.Password)
	switch {
	case err != nil:
		return err
	case !right:
		return ErrRefused
	}
	ended(true)
	return nil
}
