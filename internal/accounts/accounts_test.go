package accounts

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/parallel"
	"aftermath/internal/pg/pgtest"
	"aftermath/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// opened are accounts with the address of their database.
type opened struct {
	*Accounts
	url string
}

func open(t *testing.T) opened {
	url := pgtest.Database(t)
	s, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	a := New(s)
	a.cost = hashCost{1, 64, 1} // as good, and quick
	return opened{a, url}
}

// A hash is of one password, and says nothing of it; without one, nothing matches.
func TestPasswords(t *testing.T) {
	a := open(t)
	ctx := context.Background()
	rapid.Check(t, func(rt *rapid.T) {
		password := rapid.StringN(12, 30, 200).Draw(rt, "password")
		other := rapid.StringN(12, 30, 200).Draw(rt, "other")
		hashed, err := a.hash(ctx, password)
		require.NoError(rt, err)
		require.NotContains(rt, hashed, password)
		right, err := a.matches(ctx, password, hashed)
		require.NoError(rt, err)
		require.True(rt, right)
		wrong, err := a.matches(ctx, other, hashed)
		require.NoError(rt, err)
		require.Equal(rt, other == password, wrong)
	})
	for _, hashed := range []string{"", "$argon2id$v=19$m=1,t=1,p=1$$", "$argon2id$v=19$m=19456,t=2,p=1$AAAA$!", "secret"} {
		for _, password := range []string{"", "secret"} {
			right, err := a.matches(ctx, password, hashed)
			require.NoError(t, err)
			assert.False(t, right, hashed)
		}
	}
	for _, bad := range []string{"", "elevenchars", "aaaaaaaaaaaaaa", "Henrietta Lark"} {
		_, err := a.Add(ctx, "Henrietta Lark", "", bad, true, true)
		assert.ErrorIs(t, err, ErrRequest, bad)
	}
	u, err := a.Add(ctx, "Henrietta Lark", "", "a dozen letters", true, true)
	require.NoError(t, err)
	assert.NotContains(t, u.Password, "dozen")
	_, err = a.Add(ctx, "henrietta  LARK", "", "a dozen letters", true, true)
	assert.ErrorContains(t, err, "another account")
}

// The door opens with no account, shuts with the first, and stays shut, also for a server that is started when all are closed.
func TestAccountsAreOnWithTheFirst(t *testing.T) {
	a := open(t)
	on := func() bool {
		is, err := New(a.store).On(t.Context())
		require.NoError(t, err)
		return is
	}
	assert.False(t, on())
	assert.NoError(t, a.Door(t.Context(), false))
	err := a.Door(t.Context(), true)
	assert.ErrorIs(t, err, ErrDoor)
	assert.ErrorContains(t, err, "aftermath user add NAME --admin")
	_, err = a.Add(t.Context(), "Ada", "", "a dozen letters", true, true)
	require.NoError(t, err)
	assert.True(t, on())
	assert.NoError(t, a.Door(t.Context(), true))
	// As a folder can be found that was restored, or written to by hand.
	pgtest.Exec(t, a.url, "update users set disabled = now()")
	assert.True(t, on(), "closing accounts opens no door")
	for _, reachable := range []bool{false, true} {
		err = a.Door(t.Context(), reachable)
		assert.ErrorIs(t, err, ErrDoor)
		assert.ErrorContains(t, err, "aftermath user open NAME")
	}
}

