package main

import (
	"crypto/tls"
	"fmt"
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
	loaded *tls.Certificate
}

const lookAgain = 10 * time.Second

// current gives the certificate. While new files can't be read, the one before holds.
func (c *certificate) current(*tls.ClientHelloInfo) (*tls.Certificate, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.loaded != nil && time.Since(c.asked) < lookAgain {
		return c.loaded, nil
	}
	c.asked = time.Now()
	info, err := os.Stat(c.cert)
	if err == nil && (c.loaded == nil || !info.ModTime().Equal(c.from)) {
		var pair tls.Certificate
		if pair, err = tls.LoadX509KeyPair(c.cert, c.key); err == nil {
			c.loaded, c.from = &pair, info.ModTime()
		}
	}
	if c.loaded == nil {
		return nil, fmt.Errorf("the certificate: %w", err)
	}
	return c.loaded, nil
}

// config serves TLS 1.2 and later with it.
func (c *certificate) config() (*tls.Config, error) {
	if _, err := c.current(nil); err != nil {
		return nil, err
	}
	return &tls.Config{MinVersion: tls.VersionTLS12, GetCertificate: c.current, NextProtos: []string{"h2", "http/1.1"}}, nil
}
