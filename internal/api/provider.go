package api

import (
	"errors"
	"net/http"
	"net/url"

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
		held := s.cookie(sessionCookie, cookie, expiry)
		http.SetCookie(c.Writer, &held)
		c.Redirect(http.StatusFound, address)
	})
	r.GET("/auth/back", func(c *gin.Context) {
		before, _ := c.Cookie(sessionCookie)
		asks, err := s.provider.Back(c.Request.Context(), before, c.Query("state"), c.Query("code"), c.ClientIP())
		if err != nil {
			s.turnedAway(c, err)
			return
		}
		brings := accounts.Credentials{Cookie: before, Address: c.ClientIP(), Agent: c.Request.UserAgent()}
		cookies, err := s.begin(c.Request.Context(), brings, asks)
		if err != nil {
			s.turnedAway(c, err)
			return
		}
		for _, held := range cookies {
			http.SetCookie(c.Writer, &held)
		}
		c.Redirect(http.StatusFound, "/")
	})
}

// turnedAway shows the page of sign-in with what went wrong.
func (s *server) turnedAway(c *gin.Context, err error) {
	said := problem(err).Error()
	if !errors.Is(err, accounts.ErrRequest) {
		said = "Signing in did not work. Try again; if it stays so, the server's log says more."
	}
	c.Redirect(http.StatusFound, "/?"+url.Values{"signin": {said}}.Encode())
}
