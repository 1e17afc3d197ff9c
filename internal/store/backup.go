package store

import (
	"context"
	"fmt"
	"io"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgtype"

	"aftermath/internal/backup"
)

// keptTable is a table of what belongs to a study, as a back-up has it.
type keptTable struct {
	name     string
	of       string            // which rows are the study's, whose number is $1
	order    string            // in which they are written, and stored again
	own      bool              // its rows have a number of their own, given anew when they are stored
	pointsTo map[string]string // by column: the table whose number stands in it
	since    int               // the format of back-ups that has it first; 0: all
	within   string            // a column of JSON in which questions are named: in its elements, or in those of its "sections"
}

const (
	ofStudy     = "study_id = $1"
	ofQuestions = "question_id in (select id from questions where study_id = $1)"
	ofSamples   = "sample_id in (select id from samples where " + ofQuestions + ")"
	ofReports   = "report_id in (select id from reports where study_id = $1)"
)

// keptTables are all that belongs to a study, first those that others point to.
var keptTables = []keptTable{
	{name: "studies", of: "id = $1", order: "id", own: true},
	{name: "questions", of: ofStudy, order: "id", own: true, pointsTo: map[string]string{"study_id": "studies"}},
	{name: respondentsTable, of: ofStudy, order: "number", pointsTo: map[string]string{"study_id": "studies"}},
	{name: "decisions", of: ofQuestions, order: "question_id, category, number", pointsTo: questionID},
	{name: "focus", of: ofQuestions, order: "question_id, name", pointsTo: questionID},
	{name: "named_states", of: ofQuestions, order: "question_id, at, name", pointsTo: questionID},
	{name: "samples", of: ofQuestions, order: "id", own: true, pointsTo: questionID},
	{name: "sample_members", of: ofSamples, order: "sample_id, place", pointsTo: sampleID},
	{name: "sample_codes", of: ofSamples, order: "sample_id, coder, number", pointsTo: sampleID},
	{name: "sample_figures", of: ofSamples, order: "sample_id, coder, revision", pointsTo: sampleID},
	{name: "charts", of: ofQuestions, order: "id", own: true, pointsTo: questionID},
	{name: "column_sets", of: ofStudy, order: "name", since: 2, pointsTo: map[string]string{"study_id": "studies"}},
	{name: "reports", of: ofStudy, order: "id", own: true, pointsTo: map[string]string{"study_id": "studies"}},
	{name: "report_versions", of: ofReports, order: "report_id, number", pointsTo: reportID, within: "blocks"},
	{name: "frozen_reports", of: ofReports, order: "id", own: true, pointsTo: reportID, within: "page"},
	{name: "history", of: ofStudy, order: "id", own: true, pointsTo: map[string]string{"study_id": "studies", "question_id": "questions"}},
}

const respondentsTable = "respondents"

var (
	questionID = map[string]string{"question_id": "questions"}
	sampleID   = map[string]string{"sample_id": "samples"}
	reportID   = map[string]string{"report_id": "reports"}
)

// settingsPart is what is set for all studies, in a back-up of all of them.
const settingsPart = "settings.ndjson"

func partName(study int64, table string) string {
	return fmt.Sprintf("studies/%d/%s.ndjson", study, table)
}

// Progress is told how many rows of how many are done.
type Progress func(done, total int)

// Backup writes studies with all that belongs to them, as they are at one moment, however many edit them; without any, all
// studies that are not deleted, and what is set for all.
func (s *Store) Backup(ctx context.Context, studies []int64, to io.Writer, tell Progress) error {
	return s.onOne(ctx, func(conn *pgx.Conn) error {
		moment := pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly}
		return pgx.BeginTxFunc(ctx, conn, moment, func(tx pgx.Tx) error {
			rows, err := tx.Query(ctx, `select id, name, revision, "rows" from studies where deleted is null and (id = any($1) or $2) order by id`,
				studies, len(studies) == 0)
			if err != nil {
				return err
			}
			all, err := pgx.CollectRows(rows, func(row pgx.CollectableRow) (out backup.Study, err error) {
				var setup Setup
				err = row.Scan(&out.ID, &out.Name, &out.Revision, &setup.Rows)
				out.Respondents = setup.Respondents()
				return out, err
			})
			if err != nil {
				return err
			}
			if len(all) < len(studies) || len(all) == 0 && len(studies) > 0 {
				return ErrNotFound
			}
			w := backup.NewWriter(to, time.Now())
			done, total := 0, 0
			for _, study := range all {
				total += study.Respondents
			}
			for _, study := range all {
				w.Study(study)
				for _, t := range keptTables {
					err := w.Part(partName(study.ID, t.name), func(line func([]byte) error) error {
						query := fmt.Sprintf("select row_to_json(t)::text from (select * from %s where %s order by %s) t", t.name, t.of, t.order)
						return eachLine(ctx, tx, query, []any{study.ID}, func(data []byte) error {
							if t.name == respondentsTable {
								if done++; done%toldEvery == 0 {
									tell(done, total)
								}
							}
							return line(data)
						})
					})
					if err != nil {
						return fmt.Errorf("%s: %w", t.name, err)
					}
				}
			}
			if len(studies) == 0 {
				err := w.Part(settingsPart, func(line func([]byte) error) error {
					return eachLine(ctx, tx, "select row_to_json(t)::text from (select * from settings order by name) t", nil, line)
				})
				if err != nil {
					return err
				}
			}
			tell(total, total)
			return w.Close()
		})
	})
}

// toldEvery is after how many rows progress is told.
const toldEvery = 10_000

func eachLine(ctx context.Context, tx pgx.Tx, query string, args []any, visit func(data []byte) error) error {
	rows, err := tx.Query(ctx, query, args...)
	if err != nil {
		return err
	}
	var data []byte
	_, err = pgx.ForEachRow(rows, []any{(*pgText)(&data)}, func() error { return visit(data) })
	return err
}

// pgText takes a text as it stands, for as long as its row.
type pgText []byte

// ScanText takes it.
func (t *pgText) ScanText(v pgtype.Text) error {
	*t = append((*t)[:0], v.String...)
	return nil
}
