package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"github.com/jackc/pgx/v5"

	"aftermath/internal/backup"
)

// The parts of a back-up of accounts.
const (
	accountsPart = "accounts.ndjson"
	sharingPart  = "sharing.ndjson"
)

// ErrAccounts says that there are accounts already: those of a back-up would stand in for nobody.
var ErrAccounts = errors.New("there are accounts here")

// shared is what somebody may do with a study, by names: numbers are given anew where studies are restored.
type shared struct {
	Account  string `json:"account"`
	Study    string `json:"study"`
	Role     string `json:"role"`
	Exports  bool   `json:"exports"`
	Personal bool   `json:"personal"`
}

// BackupAccounts writes all accounts with the sums of their passwords, what is shared with them, and what is set for all studies, as
// they are at one moment. Sessions, tokens and the log are not in it.
func (s *Store) BackupAccounts(ctx context.Context, to io.Writer) error {
	return s.onOne(ctx, func(conn *pgx.Conn) error {
		moment := pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly}
		return pgx.BeginTxFunc(ctx, conn, moment, func(tx pgx.Tx) error {
			w := backup.NewAccountsWriter(to, time.Now())
			for _, part := range [][2]string{
				{accountsPart, "select name, email, password, subject, admin, begins, created, disabled from users order by id"},
				{sharingPart, `select u.name account, s.name study, m.role, m.exports, m.personal from members m join users u on u.id = m.user_id
					join studies s on s.id = m.study_id where s.deleted is null order by s.id, u.id`},
				{settingsPart, "select * from settings order by name"},
			} {
				err := w.Part(part[0], func(line func([]byte) error) error {
					return eachLine(ctx, tx, "select row_to_json(t)::text from ("+part[1]+") t", nil, line)
				})
				if err != nil {
					return fmt.Errorf("%s: %w", part[0], err)
				}
			}
			return w.Close()
		})
	})
}

// RestoreAccounts brings in the accounts of a back-up where there is none, all or nothing, and gives how many there were, and what was
// shared of studies that are not here, or stand here twice. It fails with ErrAccounts where there is an account.
func (s *Store) RestoreAccounts(ctx context.Context, from *backup.Archive) (accounts int, left []string, err error) {
	err = s.transaction(ctx, func(tx pgx.Tx) error {
		var there int
		if _, err := tx.Exec(ctx, "lock table users in exclusive mode"); err != nil { // so that nobody adds one meanwhile
			return err
		}
		if err := tx.QueryRow(ctx, "select count(*) from users").Scan(&there); err != nil {
			return err
		}
		if there > 0 {
			return ErrAccounts
		}
		err := from.Lines(ctx, accountsPart, func(line []byte) error {
			accounts++
			_, err := tx.Exec(ctx, `insert into users (name, email, password, subject, admin, begins, created, disabled)
				select name, email, password, subject, admin, begins, created, disabled from jsonb_populate_record(null::users, $1::jsonb)`, line)
			return err
		})
		if err != nil {
			return unfit(err)
		}
		err = from.Lines(ctx, sharingPart, func(line []byte) error {
			var one shared
			if err := json.Unmarshal(line, &one); err != nil {
				return fmt.Errorf("%w: a line of %s can't be read: %w; nothing was restored", backup.ErrBackup, sharingPart, err)
			}
			done, err := tx.Exec(ctx, `insert into members (study_id, user_id, role, exports, personal)
				select s.id, u.id, $3, $4, $5 from users u, studies s where u.name = $1 and s.name = $2 and s.deleted is null
				and (select count(*) from studies where name = $2 and deleted is null) = 1`, one.Account, one.Study, one.Role, one.Exports, one.Personal)
			if err == nil && done.RowsAffected() == 0 {
				left = append(left, fmt.Sprintf("%s of %q for %q", one.Role, one.Study, one.Account))
			}
			return err
		})
		if err != nil {
			return unfit(err)
		}
		r := restoring{ctx: ctx, tx: tx, from: from}
		return unfit(r.settings())
	})
	return accounts, left, err
}
