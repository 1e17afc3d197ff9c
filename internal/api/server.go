// Package api is the HTTP face: typed routes under /api/v1, their OpenAPI document, events, and the built interface.
package api

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"mime"
	"net"
	"net/http"
	"net/url"
	"path"
	"runtime/debug"
	"strings"
	"sync"
	"syscall"
	"unicode"
	"unicode/utf8"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/accounts"
	"aftermath/internal/backup"
	"aftermath/internal/desk"
	"aftermath/internal/desk/state"
	"aftermath/internal/document"
	"aftermath/internal/export"
	"aftermath/internal/files"
	"aftermath/internal/kept"
	"aftermath/internal/store"
	"aftermath/ui"
)

// Options of a server.
type Options struct {
	Desk     *desk.Desk
	Kept     *kept.Keeper
	Accounts *accounts.Accounts
	Provider *accounts.Provider     // nil for none
	UI       fs.FS                  // the built interface; nil for none
	Hosts    []string               // names it may be reached by; empty for any
	Proxies  []string               // addresses and ranges of proxies, whose word for where somebody comes from is taken
	Secure   bool                   // it is reached by https
	Uploads  string                 // folder for files on their way in; the one for temporary files if empty
	Free     func() (uint64, error) // bytes left on the disk of that folder; nil to ask the disk
	Observe  Observe                // is told of every request; nil for nobody
	Private  bool                   // links to addresses inside this machine or network are followed too
}

// server holds what the routes share.
type server struct {
	desk         *desk.Desk
	kept         *kept.Keeper
	accounts     *accounts.Accounts
	provider     *accounts.Provider
	secure       bool
	uploads      *uploads
	privateFetch bool
	documents    *document.Writer
	// studyOfQuestion remembers which study a question is of.
	studyOfQuestion sync.Map
}

// New makes the handler.
func New(o Options) (http.Handler, error) {
	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	if err := r.SetTrustedProxies(o.Proxies); err != nil {
		return nil, fmt.Errorf("trusted proxies: %w", err)
	}
	r.Use(numbered(o.Observe), recovered, guard(o), made)
	s := &server{
		desk: o.Desk, kept: o.Kept, accounts: o.Accounts, provider: o.Provider, secure: o.Secure, uploads: newUploads(o.Uploads, o.Free), privateFetch: o.Private,
		documents: document.New(),
	}
	register(humagin.New(r, config()), s)
	s.registerProvider(r)
	s.registerProbes(r)
	r.NoRoute(page(o.UI))
	return r, nil
}

// recovered answers for a request that panicked. Where the answer has begun, or was broken off on purpose, the connection is cut
// instead: what was sent so far must not look whole.
func recovered(c *gin.Context) {
	defer func() {
		problem := recover()
		if problem == nil {
			return
		}
		if problem != http.ErrAbortHandler {
			slog.Error("panic", "path", c.Request.URL.Path, "problem", problem, "stack", string(debug.Stack()))
		}
		if problem == http.ErrAbortHandler || c.Writer.Written() {
			panic(http.ErrAbortHandler)
		}
		refuse(c, http.StatusInternalServerError, "Something went wrong here; nothing was changed. The server's log says more, under "+numberOf(c)+".")
	}()
	c.Next()
}

// MadeByHeader carries who makes an edit, as they call themselves: percent-encoded UTF-8 of up to 100 letters.
const MadeByHeader = "Made-By"

const longestName = 100

// made has edits say who makes them.
func made(c *gin.Context) {
	name, err := url.PathUnescape(c.GetHeader(MadeByHeader))
	if name = strings.TrimSpace(name); err != nil || !utf8.ValidString(name) || utf8.RuneCountInString(name) > longestName ||
		strings.ContainsFunc(name, unicode.IsControl) {
		refuse(c, http.StatusBadRequest, fmt.Sprintf(
			"The header %s is no name: it is percent-encoded UTF-8 of up to %d letters. Nothing was changed.", MadeByHeader, longestName,
		))
		return
	}
	if name != "" {
		c.Request = c.Request.WithContext(desk.MadeBy(c.Request.Context(), name))
	}
	c.Next()
}

func config() huma.Config {
	huma.DefaultArrayNullable = false
	c := huma.DefaultConfig("Aftermath", "1")
	c.OpenAPIPath, c.DocsPath, c.SchemasPath, c.CreateHooks = "/api/openapi", "", "", nil
	c.RejectUnknownQueryParameters = true // a misspelt one would answer with a figure that nobody asked for
	aliases(c.Components.Schemas)
	c.Info.Description = "Codes open-ended answers into categories. Every count is given for a focus: a JSON list of conditions."
	return c
}

