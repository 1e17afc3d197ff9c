package store

import (
	"bufio"
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"

	"aftermath/core/parallel"
	"aftermath/core/playbook"
	"aftermath/core/survey"
)

// Rows hands on the rows of a table, one after the other, and gives what went wrong: its own error, or that of row.
type Rows func(row func(cells []string) error) error

// Begin is what a question of a study begins with, by the place of its column.
type Begin func(column int) playbook.Playbook

// Load stores a study with all its rows, and a question for every open-ended column: whole or not at all. It sets the study's ID
// and rows.
func (s *Store) Load(ctx context.Context, study *Study, rows Rows, begin Begin) error {
	return s.transaction(ctx, func(tx pgx.Tx) error {
		columns, err := json.Marshal(study.Columns)
		if err != nil {
			return err
		}
		err = tx.QueryRow(
			ctx,
			`insert into studies (name, revision, columns, "rows", next_respondent, created) values ($1, 0, $2, '[]', 0, now()) returning id, created, changed`,
			study.Name,
			columns,
		).Scan(&study.ID, &study.Created, &study.Changed)
		if err != nil {
			return fmt.Errorf("storing the study: %w", err)
		}
		n, err := copyRows(ctx, tx, respondentsTable, study.ID, one(0), rows)
		if err != nil {
			return err
		}
		if err := addQuestions(ctx, tx, *study, begin); err != nil { // after the rows: what they begin with may depend on them
			return err
		}
		study.Rows, study.NextRespondent = survey.FirstRows(n), survey.Respondent(n)
		stored, err := json.Marshal(study.Rows)
		if err != nil {
			return err
		}
		_, err = tx.Exec(
			ctx, `update studies set "rows" = $2, next_respondent = $3 where id = $1`, study.ID, stored, study.NextRespondent,
		)
		return err
	})
}

// addQuestions makes a question of every open-ended column that has none yet.
func addQuestions(ctx context.Context, tx pgx.Tx, study Study, begin Begin) error {
	for i, spec := range study.Columns {
		if spec.Role != survey.OpenEnded {
			continue
		}
		first := begin(i)
		data, err := json.Marshal(first)
		if err != nil {
			return err
		}
		_, err = tx.Exec(ctx, `insert into questions (study_id, "column", revision, scheme, last_key)
			select $1, $2, 0, $3, $4 where not exists (select from questions where study_id = $1 and "column" = $2)`, study.ID, i, data, first.Frame.LastKey())
		if err != nil {
			return fmt.Errorf("storing the question: %w", err)
		}
	}
	return nil
}

// KeepStudy writes a new edit of a study's setup in one transaction: the setup, its place in the history, and questions for
// columns that are open-ended now. It gives the study as it is then, and the number of the edit in the history. It fails with
// ErrConflict if the study is no longer at the revision that the edit was made on. More, which may be nil, writes what else the
// edit needs, and may change the setup on the way.
func (s *Store) KeepStudy(
	ctx context.Context, study Study, e *StudyEdit, begin Begin, more func(tx pgx.Tx) error,
) (Study, int64, error) {
	entry := Entry{StudyID: study.ID}
	err := s.transaction(ctx, func(tx pgx.Tx) error {
		if more != nil {
			if err := more(tx); err != nil {
				return err
			}
		}
		study.NextRespondent = max(study.NextRespondent, e.After.Rows.Next())
		if err := putSetup(ctx, tx, &study, e.After); err != nil {
			return err
		}
		var errUndo, errRedo error
		entry.Number, entry.Summary, entry.By = study.Revision, e.Summary, e.By
		entry.Undo, errUndo = json.Marshal(e.Before)
		entry.Redo, errRedo = json.Marshal(e.After)
		if err := errors.Join(errUndo, errRedo, addEntry(ctx, tx, &entry), dropUnreachable(ctx, tx, study)); err != nil {
			return err
		}
		return addQuestions(ctx, tx, study, begin)
	})
	return study, entry.ID, err
}

