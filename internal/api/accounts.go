package api

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/internal/accounts"
	"aftermath/internal/export"
	"aftermath/internal/files"
	"aftermath/internal/store"
)

// registerAccounts adds the routes of sign-in, accounts, tokens, sharing and the log.
func registerAccounts(a huma.API, s *server, op func(method, path, id, summary string) huma.Operation) {
	huma.Register(a, op(http.MethodGet, "/session", "session", "Who is signed in, and whether that is asked for"), s.session)
	huma.Register(a, op(http.MethodPost, "/session", "sign-in", "Sign in"), s.signIn)
	huma.Register(a, op(http.MethodDelete, "/session", "sign-out", "Sign out, here or everywhere"), s.signOut)
	huma.Register(a, op(http.MethodPut, "/password", "change-password", "Change one's own password; all sessions end but this one"), s.changePassword)
	huma.Register(a, op(http.MethodGet, "/tokens", "tokens", "One's own tokens"), s.tokens)
	huma.Register(a, op(http.MethodPost, "/tokens", "add-token", "Make a token, which is shown once"), s.addToken)
	huma.Register(a, op(http.MethodDelete, "/tokens/{token}", "drop-token", "Delete a token"), s.dropToken)
	huma.Register(a, op(http.MethodGet, "/people", "people", "Who has an account that is not closed"), s.people)
	huma.Register(a, op(http.MethodGet, "/users", "users", "All accounts"), s.users)
	huma.Register(a, op(http.MethodPost, "/users", "add-user", "Add an account"), s.addUser)
	huma.Register(a, op(http.MethodPut, "/users/{user}", "change-user", "Close an account or open it, make an admin, set a password"), s.changeUser)
	huma.Register(a, op(http.MethodGet, "/studies/{study}/members", "study-members", "Who may do what with a study"), s.sharing)
	one := "/studies/{study}/members/{user}"
	huma.Register(a, op(http.MethodPut, one, "share-study", "Let somebody do something with a study"), s.share)
	huma.Register(a, op(http.MethodDelete, one, "unshare-study", "Take a study away from somebody"), s.unshare)
	huma.Register(a, op(http.MethodGet, "/log", "log", "Who did what, the newest first"), s.log)
	huma.Register(a, op(http.MethodGet, "/log.csv", "log-file", "The whole log, as CSV"), s.logFile)
}

// Session is who is signed in.
type Session struct {
	On       bool   `json:"on" doc:"accounts are asked for"`
	Name     string `json:"name,omitempty" doc:"who is signed in; nobody if left out"`
	ID       int64  `json:"id,omitempty"`
	Admin    bool   `json:"admin,omitempty"`
	Password bool   `json:"password,omitempty" doc:"they have one"`
	Provider string `json:"provider,omitempty" doc:"another provider that people sign in by, at /auth/start"`
}

// cookied is an answer that sets or takes a session's cookie.
type cookied struct {
	Cookie http.Cookie `header:"Set-Cookie"`
	Body   Session
}

func (s *server) sessionOf(w *who) Session {
	out := Session{On: w.on, Name: w.user.Name, ID: w.user.ID, Admin: w.user.Admin, Password: w.user.Password != ""}
	if s.provider != nil {
		out.Provider = s.provider.Name
	}
	return out
}

// cookie is what a browser holds of a session; an empty one takes it away.
func (s *server) cookie(value string, expiry time.Time) http.Cookie {
	c := http.Cookie{
		Name: sessionCookie, Value: value, Path: "/", Expires: expiry, HttpOnly: true, Secure: s.secure, SameSite: http.SameSiteLaxMode,
	}
	if value == "" {
		c.MaxAge = -1
	}
	return c
}

func (s *server) session(ctx context.Context, _ *struct{}) (*body[Session], error) {
	return &body[Session]{s.sessionOf(whoAsks(ctx))}, nil
}

// Held is what a request brings of a session.
type Held struct {
	Cookie string `cookie:"aftermath"`
}