// One administrator stays, also where two take the rights of each other at once; what is refused changes nothing.
func TestTheLastAdministratorStays(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	yes, no, password := true, false, "another dozen letters"
	two := [2]store.User{}
	for i, name := range []string{"Ada", "Ben"} {
		u, err := a.Add(ctx, name, "", "a dozen letters", true, true)
		require.NoError(t, err)
		two[i] = u
	}
	for round := range 20 {
		changes := [2]Change{{Admin: &no}, {Closed: &yes}}
		var failed [2]error
		parallel.Run(func() { _, failed[0] = a.Change(ctx, two[0], changes[round%2]) }, func() { _, failed[1] = a.Change(ctx, two[1], changes[1-round%2]) })
		_, admins, err := a.store.CountUsers(ctx)
		require.NoError(t, err)
		require.Equal(t, 1, admins, "%v", failed)
		require.True(t, (failed[0] == nil) != (failed[1] == nil), "%v", failed)
		require.ErrorIs(t, errors.Join(failed[:]...), store.ErrLastAdmin)
		for _, u := range two {
			_, err := a.Change(ctx, u, Change{Admin: &yes, Closed: &no})
			require.NoError(t, err)
		}
	}
	_, err := a.Change(ctx, two[0], Change{Closed: &yes})
	require.NoError(t, err)
	for _, refused := range []Change{{Admin: &no, Password: &password}, {Closed: &yes, Begins: &no}} {
		_, err = a.Change(ctx, two[1], refused)
		require.ErrorIs(t, err, store.ErrLastAdmin)
	}
	_, err = a.SignIn(ctx, SignInRequest{Name: "Ben", Password: "a dozen letters"})
	assert.NoError(t, err, "the password is as it was")
	u, err := a.User(ctx, two[1].ID)
	require.NoError(t, err)
	assert.True(t, u.Begins && u.Admin && u.Disabled == nil)

	// Who was read earlier is changed in what is asked for and in nothing else: no right comes back.
	stale := two[0]
	_, err = a.Change(ctx, two[0], Change{Admin: &no})
	require.NoError(t, err)
	_, err = a.Change(ctx, stale, Change{Password: &password})
	require.NoError(t, err)
	require.NoError(t, a.store.KnowAs(ctx, stale.ID, "somebody elsewhere"))
	u, err = a.User(ctx, stale.ID)
	require.NoError(t, err)
	assert.False(t, u.Admin)
	assert.NotNil(t, u.Disabled, "nor is the account open again")
}

// Whatever is done to an account in whatever order, those come in who are in a plain list of what lets them in.
func TestWhatLetsSomebodyInEnds(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	_, err := a.Add(ctx, "The admin who stays", "", "a dozen letters", true, true)
	require.NoError(t, err)
	type entry struct {
		Credentials
		scope string
	}
	n := 0
	rapid.Check(t, func(rt *rapid.T) {
		if n++; n > 40 {
			return
		}
		u, err := a.Add(ctx, fmt.Sprint("Person ", n), fmt.Sprintf("p%d@larkmoor.example", n), "", true, false)
		require.NoError(rt, err)
		admin, closed := true, false
		in, ended := []entry{}, []entry{}
		for range rapid.IntRange(3, 12).Draw(rt, "steps") {
			change := Change{}
			do := rapid.SampledFrom([]string{"sign in", "token", "close", "open", "demote", "promote", "begins", "end one", "sign out"}).Draw(rt, "do")
			switch of, openErr := a.Open(ctx, u.Name); do {
			case "sign in":
				cookie, _, err := a.Begin(ctx, Credentials{Address: "here", Agent: "a browser"}, of)
				if closed {
					require.ErrorIs(rt, openErr, ErrNobody)
					require.ErrorIs(rt, err, ErrNobody)
					continue
				}
				require.NoError(rt, err)
				in = append(in, entry{Credentials{Cookie: cookie}, ""})
			case "token":
				scope := rapid.SampledFrom([]string{ScopeRead, ScopeWrite}).Draw(rt, "scope")
				token, _, err := a.NewToken(ctx, of, "nightly", scope, time.Hour)
				if closed {
					require.ErrorIs(rt, err, ErrNobody)
					continue
				}
				require.NoError(rt, err)
				in = append(in, entry{Credentials{Token: token}, scope})
			case "close", "open":
				closed = do == "close"
				change.Closed = &closed
			case "demote", "promote":
				if do == "demote" && admin {
					ended, in = append(ended, in...), nil
				}
				admin = do == "promote"
				change.Admin = &admin
			case "begins":
				yes := true
				change.Begins = &yes
			case "end one":
				entries, err := a.Entries(ctx, u.ID)
				require.NoError(rt, err)
				require.Len(rt, entries, len(in))
				if len(in) > 0 {
					// The list is of what was used last: here, of what was made last.
					_, err = a.EndEntry(ctx, u.ID+1, entries[0].Kind, entries[0].ID)
					require.ErrorIs(rt, err, store.ErrNotFound, "it is nobody else's to end")
					_, err = a.EndEntry(ctx, 0, entries[0].Kind, entries[0].ID)
					require.NoError(rt, err)
					for i, e := range in {
						if _, err := a.Identify(ctx, e.Credentials, false); err != nil {
							ended, in = append(ended, e), slices.Delete(slices.Clone(in), i, i+1)
							break
						}
					}
				}
			case "sign out":
				for i, e := range in {
					if e.Cookie != "" {
						require.NoError(rt, a.End(ctx, e.Credentials, false))
						ended, in = append(ended, e), slices.Delete(slices.Clone(in), i, i+1)
						break
					}
				}
			}
			if change != (Change{}) {
				_, err := a.Change(ctx, u, change)
				require.NoError(rt, err)
			}
			if closed {
				ended, in = append(ended, in...), nil
			}
			for _, e := range in {
				used := rapid.Bool().Draw(rt, "used")
				of, err := a.Identify(ctx, e.Credentials, used)
				require.NoError(rt, err)
				require.Equal(rt, []any{u.ID, admin, e.scope == ScopeRead}, []any{of.ID(), of.Admin(), of.ReadsOnly()})
			}
			for _, e := range ended {
				of, err := a.Identify(ctx, e.Credentials, false)
				require.ErrorIs(rt, err, ErrNobody, do)
				require.Equal(rt, Asker{}, of, "nobody is nobody")
			}
		}
	})
}

