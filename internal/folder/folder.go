// Package folder holds folders for one process at a time.
package folder

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"time"
)

// ErrHeld says that another process holds the folder; its message says which.
var ErrHeld = errors.New("another process holds this folder")

// Lock is a folder that this process holds. It is a bare descriptor because an os.File is closed by the garbage collector once
// nothing refers to it, and the folder would be free while its holder still works in it.
type Lock struct{ descriptor int }

// Hold takes a folder for this process, until the lock is closed or the process ends, however it ends.
func Hold(dir string) (*Lock, error) {
	path := filepath.Join(dir, "lock")
	fd, err := syscall.Open(path, syscall.O_RDWR|syscall.O_CREAT|syscall.O_CLOEXEC, 0o600)
	if err != nil {
		return nil, &os.PathError{Op: "open", Path: path, Err: err}
	}
	lock := &Lock{fd}
	if err := lock.keepOwner(dir); err != nil {
		return nil, errors.Join(err, lock.Close())
	}
	if err := syscall.Flock(fd, syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		holder, _ := os.ReadFile(path)
		return nil, errors.Join(fmt.Errorf("%w: %s", ErrHeld, strings.TrimSpace(string(holder))), lock.Close())
	}
	holder := fmt.Sprintf("process %d, since %s\n", os.Getpid(), time.Now().Format("2006-01-02 15:04:05"))
	if err := os.WriteFile(path, []byte(holder), 0o600); err != nil {
		return nil, errors.Join(err, lock.Close())
	}
	return lock, nil
}

// Close gives the folder free. A second call is an error and touches no other descriptor.
func (l *Lock) Close() error {
	open := l.descriptor
	l.descriptor = -1
	return syscall.Close(open)
}

// keepOwner gives a lock file that root has made to whose the folder is: they must be able to hold it later.
func (l *Lock) keepOwner(dir string) error {
	if os.Geteuid() != 0 {
		return nil
	}
	info, err := os.Stat(dir)
	if err != nil {
		return err
	}
	of, ok := info.Sys().(*syscall.Stat_t)
	if !ok || of.Uid == 0 {
		return nil
	}
	return syscall.Fchown(l.descriptor, int(of.Uid), int(of.Gid))
}

// Temporary makes a folder for files that are of no use once this process has ended, and deletes those of processes that have
// ended without doing so. Leave deletes it.
func Temporary(in, name string) (dir string, leave func() error, err error) {
	left, _ := filepath.Glob(filepath.Join(in, name+"-*"))
	for _, old := range left {
		if held, err := Hold(old); err == nil {
			_ = errors.Join(os.RemoveAll(old), held.Close()) // of another user, perhaps: it is theirs to delete
		}
	}
	if dir, err = os.MkdirTemp(in, name+"-"); err != nil {
		return "", nil, err
	}
	held, err := Hold(dir)
	if err != nil {
		return "", nil, errors.Join(err, os.RemoveAll(dir))
	}
	return dir, func() error { return errors.Join(os.RemoveAll(dir), held.Close()) }, nil
}
