package api

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"

	"aftermath/internal/accounts"
	"aftermath/internal/desk"
	"aftermath/internal/store"
)

// need is what somebody must be allowed for an operation, where accounts are on.
type need struct {
	role    accounts.Role // in the study of the operation
	anyone  bool          // no account is needed
	user    bool          // any account does
	admin   bool
	exports bool // data leave with it: it is in the log
	changes bool // it changes something: it is in the log, and a token to read is not enough
	brings  bool // a file comes in: for those who have a study that they may change, or may begin one
	// personal says that what the study masks leaves with it.
	personal bool
}

// needs says of every operation what it needs, by its ID. A test holds that none is left out.
var needs = needed()

func needed() map[string]need {
	out := map[string]need{
		"session":  {anyone: true},
		"sign-in":  {anyone: true},
		"sign-out": {anyone: true},
		// A copy is its maker's, and a back-up holds what is masked: neither is for those who only read.
		"copy-study":    {role: accounts.Analyst, exports: true, changes: true, personal: true},
		"back-up-study": {role: accounts.Analyst, exports: true, personal: true},
		"back-up":       {admin: true, exports: true},
		"users":         {admin: true},
		"all-entries":   {admin: true},
		"log":           {admin: true},
		"log-file":      {admin: true, exports: true},
		"study-members": {role: accounts.Owner},
	}
	for _, of := range []struct {
		need
		operations string
	}{
		{need{role: accounts.Reader}, `answers between branches chart check-sample checks cleaning column-sets company compare complete-rule context corpus coverage
			decisions drafts figures findings flow format-rule frame frozen-report groups health kept-charts lexicon likely means members misses near
			network personal preview-rule question queue report reports revisions rising rule-part rules-beside rules-from-examples
			sample-agreement samples sharpen sheet side-by-side states stop-suggestions study suggester suggestions terms timeline together try try-texts
			values why`},
		{need{role: accounts.Reader, exports: true}, `blind-sample coded company-out compare-out context-out chart-file corpus-out frame-file
			lexicon-part matrix network-out playbook report-file rising-out terms-out timeline-out`},
		// These would change something if they were kept.
		{need{role: accounts.Analyst}, `preview read-frame try-column try-columns try-derived try-divide try-rows blind-answer`},
		{need{role: accounts.Analyst, changes: true}, `add-columns add-lexicon-part add-report add-rows change-chart change-report code-blind draw-sample
			drop-chart drop-columns drop-focus drop-frozen-report drop-report drop-state edit edit-study freeze-report keep-chart keep-columns keep-focus load-playbook
			name-state read-sample redo restore-chart restore-frozen-report restore-report restore-sample throw-sample undo`},
		{need{role: accounts.Owner, changes: true}, `delete-study purge-study restore-study share-study unshare-study`},
		{need{user: true}, `backed-up deleted-studies entries events house-style people read-rules studies`},
		{need{user: true, brings: true}, `preview-upload upload upload-link`},
		{need{user: true, changes: true}, `add-token change-password end-entry`},
		// What somebody brings in is theirs.
		{need{user: true, changes: true, brings: true}, `load load-demo restore`},
		{need{admin: true, changes: true}, `set-house-style add-user change-user`},
	} {
		for _, id := range strings.Fields(of.operations) {
			out[id] = of.need
		}
	}
	return out
}

// who is who asks for something: somebody with an account, or nobody; or anybody, where accounts are off.
type who struct {
	accounts.Asker
	on     bool // accounts are
	access accounts.Access
	detail string // what the log says of what is done, besides its name
}

type whoKey struct{}

// whoAsks gives who asks, as access has found out.
func whoAsks(ctx context.Context) *who {
	if w, ok := ctx.Value(whoKey{}).(*who); ok {
		return w
	}
	return &who{}
}

// may says whether who asks has a role in a study.
func (w *who) may(study int64, role accounts.Role) bool {
	return !w.on || w.access.To(study).Role.Covers(role)
}

// seesPersonal says whether who asks may see personal data of a study that masks it.
func (w *who) seesPersonal(study int64) bool { return !w.on || w.access.To(study).Personal }

// noted has the log say more of what is done.
func noted(ctx context.Context, detail string) { whoAsks(ctx).detail = detail }

// sessionCookie is what a browser holds of a session.
const sessionCookie = "aftermath"

// bearer is the token that a request brings; empty where it brings none.
func bearer(authorization string) string {
	if token, given := strings.CutPrefix(authorization, "Bearer "); given {
		return token
	}
	return ""
}

// credentials are what a request brings along to say who asks.
func credentials(ctx huma.Context) accounts.Credentials {
	c := accounts.Credentials{Token: bearer(ctx.Header("Authorization")), Address: clientOf(ctx), Agent: ctx.Header("User-Agent")}
	if cookie, err := huma.ReadCookie(ctx, sessionCookie); err == nil {
		c.Cookie = cookie.Value
	}
	return c
}

// identify finds out who asks: by a token, or by a session. Who is nobody is no error.
func (s *server) identify(ctx context.Context, c accounts.Credentials, used bool) (*who, error) {
	on, err := s.accounts.On(ctx)
	if err != nil || !on {
		return &who{}, err
	}
	w := &who{on: true}
	w.Asker, err = s.accounts.Identify(ctx, c, used)
	if errors.Is(err, accounts.ErrNobody) {
		return w, nil
	}
	if err == nil {
		w.access, err = s.accounts.AccessOf(ctx, w.Asker)
	}
	return w, err
}