// Attempts that fail keep nobody out elsewhere, nor the owner in a browser that is known; an administrator's reset lets them in at
// once. They are counted in the log, one line a day.
func TestAttemptsAreSlowed(t *testing.T) {
	a := open(t)
	ctx := t.Context()
	now := time.Now()
	a.attempts.now = func() time.Time { return now } // it stands still, however slow the machine is
	ada, err := a.Add(ctx, "Ada", "", "a dozen letters", true, true)
	require.NoError(t, err)
	try := func(password, address, known string) error {
		_, err := a.SignIn(ctx, SignInRequest{Name: "ada", Password: password, Address: address, Known: known})
		return err
	}
	for range 5 {
		require.ErrorIs(t, try("wrong", "there", ""), ErrRefused)
	}
	require.ErrorIs(t, try("a dozen letters", "there", ""), ErrTooOften)
	now = now.Add(onAccountFrom.every)
	require.ErrorIs(t, try("wrong", "there", ""), ErrRefused, "after a while once more")
	require.ErrorIs(t, try("wrong", "there", ""), ErrTooOften)
	in, err := a.SignIn(ctx, SignInRequest{Name: "Ada", Password: "a dozen letters", Address: "here"})
	require.NoError(t, err, "the owner comes in from elsewhere")
	known := a.KnownBrowser(in)
	require.NoError(t, try("a dozen letters", "there", known), "and there in a browser that is known")
	// Many addresses together use up what one account has.
	tried := 0
	for err = ErrRefused; errors.Is(err, ErrRefused) && tried < 200; tried++ {
		a.attempts.left.Remove("from 10.0.0.1")
		err = try("wrong", fmt.Sprint("10.0.", tried/250, ".", tried%250), "")
	}
	require.ErrorIs(t, err, ErrTooOften)
	assert.Equal(t, onAccount.atOnce+1, tried, "the last one was too many")
	require.ErrorIs(t, try("a dozen letters", "yet elsewhere", ""), ErrTooOften)
	require.ErrorIs(t, try("a dozen letters", "yet elsewhere", known+"x"), ErrTooOften)
	require.NoError(t, try("a dozen letters", "yet elsewhere", known))
	// From one address not many, whoever is tried: what succeeds there in between gives none of them back.
	password := "another dozen letters"
	_, err = a.Change(ctx, ada, Change{Password: &password})
	require.NoError(t, err)
	require.NoError(t, try(password, "there", ""), "a reset lets them in at once")
	refused := 0
	for i := range 40 {
		if i%5 == 4 {
			_ = try(password, "an office", "")
		}
		_, err := a.SignIn(ctx, SignInRequest{Name: fmt.Sprint("Nobody ", i), Password: "x", Address: "an office"})
		if errors.Is(err, ErrRefused) {
			refused++
		}
	}
	assert.Equal(t, fromAddress.atOnce, refused)

	log, err := a.LogEntries(ctx, 0, 1000)
	require.NoError(t, err)
	lines, times := map[string]int{}, map[string]int64{}
	for _, e := range log {
		if e.Action == refusedAction {
			lines[e.Who+e.Address+e.Detail]++
			times[e.Who+e.Address+e.Detail] = e.Times
		}
	}
	assert.EqualValues(t, 6, times["Adathere"])
	assert.EqualValues(t, 1, lines["Adathere"])
	assert.EqualValues(t, 20, times["an officethere is no account of that name"])
	assert.NotContains(t, fmt.Sprint(log), "Nobody")
	pgtest.Exec(t, a.url, "update log set at = now() - interval '366 days' where action = 'signed in'")
	require.NoError(t, a.Tidy(ctx, 365*24*time.Hour))
	left, err := a.LogEntries(ctx, 0, 1000)
	require.NoError(t, err)
	assert.Len(t, left, len(lines))
}

