package store

import (
	"context"
	"encoding/json"
	"time"

	"gorm.io/gorm/clause"
)

// Chart is a chart of a question that was kept under a name. It is drawn anew whenever it is looked at.
type Chart struct {
	ID         int64
	QuestionID int64
	Name       string
	Note       string
	Drawn      json.RawMessage `gorm:"type:jsonb"` // what it is made of, as the desk has it
	Figures    string          // a sum of its figures when it was kept, or looked over last
	By         string
	At         time.Time
	Gone       *time.Time // when it was deleted; it can be brought back
}

// Charts lists the kept charts of a question, the newest first; with those that were deleted.
func (s *Store) Charts(ctx context.Context, question int64) (out []Chart, err error) {
	return out, s.db.WithContext(ctx).Where("question_id = ?", question).Order("id desc").Find(&out).Error
}

// Chart gives a kept chart of a question.
func (s *Store) Chart(ctx context.Context, question, id int64) (out Chart, err error) {
	return out, found(s.db.WithContext(ctx).Where("question_id = ?", question).First(&out, id).Error)
}

// PutChart keeps a chart: a new one, which gets its number, where it has none, else in place of what it was.
func (s *Store) PutChart(ctx context.Context, c *Chart) error {
	c.At = time.Now()
	return s.db.WithContext(ctx).Save(c).Error
}

// DropChart deletes a kept chart, or brings it back.
func (s *Store) DropChart(ctx context.Context, question, id int64, away bool) error {
	return setGone(s.db.WithContext(ctx).Model(&Chart{}).Where("question_id = ? and id = ?", question, id), away)
}

// ColumnSets lists what the columns of tables of a study may be made of, by name.
func (s *Store) ColumnSets(ctx context.Context, study int64) ([]ColumnSet, error) {
	var out []ColumnSet
	return out, s.db.WithContext(ctx).Where("study_id = ?", study).Order("name").Find(&out).Error
}

// KeepColumnSet keeps one under its name, in place of an earlier one of that name.
func (s *Store) KeepColumnSet(ctx context.Context, c ColumnSet) error {
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&c).Error
}

// DropColumnSet forgets one; one that is not there is no error.
func (s *Store) DropColumnSet(ctx context.Context, study int64, name string) error {
	return s.db.WithContext(ctx).Delete(&ColumnSet{}, "study_id = ? and name = ?", study, name).Error
}
