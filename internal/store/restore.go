package store

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"aftermath/core/survey"
	"aftermath/internal/backup"
)

// Restore stores the studies of a back-up as new ones, beside those that there are, in one transaction: all or none. Name gives
// the name that each one gets.
func (s *Store) Restore(ctx context.Context, from *backup.Archive, name func(string) (string, error), tell Progress) (ids []int64, err error) {
	total := 0
	for _, study := range from.Studies {
		total += study.Respondents
	}
	r := restoring{ctx: ctx, from: from, tell: func(done int) { tell(done, total) }}
	err = s.transaction(ctx, func(tx pgx.Tx) error {
		r.tx = tx
		for _, study := range from.Studies {
			id, err := r.study(study, name)
			if err != nil {
				return unfit(err)
			}
			ids = append(ids, id)
		}
		return unfit(r.settings())
	})
	return ids, err
}

// unfit says of what the database refuses that the back-up is at fault.
func unfit(err error) error {
	var said *pgconn.PgError
	if errors.As(err, &said) && (strings.HasPrefix(said.Code, "22") || strings.HasPrefix(said.Code, "23")) {
		return fmt.Errorf("%w: its parts do not fit together (%s); nothing was restored", backup.ErrBackup, said.Message)
	}
	return err
}

// restoring is a back-up on its way in.
type restoring struct {
	ctx  context.Context
	tx   pgx.Tx
	from *backup.Archive
	tell func(done int)
	done int
	// stored are the respondents of the study that is coming in.
	stored []survey.Respondent
}

// numbers are those that rows have got, by table and by the number that they had.
type numbers map[string]map[int64]int64

func (r *restoring) study(study backup.Study, name func(string) (string, error)) (id int64, err error) {
	called, err := name(study.Name)
	if err != nil {
		return 0, err
	}
	given := numbers{}
	r.stored = nil
	for _, t := range keptTables {
		part := partName(study.ID, t.name)
		if !r.from.Has(part) {
			if r.from.Format < t.since {
				continue
			}
			return 0, fmt.Errorf("%w: %s is missing; nothing was restored", backup.ErrBackup, part)
		}
		if err := r.table(t, part, called, given); err != nil {
			return 0, fmt.Errorf("%s: %w", part, err)
		}
	}
	id, one := given["studies"][study.ID]
	if !one || len(given["studies"]) != 1 {
		return 0, fmt.Errorf("%w: %s does not hold the study; nothing was restored", backup.ErrBackup, partName(study.ID, "studies"))
	}
	if err := r.readable(id); Away(err) || r.ctx.Err() != nil {
		return 0, err
	} else if err != nil {
		return 0, fmt.Errorf("%w: %q can't be read by this program: %w; nothing was restored", backup.ErrBackup, study.Name, err)
	}
	// What was undone is done again in the order of these numbers: those to come are higher.
	_, err = r.tx.Exec(r.ctx, `select setval('undone', greatest((select last_value from undone), coalesce(max(undone), 1))) from history where study_id = $1`, id)
	return id, err
}

// table stores the rows of a table.
func (r *restoring) table(t keptTable, part, name string, given numbers) error {
	if t.name == respondentsTable {
		return r.respondents(part, given)
	}
	known, err := r.columns(t.name)
	if err != nil {
		return err
	}
	var batch []json.RawMessage
	var columns []string
	flush := func() error {
		if len(batch) == 0 {
			return nil
		}
		err := r.insert(t.name, columns, batch)
		batch = batch[:0]
		return err
	}
	err = r.from.Lines(r.ctx, part, func(line []byte) error {
		row, was, err := t.renumbered(line, name, given)
		if err != nil {
			return err
		}
		has := slices.Sorted(maps.Keys(row))
		for _, c := range has {
			if !slices.Contains(known, c) {
				return fmt.Errorf("%w: this program knows no %q in it; nothing was restored", backup.ErrBackup, c)
			}
		}
		data, err := json.Marshal(row)
		if err != nil {
			return err
		}
		if t.own && len(t.whoPoints()) > 0 { // others ask for its number
			now, err := r.insertOne(t.name, has, data)
			given.set(t.name, was, now)
			return err
		}
		if !slices.Equal(has, columns) || len(batch) == rowsAtOnce {
			if err := flush(); err != nil {
				return err
			}
			columns = has
		}
		batch = append(batch, data)
		return nil
	})
	return errors.Join(err, flush())
}

