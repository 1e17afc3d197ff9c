package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"

	"aftermath/core/scheme"
)

// Entry is one edit in the history of a study and its questions. The line of a question is the edits of the question and those of
// its study, in the order of their IDs.
type Entry struct {
	ID         int64
	StudyID    int64
	QuestionID *int64 // nil: an edit of the study's setup
	Number     int    // the revision, of the question or the study, that it made
	Summary    string
	By         string          // who made it, as they called themselves; may be empty
	Edit       json.RawMessage `gorm:"type:jsonb"` // of a question: as it was made; not read again
	Undo       json.RawMessage `gorm:"type:jsonb"` // of a question a scheme.Patch; of a study the Setup before
	Redo       json.RawMessage `gorm:"type:jsonb"` // and after; null in what an earlier program kept and undid
	Undone     *int64          // when it was undone, by a number that counts up; nil while it stands
	Ended      bool            // undone for good: a later edit has ended the way back to it
	At         time.Time       `gorm:"autoCreateTime"`
}

// TableName is the table of entries.
func (Entry) TableName() string { return "history" }

// StudyEdit is an edit of a study's setup.
type StudyEdit struct {
	Summary       string
	By            string // who made it; may be empty
	Before, After Setup
}

// at gives the figures as those of a revision, as JSON.
func (f *Figures) at(revision int) []byte {
	if f == nil {
		return nil
	}
	then := *f
	then.Revision = revision
	data, _ := json.Marshal(then) // numbers only
	return data
}

// Change is all that is written when a question changes: a new edit of a question, or that one is undone or done again.
type Change struct {
	Question Question       // with the new scheme; its Revision is the one the change was made on
	Entry    *Entry         // a new edit
	Mark     *Mark          // one that is undone or done again
	Marks    []scheme.Marks // decisions as they are then
}

// Mark says that an edit is undone or done again. It must be the next one of its line.
type Mark struct {
	Entry    Entry
	Question int64 // whose line is meant
	Undone   bool
	Redo     json.RawMessage // what does it again, where the entry has nothing yet
}

// Keep writes a change in one transaction and gives the question's new revision number. It fails with ErrConflict if the question
// is no longer at the revision that the change was made on, and with ErrNotNext if the edit to undo or redo is not the next one
// any more. Once Keep returns, the change is safe.
func (s *Store) Keep(ctx context.Context, c Change) (revision int, err error) {
	next := c.Question.Revision + 1
	err = s.transaction(ctx, func(tx pgx.Tx) error {
		data, err := json.Marshal(c.Question.Scheme)
		if err != nil {
			return err
		}
		done, err := tx.Exec(ctx, `with study as (update studies set changed = now() where deleted is null
				and id = (select study_id from questions where id = $1) returning id)
			update questions set scheme = $3, revision = $4, last_key = $5, figures = $6, changed = now()
			where id = $1 and revision = $2 and study_id in (select id from study)`,
			c.Question.ID, c.Question.Revision, data, next, c.Question.LastKey, c.Question.Figures.at(next))
		if err != nil {
			return err
		}
		if done.RowsAffected() == 0 {
			return ErrConflict
		}
		if c.Entry != nil {
			c.Entry.QuestionID, c.Entry.Number = &c.Question.ID, next
			if err := addEntry(ctx, tx, c.Entry); err != nil {
				return err
			}
		}
		if c.Mark != nil {
			if err := c.Mark.write(ctx, tx); err != nil {
				return err
			}
		}
		return putDecisions(ctx, tx, c.Question.ID, c.Marks)
	})
	return next, err
}

