package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"strings"

	"gorm.io/gorm"
)

// CopyStudy makes a second study of all that belongs to one, its history included, as it is at one moment.
func (s *Store) CopyStudy(ctx context.Context, id int64, name string) (out Study, err error) {
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		c := copying{tx, id, 0}
		for _, t := range keptTables {
			if err := c.table(t, name); err != nil {
				return fmt.Errorf("copy %s: %w", t.name, err)
			}
		}
		return tx.First(&out, c.to).Error
	}, &sql.TxOptions{Isolation: sql.LevelRepeatableRead})
	return out, err
}

// copying is a study that is being copied: from one number to another, which it gets with the first table.
type copying struct {
	tx       *gorm.DB
	from, to int64
}

// numbersOf is the table that says which numbers the copies of the rows of a table have got.
func numbersOf(table string) string { return "copied_" + table }

// table copies the rows of a table that belong to the study. What is copied is worked out by the database: no row passes through here,
// but those that name questions within.
func (c *copying) table(t keptTable, name string) error {
	if t.own {
		err := c.tx.Exec(fmt.Sprintf(
			`create temporary table %s on commit drop as select id as was, nextval(pg_get_serial_sequence('%s', 'id')) as now
				from (select id from %s where %s order by %s) of`,
			numbersOf(t.name), t.name, t.name, numbered(t.of), t.order,
		), c.from).Error
		if err != nil {
			return err
		}
	}
	if t.name == "studies" {
		err := c.tx.Raw("select now from " + numbersOf("studies") + " join studies on id = was where deleted is null").Scan(&c.to).Error
		if err != nil {
			return err
		}
		if c.to == 0 {
			return ErrNotFound
		}
	}
	var columns []string
	err := c.tx.Raw("select attname from pg_attribute where attrelid = ?::regclass and attnum > 0 and not attisdropped order by attnum", t.name).
		Scan(&columns).Error
	if err != nil {
		return err
	}
	var to, from []string
	joins := t.name + " of"
	for _, column := range columns {
		quoted := `"` + column + `"`
		to = append(to, quoted)
		table, points := t.pointsTo[column]
		switch {
		case column == "id" && t.own:
			joins += fmt.Sprintf(" join %s own on own.was = of.id", numbersOf(t.name))
			from = append(from, "own.now")
		case points:
			joins += fmt.Sprintf(" left join %s to_%s on to_%s.was = of.%s", numbersOf(table), table, table, quoted)
			from = append(from, "to_"+table+".now")
		case t.name == "studies" && column == "name":
			from = append(from, "@name")
		case t.name == "studies" && column == "created":
			from = append(from, "now()")
		default:
			from = append(from, "of."+quoted)
		}
	}
	query := fmt.Sprintf(
		"insert into %s (%s) overriding system value select %s from %s where of.%s order by %s", t.name, strings.Join(to, ", "),
		strings.Join(from, ", "), joins, strings.Replace(t.of, "$1", "@study", 1), ofEach(t.order),
	)
	if err := c.tx.Exec(query, sql.Named("study", c.from), sql.Named("name", name)).Error; err != nil {
		return err
	}
	if t.within == "" {
		return nil
	}
	return c.within(t)
}

// within has copied rows name the copies of questions.
func (c *copying) within(t keptTable) error {
	var questions []struct{ Was, Now int64 }
	if err := c.tx.Raw("select was, now from " + numbersOf("questions")).Scan(&questions).Error; err != nil {
		return err
	}
	given := numbers{}
	for _, q := range questions {
		given.set("questions", q.Was, q.Now)
	}
	var rows []string // their places; what they hold is read one after the other: reports may be large
	if err := c.tx.Raw(fmt.Sprintf("select ctid::text from %s where %s", t.name, numbered(t.of)), c.to).Scan(&rows).Error; err != nil {
		return err
	}
	for _, at := range rows {
		var was string
		err := c.tx.Raw(fmt.Sprintf("select %s::text from %s where ctid = ?::tid", t.within, t.name), at).Scan(&was).Error
		if err != nil {
			return err
		}
		data, err := given.renumberWithin(json.RawMessage(was))
		if err != nil {
			return err
		}
		err = c.tx.Exec(fmt.Sprintf("update %s set %s = ?::jsonb where ctid = ?::tid", t.name, t.within), string(data), at).Error
		if err != nil {
			return err
		}
	}
	return nil
}

// numbered is a condition with a place for a value as GORM has it.
func numbered(condition string) string { return strings.Replace(condition, "$1", "?", 1) }

// ofEach has the columns of an order be those of the row that is copied.
func ofEach(order string) string {
	columns := strings.Split(order, ", ")
	return "of." + strings.Join(columns, ", of.")
}
