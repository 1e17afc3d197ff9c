package store

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// User is somebody with an account.
type User struct {
	ID       int64
	Name     string     // one of its own, whatever the case of its letters
	Email    string     // by which another provider may vouch for them; may be empty
	Password string     // its hash; empty where there is none
	Subject  string     // who they are for another provider; empty where none vouches for them
	Admin    bool       // may add and disable users, read the log, and back up everything
	Begins   bool       // may bring in studies of their own, though no study is shared with them to work on
	Created  time.Time  `gorm:"autoCreateTime"`
	Disabled *time.Time // when the account was closed
}

// Token lets a program do something in a user's name.
type Token struct {
	ID      int64
	UserID  int64
	Name    string
	Hash    []byte
	Scope   string    // "read" or "write"
	Created time.Time `gorm:"autoCreateTime"`
	Ends    time.Time
	Used    *time.Time // when it was used last, to the minute
	// UsedFrom is the address that it was used from last.
	UsedFrom string
}

// Session is somebody who is signed in in a browser.
type Session struct {
	ID      int64
	UserID  int64
	Created time.Time
	Used    time.Time // when something was done last, to the minute
	Address string    // that it was used from last
	Agent   string    // what the browser says that it is
	Expiry  time.Time
}

// Member is a user who may do something with a study.
type Member struct {
	StudyID int64 `gorm:"primaryKey;autoIncrement:false"`
	UserID  int64 `gorm:"primaryKey;autoIncrement:false"`
	Role    string
	Exports bool // may take data out
	// Personal says that they may see personal data where the study masks it. It counts for analysts alone.
	Personal bool
}

// LogEntry says who did what. Entries are added, and never changed; but what was refused is counted, once for each day.
type LogEntry struct {
	ID         int64
	At         time.Time  `gorm:"autoCreateTime"`
	Until      *time.Time // when it happened last; nil where it happened once
	Times      int64      `gorm:"default:1"`
	Who        string
	Address    string
	Action     string
	StudyID    *int64
	QuestionID *int64
	Detail     string
}

// TableName is the table of the log.
func (LogEntry) TableName() string { return "log" }

// Users lists all accounts, by name.
func (s *Store) Users(ctx context.Context) (out []User, err error) {
	return out, s.db.WithContext(ctx).Order("lower(name)").Find(&out).Error
}

// CountUsers counts the accounts, and the administrators among them who are not closed.
func (s *Store) CountUsers(ctx context.Context) (accounts, admins int, err error) {
	var out struct{ Accounts, Admins int }
	err = s.db.WithContext(ctx).Raw("select count(*) accounts, count(*) filter (where admin and disabled is null) admins from users").Scan(&out).Error
	return out.Accounts, out.Admins, err
}

// User gives an account by its number.
func (s *Store) User(ctx context.Context, id int64) (out User, err error) {
	return out, found(s.db.WithContext(ctx).First(&out, id).Error)
}

// UserCalled gives an account by its name.
func (s *Store) UserCalled(ctx context.Context, name string) (out User, err error) {
	return out, found(s.db.WithContext(ctx).Where("lower(name) = lower(?)", name).First(&out).Error)
}

// UserKnownAs gives the account of somebody whom another provider vouches for, by who they are there; or, the first time, by
// their address.
func (s *Store) UserKnownAs(ctx context.Context, subject, email string) (out User, err error) {
	db := s.db.WithContext(ctx)
	err = found(db.Where("subject = ?", subject).First(&out).Error)
	if errors.Is(err, ErrNotFound) && email != "" {
		out = User{}
		err = found(db.Where("subject = '' and email <> '' and lower(email) = lower(?)", email).First(&out).Error)
	}
	return out, err
}

// AddUser adds an account. It fails with ErrTaken where another one has the name or the address.
func (s *Store) AddUser(ctx context.Context, u *User) error {
	err := s.db.WithContext(ctx).Create(u).Error
	var said *pgconn.PgError
	if errors.As(err, &said) && said.Code == "23505" {
		return ErrTaken
	}
	return err
}

// KnowAs takes note of who somebody is for another provider, the first time that it vouches for them.
func (s *Store) KnowAs(ctx context.Context, user int64, subject string) error {
	return s.db.WithContext(ctx).Exec("update users set subject = ? where id = ? and subject = ''", subject, user).Error
}

// UserChange is what is changed of an account; nil: as it is.
type UserChange struct {
	Closed   *bool
	Admin    *bool
	Begins   *bool
	Password *string // its hash
}

// ErrLastAdmin says that nobody would be left who may add accounts and share every study.
var ErrLastAdmin = errors.New("an administrator is needed")

