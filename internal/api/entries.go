package api

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/internal/accounts"
	"aftermath/internal/store"
)

// NewToken is a token that was made.
type NewToken struct {
	Name  string    `json:"name"`
	Ends  time.Time `json:"ends"`
	Token string    `json:"token" doc:"the token itself, which is not kept"`
}

func (s *server) addToken(ctx context.Context, in *struct {
	Body struct {
		Name  string `json:"name" minLength:"1" maxLength:"100"`
		Scope string `json:"scope" enum:"read,write"`
		Days  int    `json:"days" minimum:"1" maximum:"366"`
	}
}) (*body[NewToken], error) {
	w := whoAsks(ctx)
	if !w.on {
		return nil, huma.Error409Conflict("There are no accounts here, so that no token is needed.")
	}
	token, kept, err := s.accounts.NewToken(ctx, w.Asker, in.Body.Name, in.Body.Scope, time.Duration(in.Body.Days)*24*time.Hour)
	noted(ctx, kept.Name)
	return &body[NewToken]{NewToken{kept.Name, kept.Ends, token}}, problem(err)
}

// Entry is something that lets somebody in.
type Entry struct {
	Kind    string     `json:"kind" enum:"session,token"`
	ID      int64      `json:"id"`
	User    int64      `json:"user"`
	Who     string     `json:"who" doc:"whose account it is"`
	Name    string     `json:"name" doc:"of a token; of a session, what the browser says that it is"`
	Scope   string     `json:"scope,omitempty" enum:"read,write" doc:"of a token: what it is for"`
	Created time.Time  `json:"created"`
	Used    *time.Time `json:"used,omitempty" doc:"when it was used last, to the minute; left out: never"`
	From    string     `json:"from,omitempty" doc:"the address that it was used from last"`
	Ends    time.Time  `json:"ends" doc:"by itself; of a session, if nothing more is done in it"`
	This    bool       `json:"this,omitempty" doc:"the session that asks"`
}

func (s *server) entries(ctx context.Context, in *Credentials) (*body[[]Entry], error) {
	w := whoAsks(ctx)
	if !w.on {
		return &body[[]Entry]{[]Entry{}}, nil
	}
	return replied(s.entriesOf(ctx, w.ID(), in.Cookie))
}

func (s *server) allEntries(ctx context.Context, in *Credentials) (*body[[]Entry], error) {
	return replied(s.entriesOf(ctx, 0, in.Cookie))
}

func (s *server) entriesOf(ctx context.Context, user int64, cookie string) ([]Entry, error) {
	all, err := s.accounts.Entries(ctx, user)
	if err != nil {
		return nil, err
	}
	names, err := s.names(ctx)
	if err != nil {
		return nil, err
	}
	this, err := s.accounts.SessionNumber(ctx, cookie)
	out := []Entry{}
	for _, e := range all {
		out = append(out, Entry{
			string(e.Kind), e.ID, e.User, names[e.User], e.Name, e.Scope, e.Created, e.Used, e.From, e.Ends,
			e.Kind == accounts.BySession && e.ID == this,
		})
	}
	return out, err
}

// names are those of all accounts, by number.
func (s *server) names(ctx context.Context) (map[int64]string, error) {
	users, err := s.accounts.Users(ctx)
	out := map[int64]string{}
	for _, u := range users {
		out[u.ID] = u.Name
	}
	return out, err
}

func (s *server) endEntry(ctx context.Context, in *struct {
	Kind  string `path:"kind" enum:"session,token"`
	Entry int64  `path:"entry"`
}) (*struct{}, error) {
	w := whoAsks(ctx)
	whose := w.ID()
	if w.Admin() || !w.on {
		whose = 0
	}
	u, err := s.accounts.EndEntry(ctx, whose, accounts.EntryKind(in.Kind), in.Entry)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error404NotFound("It has ended already.")
	}
	noted(ctx, fmt.Sprintf("%s of %s", in.Kind, u.Name))
	return nil, problem(err)
}
