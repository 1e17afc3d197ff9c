// Package store keeps studies in PostgreSQL: the respondents' cells as they came, and per question its scheme, its
// decisions by hand and its revisions.
package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/go-gormigrate/gormigrate/v2"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
	"gorm.io/gorm/logger"

	"aftermath/core/playbook"
	"aftermath/core/survey"
)

// Study is a file of respondents and what its columns are.
type Study struct {
	ID       int64
	Name     string
	Revision int // number of the newest edit
	Setup    `gorm:"embedded"`
	Created  time.Time `gorm:"autoCreateTime"`
}

// Setup is all of a study that edits change.
type Setup struct {
	Respondents int              `json:"respondents"`
	Columns     []survey.Spec    `json:"columns" gorm:"serializer:json;type:jsonb"`
	Derived     []survey.Derived `json:"derived,omitempty" gorm:"serializer:json;type:jsonb"`
}

// StudyEdit is one edit of a study's setup that was kept.
type StudyEdit struct {
	StudyID int64  `gorm:"primaryKey;autoIncrement:false"`
	Study   *Study `gorm:"constraint:OnDelete:CASCADE"`
	Number  int    `gorm:"primaryKey;autoIncrement:false"`
	Summary string
	Before  Setup `gorm:"serializer:json;type:jsonb"`
	After   Setup `gorm:"serializer:json;type:jsonb"`
	Undone  bool
	At      time.Time `gorm:"autoCreateTime"`
}

// Question is an open-ended column with its scheme.
type Question struct {
	ID       int64
	StudyID  int64             `gorm:"index"`
	Study    *Study            `gorm:"constraint:OnDelete:CASCADE"`
	Column   int               // place in Study.Columns, from 0
	Revision int               // number of the newest revision
	Scheme   playbook.Playbook `gorm:"serializer:json;type:jsonb"`
}

// Respondent is a row of the file, its cells as they came. It has no foreign key: checking a million of them one by one
// would take longer than storing them. DeleteStudy deletes them with their study.
type Respondent struct {
	StudyID int64    `gorm:"primaryKey;autoIncrement:false"`
	Number  int      `gorm:"primaryKey;autoIncrement:false"` // from 0, in the order of the file
	Cells   []string `gorm:"type:text[]"`
}

// Decision is a category put on or taken off an answer by hand; with no category, that the answer is settled.
type Decision struct {
	QuestionID int64     `gorm:"primaryKey;autoIncrement:false"`
	Question   *Question `gorm:"constraint:OnDelete:CASCADE"`
	Number     int       `gorm:"primaryKey;autoIncrement:false"`
	Category   string    `gorm:"primaryKey"`
	On         bool
}

// Revision is one edit that was kept.
type Revision struct {
	QuestionID int64     `gorm:"primaryKey;autoIncrement:false"`
	Question   *Question `gorm:"constraint:OnDelete:CASCADE"`
	Number     int       `gorm:"primaryKey;autoIncrement:false"`
	Summary    string
	Edit       json.RawMessage `gorm:"type:jsonb"` // done again by redo
	Inverse    json.RawMessage `gorm:"type:jsonb"` // done by undo
	Undone     bool
	At         time.Time `gorm:"autoCreateTime"`
}

// Focus is a focus that was kept under a name.
type Focus struct {
	QuestionID int64           `gorm:"primaryKey;autoIncrement:false"`
	Question   *Question       `gorm:"constraint:OnDelete:CASCADE"`
	Name       string          `gorm:"primaryKey"`
	Conditions json.RawMessage `gorm:"type:jsonb"`
}

// NamedState is a state of a question's scheme that was given a name, whole: it does not go when edits are undone.
type NamedState struct {
	QuestionID int64             `gorm:"primaryKey;autoIncrement:false"`
	Question   *Question         `gorm:"constraint:OnDelete:CASCADE"`
	Name       string            `gorm:"primaryKey"`
	Number     int               // of the newest revision then
	Scheme     playbook.Playbook `gorm:"serializer:json;type:jsonb"`
	Decisions  []Decision        `gorm:"serializer:json;type:jsonb"`
	At         time.Time         `gorm:"autoCreateTime"`
}

