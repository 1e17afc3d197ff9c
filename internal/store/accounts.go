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
	Used    *time.Time // when it was used last, to the hour
}

// Member is a user who may do something with a study.
type Member struct {
	StudyID int64 `gorm:"primaryKey;autoIncrement:false"`
	UserID  int64 `gorm:"primaryKey;autoIncrement:false"`
	Role    string
	Exports bool // may take data out
}

// LogEntry says who did what. Entries are added, and never changed.
type LogEntry struct {
	ID         int64
	At         time.Time `gorm:"autoCreateTime"`
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

// AnyUser says whether there is an account that is not closed.
func (s *Store) AnyUser(ctx context.Context) (any bool, err error) {
	return any, s.db.WithContext(ctx).Raw("select exists (select from users where disabled is null)").Scan(&any).Error
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

// PutUser adds an account, or changes one. It fails with ErrTaken where another one has the name or the address.
func (s *Store) PutUser(ctx context.Context, u *User) error {
	err := s.db.WithContext(ctx).Save(u).Error
	var said *pgconn.PgError
	if errors.As(err, &said) && said.Code == "23505" {
		return ErrTaken
	}
	return err
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

// PutSession keeps a session of a user; 0 for one that nobody has signed in to yet.
func (s *Store) PutSession(ctx context.Context, token string, user int64, data []byte, expiry time.Time) error {
	var of *int64
	if user != 0 {
		of = &user
	}
	return s.db.WithContext(ctx).Exec(`insert into sessions (token, user_id, data, expiry) values (?, ?, ?, ?)
		on conflict (token) do update set user_id = excluded.user_id, data = excluded.data, expiry = excluded.expiry`, token, of, data, expiry).Error
}

// DropSession ends a session.
func (s *Store) DropSession(ctx context.Context, token string) error {
	return s.db.WithContext(ctx).Exec("delete from sessions where token = ?", token).Error
}

// DropSessions ends all sessions of a user, or of nobody with 0, and deletes those of everybody that are over.
func (s *Store) DropSessions(ctx context.Context, user int64) error {
	return s.db.WithContext(ctx).Exec("delete from sessions where user_id = ? or expiry < now()", user).Error
}

// Tokens lists a user's tokens, the newest first.
func (s *Store) Tokens(ctx context.Context, user int64) (out []Token, err error) {
	return out, s.db.WithContext(ctx).Where("user_id = ?", user).Order("id desc").Find(&out).Error
}

// AddToken keeps a token.
func (s *Store) AddToken(ctx context.Context, t *Token) error {
	return s.db.WithContext(ctx).Create(t).Error
}

// DropToken deletes a token of a user.
func (s *Store) DropToken(ctx context.Context, user, id int64) error {
	done := s.db.WithContext(ctx).Where("user_id = ?", user).Delete(&Token{}, id)
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrNotFound
	}
	return done.Error
}

// UseToken gives a token that has not ended by its hash, and takes note of its use.
func (s *Store) UseToken(ctx context.Context, hash []byte) (out Token, err error) {
	db := s.db.WithContext(ctx)
	if err = found(db.Where("hash = ? and ends > now()", hash).First(&out).Error); err != nil {
		return out, err
	}
	return out, db.Exec("update tokens set used = now() where id = ? and (used is null or used < now() - interval '1 hour')", out.ID).Error
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

// Log gives the log, the newest first; from before an entry, if given; at most so many.
func (s *Store) Log(ctx context.Context, before int64, limit int) (out []LogEntry, err error) {
	q := s.db.WithContext(ctx).Order("id desc").Limit(limit)
	if before != 0 {
		q = q.Where("id < ?", before)
	}
	return out, q.Find(&out).Error
}
