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

// Hold takes a folder for this process, until the file is closed or the process ends, however it ends.
func Hold(dir string) (*os.File, error) {
	f, err := os.OpenFile(filepath.Join(dir, "lock"), os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return nil, err
	}
	if err := keepOwner(dir, f); err != nil {
		return nil, errors.Join(err, f.Close())
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		holder, _ := os.ReadFile(f.Name())
		return nil, errors.Join(fmt.Errorf("%w: %s", ErrHeld, strings.TrimSpace(string(holder))), f.Close())
	}
	err = f.Truncate(0)
	if err == nil {
		_, err = fmt.Fprintf(f, "process %d, since %s\n", os.Getpid(), time.Now().Format("2006-01-02 15:04:05"))
	}
	if err != nil {
		return nil, errors.Join(err, f.Close())
	}
	return f, nil
}

// keepOwner gives a file that root has made to whose the folder is: they must be able to hold it later.
func keepOwner(dir string, f *os.File) error {
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
	return f.Chown(int(of.Uid), int(of.Gid))
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