// Errors that callers branch on.
var (
	ErrTaken    = errors.New("the name is taken")
	ErrNotFound = errors.New("not found")
	ErrConflict = errors.New("another window has changed this question in the meantime")
)

// Store is a connection to the database.
type Store struct{ db *gorm.DB }

// Open connects and brings the tables up to date.
func Open(ctx context.Context, url string) (*Store, error) {
	db, err := gorm.Open(postgres.Open(url), &gorm.Config{Logger: logger.Discard, SkipDefaultTransaction: true})
	if err != nil {
		return nil, fmt.Errorf("database: %w", err)
	}
	migrations := []*gormigrate.Migration{{
		ID: "2026-11-24 studies",
		Migrate: func(tx *gorm.DB) error {
			return tx.AutoMigrate(&Study{}, &Question{}, &Respondent{}, &Decision{}, &Revision{}, &Focus{})
		},
	}, {
		ID: "2026-11-24 setup",
		Migrate: func(tx *gorm.DB) error {
			return errors.Join(tx.AutoMigrate(&Study{}, &StudyEdit{}), tx.Exec("update studies set revision = coalesce(revision, 0)").Error,
				tx.Exec("alter table respondents drop constraint if exists fk_respondents_study").Error)
		},
	}, {
		ID:      "2026-11-25 named states",
		Migrate: func(tx *gorm.DB) error { return tx.AutoMigrate(&NamedState{}) },
	}}
	if err := gormigrate.New(db.WithContext(ctx), gormigrate.DefaultOptions, migrations).Migrate(); err != nil {
		return nil, fmt.Errorf("database tables: %w", err)
	}
	return &Store{db}, nil
}

// Close ends the connection.
func (s *Store) Close() error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	return db.Close()
}

// Studies lists all studies, the newest first.
func (s *Store) Studies(ctx context.Context) ([]Study, error) {
	var out []Study
	return out, s.db.WithContext(ctx).Order("created desc, id desc").Find(&out).Error
}

// Study gives one study.
func (s *Store) Study(ctx context.Context, id int64) (Study, error) {
	var out Study
	return out, found(s.db.WithContext(ctx).First(&out, id).Error)
}

// DeleteStudy deletes a study with all that belongs to it.
func (s *Store) DeleteStudy(ctx context.Context, id int64) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Delete(&Respondent{}, "study_id = ?", id).Error; err != nil {
			return err
		}
		result := tx.Delete(&Study{}, id)
		if result.Error == nil && result.RowsAffected == 0 {
			return ErrNotFound
		}
		return result.Error
	})
}

// Questions lists the questions of a study in the order of its columns; study 0 lists those of all.
func (s *Store) Questions(ctx context.Context, study int64) ([]Question, error) {
	var out []Question
	q := s.db.WithContext(ctx).Order(`study_id, "column"`)
	if study != 0 {
		q = q.Where("study_id = ?", study)
	}
	return out, q.Find(&out).Error
}

// Question gives one question.
func (s *Store) Question(ctx context.Context, id int64) (Question, error) {
	var out Question
	return out, found(s.db.WithContext(ctx).First(&out, id).Error)
}

func found(err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return ErrNotFound
	}
	return err
}

// Columns gives all cells of a study, column by column.
func (s *Store) Columns(ctx context.Context, study Study) ([][]string, error) {
	out := make([][]string, len(study.Columns))
	for i := range out {
		out[i] = make([]string, 0, study.Respondents)
	}
	db, err := s.db.DB()
	if err != nil {
		return nil, err
	}
	conn, err := db.Conn(ctx)
	if err != nil {
		return nil, err
	}
	defer conn.Close()
	return out, conn.Raw(func(driver any) error {
		rows, err := driver.(*stdlib.Conn).Conn().Query(ctx, "select cells from respondents where study_id = $1 and number < $2 order by number", study.ID, study.Respondents)
		if err != nil {
			return err
		}
		same := make([]intern, len(out))
		var cells []string
		_, err = pgx.ForEachRow(rows, []any{&cells}, func() error {
			// A row is shorter where a later file brought further columns, and longer where that was undone.
			for i := range out {
				cell := ""
				if i < len(cells) {
					cell = same[i].of(cells[i])
				}
				out[i] = append(out[i], cell)
			}
			cells = nil
			return nil
		})
		return err
	})
}

