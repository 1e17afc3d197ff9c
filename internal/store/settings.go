package store

import (
	"context"
	"encoding/json"
	"errors"

	"gorm.io/gorm/clause"
)

// Setting is something that is set for all studies.
type Setting struct {
	Name  string          `gorm:"primaryKey"`
	Value json.RawMessage `gorm:"type:jsonb"`
}

// Setting gives what was set under a name; nil where nothing was.
func (s *Store) Setting(ctx context.Context, name string) (json.RawMessage, error) {
	var out Setting
	err := found(s.db.WithContext(ctx).Where("name = ?", name).First(&out).Error)
	if errors.Is(err, ErrNotFound) {
		return nil, nil
	}
	return out.Value, err
}

// PutSetting sets something for all studies.
func (s *Store) PutSetting(ctx context.Context, name string, value json.RawMessage) error {
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&Setting{name, value}).Error
}
