package main

import (
	"crypto/tls"
	"crypto/x509"
	"fmt"
	"log/slog"
	"os"
	"sync"
	"time"
)

// certificate is one that is read from files, again when they have changed: whoever renews it need not stop the server.
type certificate struct {
	cert, key string

	mu     sync.Mutex
	asked  time.Time // when the files were last looked at
	from   time.Time // when what is held was written
	failed time.Time // when what could not be read was written; zero while nothing failed
	why    error
	said   string // what watch has said last
	loaded *tls.Certificate
}

const (
	lookAgain = 10 * time.Second
	// endsSoon is how long before its end a certificate should have been renewed.
	endsSoon = 7 * 24 * time.Hour
)

// current gives the certificate. While new files can't be read, the one before holds; that is in the log, and in the state.
func (c *certificate) current(*tls.ClientHelloInfo) (*tls.Certificate, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.loaded != nil && time.Since(c.asked) < lookAgain {
		return c.loaded, nil
	}
	c.asked = time.Now()
	written, err := c.written()
	if err == nil && (c.loaded == nil || !written.Equal(c.from)) {
		err = c.load(written)
	}
	if err != nil && c.loaded != nil && (c.why == nil || !written.Equal(c.failed)) {
		slog.Error("the renewed certificate can't be read; the one before holds on", "until", c.loaded.Leaf.NotAfter, "error", err)
	}
	if c.why, c.failed = err, written; err == nil {
		c.failed = time.Time{}
	}
	if c.loaded == nil {
		return nil, fmt.Errorf("the certificate: %w", err)
	}
	return c.loaded, nil
}

// written is when the newer one of the two files was written.
func (c *certificate) written() (time.Time, error) {
	cert, err := os.Stat(c.cert)
	if err != nil {
		return time.Time{}, err
	}
	key, err := os.Stat(c.key)
	if err != nil || cert.ModTime().After(key.ModTime()) {
		return cert.ModTime(), err
	}
	return key.ModTime(), nil
}

func (c *certificate) load(written time.Time) error {
	pair, err := tls.LoadX509KeyPair(c.cert, c.key)
	if err != nil {
		return err
	}
	if pair.Leaf == nil {
		if pair.Leaf, err = x509.ParseCertificate(pair.Certificate[0]); err != nil {
			return err
		}
	}
	if c.loaded != nil {
		slog.Info("the certificate was renewed", "until", pair.Leaf.NotAfter)
	}
	c.loaded, c.from = &pair, written
	return nil
}

// state is how the certificate is: when it ends, and what is wrong with it. Asking looks at the files again.
func (c *certificate) state() (ends time.Time, problem error) {
	held, err := c.current(nil)
	if err != nil {
		return time.Time{}, err
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	ends = held.Leaf.NotAfter
	switch left := time.Until(ends); {
	case c.why != nil:
		return ends, fmt.Errorf("the renewed one can't be read, and the one before holds until %s: %w", ends.Format(time.DateOnly), c.why)
	case left < 0:
		return ends, fmt.Errorf("it ended on %s", ends.Format(time.DateTime))
	case left < endsSoon:
		return ends, fmt.Errorf("it ends on %s, and was not renewed", ends.Format(time.DateTime))
	}
	return ends, nil
}

// watch looks at the files now and then also while nobody connects.
func (c *certificate) watch() {
	if c.cert == "" {
		return
	}
	problem := ""
	if _, err := c.state(); err != nil {
		problem = err.Error()
	}
	if problem != "" && problem != c.said {
		slog.Error("the certificate", "error", problem)
	}
	c.said = problem
}

// config serves TLS 1.2 and later with it.
func (c *certificate) config() (*tls.Config, error) {
	if _, err := c.current(nil); err != nil {
		return nil, err
	}
	return &tls.Config{MinVersion: tls.VersionTLS12, GetCertificate: c.current, NextProtos: []string{"h2", "http/1.1"}}, nil
}
