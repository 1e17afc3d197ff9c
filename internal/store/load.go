package store

import (
	"bufio"
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"

	"aftermath/core/playbook"
	"aftermath/core/survey"
)

// Rows hands on the rows of a table, one after the other, and gives what went wrong: its own error, or that of row.
type Rows func(row func(cells []string) error) error

// Scheme is what a question of a study begins with, by the place of its column.
type Scheme func(column int) playbook.Playbook

// Load stores a study with all its rows, and a question with the given scheme for every open-ended column: whole or not
// at all. It sets the study's ID and number of respondents.
func (s *Store) Load(ctx context.Context, study *Study, rows Rows, scheme Scheme) error {
	return s.transaction(ctx, func(tx pgx.Tx) error {
		columns, err := json.Marshal(study.Columns)
		if err != nil {
			return err
		}
		err = tx.QueryRow(ctx, "insert into studies (name, revision, respondents, columns, created) values ($1, 0, 0, $2, now()) returning id, created",
			study.Name, columns).Scan(&study.ID, &study.Created)
		if err != nil {
			return fmt.Errorf("storing the study: %w", err)
		}
		n, err := copyRows(ctx, tx, "respondents", study.ID, 0, rows)
		if err != nil {
			return err
		}
		if err := addQuestions(ctx, tx, *study, scheme); err != nil { // after the rows: the scheme may depend on them
			return err
		}
		study.Respondents = n
		_, err = tx.Exec(ctx, "update studies set respondents = $2 where id = $1", study.ID, n)
		return err
	})
}

// addQuestions makes a question of every open-ended column that has none yet.
func addQuestions(ctx context.Context, tx pgx.Tx, study Study, scheme Scheme) error {
	for i, spec := range study.Columns {
		if spec.Role != survey.OpenEnded {
			continue
		}
		data, err := json.Marshal(scheme(i))
		if err != nil {
			return err
		}
		_, err = tx.Exec(ctx, `insert into questions (study_id, "column", revision, scheme)
			select $1, $2, 0, $3 where not exists (select from questions where study_id = $1 and "column" = $2)`, study.ID, i, data)
		if err != nil {
			return fmt.Errorf("storing the question: %w", err)
		}
	}
	return nil
}

// KeepStudy writes an edit of a study's setup in one transaction: the setup, its place in the list of edits, and questions
// for columns that are open-ended now. It fails with ErrConflict if the study is no longer at the revision that the edit
// was made on. More, which may be nil, writes what else the edit needs.
func (s *Store) KeepStudy(ctx context.Context, study Study, e *StudyEdit, scheme Scheme, more func(tx pgx.Tx) error) (Study, error) {
	err := s.transaction(ctx, func(tx pgx.Tx) error {
		if more != nil {
			if err := more(tx); err != nil {
				return err
			}
		}
		before, errBefore := json.Marshal(e.Before)
		after, errAfter := json.Marshal(e.After)
		if err := errors.Join(errBefore, errAfter, putSetup(ctx, tx, &study, e.After)); err != nil {
			return err
		}
		e.StudyID, e.Number = study.ID, study.Revision
		e.At = time.Now() // by the clock that revisions go by: undo compares the two
		if _, err := tx.Exec(ctx, "insert into study_edits (study_id, number, summary, before, after, undone, at) values ($1, $2, $3, $4, $5, false, $6)",
			e.StudyID, e.Number, e.Summary, before, after, e.At); err != nil {
			return err
		}
		return addQuestions(ctx, tx, study, scheme)
	})
	return study, err
}

// MarkStudyEdit stores that an edit of a study is undone, or done again, and the setup that is in force then.
func (s *Store) MarkStudyEdit(ctx context.Context, study Study, e StudyEdit) (Study, error) {
	setup := e.After
	if e.Undone {
		setup = e.Before
	}
	err := s.transaction(ctx, func(tx pgx.Tx) error {
		if err := putSetup(ctx, tx, &study, setup); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, "update study_edits set undone = $3 where study_id = $1 and number = $2", e.StudyID, e.Number, e.Undone)
		return err
	})
	return study, err
}

// putSetup puts a setup in the place of the study's, at its next revision: an undo is one too, so that the numbers of edits,
// which are revisions, go on. It fails with ErrConflict if the study is no longer at the revision that was seen.
func putSetup(ctx context.Context, tx pgx.Tx, study *Study, setup Setup) error {
	columns, errColumns := json.Marshal(setup.Columns)
	derived, errDerived := json.Marshal(setup.Derived)
	if err := errors.Join(errColumns, errDerived); err != nil {
		return err
	}
	done, err := tx.Exec(ctx, "update studies set revision = revision + 1, respondents = $3, columns = $4, derived = $5 where id = $1 and revision = $2",
		study.ID, study.Revision, setup.Respondents, columns, derived)
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

// AddRows gives what KeepStudy needs to add respondents behind those that there are. Rows that an undone edit has left
// there go first.
func AddRows(ctx context.Context, study Study, rows Rows, added *int) func(tx pgx.Tx) error {
	return func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, "delete from respondents where study_id = $1 and number >= $2", study.ID, study.Respondents); err != nil {
			return err
		}
		n, err := copyRows(ctx, tx, "respondents", study.ID, study.Respondents, rows)
		*added = n
		return err
	}
}

// AddColumns gives what KeepStudy needs to add further cells to all respondents; rows gives those of each, in their order.
func AddColumns(ctx context.Context, study Study, rows Rows) func(tx pgx.Tx) error {
	return func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, "create temporary table added (study_id bigint, number bigint primary key, cells text[]) on commit drop"); err != nil {
			return err
		}
		if _, err := copyRows(ctx, tx, "added", study.ID, 0, rows); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `update respondents r set cells = (r.cells || array_fill(''::text, array[$2::int]))[1:$2::int] || a.cells
			from added a where r.study_id = $1 and a.number = r.number`, study.ID, len(study.Columns))
		return err
	}
}

// transaction gives a transaction on one connection: COPY needs that.
func (s *Store) transaction(ctx context.Context, work func(tx pgx.Tx) error) error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	conn, err := db.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	return conn.Raw(func(driver any) error {
		return pgx.BeginFunc(ctx, driver.(*stdlib.Conn).Conn(), work)
	})
}

// copyRows stores rows by COPY in its binary form, numbered from first on, and gives how many there were.
func copyRows(ctx context.Context, tx pgx.Tx, table string, study int64, first int, rows Rows) (n int, err error) {
	from, to := io.Pipe()
	var failed error // of the rows, not of the database
	finished := make(chan struct{})
	go func() {
		defer close(finished)
		w := bufio.NewWriterSize(to, 1<<16)
		_, _ = w.WriteString("PGCOPY\n\xff\r\n\x00\x00\x00\x00\x00\x00\x00\x00\x00")
		var buf []byte
		failed = rows(func(cells []string) error {
			if err := ctx.Err(); err != nil {
				return err
			}
			buf = appendRow(buf[:0], study, int64(first+n), cells)
			n++
			_, err := w.Write(buf)
			return err
		})
		if failed == nil {
			_, _ = w.Write([]byte{0xff, 0xff}) // the end
			failed = w.Flush()
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