// A session ends after a while without anything done, counted from what was done last, and after a longer one whatever is done.
func TestSessionsEnd(t *testing.T) {
	a := open(t)
	_, err := a.Add(t.Context(), "Ada", "", "a dozen letters", true, true)
	require.NoError(t, err)
	u, err := a.Open(t.Context(), "Ada")
	require.NoError(t, err)
	in := func(cookie string, used bool) bool {
		_, err := a.Identify(t.Context(), Credentials{Cookie: cookie, Address: rand.Text()}, used) // another address is noted at once
		return err == nil
	}
	begin := func(before string, idle, lifetime time.Duration) string {
		a.Sessions.IdleTimeout, a.Sessions.Lifetime = idle, lifetime
		cookie, until, err := a.Begin(t.Context(), Credentials{Cookie: before}, u)
		require.NoError(t, err)
		assert.WithinDuration(t, time.Now().Add(lifetime), until, time.Second, "the browser keeps it for as long as it may last")
		return cookie
	}
	short := begin("", time.Hour, 300*time.Millisecond)
	busy, idle := begin("", 2*time.Second, time.Hour), begin("", 2*time.Second, time.Hour)
	for begun := time.Now(); time.Since(begun) < 3*time.Second; time.Sleep(100 * time.Millisecond) {
		require.True(t, in(busy, true), "it is used")
		in(idle, false) // who listens does nothing
	}
	assert.False(t, in(idle, false) || in(short, false))
	// Who is signed out while a request of theirs is on its way stays signed out, though it notes its use at last.
	ending := begin("", time.Hour, time.Hour)
	loaded, err := a.Sessions.Load(t.Context(), ending)
	require.NoError(t, err)
	a.seen(loaded, Credentials{Address: "elsewhere"})
	require.NoError(t, a.End(t.Context(), Credentials{Cookie: ending}, false))
	_, _, err = a.Sessions.Commit(onlyUsed(loaded))
	require.NoError(t, err)
	assert.False(t, in(ending, true))
	// What the browser had before is of no use after signing in.
	before := begin("", time.Hour, time.Hour)
	after := begin(before, time.Hour, time.Hour)
	assert.NotEqual(t, before, after)
	assert.True(t, in(after, true))
	assert.False(t, in(before, true) || in("made up", true))
}
