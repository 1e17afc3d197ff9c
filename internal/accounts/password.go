package accounts

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"fmt"
	"strings"
	"unicode/utf8"

	"golang.org/x/crypto/argon2"
)

// Limits of a password, in characters and bytes.
const (
	ShortestPassword = 12
	longestPassword  = 1024
)

// How a password is hashed (RFC 9106; memory in KiB). Hashes say what they were made with, so that this can change.
const (
	hashTime, hashMemory, hashThreads = 2, 19 << 10, 1
	hashLength, saltLength            = 32, 16
)

// hashCost is what hashing a password takes.
type hashCost struct{ time, memory, threads int }

// hashedAtOnce bounds how many passwords are hashed at the same time: each takes memory.
const hashedAtOnce = 4

// checkPassword says what is wrong with a password that is chosen.
func checkPassword(name, password string) error {
	switch n := utf8.RuneCountInString(password); {
	case n < ShortestPassword:
		return fmt.Errorf("%w: a password has at least %d characters; this one has %d", ErrRequest, ShortestPassword, n)
	case len(password) > longestPassword:
		return fmt.Errorf("%w: a password has at most %d bytes", ErrRequest, longestPassword)
	case strings.Contains(strings.ToLower(password), strings.ToLower(name)) && utf8.RuneCountInString(name) > n/2:
		return fmt.Errorf("%w: the password is little more than the name", ErrRequest)
	case strings.Count(password, password[:1]) == len(password):
		return fmt.Errorf("%w: the password is one character again and again", ErrRequest)
	}
	return nil
}

// hash gives what is kept of a password.
func (a *Accounts) hash(ctx context.Context, password string) (string, error) {
	salt := make([]byte, saltLength)
	_, _ = rand.Read(salt) // never fails
	if err := a.hashing.Acquire(ctx, 1); err != nil {
		return "", err
	}
	defer a.hashing.Release(1)
	c := a.cost
	sum := argon2.IDKey([]byte(password), salt, uint32(c.time), uint32(c.memory), uint8(c.threads), hashLength)
	b64 := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, c.memory, c.time, c.threads,
		b64.EncodeToString(salt), b64.EncodeToString(sum)), nil
}

// matches says whether a password is the one that a hash was made of. It takes as long where there is no hash.
func (a *Accounts) matches(ctx context.Context, password, hashed string) (bool, error) {
	if len(password) > longestPassword {
		return false, nil
	}
	var version, memory, passes, threads int
	parts := strings.Split(hashed, "$")
	salt, sum := make([]byte, saltLength), []byte(nil)
	if len(parts) == 6 {
		_, errVersion := fmt.Sscanf(parts[2], "v=%d", &version)
		_, errCost := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &memory, &passes, &threads)
		var errSalt, errSum error
		salt, errSalt = base64.RawStdEncoding.DecodeString(parts[4])
		sum, errSum = base64.RawStdEncoding.DecodeString(parts[5])
		if errVersion != nil || errCost != nil || errSalt != nil || errSum != nil || version != argon2.Version {
			sum = nil
		}
	}
	if sum == nil {
		memory, passes, threads = a.cost.memory, a.cost.time, a.cost.threads
	}
	if err := a.hashing.Acquire(ctx, 1); err != nil {
		return false, err
	}
	defer a.hashing.Release(1)
	got := argon2.IDKey([]byte(password), salt, uint32(passes), uint32(memory), uint8(threads), hashLength)
	return sum != nil && subtle.ConstantTimeCompare(got, sum) == 1, nil
}
