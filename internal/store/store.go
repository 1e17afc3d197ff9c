// Package store keeps studies in PostgreSQL: the respondents' cells as they came, and per question its scheme, its
// decisions by hand and its revisions.
package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/go-gormigrate/gormigrate/v2"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
	"gorm.io/gorm/logger"

	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/core/survey"
)

// Study is a file of respondents and what its columns are.
type Study struct {
	ID       int64
	Revision int // number of the newest edit
	Setup    `gorm:"embedded"`
	// NextRespondent is the number that the next respondent gets. It never goes down: a number is used once, also if the rows
	// that brought it are taken away.
	NextRespondent survey.Respondent
	Created        time.Time  `gorm:"autoCreateTime"`
	Changed        time.Time  // when it, or one of its questions, was last edited
	Deleted        *time.Time // when it was put aside to be deleted for good later
}

// Setup is all of a study that edits change.
type Setup struct {
	Name    string           `json:"name,omitempty"` // none in what earlier programs kept: as it is
	Rows    survey.Rows      `json:"rows" gorm:"serializer:json;type:jsonb"`
	Columns []survey.Spec    `json:"columns" gorm:"serializer:json;type:jsonb"`
	Derived []survey.Derived `json:"derived,omitempty" gorm:"serializer:json;type:jsonb"`
	Under   []string         `json:"under,omitempty" gorm:"serializer:json;type:jsonb"` // names of the variables under an answer
}

// Respondents is the number of rows.
func (s Setup) Respondents() int { return s.Rows.Len() }

// Question is an open-ended column with its scheme.
type Question struct {
	ID       int64
	StudyID  int64             `gorm:"index"`
	Column   int               // place in Study.Columns, from 0
	Revision int               // number of the newest revision
	Scheme   playbook.Playbook `gorm:"serializer:scheme;type:jsonb"`
	LastKey  int               // number of the newest category key that was ever given out
	Changed  *time.Time        // when it was last edited
	Figures  *Figures          `gorm:"serializer:json;type:jsonb"` // as they were worked out last
}

// Figures are the counts of a question, with the revisions that they are of: at others they say nothing.
type Figures struct {
	Revision      int `json:"revision"`
	StudyRevision int `json:"studyRevision"`
	Answered      int `json:"answered"` // answers that say something
	Coded         int `json:"coded"`    // those that a category has
}

// Respondent is a row of the file, its cells as they came. It has no foreign key: checking a million of them one by one
// would take longer than storing them. DeleteStudy deletes them with their study.
type Respondent struct {
	StudyID int64    `gorm:"primaryKey;autoIncrement:false"`
	Number  int64    `gorm:"primaryKey;autoIncrement:false"` // a survey.Respondent
	Cells   []string `gorm:"type:text[]"`
}

// Decision is a category put on or taken off an answer by hand; with no category, that the answer is settled.
type Decision struct {
	QuestionID int64             `gorm:"primaryKey;autoIncrement:false"`
	Number     survey.Respondent `gorm:"primaryKey;autoIncrement:false"`
	Category   string            `gorm:"primaryKey"`
	On         bool
	Origin     scheme.Origin `gorm:"serializer:json;type:jsonb"`
}

// Focus is a focus that was kept under a name.
type Focus struct {
	QuestionID int64           `gorm:"primaryKey;autoIncrement:false"`
	Name       string          `gorm:"primaryKey"`
	Conditions json.RawMessage `gorm:"type:jsonb"`
}

// ColumnSet is what the columns of a table are made of, kept under a name for all questions of a study.
type ColumnSet struct {
	StudyID int64           `gorm:"primaryKey;autoIncrement:false"`
	Name    string          `gorm:"primaryKey"`
	Nests   json.RawMessage `gorm:"type:jsonb"` // as a query of a chart has it
}

// NamedState is a state of a question's scheme that was given a name, whole: it does not go when edits are undone.
type NamedState struct {
	QuestionID int64             `gorm:"primaryKey;autoIncrement:false"`
	Name       string            `gorm:"primaryKey"`
	Number     int               // of the newest revision then
	Scheme     playbook.Playbook `gorm:"serializer:scheme;type:jsonb"`
	Decisions  []scheme.Marks    `gorm:"serializer:json;type:jsonb"`
	At         time.Time         `gorm:"autoCreateTime"`
}

// Store is a connection to the database.
type Store struct {
	db     *gorm.DB
	config *pgx.ConnConfig
	edge   *edge
}

// How many connections are held at most: no more than a machine can make use of, and half of those that PostgreSQL lets in. Who asks
// for one more waits in line.
const (
	maxConnections  = 40
	idleConnections = 10
	idleFor         = 5 * time.Minute
)

// Open connects and brings the tables up to date.
func Open(ctx context.Context, url string) (*Store, error) {
	return OpenWithin(ctx, url, maxConnections)
}

// OpenWithin is Open with at most so many connections.
func OpenWithin(ctx context.Context, url string, connections int) (*Store, error) {
	config, err := pgx.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("database: %w", err)
	}
	return openConfig(ctx, config, "", connections)
}