// intern keeps the values of a column once that come again and again; a column of many values is left as it is.
type intern struct {
	known map[string]string
	many  bool
}

const maxInterned = 2000

func (n *intern) of(cell string) string {
	if n.many {
		return cell
	}
	if same, ok := n.known[cell]; ok {
		return same
	}
	if n.known == nil {
		n.known = map[string]string{}
	}
	if len(n.known) == maxInterned {
		n.many, n.known = true, nil
		return cell
	}
	n.known[cell] = cell
	return cell
}

// Decisions gives all decisions by hand of a question.
func (s *Store) Decisions(ctx context.Context, question int64) ([]Decision, error) {
	var out []Decision
	return out, s.db.WithContext(ctx).Where("question_id = ?", question).Find(&out).Error
}

// Change is all that keeping an edit writes.
type Change struct {
	Question Question // with the new scheme; its Revision is the one the edit was made on
	Revision *Revision
	Put      []Decision // new or changed
	Drop     []Decision // no longer there
	Mark     *Revision  // an earlier revision that this undoes or redoes: its Undone is stored
}

// Keep writes a change in one transaction and gives the question's new revision number. It fails with ErrConflict if
// the question is no longer at the revision that the change was made on. Once Keep returns, the change is safe.
func (s *Store) Keep(ctx context.Context, c Change) (int, error) {
	next := c.Question.Revision + 1
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		scheme, err := json.Marshal(c.Question.Scheme)
		if err != nil {
			return err
		}
		result := tx.Exec("update questions set scheme = ?, revision = ? where id = ? and revision = ?", string(scheme), next, c.Question.ID, c.Question.Revision)
		if result.Error != nil {
			return result.Error
		}
		if result.RowsAffected == 0 {
			return ErrConflict
		}
		if c.Revision != nil {
			c.Revision.QuestionID, c.Revision.Number = c.Question.ID, next
			if err := tx.Create(c.Revision).Error; err != nil {
				return err
			}
		}
		if c.Mark != nil {
			if err := tx.Model(c.Mark).Update("undone", c.Mark.Undone).Error; err != nil {
				return err
			}
		}
		for _, d := range c.Drop {
			if err := tx.Delete(&d).Error; err != nil {
				return err
			}
		}
		if len(c.Put) > 0 {
			return tx.Clauses(clause.OnConflict{UpdateAll: true}).CreateInBatches(c.Put, 1000).Error
		}
		return nil
	})
	return next, err
}

// Revisions lists the newest revisions of a question, the newest first.
func (s *Store) Revisions(ctx context.Context, question int64, limit int) ([]Revision, error) {
	var out []Revision
	return out, s.db.WithContext(ctx).Select("question_id", "number", "summary", "undone", "at").Where("question_id = ?", question).Order("number desc").Limit(limit).Find(&out).Error
}

// Since gives the revisions after a number that are not undone, the newest first, with what undoes them.
func (s *Store) Since(ctx context.Context, question int64, number int) ([]Revision, error) {
	var out []Revision
	return out, s.db.WithContext(ctx).Where("question_id = ? and number > ? and not undone", question, number).Order("number desc").Find(&out).Error
}

// NamedStates lists the states of a question that have a name, the newest first, without what they hold.
func (s *Store) NamedStates(ctx context.Context, question int64) ([]NamedState, error) {
	var out []NamedState
	return out, s.db.WithContext(ctx).Select("question_id", "name", "number", "at").Where("question_id = ?", question).Order("at desc, name").Find(&out).Error
}