// ChangeUser changes an account: all of it or nothing. Who is closed, gets another password or is no administrator any more is let
// in by nothing of what let them in before. It fails with ErrLastAdmin where no open account of an administrator would be left.
func (s *Store) ChangeUser(ctx context.Context, id int64, c UserChange) (out User, err error) {
	return out, s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		// Two who take the rights of each other at once: the second one waits, and then sees what the first one did.
		if err := tx.Exec("select from users where admin or id = ? order by id for update", id).Error; err != nil {
			return err
		}
		var before User
		if err := found(tx.First(&before, id).Error); err != nil {
			return err
		}
		columns := map[string]any{}
		if c.Closed != nil && *c.Closed != (before.Disabled != nil) {
			columns["disabled"] = nil
			if *c.Closed {
				columns["disabled"] = gorm.Expr("now()")
			}
		}
		if c.Admin != nil {
			columns["admin"] = *c.Admin
		}
		if c.Begins != nil {
			columns["begins"] = *c.Begins
		}
		if c.Password != nil {
			columns["password"] = *c.Password
		}
		if len(columns) > 0 {
			if err := tx.Model(&User{}).Where("id = ?", id).Updates(columns).Error; err != nil {
				return err
			}
		}
		if err := tx.First(&out, id).Error; err != nil {
			return err
		}
		if before.Admin && before.Disabled == nil && (!out.Admin || out.Disabled != nil) {
			var left int64
			if err := tx.Model(&User{}).Where("admin and disabled is null").Count(&left).Error; err != nil {
				return err
			}
			if left == 0 {
				return ErrLastAdmin
			}
		}
		if out.Disabled == nil && c.Password == nil && (out.Admin || !before.Admin) {
			return nil
		}
		if err := tx.Exec("delete from sessions where user_id = ?", id).Error; err != nil {
			return err
		}
		return tx.Exec("delete from tokens where user_id = ?", id).Error
	})
}

// SessionData gives what is kept of a session.
func (s *Store) SessionData(ctx context.Context, token string) (data []byte, known bool, err error) {
	var all [][]byte
	err = s.db.WithContext(ctx).Raw("select data from sessions where token = ? and expiry > now()", token).Scan(&all).Error
	if err != nil || len(all) == 0 {
		return nil, false, err
	}
	return all[0], true, nil
}

// PutSession keeps what a browser holds of a session under a sum of it; user 0 for one that nobody has signed in to yet.
func (s *Store) PutSession(ctx context.Context, token string, data []byte, of Session) error {
	var user *int64
	if of.UserID != 0 {
		user = &of.UserID
	}
	return s.db.WithContext(ctx).Exec(`insert into sessions (token, user_id, data, expiry, used, address, agent) values (?, ?, ?, ?, ?, ?, ?)
		on conflict (token) do update set user_id = excluded.user_id, data = excluded.data, expiry = excluded.expiry, used = excluded.used,
			address = excluded.address, agent = excluded.agent`, token, user, data, of.Expiry, of.Used, of.Address, of.Agent).Error
}

// UseSession takes note of the use of a session that has not been ended; one that has stays ended.
func (s *Store) UseSession(ctx context.Context, token string, data []byte, of Session) error {
	return s.db.WithContext(ctx).Exec("update sessions set data = ?, expiry = ?, used = ?, address = ?, agent = ? where token = ?",
		data, of.Expiry, of.Used, of.Address, of.Agent, token).Error
}

// Sessions lists who is signed in, the last used first; user 0 for everybody.
func (s *Store) Sessions(ctx context.Context, user int64) (out []Session, err error) {
	return out, s.db.WithContext(ctx).Raw(`select id, user_id, created, used, address, agent, expiry from sessions
		where user_id is not null and expiry > now() and (? = 0 or user_id = ?) order by used desc, id desc`, user, user).Scan(&out).Error
}

// SessionNumber gives the number of a session by the sum of what the browser holds; 0 where there is none.
func (s *Store) SessionNumber(ctx context.Context, token string) (id int64, err error) {
	return id, s.db.WithContext(ctx).Raw("select id from sessions where token = ?", token).Scan(&id).Error
}

// EndSession ends a session by its number, and gives whose it was; user 0 for anybody's.
func (s *Store) EndSession(ctx context.Context, user, id int64) (of int64, err error) {
	return s.end(ctx, "delete from sessions where id = ? and user_id is not null and (? = 0 or user_id = ?) returning user_id", id, user, user)
}

func (s *Store) end(ctx context.Context, statement string, of ...any) (user int64, err error) {
	err = s.db.WithContext(ctx).Raw(statement, of...).Scan(&user).Error
	if err == nil && user == 0 {
		err = ErrNotFound
	}
	return user, err
}

// DropSession ends a session.
func (s *Store) DropSession(ctx context.Context, token string) error {
	return s.db.WithContext(ctx).Exec("delete from sessions where token = ?", token).Error
}

// DropSessions ends all sessions of a user, or of nobody with 0, and deletes those of everybody that are over.
func (s *Store) DropSessions(ctx context.Context, user int64) error {
	return s.db.WithContext(ctx).Exec("delete from sessions where user_id = ? or expiry < now()", user).Error
}

