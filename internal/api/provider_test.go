package api

import (
	"crypto"
	"crypto/rand"
	"crypto/rsa"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"math/big"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/accounts"
	"aftermath/internal/pg/pgtest"
	"aftermath/internal/store"
)

// standIn is a provider of sign-ins (OpenID Connect) that vouches for whoever it is told to, rightly or wrongly.
type standIn struct {
	*httptest.Server
	key               *rsa.PrivateKey
	email, subject    string
	verified          bool
	nonce, challenge  string
	wrongNonce, stale bool
	signer            *rsa.PrivateKey // another one forges
}

func newStandIn(t *testing.T) *standIn {
	key, err := rsa.GenerateKey(rand.Reader, 2048)
	require.NoError(t, err)
	p := &standIn{key: key, signer: key, verified: true}
	b64 := base64.RawURLEncoding
	answer := func(w http.ResponseWriter, v any) {
		w.Header().Set("Content-Type", "application/json")
		_ = json.NewEncoder(w).Encode(v)
	}
	m := http.NewServeMux()
	m.HandleFunc("/.well-known/openid-configuration", func(w http.ResponseWriter, _ *http.Request) {
		answer(w, map[string]any{"issuer": p.URL, "authorization_endpoint": p.URL + "/authorize", "token_endpoint": p.URL + "/token",
			"jwks_uri": p.URL + "/keys", "id_token_signing_alg_values_supported": []string{"RS256"}})
	})
	m.HandleFunc("/keys", func(w http.ResponseWriter, _ *http.Request) {
		answer(w, map[string]any{"keys": []any{map[string]any{"kty": "RSA", "alg": "RS256", "use": "sig", "kid": "1", "n": b64.EncodeToString(key.N.Bytes()),
			"e": b64.EncodeToString(big.NewInt(int64(key.E)).Bytes())}}})
	})
	m.HandleFunc("/authorize", func(w http.ResponseWriter, r *http.Request) {
		q := r.URL.Query()
		p.nonce, p.challenge = q.Get("nonce"), q.Get("code_challenge")
		back, err := url.Parse(q.Get("redirect_uri"))
		if err != nil || q.Get("code_challenge_method") != "S256" || q.Get("client_id") != "aftermath" {
			http.Error(w, "no", http.StatusBadRequest)
			return
		}
		back.RawQuery = url.Values{"code": {"c"}, "state": {q.Get("state")}}.Encode()
		http.Redirect(w, r, back.String(), http.StatusFound)
	})
	m.HandleFunc("/token", func(w http.ResponseWriter, r *http.Request) {
		sum := sha256.Sum256([]byte(r.FormValue("code_verifier")))
		if b64.EncodeToString(sum[:]) != p.challenge {
			http.Error(w, `{"error":"invalid_grant"}`, http.StatusBadRequest)
			return
		}
		nonce, ends := p.nonce, time.Now().Add(time.Minute)
		if p.wrongNonce {
			nonce = "of another sign-in"
		}
		if p.stale {
			ends = time.Now().Add(-time.Hour)
		}
		claims, _ := json.Marshal(map[string]any{"iss": p.URL, "aud": "aftermath", "sub": p.subject, "exp": ends.Unix(), "iat": time.Now().Unix(),
			"nonce": nonce, "email": p.email, "email_verified": p.verified})
		said := b64.EncodeToString([]byte(`{"alg":"RS256","kid":"1"}`)) + "." + b64.EncodeToString(claims)
		hashed := sha256.Sum256([]byte(said))
		signature, _ := rsa.SignPKCS1v15(rand.Reader, p.signer, crypto.SHA256, hashed[:])
		answer(w, map[string]any{"access_token": "a", "token_type": "Bearer", "id_token": said + "." + b64.EncodeToString(signature)})
	})
	p.Server = httptest.NewServer(m)
	t.Cleanup(p.Close)
	return p
}

// Whom another provider vouches for comes in, if they have an account; what is forged, stale, of another sign-in, or of an address that
// nobody has verified, lets nobody in.
func TestSignInByAnotherProvider(t *testing.T) {
	s, err := store.Open(t.Context(), pgtest.Database(t))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	a := accounts.New(s)
	_, err = a.Add(t.Context(), "Ada", "ada@larkmoor.example", "", true, true)
	require.NoError(t, err)
	from := newStandIn(t)
	holder := &http.Server{}
	here := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { holder.Handler.ServeHTTP(w, r) }))
	t.Cleanup(here.Close)
	provider, err := a.NewProvider(t.Context(), accounts.ProviderOptions{
		Name: "Larkmoor", Issuer: from.URL, ClientID: "aftermath", Secret: "s", Callback: here.URL + "/auth/back",
	})
	require.NoError(t, err)
	holder.Handler = handlerOn(t, s, Options{Provider: provider})

	signIn := func() (name, said string) {
		jar, err := cookiejar.New(nil)
		require.NoError(t, err)
		client := http.Client{Jar: jar, Timeout: 20 * time.Second, CheckRedirect: func(r *http.Request, _ []*http.Request) error {
			if r.URL.Path == "/" {
				return http.ErrUseLastResponse
			}
			return nil
		}}
		reply, err := client.Get(here.URL + "/auth/start")
		require.NoError(t, err)
		reply.Body.Close()
		to, err := reply.Location()
		require.NoError(t, err)
		reply, err = client.Get(here.URL + prefix + "/session")
		require.NoError(t, err)
		defer reply.Body.Close()
		var session Session
		require.NoError(t, json.NewDecoder(reply.Body).Decode(&session))
		require.Equal(t, "Larkmoor", session.Provider)
		return session.Name, to.Query().Get("signin")
	}
	forger, err := rsa.GenerateKey(rand.Reader, 2048)
	require.NoError(t, err)
	for _, c := range []struct {
		what  string
		set   func()
		name  string
		says  string
		reset func()
	}{
		{"unverified", func() { from.email, from.subject, from.verified = "ada@larkmoor.example", "1", false }, "", "no account here", func() { from.verified = true }},
		{"forged", func() { from.signer = forger }, "", "can't be trusted", func() { from.signer = from.key }},
		{"stale", func() { from.stale = true }, "", "can't be trusted", func() { from.stale = false }},
		{"another sign-in", func() { from.wrongNonce = true }, "", "another sign-in", func() { from.wrongNonce = false }},
		{"by address", func() {}, "Ada", "", func() {}},
		{"by who they are", func() { from.email = "" }, "Ada", "", func() {}},
		{"the address, by somebody else", func() { from.email, from.subject = "ada@larkmoor.example", "2" }, "", "no account here", func() {}},
	} {
		c.set()
		name, said := signIn()
		assert.Equal(t, c.name, name, c.what)
		assert.Contains(t, said, c.says, c.what)
		c.reset()
	}
	// A way back that was not begun here.
	client := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	reply, err := client.Get(here.URL + "/auth/back?state=x&code=c")
	require.NoError(t, err)
	reply.Body.Close()
	to, err := reply.Location()
	require.NoError(t, err)
	assert.Contains(t, to.Query().Get("signin"), "not begun here")
	assert.NotContains(t, strings.Join(reply.Header.Values("Set-Cookie"), fmt.Sprint()), "aftermath=")
}
