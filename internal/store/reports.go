package store

import (
	"context"
	"encoding/json"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Report is a report of a study. Its blocks are those of a version.
type Report struct {
	ID       int64
	StudyID  int64
	Name     string
	Revision int64 // grows by every change, undoing included
	Version  int64 // the one that it is at
	Newest   int64 // the last one that can be done again
	Gone     *time.Time
}

// ReportVersion is what a report was made of after a change.
type ReportVersion struct {
	ReportID int64           `gorm:"primaryKey"`
	Number   int64           `gorm:"primaryKey"` // from 1
	Blocks   json.RawMessage `gorm:"type:jsonb"`
	Summary  string          // of the change
	By       string
	At       time.Time
}

// FrozenReport is a report as it read at one moment.
type FrozenReport struct {
	ID       int64
	ReportID int64
	Name     string
	Page     json.RawMessage `gorm:"type:jsonb"`
	By       string
	At       time.Time
	Gone     *time.Time
}

// Reports lists the reports of a study, the oldest first; with those that were deleted.
func (s *Store) Reports(ctx context.Context, study int64) (out []Report, err error) {
	return out, s.db.WithContext(ctx).Where("study_id = ?", study).Order("id").Find(&out).Error
}

// Report gives a report, and the version that it is at.
func (s *Store) Report(ctx context.Context, id int64) (out Report, at ReportVersion, err error) {
	db := s.db.WithContext(ctx)
	if err = found(db.First(&out, id).Error); err != nil {
		return out, at, err
	}
	return out, at, found(db.Where("report_id = ? and number = ?", id, out.Version).First(&at).Error)
}

// ReportVersion gives a version of a report.
func (s *Store) ReportVersion(ctx context.Context, id, number int64) (out ReportVersion, err error) {
	return out, found(s.db.WithContext(ctx).Where("report_id = ? and number = ?", id, number).First(&out).Error)
}

// AddReport adds a report with its first version.
func (s *Store) AddReport(ctx context.Context, r *Report, first ReportVersion) error {
	r.Revision, r.Version, r.Newest = 1, 1, 1
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Create(r).Error; err != nil {
			return err
		}
		first.ReportID, first.Number, first.At = r.ID, 1, time.Now()
		return tx.Create(&first).Error
	})
}

// ChangeReport changes a report that is still at the revision that was seen, else it fails with ErrConflict. What change does to
// the report is kept, and a version that it gives, in the place of those that could have been done again.
func (s *Store) ChangeReport(
	ctx context.Context, id, revision int64, change func(r *Report) (*ReportVersion, error),
) (r Report, err error) {
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := found(tx.Clauses(clause.Locking{Strength: "UPDATE"}).First(&r, id).Error); err != nil {
			return err
		}
		if r.Revision != revision {
			return ErrConflict
		}
		next, err := change(&r)
		if err != nil {
			return err
		}
		r.Revision++
		if next != nil {
			if err := tx.Where("report_id = ? and number > ?", id, r.Version).Delete(&ReportVersion{}).Error; err != nil {
				return err
			}
			r.Version++
			r.Newest = r.Version
			next.ReportID, next.Number, next.At = id, r.Version, time.Now()
			if err := tx.Create(next).Error; err != nil {
				return err
			}
		}
		return tx.Save(&r).Error
	})
	return r, err
}

// DropReport deletes a report, or brings it back.
func (s *Store) DropReport(ctx context.Context, id int64, away bool) error {
	return setGone(s.db.WithContext(ctx).Model(&Report{}).Where("id = ?", id), away)
}

// FrozenReports lists what was frozen of a report, the newest first, without what it says; with what was deleted.
func (s *Store) FrozenReports(ctx context.Context, report int64) (out []FrozenReport, err error) {
	return out, s.db.WithContext(ctx).Omit("page").Where("report_id = ?", report).Order("id desc").Find(&out).Error
}

// FrozenReport gives a frozen report.
func (s *Store) FrozenReport(ctx context.Context, report, id int64) (out FrozenReport, err error) {
	return out, found(s.db.WithContext(ctx).Where("report_id = ?", report).First(&out, id).Error)
}

// AddFrozenReport keeps a frozen report.
func (s *Store) AddFrozenReport(ctx context.Context, f *FrozenReport) error {
	f.At = time.Now()
	return s.db.WithContext(ctx).Create(f).Error
}

// DropFrozenReport deletes a frozen report, or brings it back.
func (s *Store) DropFrozenReport(ctx context.Context, report, id int64, away bool) error {
	return setGone(s.db.WithContext(ctx).Model(&FrozenReport{}).Where("report_id = ? and id = ?", report, id), away)
}

// setGone marks a row as deleted, or as not.
func setGone(row *gorm.DB, away bool) error {
	var gone *time.Time
	if away {
		now := time.Now()
		gone = &now
	}
	done := row.Update("gone", gone)
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrNotFound
	}
	return done.Error
}