// Document gives the OpenAPI document as JSON, from which the interface's types are made.
func Document() ([]byte, error) {
	gin.SetMode(gin.ReleaseMode)
	a := humagin.New(gin.New(), config())
	register(a, &server{})
	return json.MarshalIndent(a.OpenAPI(), "", " ")
}

// guard checks where a request comes from, and sets what a browser may do with the answer.
func guard(o Options) gin.HandlerFunc {
	scheme := "http"
	if o.Secure {
		scheme = "https"
	}
	return func(c *gin.Context) {
		h := c.Writer.Header()
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "no-referrer")
		h.Set("Cache-Control", "no-store")
		h.Set("Content-Security-Policy", "default-src 'none'; frame-ancestors 'none'")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		if o.Secure {
			h.Set("Strict-Transport-Security", "max-age=31536000")
		}
		if len(o.Hosts) > 0 && !hostAllowed(c.Request.Host, o.Hosts) {
			refuse(c, http.StatusForbidden, "This server is not reached by that name. Whoever runs it can allow the name with --host.")
			return
		}
		if foreign(c, scheme) {
			refuse(c, http.StatusForbidden, "Another site may not speak to this server.")
			return
		}
		c.Next()
	}
}

// foreign says whether another site sends a request: as its browser says, by where the page is from.
func foreign(c *gin.Context, scheme string) bool {
	if origin := c.GetHeader("Origin"); origin != "" {
		u, err := url.Parse(origin)
		return err != nil || u.Host != c.Request.Host || u.Scheme != scheme
	}
	// To come by a link from elsewhere is no harm; to change something from there would be, as would any of our data within
	// their page.
	site, mode := c.GetHeader("Sec-Fetch-Site"), c.GetHeader("Sec-Fetch-Mode")
	return (site == "cross-site" || site == "same-site") && (mode != "navigate" || c.Request.Method != http.MethodGet)
}

// refuse answers with problem details.
func refuse(c *gin.Context, status int, detail string) {
	c.Header("Content-Type", "application/problem+json")
	c.AbortWithStatusJSON(status, gin.H{"title": http.StatusText(status), "status": status, "detail": detail})
}

func hostAllowed(host string, allowed []string) bool {
	if name, _, err := net.SplitHostPort(host); err == nil {
		host = name
	}
	for _, a := range allowed {
		if strings.EqualFold(strings.Trim(host, "[]"), a) {
			return true
		}
	}
	return false
}

// page serves the built interface; every path that is no file is a view of it.
func page(files fs.FS) gin.HandlerFunc {
	return func(c *gin.Context) {
		name := strings.TrimPrefix(path.Clean(c.Request.URL.Path), "/")
		if files == nil || strings.HasPrefix(name, "api/") {
			refuse(c, http.StatusNotFound, "There is no such address in the API; see /api/openapi.json.")
			return
		}
		if strings.HasPrefix(name, "assets/") {
			asset(c, files, name)
			return
		}
		index, err := fs.ReadFile(files, "index.html")
		if err != nil {
			c.String(http.StatusNotFound, "The interface is not built into this program; run make build.")
			return
		}
		nonce := make([]byte, 16)
		_, _ = rand.Read(nonce) // never fails
		n := hex.EncodeToString(nonce)
		c.Header(
			"Content-Security-Policy",
			"default-src 'none'; script-src 'self'; style-src 'self' 'nonce-"+n+"'; font-src 'self'; img-src 'self' data:; connect-src 'self'; form-action 'none'; base-uri 'none'; frame-ancestors 'none'",
		)
		c.Header("Cache-Control", "no-cache")
		c.Data(http.StatusOK, "text/html; charset=utf-8", []byte(strings.ReplaceAll(string(index), "NONCE", n)))
	}
}

// asset serves a part of the built interface: scripts and styles as they were compressed at build, unpacked for a browser that does
// not take them so. One that is not there is not found: a page of another version must not take the start page for its script.
func asset(c *gin.Context, files fs.FS, name string) {
	c.Header("Vary", "Accept-Encoding")
	c.Header("Cache-Control", "public, max-age=31536000, immutable") // names change with contents
	data, err := fs.ReadFile(files, name)
	if err != nil {
		if data, err = fs.ReadFile(files, name+".gz"); err == nil && strings.Contains(c.GetHeader("Accept-Encoding"), "gzip") {
			c.Header("Content-Encoding", "gzip")
		} else if err == nil {
			data, err = ui.Unpack(data)
		}
	}
	if err != nil {
		c.Header("Cache-Control", "no-store")
		c.String(http.StatusNotFound, "This part of the interface is not here; load the page again.")
		return
	}
	c.Data(http.StatusOK, mime.TypeByExtension(path.Ext(name)), data)
}

