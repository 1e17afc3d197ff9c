package store

import (
	"context"
	"time"

	"gorm.io/gorm"
)

// Studies lists the studies that are not deleted, or those that are, the newest first.
func (s *Store) Studies(ctx context.Context, deleted bool) ([]Study, error) {
	which := "deleted is null"
	if deleted {
		which = "deleted is not null"
	}
	var out []Study
	return out, s.db.WithContext(ctx).Where(which).Order("created desc, id desc").Find(&out).Error
}

// Study gives one study that is not deleted.
func (s *Store) Study(ctx context.Context, id int64) (Study, error) {
	var out Study
	return out, found(s.db.WithContext(ctx).Where("deleted is null").First(&out, id).Error)
}

// DeleteStudy puts a study aside: it is found no more, until it is restored or purged.
func (s *Store) DeleteStudy(ctx context.Context, id int64) error {
	return s.setDeleted(ctx, id, "deleted is null", "now()")
}

// RestoreStudy brings back a study that was put aside.
func (s *Store) RestoreStudy(ctx context.Context, id int64) error {
	return s.setDeleted(ctx, id, "deleted is not null", "null")
}

func (s *Store) setDeleted(ctx context.Context, id int64, if_, to string) error {
	result := s.db.WithContext(ctx).Exec("update studies set deleted = "+to+" where id = ? and "+if_, id)
	if result.Error == nil && result.RowsAffected == 0 {
		return ErrNotFound
	}
	return result.Error
}

// Purge deletes for good, with all that belongs to them, the studies that were put aside for so long; with an id, that one only.
func (s *Store) Purge(ctx context.Context, id int64, aside time.Duration) (purged int, err error) {
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var ids []int64
		err := tx.Raw("select id from studies where deleted <= now() - make_interval(secs => ?) and (? = 0 or id = ?) for update",
			aside.Seconds(), id, id).Scan(&ids).Error
		if err != nil || len(ids) == 0 {
			return err
		}
		purged = len(ids)
		if err := tx.Exec("delete from respondents where study_id in ?", ids).Error; err != nil {
			return err
		}
		return tx.Exec("delete from studies where id in ?", ids).Error
	})
	return purged, err
}

// KeepFigures keeps the figures of a question for lists, if it is still at their revision.
func (s *Store) KeepFigures(ctx context.Context, question int64, f Figures) error {
	return s.db.WithContext(ctx).Select("figures").Where("revision = ?", f.Revision).Updates(&Question{ID: question, Figures: &f}).Error
}