// putDecisions writes decisions as they are then, whatever they were: a few statements, however many they are.
func putDecisions(ctx context.Context, tx pgx.Tx, question int64, marks []scheme.Marks) error {
	for _, m := range marks {
		numbers := make([]int64, len(m.Respondents))
		for i, p := range m.Respondents {
			numbers[i] = int64(p)
		}
		var err error
		if m.To == scheme.ByRules {
			_, err = tx.Exec(
				ctx, "delete from decisions where question_id = $1 and category = $2 and number = any($3)", question, m.Category, numbers,
			)
		} else {
			_, err = tx.Exec(ctx, `insert into decisions (question_id, category, "on", number, origin) select $1, $2, $3, unnest($4::bigint[]), $5
				on conflict (question_id, number, category) do update set "on" = excluded."on", origin = excluded.origin`,
				question, m.Category, m.To == scheme.On, numbers, m.Origin)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// addEntry adds a new edit to the history. What was undone before on its lines is ended by it.
func addEntry(ctx context.Context, tx pgx.Tx, e *Entry) error {
	_, err := tx.Exec(ctx, `update history set ended = true where study_id = $1 and undone is not null and not ended
		and ($2::bigint is null or question_id is null or question_id = $2)`, e.StudyID, e.QuestionID)
	if err != nil {
		return err
	}
	return tx.QueryRow(
		ctx,
		`insert into history (study_id, question_id, number, summary, "by", edit, undo, redo) values ($1, $2, $3, $4, $5, $6, $7, $8)
			returning id, at`,
		e.StudyID,
		e.QuestionID,
		e.Number,
		e.Summary,
		e.By,
		e.Edit,
		e.Undo,
		e.Redo,
	).Scan(&e.ID, &e.At)
}

// The next edit to undo on a line is the newest that stands; the next to redo is the one that was undone last.
const (
	line     = "study_id = $1 and (question_id is null or question_id = $2) and "
	nextUndo = line + "undone is null order by id desc limit 1"
	nextRedo = line + "undone is not null and not ended and redo is not null order by undone desc limit 1"
)

func (m Mark) write(ctx context.Context, tx pgx.Tx) error {
	find, set := nextUndo, "nextval('undone')"
	if !m.Undone {
		find, set = nextRedo, "null"
	}
	done, err := tx.Exec(
		ctx,
		"update history set redo = coalesce(redo, $4), undone = "+set+" where id = $3 and id = (select id from history where "+find+")",
		m.Entry.StudyID, m.Question, m.Entry.ID, m.Redo,
	)
	if err == nil && done.RowsAffected() == 0 {
		return ErrNotNext
	}
	return err
}

// NextUndo gives the edit that undo would take back on the line of a question; ok is false if there is none.
func (s *Store) NextUndo(ctx context.Context, study, question int64) (e Entry, ok bool, err error) {
	return s.next(ctx, study, question, nextUndo)
}

// NextRedo gives the edit that redo would do again.
func (s *Store) NextRedo(ctx context.Context, study, question int64) (e Entry, ok bool, err error) {
	return s.next(ctx, study, question, nextRedo)
}

func (s *Store) next(ctx context.Context, study, question int64, which string) (e Entry, ok bool, err error) {
	result := s.db.WithContext(ctx).Raw("select * from history where "+which, study, question).Scan(&e)
	return e, result.RowsAffected > 0, result.Error
}

// BuiltOn lists the questions of a study, one aside, that have edits which stand and were made after one of the study's.
func (s *Store) BuiltOn(ctx context.Context, e Entry, but int64) (questions []int64, err error) {
	return questions, s.db.WithContext(ctx).Model(&Entry{}).
		Where("study_id = ? and question_id is not null and question_id <> ? and id > ? and undone is null", e.StudyID, but, e.ID).
		Distinct().Order("question_id").Pluck("question_id", &questions).Error
}

// Line lists the newest edits of the line of a question, the newest first, without what undoes them.
func (s *Store) Line(ctx context.Context, study, question int64, limit int) (out []Entry, err error) {
	return out, s.db.WithContext(ctx).Select("id", "question_id", "number", "summary", "by", "undone", "ended", "at").
		Where("study_id = ? and (question_id is null or question_id = ?)", study, question).
		Order("id desc").Limit(limit).Find(&out).Error
}

// Standing counts the edits of a line that stand.
func (s *Store) Standing(ctx context.Context, study, question int64) (n int64, err error) {
	return n, s.db.WithContext(ctx).Model(&Entry{}).
		Where("study_id = ? and (question_id is null or question_id = ?) and undone is null", study, question).Count(&n).Error
}

// Since gives the revision of a question, and what takes its edits back that stand and made revisions after a number, the newest
// first: both as they are at one moment.
func (s *Store) Since(ctx context.Context, question int64, number int) (revision int, out []Entry, err error) {
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var q Question
		if err := tx.Select("revision").First(&q, question).Error; err != nil {
			return found(err)
		}
		revision = q.Revision
		return tx.Select("id", "number", "undo").Where("question_id = ? and number > ? and undone is null", question, number).
			Order("id desc").Find(&out).Error
	}, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	return revision, out, err
}
