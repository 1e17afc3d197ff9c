package accounts

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/internal/pg/pgtest"
	"aftermath/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

func open(t *testing.T) *Accounts {
	s, err := store.Open(t.Context(), pgtest.Database(t))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return New(s)
}

// A hash is of one password, and says nothing of it; without one, nothing matches.
func TestPasswords(t *testing.T) {
	a := open(t)
	ctx := context.Background()
	rapid.Check(t, func(rt *rapid.T) {
		if rapid.IntRange(0, 9).Draw(rt, "few") > 1 {
			return // each takes its time, on purpose
		}
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
		_, err := a.Add(ctx, "Henrietta Lark", "", bad, true)
		assert.ErrorIs(t, err, ErrRequest, bad)
	}
	u, err := a.Add(ctx, "Henrietta Lark", "", "a dozen letters", true)
	require.NoError(t, err)
	assert.NotContains(t, u.Password, "dozen")
	_, err = a.Add(ctx, "henrietta  LARK", "", "a dozen letters", true)
	assert.ErrorContains(t, err, "another account")
}

// The door opens with no account, shuts with the first, and stays shut.
func TestAccountsAreOnWithTheFirst(t *testing.T) {
	a := open(t)
	on := func() bool {
		a.asked = time.Time{}
		is, err := a.On(t.Context())
		require.NoError(t, err)
		return is
	}
	assert.False(t, on())
	u, err := a.Add(t.Context(), "Ada", "", "a dozen letters", true)
	require.NoError(t, err)
	assert.True(t, on())
	require.NoError(t, a.Close(t.Context(), u, true))
	assert.True(t, on())
}

// A session ends after a while without anything done, and after a longer one whatever is done.
func TestSessionsEnd(t *testing.T) {
	a := open(t)
	u, err := a.Add(t.Context(), "Ada", "", "a dozen letters", true)
	require.NoError(t, err)
	in := func(cookie string) bool {
		_, err := a.Who(t.Context(), cookie)
		return err == nil
	}
	a.Sessions.IdleTimeout, a.Sessions.Lifetime = 300*time.Millisecond, time.Hour
	idle, _, err := a.Begin(t.Context(), "", u)
	require.NoError(t, err)
	assert.True(t, in(idle))
	a.Sessions.IdleTimeout, a.Sessions.Lifetime = time.Hour, 300*time.Millisecond
	short, _, err := a.Begin(t.Context(), "", u)
	require.NoError(t, err)
	require.Eventually(t, func() bool { return !in(idle) && !in(short) }, 10*time.Second, 20*time.Millisecond)

	// What the browser had before is of no use after signing in.
	a.Sessions.IdleTimeout, a.Sessions.Lifetime = time.Hour, time.Hour
	before, _, err := a.Begin(t.Context(), "", u)
	require.NoError(t, err)
	after, _, err := a.Begin(t.Context(), before, u)
	require.NoError(t, err)
	assert.NotEqual(t, before, after)
	assert.True(t, in(after))
	assert.False(t, in(before))
	assert.False(t, in("made up"))
}