const rowsAtOnce = 500

// whoPoints are the tables that point to a table.
func (t keptTable) whoPoints() (out []string) {
	for _, other := range keptTables {
		if slices.Contains(slices.Collect(maps.Values(other.pointsTo)), t.name) {
			out = append(out, other.name)
		}
	}
	return out
}

func (n numbers) set(table string, was, now int64) {
	if n[table] == nil {
		n[table] = map[int64]int64{}
	}
	n[table][was] = now
}

// renumbered reads a row, with the numbers that what it points to has got, and the number that it had itself.
func (t keptTable) renumbered(line []byte, name string, given numbers) (row map[string]json.RawMessage, was int64, err error) {
	if err := json.Unmarshal(line, &row); err != nil {
		return nil, 0, fmt.Errorf("%w: a line is no object: %w; nothing was restored", backup.ErrBackup, err)
	}
	if t.own {
		if err := json.Unmarshal(row["id"], &was); err != nil {
			return nil, 0, fmt.Errorf("%w: a row has no number: %w; nothing was restored", backup.ErrBackup, err)
		}
		delete(row, "id")
	}
	if t.name == "studies" {
		delete(row, "deleted")
		if row["name"], err = json.Marshal(name); err != nil {
			return nil, 0, err
		}
	}
	for column, table := range t.pointsTo {
		if row[column], err = given.renumber(table, row[column]); err != nil {
			return nil, 0, err
		}
	}
	if t.within != "" {
		row[t.within], err = given.renumberWithin(row[t.within])
	}
	return row, was, err
}

// renumber gives the number that a row has got for the one that it had; null stays null.
func (n numbers) renumber(table string, was json.RawMessage) (json.RawMessage, error) {
	if len(was) == 0 || string(was) == "null" {
		return json.RawMessage("null"), nil
	}
	number, err := strconv.ParseInt(string(was), 10, 64)
	now, known := n[table][number]
	if err != nil || !known {
		return nil, fmt.Errorf("%w: a row belongs to number %s of %s, which is not in it; nothing was restored", backup.ErrBackup, was, table)
	}
	return json.RawMessage(strconv.FormatInt(now, 10)), nil
}

// renumberWithin renumbers the questions that the parts of a report name. One that is not in the back-up was deleted before: it
// stays unknown, and must not become another one.
func (n numbers) renumberWithin(data json.RawMessage) (json.RawMessage, error) {
	if trimmed := bytes.TrimSpace(data); len(trimmed) > 0 && trimmed[0] == '{' {
		var page map[string]json.RawMessage
		if err := json.Unmarshal(data, &page); err != nil {
			return nil, err
		}
		sections, err := n.renumberWithin(page["sections"])
		if err != nil {
			return nil, err
		}
		page["sections"] = sections
		return json.Marshal(page)
	}
	var parts []map[string]json.RawMessage
	if err := json.Unmarshal(data, &parts); err != nil {
		return nil, fmt.Errorf("%w: the parts of a report can't be read: %w; nothing was restored", backup.ErrBackup, err)
	}
	for _, p := range parts {
		if block, filled := p["block"]; filled { // a part with what it says
			own, err := n.renumberWithin(append(append(json.RawMessage("["), block...), ']'))
			if err != nil {
				return nil, err
			}
			p["block"] = own[1 : len(own)-1]
		}
		if _, named := p["question"]; !named {
			continue
		}
		now, err := n.renumber("questions", p["question"])
		if err != nil {
			now = json.RawMessage("0")
		}
		p["question"] = now
	}
	return json.Marshal(parts)
}