// NamedState gives a state by its name, or ErrNotFound.
func (s *Store) NamedState(ctx context.Context, question int64, name string) (NamedState, error) {
	var out NamedState
	return out, found(s.db.WithContext(ctx).Where("question_id = ? and name = ?", question, name).First(&out).Error)
}

// KeepNamedState keeps a state under its name, or fails with ErrTaken: a name once given stays with its state.
func (s *Store) KeepNamedState(ctx context.Context, n *NamedState) error {
	result := s.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(n)
	if result.Error == nil && result.RowsAffected == 0 {
		return ErrTaken
	}
	return result.Error
}

// DropNamedState takes the name off a state; one that is not there is no error.
func (s *Store) DropNamedState(ctx context.Context, question int64, name string) error {
	return s.db.WithContext(ctx).Delete(&NamedState{}, "question_id = ? and name = ?", question, name).Error
}

// Undoable gives the revision that undo would take back, or ErrNotFound.
func (s *Store) Undoable(ctx context.Context, question int64) (Revision, error) {
	var out Revision
	return out, found(s.db.WithContext(ctx).Where("question_id = ? and not undone", question).Order("number desc").First(&out).Error)
}

// Redoable gives the revision that redo would do again: the earliest undone one with no later edit after it, or ErrNotFound.
func (s *Store) Redoable(ctx context.Context, question int64) (Revision, error) {
	var out Revision
	return out, found(s.db.WithContext(ctx).Where(`question_id = ? and undone and number > (select coalesce(max(number), 0) from revisions where question_id = ? and not undone)`,
		question, question).Order("number").First(&out).Error)
}

// Focuses lists the focuses that were kept for a question, by name.
func (s *Store) Focuses(ctx context.Context, question int64) ([]Focus, error) {
	var out []Focus
	return out, s.db.WithContext(ctx).Where("question_id = ?", question).Order("name").Find(&out).Error
}

// KeepFocus keeps a focus under its name, in place of an earlier one of that name.
func (s *Store) KeepFocus(ctx context.Context, f Focus) error {
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&f).Error
}

// DropFocus forgets a kept focus; one that is not there is no error.
func (s *Store) DropFocus(ctx context.Context, question int64, name string) error {
	return s.db.WithContext(ctx).Delete(&Focus{}, "question_id = ? and name = ?", question, name).Error
}

// Standing counts the edits of a question and of its study that are not undone.
func (s *Store) Standing(ctx context.Context, question, study int64) (int, error) {
	var n int
	return n, s.db.WithContext(ctx).Raw(`select (select count(*) from revisions where question_id = ? and not undone)
		+ (select count(*) from study_edits where study_id = ? and not undone)`, question, study).Scan(&n).Error
}

// StudyEdits lists the newest edits of a study's setup, the newest first.
func (s *Store) StudyEdits(ctx context.Context, study int64, limit int) ([]StudyEdit, error) {
	var out []StudyEdit
	return out, s.db.WithContext(ctx).Where("study_id = ?", study).Order("number desc").Limit(limit).Find(&out).Error
}

// StudyUndoable gives the edit of a study that undo would take back, or ErrNotFound.
func (s *Store) StudyUndoable(ctx context.Context, study int64) (StudyEdit, error) {
	var out StudyEdit
	return out, found(s.db.WithContext(ctx).Where("study_id = ? and not undone", study).Order("number desc").First(&out).Error)
}

// StudyRedoable gives the edit of a study that redo would do again: the earliest undone one with no later edit after it, or
// ErrNotFound.
func (s *Store) StudyRedoable(ctx context.Context, study int64) (StudyEdit, error) {
	var out StudyEdit
	return out, found(s.db.WithContext(ctx).Where(`study_id = ? and undone and number > (select coalesce(max(number), 0) from study_edits where study_id = ? and not undone)`,
		study, study).Order("number").First(&out).Error)
}
