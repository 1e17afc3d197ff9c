package files

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"path"
	"syscall"
	"time"
)

// Limits of what is fetched by a link.
const (
	maxFetched   = 256 << 20 // bytes
	fetchTime    = 60 * time.Second
	maxRedirects = 5
)

// ErrFetch is behind every error about a link.
var ErrFetch = errors.New("link")

// Fetch gets a file by its link (http or https) and writes it to w. Unless private is true it reaches no private,
// loopback or other special address, wherever the link or a redirect leads: the address is judged when it is dialled.
func Fetch(ctx context.Context, link string, private bool, w io.Writer) (name, kind string, err error) {
	u, err := url.Parse(link)
	if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" {
		return "", "", fmt.Errorf("%w %q: only http:// and https:// are followed", ErrFetch, link)
	}
	if u.User != nil {
		return "", "", fmt.Errorf("%w: it holds a name or password; these are not sent", ErrFetch)
	}
	ctx, cancel := context.WithTimeout(ctx, fetchTime)
	defer cancel()
	dialer := &net.Dialer{Timeout: 10 * time.Second, Control: func(_, address string, _ syscall.RawConn) error {
		if a, err := netip.ParseAddrPort(address); !private && (err != nil || !public(a.Addr())) {
			return fmt.Errorf("%s is an address inside this machine or network, and those are not reached", address)
		}
		return nil
	}}
	client := http.Client{
		Transport: &http.Transport{
			DialContext:           dialer.DialContext,
			TLSHandshakeTimeout:   10 * time.Second,
			ResponseHeaderTimeout: 20 * time.Second,
		},
		CheckRedirect: func(r *http.Request, via []*http.Request) error {
			if len(via) > maxRedirects {
				return errors.New("it leads on and on")
			}
			if r.URL.Scheme != "http" && r.URL.Scheme != "https" {
				return errors.New("it leads to something other than http or https")
			}
			return nil
		},
	}
	defer client.CloseIdleConnections()
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, u.String(), nil)
	if err != nil {
		return "", "", fmt.Errorf("%w: %w", ErrFetch, err)
	}
	r.Header.Set("User-Agent", "Aftermath")
	response, err := client.Do(r)
	if err != nil {
		var outer *url.Error
		if errors.As(err, &outer) {
			err = outer.Err
		}
		var dns *net.DNSError
		if errors.As(err, &dns) {
			err = fmt.Errorf("no server is known by the name %q", dns.Name)
		}
		return "", "", fmt.Errorf("%w %s can't be followed: %w", ErrFetch, link, err)
	}
	defer response.Body.Close()
	if response.StatusCode != http.StatusOK {
		return "", "", fmt.Errorf("%w %s: the server there answered %q", ErrFetch, link, response.Status)
	}
	n, err := io.Copy(w, io.LimitReader(response.Body, maxFetched+1))
	switch {
	case err != nil:
		return "", "", fmt.Errorf("%w %s: it broke off after %d bytes: %w", ErrFetch, link, n, err)
	case n > maxFetched:
		return "", "", fmt.Errorf("%w %s: it is larger than %d MiB; save it and bring in the file", ErrFetch, link, maxFetched>>20)
	}
	name = path.Base(response.Request.URL.Path)
	if name == "/" || name == "." {
		name = response.Request.URL.Hostname()
	}
	return name, response.Header.Get("Content-Type"), nil
}

// special are ranges that no public server has, besides those that netip knows, and those in which an address of the old kind
// can hide (RFC 6890, RFC 4291, RFC 6052, RFC 8215, RFC 4380, RFC 3056, RFC 3879, RFC 3849, RFC 9637, RFC 5737, RFC 2544 and
// the IANA registries).
var special = prefixes(
	"0.0.0.0/8", "100.64.0.0/10", "192.0.0.0/24", "192.0.2.0/24", "192.88.99.0/24", "198.18.0.0/15", "198.51.100.0/24", "203.0.113.0/24",
	"240.0.0.0/4", "::/96", "64:ff9b::/96", "64:ff9b:1::/48", "100::/64", "2001::/23", "2001:db8::/32", "2002::/16", "3fff::/20", "5f00::/16",
	"fec0::/10",
)

func prefixes(all ...string) (out []netip.Prefix) {
	for _, p := range all {
		out = append(out, netip.MustParsePrefix(p))
	}
	return out
}

func public(a netip.Addr) bool {
	a = a.Unmap()
	if !a.IsGlobalUnicast() || a.IsPrivate() || a.IsLoopback() || a.IsLinkLocalUnicast() {
		return false
	}
	for _, p := range special {
		if p.Contains(a) {
			return false
		}
	}
	return true
}
