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
	huma.Register(a, op(http.MethodPost, "/tokens", "add-token", "Make a token, which is shown once"), s.addToken)
	huma.Register(a, op(http.MethodGet, "/entries", "entries", "All that lets one in: sessions and tokens"), s.entries)
	huma.Register(a, op(http.MethodGet, "/entries/all", "all-entries", "All that lets anybody in: sessions and tokens"), s.allEntries)
	huma.Register(a, op(http.MethodDelete, "/entries/{kind}/{entry}", "end-entry", "End a session or a token; an admin ends everybody's"), s.endEntry)
	huma.Register(a, op(http.MethodGet, "/people", "people", "Who has an account that is not closed"), s.people)
	huma.Register(a, op(http.MethodGet, "/users", "users", "All accounts"), s.users)
	huma.Register(a, op(http.MethodPost, "/users", "add-user", "Add an account"), s.addUser)
	huma.Register(a, op(http.MethodPut, "/users/{user}", "change-user", "Close an account or open it, give or take rights, set a password: all of it or nothing"), s.changeUser)
	huma.Register(a, op(http.MethodGet, "/studies/{study}/members", "study-members", "Who may do what with a study"), s.sharing)
	one := "/studies/{study}/members/{user}"
	huma.Register(a, op(http.MethodPut, one, "share-study", "Let somebody do something with a study"), s.share)
	huma.Register(a, op(http.MethodDelete, one, "unshare-study", "Take a study away from somebody"), s.unshare)
	huma.Register(a, op(http.MethodGet, "/log", "log", "Who did what, the newest first"), s.log)
	huma.Register(a, op(http.MethodGet, "/log/file", "log-file", "The whole log, as CSV"), s.logFile)
}

// Session is who is signed in.
type Session struct {
	On       bool   `json:"on" doc:"accounts are asked for"`
	Name     string `json:"name,omitempty" doc:"who is signed in; nobody if left out"`
	ID       int64  `json:"id,omitempty"`
	Admin    bool   `json:"admin,omitempty"`
	Password bool   `json:"password,omitempty" doc:"they have one"`
	Brings   bool   `json:"brings" doc:"they may bring in files"`
	Provider string `json:"provider,omitempty" doc:"another provider that people sign in by, at /auth/start"`
}

// cookied is an answer that sets or takes cookies.
type cookied struct {
	Cookies []http.Cookie `header:"Set-Cookie"`
	Body    Session
}

func (s *server) sessionOf(w *who) Session {
	out := Session{On: w.on, Name: w.Name(), ID: w.ID(), Admin: w.Admin(), Password: w.HasPassword(), Brings: !w.on || w.access.BringsIn()}
	if s.provider != nil {
		out.Provider = s.provider.Name
	}
	return out
}

// cookie is something that a browser holds; an empty one takes it away.
func (s *server) cookie(name, value string, until time.Time) http.Cookie {
	c := http.Cookie{Name: name, Value: value, Path: "/", Expires: until, HttpOnly: true, Secure: s.secure, SameSite: http.SameSiteLaxMode}
	if value == "" {
		c.MaxAge = -1
	}
	return c
}

// knownCookie is what a browser keeps in which somebody was signed in before.
const (
	knownCookie = "aftermath-known"
	knownFor    = 365 * 24 * time.Hour
)

// begin begins a session, and gives what the browser holds of it: no longer than it lasts at most. How long it lasts without being
// used is the server's to know.
func (s *server) begin(ctx context.Context, before accounts.Credentials, in accounts.Asker) ([]http.Cookie, error) {
	cookie, until, err := s.accounts.Begin(ctx, before, in)
	if err != nil {
		return nil, err
	}
	out := []http.Cookie{s.cookie(sessionCookie, cookie, until)}
	if known := s.accounts.KnownBrowser(in); known != "" {
		out = append(out, s.cookie(knownCookie, known, time.Now().Add(knownFor)))
	}
	return out, nil
}

