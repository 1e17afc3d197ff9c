package api

import (
	"errors"
	"net/http"
	"net/url"
	"time"

	"github.com/gin-gonic/gin"

	"aftermath/internal/accounts"
)

// registerProvider adds the two addresses by which a browser goes to the provider of sign-ins, and comes back.
func (s *server) registerProvider(r *gin.Engine) {
	if s.provider == nil {
		return
	}
	r.GET("/auth/start", func(c *gin.Context) {
		before, _ := c.Cookie(sessionCookie)
		address, cookie, expiry, err := s.provider.Go(c.Request.Context(), before)
		if err != nil {
			s.turnedAway(c, err)
			return
		}
		s.setCookie(c, cookie, expiry)
		c.Redirect(http.StatusFound, address)
	})
	r.GET("/auth/back", func(c *gin.Context) {
		before, _ := c.Cookie(sessionCookie)
		u, err := s.provider.Back(c.Request.Context(), before, c.Query("state"), c.Query("code"), c.ClientIP())
		if err != nil {
			s.turnedAway(c, err)
			return
		}
		cookie, expiry, err := s.accounts.Begin(c.Request.Context(), before, u)
		if err != nil {
			s.turnedAway(c, err)
			return
		}
		s.setCookie(c, cookie, expiry)
		c.Redirect(http.StatusFound, "/")
	})
}

func (s *server) setCookie(c *gin.Context, value string, expiry time.Time) {
	cookie := s.cookie(value, expiry)
	http.SetCookie(c.Writer, &cookie)
}

// turnedAway shows the page of sign-in with what went wrong.
func (s *server) turnedAway(c *gin.Context, err error) {
	said := problem(err).Error()
	if !errors.Is(err, accounts.ErrRequest) {
		said = "Signing in did not work. Try again; if it stays so, the server's log says more."
	}
	c.Redirect(http.StatusFound, "/?"+url.Values{"signin": {said}}.Encode())
}