// Tokens lists the tokens that have not ended, the newest first; user 0 for everybody's.
func (s *Store) Tokens(ctx context.Context, user int64) (out []Token, err error) {
	return out, s.db.WithContext(ctx).Where("(? = 0 or user_id = ?) and ends > now()", user, user).Order("id desc").Find(&out).Error
}

// AddToken keeps a token.
func (s *Store) AddToken(ctx context.Context, t *Token) error {
	return s.db.WithContext(ctx).Create(t).Error
}

// EndToken deletes a token, and gives whose it was; user 0 for anybody's.
func (s *Store) EndToken(ctx context.Context, user, id int64) (of int64, err error) {
	return s.end(ctx, "delete from tokens where id = ? and (? = 0 or user_id = ?) returning user_id", id, user, user)
}

// Token gives a token that has not ended by its hash.
func (s *Store) Token(ctx context.Context, hash []byte) (out Token, err error) {
	return out, found(s.db.WithContext(ctx).Where("hash = ? and ends > now()", hash).First(&out).Error)
}

// UseToken takes note of when a token is used, to the minute, and from where.
func (s *Store) UseToken(ctx context.Context, t Token, address string) error {
	return s.db.WithContext(ctx).Exec(`update tokens set used = now(), used_from = ? where id = ?
		and (used is null or used < now() - interval '1 minute' or used_from <> ?)`, address, t.ID, address).Error
}

// Members lists who may do something with a study.
func (s *Store) Members(ctx context.Context, study int64) (out []Member, err error) {
	return out, s.db.WithContext(ctx).Where("study_id = ?", study).Order("user_id").Find(&out).Error
}

// MemberOf lists what a user may do, study by study.
func (s *Store) MemberOf(ctx context.Context, user int64) (out []Member, err error) {
	return out, s.db.WithContext(ctx).Where("user_id = ?", user).Find(&out).Error
}

// ErrLastOwner says that a study would have nobody any more who may share or delete it.
var ErrLastOwner = errors.New("a study needs an owner")

// PutMember lets a user do something with a study, in place of what they might do before.
func (s *Store) PutMember(ctx context.Context, m Member) error {
	return s.changeMembers(ctx, m.StudyID, func(tx *gorm.DB) error {
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&m).Error
	})
}

// DropMember takes a study away from a user.
func (s *Store) DropMember(ctx context.Context, study, user int64) error {
	return s.changeMembers(ctx, study, func(tx *gorm.DB) error {
		return tx.Delete(&Member{}, "study_id = ? and user_id = ?", study, user).Error
	})
}

// changeMembers changes who may do something with a study. It fails with ErrLastOwner where there was an owner and would be none.
func (s *Store) changeMembers(ctx context.Context, study int64, change func(tx *gorm.DB) error) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var before, after int64
		if err := tx.Exec("select from studies where id = ? for update", study).Error; err != nil {
			return err
		}
		owners := func(n *int64) error {
			return tx.Model(&Member{}).Where("study_id = ? and role = ?", study, "owner").Count(n).Error
		}
		if err := owners(&before); err != nil {
			return err
		}
		if err := change(tx); err != nil {
			return err
		}
		if err := owners(&after); err != nil {
			return err
		}
		if before > 0 && after == 0 {
			return ErrLastOwner
		}
		return nil
	})
}

// StudyOf gives the study of a question.
func (s *Store) StudyOf(ctx context.Context, question int64) (study int64, err error) {
	q, err := s.Question(ctx, question)
	return q.StudyID, err
}

// AddLog adds to the log.
func (s *Store) AddLog(ctx context.Context, e LogEntry) error {
	return s.db.WithContext(ctx).Create(&e).Error
}

// CountLog adds to the log what may happen again and again: once for each day, with how often it happened.
func (s *Store) CountLog(ctx context.Context, e LogEntry) error {
	return s.db.WithContext(ctx).Exec(`insert into log (who, address, action, detail, counted) values (?, ?, ?, ?, current_date)
		on conflict (who, address, action, detail, counted) where counted is not null do update set times = log.times + 1, until = now()`,
		e.Who, e.Address, e.Action, e.Detail).Error
}

// ForgetLog deletes what has been in the log for longer than so long.
func (s *Store) ForgetLog(ctx context.Context, keep time.Duration) error {
	return s.db.WithContext(ctx).Exec("delete from log where at < now() - make_interval(secs => ?)", keep.Seconds()).Error
}

// Log gives the log, the newest first; from before an entry, if given; at most so many.
func (s *Store) Log(ctx context.Context, before int64, limit int) (out []LogEntry, err error) {
	q := s.db.WithContext(ctx).Order("id desc").Limit(limit)
	if before != 0 {
		q = q.Where("id < ?", before)
	}
	return out, q.Find(&out).Error
}