// MarkStudyEdit stores that an edit of a study is undone, or done again, and the setup that is in force then.
func (s *Store) MarkStudyEdit(ctx context.Context, study Study, m Mark, to Setup) (Study, error) {
	err := s.transaction(ctx, func(tx pgx.Tx) error {
		if err := putSetup(ctx, tx, &study, to); err != nil {
			return err
		}
		return m.write(ctx, tx)
	})
	return study, err
}

// putSetup puts a setup in the place of the study's, at its next revision: an undo is one too, so that the numbers of edits,
// which are revisions, go on. It fails with ErrConflict if the study is no longer at the revision that was seen.
func putSetup(ctx context.Context, tx pgx.Tx, study *Study, setup Setup) error {
	if setup.Name == "" {
		setup.Name = study.Name
	}
	rows, errRows := json.Marshal(setup.Rows)
	columns, errColumns := json.Marshal(setup.Columns)
	derived, errDerived := json.Marshal(setup.Derived)
	under, errUnder := json.Marshal(setup.Under)
	if err := errors.Join(errRows, errColumns, errDerived, errUnder); err != nil {
		return err
	}
	done, err := tx.Exec(
		ctx,
		`update studies set revision = revision + 1, "rows" = $3, next_respondent = $4, columns = $5, derived = $6,
			name = $7, under = $8, changed = now() where id = $1 and revision = $2 and deleted is null`,
		study.ID,
		study.Revision,
		rows,
		study.NextRespondent,
		columns,
		derived,
		setup.Name,
		under,
	)
	if err != nil {
		return err
	}
	if done.RowsAffected() == 0 {
		return ErrConflict
	}
	study.Revision++
	study.Setup = setup
	return nil
}

// dropUnreachable deletes the respondents, with the decisions on them, that a new edit has made unreachable: those who stand in
// no setup that undo or redo can still lead to.
func dropUnreachable(ctx context.Context, tx pgx.Tx, study Study) error {
	reachable := study.Rows.Set()
	setups, err := tx.Query(ctx, `select coalesce(undo->'rows', '[]'), coalesce(redo->'rows', '[]') from history
		where study_id = $1 and question_id is null and not ended`, study.ID)
	if err != nil {
		return err
	}
	var undo, redo survey.Rows
	_, err = pgx.ForEachRow(setups, []any{&undo, &redo}, func() error {
		reachable = reachable.Or(undo.Set()).Or(redo.Set())
		undo, redo = nil, nil
		return nil
	})
	if err != nil {
		return err
	}
	var gone []int64
	for p := range survey.FirstRows(int(study.NextRespondent)).Set().AndNot(reachable).All() {
		gone = append(gone, int64(p))
	}
	if len(gone) == 0 {
		return nil
	}
	_, err = tx.Exec(ctx, `delete from decisions where number = any($2::bigint[])
		and question_id in (select id from questions where study_id = $1)`, study.ID, gone)
	if err != nil {
		return err
	}
	_, err = tx.Exec(ctx, "delete from respondents where study_id = $1 and number = any($2::bigint[])", study.ID, gone)
	return err
}

// AddRows gives what KeepStudy needs to add respondents behind those that there are; rows of the setup grow by them.
func AddRows(ctx context.Context, study Study, rows Rows, setup *Setup, added *int) func(tx pgx.Tx) error {
	return func(tx pgx.Tx) error {
		n, err := copyRows(ctx, tx, respondentsTable, study.ID, one(study.NextRespondent), rows)
		*added = n
		setup.Rows = setup.Rows.With(study.NextRespondent, n)
		return err
	}
}

// AddColumns gives what KeepStudy needs to add further cells to all respondents; rows gives those of each, in their order.
func AddColumns(ctx context.Context, study Study, rows Rows) func(tx pgx.Tx) error {
	return func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, "create temporary table added (study_id bigint, number bigint primary key, cells text[]) on commit drop"); err != nil {
			return err
		}
		there := study.Rows.Set().List()
		number := func(row int) survey.Respondent { return there[row] }
		if _, err := copyRows(ctx, tx, "added", study.ID, number, rows); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `update respondents r set cells = (r.cells || array_fill(''::text, array[$2::int]))[1:$2::int] || a.cells
			from added a where r.study_id = $1 and a.number = r.number`, study.ID, len(study.Columns))
		return err
	}
}