func (s *server) session(ctx context.Context, _ *struct{}) (*body[Session], error) {
	return &body[Session]{s.sessionOf(whoAsks(ctx))}, nil
}

// Credentials keeps what a request brings along to say who asks.
type Credentials struct {
	accounts.Credentials
	Known string `cookie:"aftermath-known"`
}

// Resolve keeps it for the handler.
func (c *Credentials) Resolve(ctx huma.Context) []error {
	c.Credentials = credentials(ctx)
	return nil
}

func (s *server) signIn(ctx context.Context, in *struct {
	Credentials
	Body struct {
		Name     string `json:"name" minLength:"1" maxLength:"200"`
		Password string `json:"password" minLength:"1" maxLength:"2000"`
	}
}) (*cookied, error) {
	asks, err := s.accounts.SignIn(ctx, accounts.SignInRequest{
		Name: in.Body.Name, Password: in.Body.Password, Address: in.Address, Known: in.Known,
	})
	if err != nil {
		return nil, problem(err)
	}
	cookies, err := s.begin(ctx, in.Credentials.Credentials, asks)
	if err != nil {
		return nil, problem(err)
	}
	w := &who{on: true, Asker: asks}
	w.access, err = s.accounts.AccessOf(ctx, asks)
	return &cookied{cookies, s.sessionOf(w)}, problem(err)
}

func (s *server) signOut(ctx context.Context, in *struct {
	Credentials
	Everywhere bool `query:"everywhere"`
}) (*cookied, error) {
	if err := s.accounts.End(ctx, in.Credentials.Credentials, in.Everywhere); err != nil {
		return nil, problem(err)
	}
	return &cookied{[]http.Cookie{s.cookie(sessionCookie, "", time.Time{})}, s.sessionOf(&who{on: whoAsks(ctx).on})}, nil
}

func (s *server) changePassword(ctx context.Context, in *struct {
	Credentials
	Body struct {
		Before string `json:"before" maxLength:"2000"`
		After  string `json:"after" maxLength:"2000"`
	}
}) (*cookied, error) {
	w := whoAsks(ctx)
	if err := s.accounts.Right(ctx, w.Asker, in.Body.Before, in.Address); err != nil {
		return nil, problem(err)
	}
	u, err := s.accounts.User(ctx, w.ID())
	if err != nil {
		return nil, problem(err)
	}
	if _, err := s.accounts.Change(ctx, u, accounts.Change{Password: &in.Body.After}); err != nil {
		return nil, problem(err)
	}
	asks, err := s.accounts.Open(ctx, u.Name)
	if err != nil {
		return nil, problem(err)
	}
	cookies, err := s.begin(ctx, in.Credentials.Credentials, asks)
	return &cookied{cookies, s.sessionOf(w)}, problem(err)
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
	Begins   bool       `json:"begins" doc:"may begin studies of their own"`
	Password bool       `json:"password" doc:"they have one"`
	Created  time.Time  `json:"created"`
	Closed   *time.Time `json:"closed,omitempty"`
}

func account(u store.User) Account {
	return Account{Person{u.ID, u.Name}, u.Email, u.Admin, u.Begins, u.Password != "", u.Created, u.Disabled}
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
		Begins   bool   `json:"begins,omitempty" doc:"may begin studies of their own; else they bring files into those that they may change"`
	}
}) (*body[Account], error) {
	if !whoAsks(ctx).on && !in.Body.Admin {
		return nil, huma.Error409Conflict("The first account must be an admin's: nobody could add the others.")
	}
	u, err := s.accounts.Add(ctx, in.Body.Name, in.Body.Email, in.Body.Password, in.Body.Admin, in.Body.Begins)
	noted(ctx, u.Name)
	return &body[Account]{account(u)}, problem(err)
}

