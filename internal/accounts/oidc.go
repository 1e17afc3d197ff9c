package accounts

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"time"

	"github.com/coreos/go-oidc/v3/oidc"
	"golang.org/x/oauth2"

	"aftermath/internal/store"
)

// Provider signs people in by another provider's word (OpenID Connect Core 1.0, code flow with PKCE).
type Provider struct {
	Name     string // as the button says it
	accounts *Accounts
	config   oauth2.Config
	verifier *oidc.IDTokenVerifier
}

// ProviderOptions are what a provider is reached by.
type ProviderOptions struct {
	Name, Issuer, ClientID, Secret string
	Callback                       string // our address that it sends people back to
}

// NewProvider asks the provider for how it is spoken to.
func (a *Accounts) NewProvider(ctx context.Context, o ProviderOptions) (*Provider, error) {
	within, cancel := context.WithTimeout(ctx, 20*time.Second)
	defer cancel()
	p, err := oidc.NewProvider(within, o.Issuer)
	if err != nil {
		return nil, fmt.Errorf("the provider of sign-ins, %s, can't be asked: %w", o.Issuer, err)
	}
	return &Provider{
		Name: o.Name, accounts: a, verifier: p.VerifierContext(ctx, &oidc.Config{ClientID: o.ClientID}),
		config: oauth2.Config{
			ClientID: o.ClientID, ClientSecret: o.Secret, Endpoint: p.Endpoint(), RedirectURL: o.Callback,
			Scopes: []string{oidc.ScopeOpenID, "email", "profile"},
		},
	}, nil
}

// What a session holds while somebody is at the provider's.
const (
	stateKey    = "state"
	nonceKey    = "nonce"
	verifierKey = "verifier"
)

// Go gives the address to send a browser to, and what it holds of the session meanwhile.
func (p *Provider) Go(ctx context.Context, before string) (address, cookie string, expiry time.Time, err error) {
	s := p.accounts.Sessions
	if ctx, err = s.Load(ctx, before); err != nil {
		return "", "", expiry, err
	}
	if err = s.RenewToken(ctx); err != nil {
		return "", "", expiry, err
	}
	state, nonce, verifier := rand.Text(), rand.Text(), oauth2.GenerateVerifier()
	s.Remove(ctx, userKey)
	s.Put(ctx, stateKey, state)
	s.Put(ctx, nonceKey, nonce)
	s.Put(ctx, verifierKey, verifier)
	cookie, expiry, err = s.Commit(ctx)
	return p.config.AuthCodeURL(state, oidc.Nonce(nonce), oauth2.S256ChallengeOption(verifier)), cookie, expiry, err
}

// Back gives the account whom the provider vouches for. Only who has an account comes in: by who they are there, or, the first
// time, by an address that the provider has verified.
func (p *Provider) Back(ctx context.Context, cookie, state, code, address string) (Asker, error) {
	s := p.accounts.Sessions
	loaded, err := s.Load(ctx, cookie)
	if err != nil {
		return Asker{}, err
	}
	wanted, nonce, verifier := s.PopString(loaded, stateKey), s.PopString(loaded, nonceKey), s.PopString(loaded, verifierKey)
	if _, _, err := s.Commit(loaded); err != nil { // each of these holds once
		return Asker{}, err
	}
	if wanted == "" || state != wanted {
		return Asker{}, fmt.Errorf("%w: this sign-in was not begun here, or took too long; begin again", ErrRequest)
	}
	within, cancel := context.WithTimeout(ctx, 20*time.Second)
	defer cancel()
	token, err := p.config.Exchange(within, code, oauth2.VerifierOption(verifier))
	if err != nil {
		return Asker{}, fmt.Errorf("%w: the provider did not vouch: %w", ErrRequest, err)
	}
	raw, _ := token.Extra("id_token").(string)
	id, err := p.verifier.Verify(within, raw)
	if err != nil {
		return Asker{}, fmt.Errorf("%w: what the provider said can't be trusted: %w", ErrRequest, err)
	}
	if id.Nonce != nonce {
		return Asker{}, fmt.Errorf("%w: what the provider said is of another sign-in", ErrRequest)
	}
	var said struct {
		Email    string `json:"email"`
		Verified bool   `json:"email_verified"`
	}
	if err := id.Claims(&said); err != nil {
		return Asker{}, fmt.Errorf("%w: what the provider said can't be read: %w", ErrRequest, err)
	}
	if !said.Verified {
		said.Email = ""
	}
	subject := id.Issuer + "\n" + id.Subject
	u, err := p.accounts.store.UserKnownAs(ctx, subject, said.Email)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return Asker{}, err
	}
	in, err := asker(u, "")
	if err != nil {
		p.accounts.count(ctx, store.LogEntry{Who: said.Email, Address: address, Action: refusedAction, Detail: p.Name})
		return Asker{}, fmt.Errorf("%w: %s knows you, but you have no account here; ask for one", ErrRequest, p.Name)
	}
	if u.Subject == "" {
		if err := p.accounts.store.KnowAs(ctx, u.ID, subject); err != nil {
			return Asker{}, err
		}
	}
	p.accounts.Log(ctx, store.LogEntry{Who: u.Name, Address: address, Action: "signed in", Detail: p.Name})
	return in, nil
}