type signInInput struct {
	Held
	sent sender
	Body struct {
		Name     string `json:"name" minLength:"1" maxLength:"200"`
		Password string `json:"password" minLength:"1" maxLength:"2000"`
	}
}

// Resolve keeps where it comes from for the handler.
func (i *signInInput) Resolve(ctx huma.Context) []error { return i.sent.Resolve(ctx) }

func (s *server) signIn(ctx context.Context, in *signInInput) (*cookied, error) {
	u, err := s.accounts.SignIn(ctx, in.Body.Name, in.Body.Password, in.sent.host)
	if err != nil {
		return nil, problem(err)
	}
	cookie, expiry, err := s.accounts.Begin(ctx, in.Cookie, u)
	if err != nil {
		return nil, problem(err)
	}
	return &cookied{s.cookie(cookie, expiry), s.sessionOf(&who{on: true, user: u})}, nil
}

func (s *server) signOut(ctx context.Context, in *struct {
	Held
	Everywhere bool `query:"everywhere"`
}) (*cookied, error) {
	if err := s.accounts.End(ctx, in.Cookie, in.Everywhere); err != nil {
		return nil, problem(err)
	}
	return &cookied{s.cookie("", time.Time{}), s.sessionOf(&who{on: whoAsks(ctx).on})}, nil
}

type passwordInput struct {
	Held
	sent sender
	Body struct {
		Before string `json:"before" maxLength:"2000"`
		After  string `json:"after" maxLength:"2000"`
	}
}

// Resolve keeps where it comes from for the handler.
func (i *passwordInput) Resolve(ctx huma.Context) []error { return i.sent.Resolve(ctx) }

func (s *server) changePassword(ctx context.Context, in *passwordInput) (*cookied, error) {
	u := whoAsks(ctx).user
	if err := s.accounts.Right(ctx, u, in.Body.Before, in.sent.host); err != nil {
		return nil, problem(err)
	}
	if err := s.accounts.SetPassword(ctx, u, in.Body.After); err != nil {
		return nil, problem(err)
	}
	cookie, expiry, err := s.accounts.Begin(ctx, in.Cookie, u)
	return &cookied{s.cookie(cookie, expiry), s.sessionOf(whoAsks(ctx))}, problem(err)
}

// TokenInfo is a token without its secret.
type TokenInfo struct {
	ID    int64      `json:"id"`
	Name  string     `json:"name"`
	Scope string     `json:"scope"`
	Ends  time.Time  `json:"ends"`
	Used  *time.Time `json:"used,omitempty" doc:"when it was used last, to the hour"`
	Token string     `json:"token,omitempty" doc:"the token itself: only when it is made"`
}

func tokenInfo(t store.Token) TokenInfo {
	return TokenInfo{ID: t.ID, Name: t.Name, Scope: t.Scope, Ends: t.Ends, Used: t.Used}
}

func (s *server) tokens(ctx context.Context, _ *struct{}) (*body[[]TokenInfo], error) {
	all, err := s.accounts.Tokens(ctx, whoAsks(ctx).user)
	out := []TokenInfo{}
	for _, t := range all {
		out = append(out, tokenInfo(t))
	}
	return &body[[]TokenInfo]{out}, problem(err)
}

func (s *server) addToken(ctx context.Context, in *struct {
	Body struct {
		Name  string `json:"name" minLength:"1" maxLength:"100"`
		Scope string `json:"scope" enum:"read,write"`
		Days  int    `json:"days" minimum:"1" maximum:"366"`
	}
}) (*body[TokenInfo], error) {
	w := whoAsks(ctx)
	if w.user.ID == 0 {
		return nil, huma.Error409Conflict("There are no accounts here, so that no token is needed.")
	}
	token, kept, err := s.accounts.NewToken(ctx, w.user, in.Body.Name, in.Body.Scope, time.Duration(in.Body.Days)*24*time.Hour)
	out := tokenInfo(kept)
	out.Token = token
	noted(ctx, kept.Name)
	return &body[TokenInfo]{out}, problem(err)
}