func (s *server) changeUser(ctx context.Context, in *struct {
	User int64 `path:"user"`
	Body struct {
		Closed   *bool  `json:"closed,omitempty"`
		Admin    *bool  `json:"admin,omitempty"`
		Begins   *bool  `json:"begins,omitempty"`
		Password string `json:"password,omitempty" maxLength:"2000"`
	}
}) (*body[Account], error) {
	u, err := s.accounts.User(ctx, in.User)
	if err != nil {
		return nil, problem(err)
	}
	noted(ctx, u.Name)
	if u.ID == whoAsks(ctx).ID() && (in.Body.Closed != nil || in.Body.Admin != nil) {
		return nil, huma.Error409Conflict("This is your own account; have another admin close it, or take its rights.")
	}
	change := accounts.Change{Closed: in.Body.Closed, Admin: in.Body.Admin, Begins: in.Body.Begins}
	if in.Body.Password != "" {
		change.Password = &in.Body.Password
	}
	u, err = s.accounts.Change(ctx, u, change)
	return &body[Account]{account(u)}, problem(err)
}

// Sharing is what somebody may do with a study.
type Sharing struct {
	User    int64  `json:"user"`
	Name    string `json:"name"`
	Role    string `json:"role" enum:"reader,analyst,owner"`
	Exports bool   `json:"exports" doc:"a reader may take data out of it; others may anyway"`
	// Personal counts for analysts.
	Personal bool `json:"personal" doc:"an analyst may see personal data where the study masks it; owners may anyway, readers never"`
}

func (s *server) sharing(ctx context.Context, in *StudyInput) (*body[[]Sharing], error) {
	all, err := s.accounts.Members(ctx, in.Study)
	if err != nil {
		return nil, problem(err)
	}
	names, err := s.names(ctx)
	out := []Sharing{}
	for _, m := range all {
		out = append(out, Sharing{m.UserID, names[m.UserID], m.Role, m.Exports, m.Personal})
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
		Role     string `json:"role" enum:"reader,analyst,owner"`
		Exports  bool   `json:"exports"`
		Personal bool   `json:"personal,omitempty" doc:"an analyst may see personal data where the study masks it"`
	}
}) (*struct{}, error) {
	u, err := s.accounts.User(ctx, in.User)
	if err != nil {
		return nil, problem(err)
	}
	noted(ctx, u.Name+": "+in.Body.Role)
	rights := accounts.Rights{Role: accounts.Role(in.Body.Role), Exports: in.Body.Exports, Personal: in.Body.Personal}
	return nil, problem(s.accounts.Share(ctx, in.Study, u.ID, rights))
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
	// What was refused is one line for each day.
	Times int64      `json:"times,omitempty" doc:"how often it happened on that day, where it may again and again"`
	Until *time.Time `json:"until,omitempty" doc:"when it happened last, where it happened more than once"`
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
	l := LogLine{ID: e.ID, At: e.At, Who: e.Who, Address: e.Address, Action: e.Action, Detail: e.Detail, Until: e.Until}
	if e.Until != nil {
		l.Times = e.Times
	}
	if e.StudyID != nil {
		l.Study = *e.StudyID
	}
	if e.QuestionID != nil {
		l.Question = *e.QuestionID
	}
	return l
}

func (s *server) logFile(ctx context.Context, _ *struct{}) (*huma.StreamResponse, error) {
	return download("log.csv", export.Types["csv"], func(w io.Writer) error {
		out := files.NewWriter(w)
		err := out.Write([]string{"number", "at", "who", "address", "action", "study", "question", "detail", "times", "until"})
		for before := int64(0); err == nil; {
			var all []store.LogEntry
			if all, err = s.accounts.LogEntries(ctx, before, logPage); len(all) == 0 {
				break
			}
			for _, e := range all {
				l, until := logLine(e), ""
				if e.Until != nil {
					until = e.Until.Format(time.RFC3339)
				}
				row := []string{strconv.FormatInt(l.ID, 10), l.At.Format(time.RFC3339), l.Who, l.Address, l.Action, number(l.Study), number(l.Question), l.Detail, number(e.Times), until}
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
