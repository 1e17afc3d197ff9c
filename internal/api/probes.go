package api

import (
	"context"
	"crypto/rand"
	"log/slog"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
)

// RequestHeader carries the number of a request, by which the log knows it too.
const RequestHeader = "X-Request-Id"

// Observe is told of every request: the route, what came of it, and how long it took.
type Observe func(method, route string, status int, took time.Duration)

// numbered gives every request a number, and logs how it went.
func numbered(observe Observe) gin.HandlerFunc {
	return func(c *gin.Context) { answered(c, observe) }
}

func answered(c *gin.Context, observe Observe) {
	id := rand.Text()[:12]
	c.Set(RequestHeader, id)
	c.Writer.Header().Set(RequestHeader, id)
	begun := time.Now()
	c.Next()
	took := time.Since(begun)
	if observe != nil {
		observe(c.Request.Method, c.FullPath(), c.Writer.Status(), took)
	}
	level := slog.LevelDebug
	if c.Writer.Status() >= http.StatusInternalServerError {
		level = slog.LevelError
	}
	slog.Log(c.Request.Context(), level, "request", "request", id, "method", c.Request.Method, "path", c.Request.URL.Path,
		"status", c.Writer.Status(), "took", took.Round(time.Millisecond))
}

func numberOf(c *gin.Context) string { return c.GetString(RequestHeader) }

// registerProbes adds the two addresses by which whoever runs the server sees that it lives, and that it can work.
func (s *server) registerProbes(r *gin.Engine) {
	r.GET("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "ok\n") })
	r.GET("/readyz", func(c *gin.Context) {
		ctx, cancel := context.WithTimeout(c.Request.Context(), 3*time.Second)
		defer cancel()
		if err := s.desk.Ready(ctx); err != nil {
			c.String(http.StatusServiceUnavailable, "the database does not answer\n")
			return
		}
		c.String(http.StatusOK, "ok\n")
	})
}