func (s *server) dropToken(ctx context.Context, in *struct {
	Token int64 `path:"token"`
}) (*struct{}, error) {
	return nil, problem(s.accounts.DropToken(ctx, whoAsks(ctx).user, in.Token))
}

// Person is somebody with an account.
type Person struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

func (s *server) people(ctx context.Context, _ *struct{}) (*body[[]Person], error) {
	all, err := s.accounts.Users(ctx)
	out := []Person{}
	for _, u := range all {
		if u.Disabled == nil {
			out = append(out, Person{u.ID, u.Name})
		}
	}
	return &body[[]Person]{out}, problem(err)
}

// Account is somebody's account.
type Account struct {
	Person
	Email    string     `json:"email,omitempty" doc:"by which another provider vouches for them"`
	Admin    bool       `json:"admin"`
	Password bool       `json:"password" doc:"they have one"`
	Created  time.Time  `json:"created"`
	Closed   *time.Time `json:"closed,omitempty"`
}

func account(u store.User) Account {
	return Account{Person{u.ID, u.Name}, u.Email, u.Admin, u.Password != "", u.Created, u.Disabled}
}

func (s *server) users(ctx context.Context, _ *struct{}) (*body[[]Account], error) {
	all, err := s.accounts.Users(ctx)
	out := []Account{}
	for _, u := range all {
		out = append(out, account(u))
	}
	return &body[[]Account]{out}, problem(err)
}

func (s *server) addUser(ctx context.Context, in *struct {
	Body struct {
		Name     string `json:"name" minLength:"1" maxLength:"100"`
		Email    string `json:"email,omitempty" maxLength:"200"`
		Password string `json:"password,omitempty" maxLength:"2000"`
		Admin    bool   `json:"admin,omitempty"`
	}
}) (*body[Account], error) {
	if !whoAsks(ctx).on && !in.Body.Admin {
		return nil, huma.Error409Conflict("The first account must be an admin's: nobody could add the others.")
	}
	u, err := s.accounts.Add(ctx, in.Body.Name, in.Body.Email, in.Body.Password, in.Body.Admin)
	noted(ctx, u.Name)
	return &body[Account]{account(u)}, problem(err)
}

func (s *server) changeUser(ctx context.Context, in *struct {
	User int64 `path:"user"`
	Body struct {
		Closed   *bool  `json:"closed,omitempty"`
		Admin    *bool  `json:"admin,omitempty"`
		Password string `json:"password,omitempty" maxLength:"2000"`
	}
}) (*body[Account], error) {
	u, err := s.accounts.User(ctx, in.User)
	if err != nil {
		return nil, problem(err)
	}
	noted(ctx, u.Name)
	if u.ID == whoAsks(ctx).user.ID && (in.Body.Closed != nil || in.Body.Admin != nil) {
		return nil, huma.Error409Conflict("This is your own account; have another admin close it, or take its rights.")
	}
	if in.Body.Closed != nil {
		err = errors.Join(err, s.accounts.Close(ctx, u, *in.Body.Closed))
	}
	if in.Body.Admin != nil {
		if u, err = s.accounts.User(ctx, in.User); err == nil {
			err = s.accounts.SetAdmin(ctx, u, *in.Body.Admin)
		}
	}
	if in.Body.Password != "" && err == nil {
		if u, err = s.accounts.User(ctx, in.User); err == nil {
			err = s.accounts.SetPassword(ctx, u, in.Body.Password)
		}
	}
	if err != nil {
		return nil, problem(err)
	}
	u, err = s.accounts.User(ctx, in.User)
	return &body[Account]{account(u)}, problem(err)
}