// refusals are the errors that are the asker's doing, with what is wrong in words.
var refusals = []error{
	state.ErrRequest, scheme.ErrEdit, files.ErrFile, files.ErrFetch, survey.ErrValue, survey.ErrDerived, survey.ErrSetup,
	playbook.ErrPlaybook, lexicon.ErrLexicon, frame.ErrFrame, export.ErrMatrix, backup.ErrBackup, accounts.ErrRequest,
}

// problem turns an error into problem details: what happened, what was kept, what to do. What only the log may know is not in it.
func problem(err error) error {
	if err == nil {
		return nil
	}
	for _, refusal := range refusals {
		if errors.Is(err, refusal) && desk.ProblemOf(err) != desk.Unstorable {
			return huma.Error422UnprocessableEntity(sentence(err.Error()))
		}
	}
	switch desk.ProblemOf(err) {
	case desk.Away:
		if errors.Is(err, store.ErrHung) {
			return huma.Error503ServiceUnavailable(
				"The database does not answer, so nothing more was done. What was kept before is safe. Try again in a moment (" +
					logged("the database does not answer", err) + " in the server's log).",
			)
		}
		return huma.Error503ServiceUnavailable(
			"The database can't be reached, so nothing was changed. What was kept before is safe. Try again in a moment (" +
				logged("the database can't be reached", err) + " in the server's log).",
		)
	case desk.Full:
		_ = logged("the disk of the database is full", err)
		return huma.NewError(
			http.StatusInsufficientStorage,
			"The disk with the database is full, so nothing was changed. What was kept before is safe. Make room on it, and try again.",
		)
	case desk.ReadOnly:
		return huma.Error503ServiceUnavailable(
			"The database takes no changes at the moment: it is set to be read only. Nothing was changed, and all can be read; whoever runs the server can say why.",
		)
	case desk.Unstorable:
		return huma.Error422UnprocessableEntity(
			"A text holds a null character, which can't be stored. Nothing was changed; take it out.",
		)
	case desk.NotThere:
		return huma.Error404NotFound("This study or question is not here any more.")
	}
	switch {
	case errors.Is(err, accounts.ErrRefused):
		return huma.Error401Unauthorized("The name or the password is wrong, or the account is closed.")
	case errors.Is(err, accounts.ErrTooOften):
		return huma.Error429TooManyRequests("There were too many attempts on this account from this address, or from it at all. Wait a minute, and try again; an administrator can set a new password at once.")
	case errors.Is(err, accounts.ErrNobody):
		return huma.Error401Unauthorized("You are not signed in. Sign in; nothing was changed.")
	case errors.Is(err, store.ErrLastAdmin):
		return huma.Error409Conflict("An administrator is needed: this is the last one whose account is open. Nothing was changed; make somebody else one first.")
	case errors.Is(err, store.ErrLastOwner):
		return huma.Error409Conflict("A study needs an owner. Make somebody else one first.")
	case errors.Is(err, desk.ErrRoom):
		return huma.NewError(http.StatusInsufficientStorage, sentence(err.Error()))
	case errors.Is(err, syscall.ENOSPC):
		_ = logged("a disk is full", err)
		return huma.NewError(http.StatusInsufficientStorage, "The server's disk is full. Nothing was changed; make room on it, and try again.")
	case errors.Is(err, desk.ErrConflict):
		return huma.Error409Conflict(
			"Another window has changed this question in the meantime. Your edit was not made; what the other window did is kept. Look again and repeat it if it is still wanted.",
		)
	case errors.Is(err, desk.ErrNothing):
		return huma.Error409Conflict("There is nothing to undo or redo.")
	case errors.Is(err, desk.ErrNewer), errors.Is(err, desk.ErrBuiltOn):
		return huma.Error409Conflict(sentence(err.Error()))
	case errors.Is(err, context.Canceled), errors.Is(err, context.DeadlineExceeded):
		return huma.NewError(499, "It was cancelled; nothing was changed.")
	case errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, errBroken):
		return huma.Error400BadRequest("What was sent broke off on the way. Nothing was changed; send it again.")
	}
	return huma.Error500InternalServerError(
		"This did not work, and nothing was changed (" + logged("request failed", err) + " in the server's log).",
	)
}

// logged writes an error into the log under a number, by which who sees the message can name it.
func logged(what string, err error) (number string) {
	number = rand.Text()[:8]
	slog.Error(what, "number", number, "error", err)
	return number
}

func sentence(s string) string {
	first, size := utf8.DecodeRuneInString(s)
	if size == 0 {
		return s
	}
	return string(unicode.ToUpper(first)) + strings.TrimSuffix(s[size:], ".") + "."
}