// columns are those of a table.
func (r *restoring) columns(table string) ([]string, error) {
	rows, err := r.tx.Query(r.ctx, "select column_name::text from information_schema.columns where table_schema = current_schema() and table_name = $1", table)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}

func listed(columns []string) string {
	var quoted []string
	for _, c := range columns {
		quoted = append(quoted, pgx.Identifier{c}.Sanitize())
	}
	return strings.Join(quoted, ", ")
}

func (r *restoring) insert(table string, columns []string, rows []json.RawMessage) error {
	data, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	list := listed(columns)
	_, err = r.tx.Exec(r.ctx, fmt.Sprintf(
		`insert into %s (%s) select %s from (select e.place as "place of row", r.* from jsonb_array_elements($1::jsonb) with ordinality as e (data, place),
			jsonb_populate_record(null::%s, e.data) r) every order by "place of row"`,
		table, list, list, table), data)
	return err
}

func (r *restoring) insertOne(table string, columns []string, row json.RawMessage) (id int64, err error) {
	list := listed(columns)
	err = r.tx.QueryRow(r.ctx, fmt.Sprintf(
		"insert into %s (%s) select %s from jsonb_populate_record(null::%s, $1::jsonb) returning id", table, list, list, table), row).Scan(&id)
	return id, err
}

// respondents stores the rows of a study, which may be a million, by COPY.
func (r *restoring) respondents(part string, given numbers) error {
	study := int64(0)
	for _, now := range given["studies"] {
		study = now
	}
	var row struct {
		Study  int64    `json:"study_id"`
		Number int64    `json:"number"`
		Cells  []string `json:"cells"`
	}
	_, err := copyRows(r.ctx, r.tx, respondentsTable, study, func(int) survey.Respondent { return survey.Respondent(row.Number) },
		func(store func(cells []string) error) error {
			return r.from.Lines(r.ctx, part, func(line []byte) error {
				row.Cells, row.Number = nil, -1
				if err := json.Unmarshal(line, &row); err != nil {
					return fmt.Errorf("%w: a row of %s can't be read: %w; nothing was restored", backup.ErrBackup, part, err)
				}
				if given["studies"][row.Study] != study || row.Number < 0 {
					return fmt.Errorf("%w: a row of %s belongs to another study; nothing was restored", backup.ErrBackup, part)
				}
				if r.done++; r.done%toldEvery == 0 {
					r.tell(r.done)
				}
				r.stored = append(r.stored, survey.Respondent(row.Number))
				return store(row.Cells)
			})
		})
	return err
}

// readable reads a restored study as it will be opened.
func (r *restoring) readable(id int64) error {
	var study Study
	err := r.tx.QueryRow(r.ctx, `select "rows", columns, coalesce(derived, '[]'), next_respondent, revision from studies where id = $1`, id).
		Scan(&study.Rows, &study.Columns, &study.Derived, &study.NextRespondent, &study.Revision)
	if err != nil {
		return err
	}
	missing := study.Rows.Set().AndNot(survey.RespondentsOf(r.stored...)).Len()
	if missing > 0 || study.NextRespondent < study.Rows.Next() || study.Revision < 0 {
		return fmt.Errorf("it counts its respondents wrongly: %d are missing", missing)
	}
	rows, err := r.tx.Query(r.ctx, `select "column", scheme, revision, last_key from questions where study_id = $1`, id)
	if err != nil {
		return err
	}
	var q Question
	_, err = pgx.ForEachRow(rows, []any{&q.Column, &q.Scheme, &q.Revision, &q.LastKey}, func() error {
		if q.Column < 0 || q.Revision < 0 || q.LastKey < q.Scheme.Frame.LastKey() {
			return errors.New("it counts its categories wrongly")
		}
		q = Question{}
		return nil
	})
	return err
}

// settings stores what was set for all studies, where nothing is set here.
func (r *restoring) settings() error {
	return r.from.Lines(r.ctx, settingsPart, func(line []byte) error {
		_, err := r.tx.Exec(r.ctx, "insert into settings select * from jsonb_populate_record(null::settings, $1::jsonb) on conflict do nothing", line)
		return err
	})
}