// refusal is why somebody may not do something.
type refusal struct {
	status int
	text   string
}

// refused says why an operation is refused, if it is.
func (w *who) refused(n need, study int64) *refusal {
	const forbidden = http.StatusForbidden
	switch {
	case !w.on || n.anyone:
		return nil
	case !w.Known():
		return &refusal{http.StatusUnauthorized, "You are not signed in, or were signed out after a while. Sign in; nothing was changed."}
	case w.ReadsOnly() && (n.changes || n.brings):
		return &refusal{forbidden, "This token is to read only. Nothing was changed."}
	case n.admin && !w.Admin():
		return &refusal{forbidden, "Only an admin may do this. Nothing was changed."}
	case n.brings && !w.access.BringsIn():
		return &refusal{forbidden, "No study is shared with you to work on, and you may not begin one. Nothing was taken; ask an admin for either."}
	case n.role == accounts.Nobody:
		return nil
	}
	rights := w.access.To(study)
	switch role := rights.Role; {
	case role == accounts.Nobody:
		return &refusal{http.StatusNotFound, "This study or question is not here any more, or is not shared with you."}
	case !role.Covers(n.role):
		return &refusal{forbidden, fmt.Sprintf("You are a %s of this study; this takes an %s. Nothing was changed.", role, n.role)}
	case n.exports && !rights.Exports:
		return &refusal{forbidden, "You may read this study, and take nothing out of it. Ask its owner."}
	}
	return nil
}

// access holds every operation to what it needs, and keeps the log.
func (s *server) access(a huma.API) func(ctx huma.Context, next func(huma.Context)) {
	return func(ctx huma.Context, next func(huma.Context)) {
		id := ctx.Operation().OperationID
		n, known := needs[id]
		if !known {
			n = need{admin: true}
		}
		w, err := s.identify(ctx.Context(), credentials(ctx), true)
		if err != nil {
			writeProblem(a, ctx, problem(err))
			return
		}
		study, question, err := s.ofWhich(ctx)
		if err != nil && w.on {
			writeProblem(a, ctx, problem(err))
			return
		}
		if r := w.refused(n, study); r != nil {
			_ = huma.WriteErr(a, ctx, r.status, r.text)
			return
		}
		if n.personal && !w.seesPersonal(study) {
			switch masks, err := s.desk.Masks(ctx.Context(), study); {
			case err != nil:
				writeProblem(a, ctx, problem(err))
				return
			case masks:
				_ = huma.WriteErr(a, ctx, http.StatusForbidden, "This study masks personal data, and it would leave with this. Its owner can let you see it. Nothing was changed.")
				return
			}
		}
		inside := context.WithValue(ctx.Context(), whoKey{}, w)
		if w.on {
			inside = desk.MadeBy(inside, w.Name())
			inside = desk.MayUnmask(inside, w.seesPersonal(study))
		}
		next(huma.WithContext(ctx, inside))
		if (n.changes || n.exports) && ctx.Status() < 300 {
			s.accounts.Log(ctx.Context(), store.LogEntry{
				Who: cmp.Or(w.Name(), desk.Maker(inside)), Address: clientOf(ctx), Action: ctx.Operation().Summary, StudyID: some(study), QuestionID: some(question),
				Detail: w.detail,
			})
		}
	}
}

// writeProblem answers with a problem that problem has made.
func writeProblem(a huma.API, ctx huma.Context, err error) {
	status := http.StatusInternalServerError
	var told huma.StatusError
	if errors.As(err, &told) {
		status = told.GetStatus()
	}
	_ = huma.WriteErr(a, ctx, status, err.Error())
}

// clientOf is the address that a request comes from, as a trusted proxy says where one stands between.
func clientOf(ctx huma.Context) string { return humagin.Unwrap(ctx).ClientIP() }

func some(id int64) *int64 {
	if id == 0 {
		return nil
	}
	return &id
}

// ofWhich gives the study, and the question, that a request is about; 0 where it is about none.
func (s *server) ofWhich(ctx huma.Context) (study, question int64, err error) {
	if given := ctx.Param("study"); given != "" {
		study, err = strconv.ParseInt(given, 10, 64)
		if err != nil {
			err = store.ErrNotFound
		}
		return study, 0, err
	}
	given := ctx.Param("question")
	if given == "" {
		return 0, 0, nil
	}
	if question, err = strconv.ParseInt(given, 10, 64); err != nil {
		return 0, 0, store.ErrNotFound
	}
	study, err = s.studyOf(ctx.Context(), question)
	return study, question, err
}

// studyOf gives the study of a question, which is the same for good.
func (s *server) studyOf(ctx context.Context, question int64) (int64, error) {
	if study, known := s.studyOfQuestion.Load(question); known {
		return study.(int64), nil
	}
	study, err := s.accounts.StudyOf(ctx, question)
	if err == nil {
		s.studyOfQuestion.Store(question, study)
	}
	return study, err
}

// own makes who asks the owner of a study that they have made.
func (s *server) own(ctx context.Context, studies ...int64) error {
	w := whoAsks(ctx)
	if !w.on {
		return nil
	}
	for _, id := range studies {
		if err := s.accounts.Share(ctx, id, w.ID(), accounts.Rights{Role: accounts.Owner, Exports: true, Personal: true}); err != nil {
			return err
		}
	}
	var err error
	w.access, err = s.accounts.AccessOf(ctx, w.Asker)
	return err
}