// transaction gives a transaction on one connection: COPY needs that.
func (s *Store) transaction(ctx context.Context, work func(tx pgx.Tx) error) error {
	worked := false
	err := s.onOne(ctx, func(conn *pgx.Conn) error {
		return pgx.BeginFunc(ctx, conn, func(tx pgx.Tx) error {
			err := work(tx)
			worked = err == nil
			return err
		})
	})
	switch {
	case err != nil && worked: // all was said but for its end
		err = fmt.Errorf("%w: %w", ErrUncertain, err)
	case err != nil && ctx.Err() != nil: // who asked has left, which is all that is wrong
		err = fmt.Errorf("%w: %w", ctx.Err(), err)
	}
	return err
}

// onOne works on one connection.
func (s *Store) onOne(ctx context.Context, work func(conn *pgx.Conn) error) error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	conn, err := db.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	return conn.Raw(func(driver any) error { return work(driver.(*stdlib.Conn).Conn()) })
}

// one numbers rows one after the other.
func one(first survey.Respondent) func(row int) survey.Respondent {
	return func(row int) survey.Respondent { return first + survey.Respondent(row) }
}

// copyRows stores rows by COPY in its binary form, each under the number of who stands in it, and gives how many there were.
func copyRows(
	ctx context.Context, tx pgx.Tx, table string, study int64, number func(row int) survey.Respondent, rows Rows,
) (n int, err error) {
	from, to := io.Pipe()
	var failed error // of the rows, not of the database
	finished := make(chan struct{})
	read := func() error {
		w := bufio.NewWriterSize(to, 1<<16)
		_, _ = w.WriteString("PGCOPY\n\xff\r\n\x00\x00\x00\x00\x00\x00\x00\x00\x00")
		var buf []byte
		err := rows(func(cells []string) error {
			if err := ctx.Err(); err != nil {
				return err
			}
			buf = appendRow(buf[:0], study, int64(number(n)), cells)
			n++
			_, err := w.Write(buf)
			return err
		})
		if err != nil {
			return err
		}
		_, _ = w.Write([]byte{0xff, 0xff}) // the end
		return w.Flush()
	}
	go func() {
		defer close(finished)
		// A file that a reader panics at must not take the server along.
		if p := parallel.Caught(func() { failed = read() }); p != nil {
			failed = p
		}
		_ = to.CloseWithError(failed)
	}()
	_, err = tx.Conn().PgConn().CopyFrom(ctx, from, "copy "+table+" (study_id, number, cells) from stdin binary")
	_ = from.CloseWithError(errors.Join(err, io.ErrClosedPipe))
	<-finished
	switch {
	case failed != nil && !errors.Is(failed, io.ErrClosedPipe):
		return 0, failed
	case err != nil:
		return 0, fmt.Errorf("storing the rows: %w", err)
	}
	return n, nil
}

// textOID is PostgreSQL's number for the type text.
const textOID = 25

// appendRow writes a row for COPY: bigint, bigint, text[].
func appendRow(b []byte, study, number int64, cells []string) []byte {
	b = binary.BigEndian.AppendUint16(b, 3)
	for _, x := range []int64{study, number} {
		b = binary.BigEndian.AppendUint32(b, 8)
		b = binary.BigEndian.AppendUint64(b, uint64(x))
	}
	size := 12
	if len(cells) > 0 {
		size = 20 + 4*len(cells)
	}
	for _, c := range cells {
		size += len(c)
	}
	b = binary.BigEndian.AppendUint32(b, uint32(size))
	b = binary.BigEndian.AppendUint32(b, uint32(min(len(cells), 1))) // dimensions
	b = binary.BigEndian.AppendUint32(b, 0)                          // no nulls
	b = binary.BigEndian.AppendUint32(b, textOID)
	if len(cells) > 0 {
		b = binary.BigEndian.AppendUint32(b, uint32(len(cells)))
		b = binary.BigEndian.AppendUint32(b, 1) // counted from
	}
	for _, c := range cells {
		b = binary.BigEndian.AppendUint32(b, uint32(len(c)))
		b = append(b, c...)
	}
	return b
}