// openConfig opens what a configuration leads to; with tables in a schema of their own, where one is named.
func openConfig(ctx context.Context, config *pgx.ConnConfig, schema string, connections int) (_ *Store, err error) {
	if schema != "" {
		config.RuntimeParams["search_path"] = schema
	}
	s := &Store{config: config.Copy(), edge: &edge{hangsAfter: hangsAfter, probeEvery: probeEvery, open: map[*edgeConn]bool{}}}
	config.DialFunc = s.edge.dial
	pool := stdlib.OpenDB(*config)
	pool.SetMaxOpenConns(connections)
	pool.SetMaxIdleConns(min(connections, idleConnections))
	pool.SetConnMaxIdleTime(idleFor)
	s.db, err = gorm.Open(postgres.New(postgres.Config{Conn: pool}), &gorm.Config{Logger: logger.Discard, SkipDefaultTransaction: true})
	if err == nil {
		var most int
		err = s.db.WithContext(ctx).Raw(`select (current_setting('max_connections')::int - current_setting('superuser_reserved_connections')::int) / 2`).
			Scan(&most).Error
		pool.SetMaxOpenConns(min(connections, max(2, most)))
	}
	if err != nil {
		return nil, errors.Join(fmt.Errorf("database: %w", err), pool.Close())
	}
	if err := s.migrate(ctx); err != nil {
		return nil, errors.Join(fmt.Errorf("database tables: %w", err), pool.Close())
	}
	return s, nil
}

// migrate brings the tables up to date. Where they are, nothing is written: a database that takes no writes is opened too.
func (s *Store) migrate(ctx context.Context) error {
	db := s.db.WithContext(ctx)
	var done []string
	if db.Migrator().HasTable(gormigrate.DefaultOptions.TableName) {
		if err := db.Table(gormigrate.DefaultOptions.TableName).Pluck(gormigrate.DefaultOptions.IDColumnName, &done).Error; err != nil {
			return err
		}
	}
	missing := func(m *gormigrate.Migration) bool { return !slices.Contains(done, m.ID) }
	if !slices.ContainsFunc(migrations, missing) {
		return nil
	}
	return gormigrate.New(db, gormigrate.DefaultOptions, migrations).Migrate()
}

// FullWhen has errors be named by ErrFull that come from a database whose disk is full.
func (s *Store) FullWhen(full func() bool) { s.edge.full = full }

// Watch looks whether the database answers until the context ends, and says when it does no more and when it does again. While it does
// not, all that needs it fails at once with ErrHung, also what waits already.
func (s *Store) Watch(ctx context.Context, changed func(hung bool)) {
	s.edge.probe(ctx, s.config, changed)
}

// Close ends the connection.
func (s *Store) Close() error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	return db.Close()
}

// Ping says whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.db.WithContext(ctx).Exec("select 1").Error }

// Now is what the database's clock says.
func (s *Store) Now(ctx context.Context) (now time.Time, err error) {
	return now, s.db.WithContext(ctx).Raw("select now()").Scan(&now).Error
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

// Columns gives all cells of a study, column by column, in the order of its rows.
func (s *Store) Columns(ctx context.Context, study Study) ([][]string, error) {
	out := make([][]string, len(study.Columns))
	for i := range out {
		out[i] = make([]string, 0, study.Respondents())
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
	in := study.Rows.Set()
	return out, conn.Raw(func(driver any) error {
		rows, err := driver.(*stdlib.Conn).Conn().Query(
			ctx,
			`select number, cells from respondents where study_id = $1 and number < $2 order by number`,
			study.ID,
			int64(study.Rows.Next()),
		)
		if err != nil {
			return err
		}
		same := make([]intern, len(out))
		var number int64
		var cells []string
		_, err = pgx.ForEachRow(rows, []any{&number, &cells}, func() error {
			if !in.Has(survey.Respondent(number)) { // taken away, and may come back
				cells = nil
				return nil
			}
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

// Decisions gives all decisions by hand of a question, those on respondents who are not there now included: they come back with
// them.
func (s *Store) Decisions(ctx context.Context, question int64) (scheme.Decisions, error) {
	var made []Decision
	if err := s.db.WithContext(ctx).Where("question_id = ?", question).Order(`category, "on", origin, number`).Find(&made).Error; err != nil {
		return scheme.Decisions{}, err
	}
	var marks []scheme.Marks
	for _, d := range made {
		to := scheme.Off
		if d.On {
			to = scheme.On
		}
		last := len(marks) - 1
		if last < 0 || marks[last].Category != d.Category || marks[last].To != to || marks[last].Origin != d.Origin {
			marks = append(marks, scheme.Marks{Category: d.Category, To: to, Origin: d.Origin})
			last++
		}
		marks[last].Respondents = append(marks[last].Respondents, d.Number)
	}
	return scheme.Decisions{}.With(marks), nil
}

// NamedStates lists the states of a question that have a name, the newest first, without what they hold.
func (s *Store) NamedStates(ctx context.Context, question int64) ([]NamedState, error) {
	var out []NamedState
	return out, s.db.WithContext(ctx).Select("question_id", "name", "number", "at").Where("question_id = ?", question).Order(
		"at desc, name",
	).Find(&out).Error
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
