package pg

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"time"
)

// Health is how a private server is.
type Health struct {
	Down    time.Time // since when it does not run; zero while it runs
	Problem string    // why, in words for a user, as far as is known; or what will be a problem soon
	Full    bool      // the disk has too little space left to write anything large
}

// How a server is watched.
const (
	lookEvery    = 500 * time.Millisecond
	longestPause = 30 * time.Second // between two tries to start it
)

// LowSpace is how many bytes left on the disk are too few to go on without a word.
const LowSpace = 512 << 20

// Health is how the server was when it was last looked at.
func (s *Server) Health() Health { return *s.health.Load() }

// Free is how much space is left on the disk of the data, in bytes.
func (s *Server) Free() (uint64, error) { return FreeIn(s.dir) }

// FreeIn is how much space is left on the disk of a folder, or where it would be made, in bytes.
func FreeIn(dir string) (uint64, error) {
	var disk syscall.Statfs_t
	err := syscall.Statfs(dir, &disk)
	for errors.Is(err, os.ErrNotExist) && dir != filepath.Dir(dir) {
		dir = filepath.Dir(dir)
		err = syscall.Statfs(dir, &disk)
	}
	if err != nil {
		return 0, fmt.Errorf("private PostgreSQL: space left: %w", err)
	}
	return disk.Bavail * uint64(disk.Bsize), nil
}

// Watch starts the server again whenever it has gone, with longer and longer pauses where it won't start, until the context ends.
// It tells changed whenever the health is another.
func (s *Server) Watch(ctx context.Context, changed func()) {
	tell := func(h Health) {
		if before := s.Health(); before != h {
			s.health.Store(&h)
			changed()
		}
	}
	pause := time.Duration(0)
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(max(lookEvery, pause)):
		}
		h := Health{}
		if free, err := s.Free(); err == nil && free < LowSpace {
			h.Full, h.Problem = true, fmt.Sprintf("The disk with the data is nearly full: %d MB are left.", free>>20)
		}
		if pid, _ := s.postmaster(); pid != 0 {
			pause = 0
			tell(h)
			continue
		}
		if h.Down = s.Health().Down; h.Down.IsZero() {
			h.Down = time.Now()
			slog.Error("PostgreSQL has gone; it is started again", "log", lastLine(s.lastLog(0)))
		}
		tell(h)
		if err := s.start(ctx); err != nil {
			pause = min(max(2*pause, lookEvery), longestPause)
			var why *startError
			if errors.As(err, &why) && !h.Full {
				h.Problem = "PostgreSQL does not start: " + lastLine(why.log)
			}
			tell(h)
			slog.Error("PostgreSQL does not start", "again in", pause, "error", err)
			continue
		}
		slog.Info("PostgreSQL runs again", "after", time.Since(h.Down).Round(time.Millisecond))
		pause = 0
	}
}

// lastLine is the last line of a log that says what went wrong.
func lastLine(log string) string {
	lines := strings.Split(strings.TrimSpace(log), "\n")
	for i := len(lines) - 1; i >= 0; i-- {
		for _, kind := range []string{"PANIC:", "FATAL:"} {
			if _, said, ok := strings.Cut(lines[i], kind); ok {
				return strings.TrimSpace(said)
			}
		}
	}
	return lines[len(lines)-1]
}
