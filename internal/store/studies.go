package store

import (
	"context"
	"database/sql"
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

// CopyStudy makes a second study of all that belongs to one, its history included, as it is at one moment.
func (s *Store) CopyStudy(ctx context.Context, id int64, name string) (out Study, err error) {
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var copied int64
		err := tx.Raw(`insert into studies (name, revision, "rows", next_respondent, columns, derived, under, created, changed)
			select ?, revision, "rows", next_respondent, columns, derived, under, now(), changed from studies where id = ? and deleted is null returning id`,
			name, id).Scan(&copied).Error
		if err != nil {
			return err
		}
		if copied == 0 {
			return ErrNotFound
		}
		if err := tx.Exec("insert into respondents select ?, number, cells from respondents where study_id = ?", copied, id).Error; err != nil {
			return err
		}
		err = tx.Exec("insert into column_sets select ?, name, nests from column_sets where study_id = ?", copied, id).Error
		if err != nil {
			return err
		}
		if err := copyQuestions(tx, id, copied); err != nil {
			return err
		}
		return tx.First(&out, copied).Error
	}, &sql.TxOptions{Isolation: sql.LevelRepeatableRead})
	return out, err
}

// copyQuestions copies the questions of a study with what belongs to them, and then the history of them all in its order.
func copyQuestions(tx *gorm.DB, from, to int64) error {
	err := tx.Exec("create temporary table copied (was bigint primary key, now bigint) on commit drop").Error
	if err != nil {
		return err
	}
	var questions []int64
	if err := tx.Raw("select id from questions where study_id = ? order by id", from).Scan(&questions).Error; err != nil {
		return err
	}
	for _, q := range questions {
		err := tx.Exec(`with made as (insert into questions (study_id, "column", revision, scheme, last_key, changed, figures)
			select ?, "column", revision, scheme, last_key, changed, figures from questions where id = ? returning id)
			insert into copied select ?, id from made`, to, q, q).Error
		if err != nil {
			return err
		}
	}
	for _, of := range []string{
		`decisions (question_id, number, category, "on", origin) select now, number, category, "on", origin from decisions`,
		`focus (question_id, name, conditions) select now, name, conditions from focus`,
		`named_states (question_id, name, number, scheme, decisions, at) select now, name, number, scheme, decisions, at from named_states`,
	} {
		if err := tx.Exec("insert into " + of + " join copied on was = question_id").Error; err != nil {
			return err
		}
	}
	for _, q := range questions {
		var now int64
		if err := tx.Raw("select now from copied where was = ?", q).Scan(&now).Error; err != nil {
			return err
		}
		if err := copyCharts(tx, q, now); err != nil {
			return err
		}
		if err := copySamples(tx, q, now); err != nil {
			return err
		}
	}
	if err := copyReports(tx, from, to); err != nil {
		return err
	}
	return tx.Exec(`insert into history (study_id, question_id, number, summary, "by", edit, undo, redo, undone, ended, at)
		select ?, now, number, summary, "by", edit, undo, redo, undone, ended, at from history left join copied on was = question_id
		where study_id = ? order by id`, to, from).Error
}

// KeepFigures keeps the figures of a question for lists, if it is still at their revision.
func (s *Store) KeepFigures(ctx context.Context, question int64, f Figures) error {
	return s.db.WithContext(ctx).Select("figures").Where("revision = ?", f.Revision).Updates(&Question{ID: question, Figures: &f}).Error
}