// Sharing is what somebody may do with a study.
type Sharing struct {
	User    int64  `json:"user"`
	Name    string `json:"name"`
	Role    string `json:"role" enum:"reader,analyst,owner"`
	Exports bool   `json:"exports" doc:"a reader may take data out of it; others may anyway"`
}

func (s *server) sharing(ctx context.Context, in *StudyInput) (*body[[]Sharing], error) {
	all, err := s.accounts.Members(ctx, in.Study)
	if err != nil {
		return nil, problem(err)
	}
	users, err := s.accounts.Users(ctx)
	names := map[int64]string{}
	for _, u := range users {
		names[u.ID] = u.Name
	}
	out := []Sharing{}
	for _, m := range all {
		out = append(out, Sharing{m.UserID, names[m.UserID], m.Role, m.Exports})
	}
	return &body[[]Sharing]{out}, problem(err)
}

// MemberInput names a user of a study.
type MemberInput struct {
	StudyInput
	User int64 `path:"user"`
}

func (s *server) share(ctx context.Context, in *struct {
	MemberInput
	Body struct {
		Role    string `json:"role" enum:"reader,analyst,owner"`
		Exports bool   `json:"exports"`
	}
}) (*struct{}, error) {
	u, err := s.accounts.User(ctx, in.User)
	if err != nil {
		return nil, problem(err)
	}
	noted(ctx, u.Name+": "+in.Body.Role)
	return nil, problem(s.accounts.Share(ctx, in.Study, u.ID, accounts.Role(in.Body.Role), in.Body.Exports))
}

func (s *server) unshare(ctx context.Context, in *MemberInput) (*struct{}, error) {
	u, err := s.accounts.User(ctx, in.User)
	if err != nil {
		return nil, problem(err)
	}
	noted(ctx, u.Name)
	return nil, problem(s.accounts.Unshare(ctx, in.Study, u.ID))
}

// LogLine is who did what.
type LogLine struct {
	ID       int64     `json:"id"`
	At       time.Time `json:"at"`
	Who      string    `json:"who"`
	Address  string    `json:"address,omitempty"`
	Action   string    `json:"action"`
	Study    int64     `json:"study,omitempty"`
	Question int64     `json:"question,omitempty"`
	Detail   string    `json:"detail,omitempty"`
}

const logPage = 200

func (s *server) log(ctx context.Context, in *struct {
	Before int64 `query:"before" doc:"entries before this one"`
}) (*body[[]LogLine], error) {
	all, err := s.accounts.LogEntries(ctx, in.Before, logPage)
	out := []LogLine{}
	for _, e := range all {
		out = append(out, logLine(e))
	}
	return &body[[]LogLine]{out}, problem(err)
}

func logLine(e store.LogEntry) LogLine {
	l := LogLine{ID: e.ID, At: e.At, Who: e.Who, Address: e.Address, Action: e.Action, Detail: e.Detail}
	if e.StudyID != nil {
		l.Study = *e.StudyID
	}
	if e.QuestionID != nil {
		l.Question = *e.QuestionID
	}
	return l
}

func (s *server) logFile(ctx context.Context, _ *struct{}) (*huma.StreamResponse, error) {
	return download("log.csv", export.Formats["csv"], func(w io.Writer) error {
		out := files.NewWriter(w)
		err := out.Write([]string{"number", "at", "who", "address", "action", "study", "question", "detail"})
		for before := int64(0); err == nil; {
			var all []store.LogEntry
			if all, err = s.accounts.LogEntries(ctx, before, logPage); len(all) == 0 {
				break
			}
			for _, e := range all {
				l := logLine(e)
				row := []string{strconv.FormatInt(l.ID, 10), l.At.Format(time.RFC3339), l.Who, l.Address, l.Action, number(l.Study), number(l.Question), l.Detail}
				err = errors.Join(err, out.Write(row))
				before = e.ID
			}
		}
		return errors.Join(err, out.Flush())
	}), nil
}

func number(id int64) string {
	if id == 0 {
		return ""
	}
	return fmt.Sprint(id)
}
