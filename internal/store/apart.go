package store

import (
	"context"
	"crypto/rand"
	"errors"
	"strings"

	"github.com/jackc/pgx/v5"
)

// apartPrefix begins the names of schemas that are of no use once who made them has ended.
const apartPrefix = "aftermath_trial_"

// Apart gives a store of its own beside this one, with the same tables and nothing in them; leave deletes it. What a process that ended
// left behind is deleted first: there is one server per database.
func (s *Store) Apart(ctx context.Context) (apart *Store, leave func() error, err error) {
	var left []string
	err = s.db.WithContext(ctx).Raw("select nspname from pg_namespace where starts_with(nspname, ?)", apartPrefix).Scan(&left).Error
	for _, name := range left {
		err = errors.Join(err, s.dropSchema(ctx, name))
	}
	if err != nil {
		return nil, nil, err
	}
	name := apartPrefix + strings.ToLower(rand.Text())
	if err := s.db.WithContext(ctx).Exec("create schema " + pgx.Identifier{name}.Sanitize()).Error; err != nil {
		return nil, nil, err
	}
	drop := func() error { return s.dropSchema(context.WithoutCancel(ctx), name) }
	apart, err = openConfig(ctx, s.config.Copy(), name, idleConnections)
	if err != nil {
		return nil, nil, errors.Join(err, drop())
	}
	return apart, func() error { return errors.Join(apart.Close(), drop()) }, nil
}

func (s *Store) dropSchema(ctx context.Context, name string) error {
	return s.db.WithContext(ctx).Exec("drop schema " + pgx.Identifier{name}.Sanitize() + " cascade").Error
}
