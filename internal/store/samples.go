package store

import (
	"context"
	"encoding/json"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"aftermath/core/survey"
)

// Sample is answers of a question that are coded by people who don't see how they are coded.
type Sample struct {
	ID         int64
	QuestionID int64
	Name       string
	Drawn      json.RawMessage `gorm:"type:jsonb"` // how, as the desk has it
	By         string
	At         time.Time  `gorm:"autoCreateTime"`
	Gone       *time.Time // when it was thrown away; it can be brought back
}

// SampleMember is an answer of a sample.
type SampleMember struct {
	SampleID int64             `gorm:"primaryKey;autoIncrement:false"`
	Place    int               // in the order in which they are coded, from 0
	Number   survey.Respondent `gorm:"primaryKey;autoIncrement:false"`
	Stratum  int               // which of the parts it was drawn from, from 0
}

// SampleCode is what somebody gave an answer of a sample.
type SampleCode struct {
	SampleID   int64             `gorm:"primaryKey;autoIncrement:false"`
	Coder      string            `gorm:"primaryKey"`
	Number     survey.Respondent `gorm:"primaryKey;autoIncrement:false"`
	Categories []string          `gorm:"serializer:json;type:jsonb"` // keys; none where none applies
	At         time.Time
}

// SampleFigures are how good the coding of a revision was, held against a coder.
type SampleFigures struct {
	SampleID int64           `gorm:"primaryKey;autoIncrement:false"`
	Coder    string          `gorm:"primaryKey"`
	Revision int             `gorm:"primaryKey;autoIncrement:false"`
	Figures  json.RawMessage `gorm:"type:jsonb"`
	At       time.Time
}

// Samples lists the samples of a question, the newest first; with those that were thrown away.
func (s *Store) Samples(ctx context.Context, question int64) (out []Sample, err error) {
	return out, s.db.WithContext(ctx).Where("question_id = ?", question).Order("id desc").Find(&out).Error
}

// Sample gives a sample of a question with its members, in the order of their places.
func (s *Store) Sample(ctx context.Context, question, id int64) (out Sample, members []SampleMember, err error) {
	db := s.db.WithContext(ctx)
	if err := db.Where("question_id = ?", question).First(&out, id).Error; err != nil {
		return out, nil, found(err)
	}
	return out, members, db.Where("sample_id = ?", id).Order("place").Find(&members).Error
}

// MakeSample keeps a sample with its members and what is known of their codes, all or nothing, and gives it its number.
func (s *Store) MakeSample(ctx context.Context, made *Sample, members []SampleMember, codes []SampleCode) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Create(made).Error; err != nil {
			return err
		}
		for i := range members {
			members[i].SampleID = made.ID
		}
		for i := range codes {
			codes[i].SampleID = made.ID
		}
		const batch = 1000
		if err := tx.CreateInBatches(members, batch).Error; err != nil {
			return err
		}
		if len(codes) == 0 {
			return nil
		}
		return tx.CreateInBatches(codes, batch).Error
	})
}

// ThrowSample throws a sample away, or brings it back.
func (s *Store) ThrowSample(ctx context.Context, question, id int64, away bool) error {
	return setGone(s.db.WithContext(ctx).Model(&Sample{}).Where("question_id = ? and id = ?", question, id), away)
}

// SampleCodes gives all that was given to the answers of a sample, by coder and respondent.
func (s *Store) SampleCodes(ctx context.Context, sample int64) (out []SampleCode, err error) {
	return out, s.db.WithContext(ctx).Where("sample_id = ?", sample).Order("coder, number").Find(&out).Error
}

// PutSampleCode keeps what somebody gave an answer, in place of what they gave it before; without categories, that none applies.
func (s *Store) PutSampleCode(ctx context.Context, c SampleCode) error {
	c.At = time.Now()
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&c).Error
}

// DropSampleCode takes back that somebody coded an answer.
func (s *Store) DropSampleCode(ctx context.Context, sample int64, coder string, who survey.Respondent) error {
	return s.db.WithContext(ctx).Delete(&SampleCode{}, "sample_id = ? and coder = ? and number = ?", sample, coder, who).Error
}

// PutSampleFigures keeps the figures of a revision, in place of earlier ones of the same.
func (s *Store) PutSampleFigures(ctx context.Context, f SampleFigures) error {
	f.At = time.Now()
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&f).Error
}

// SampleHistory gives the figures that were kept of a coder, by revision.
func (s *Store) SampleHistory(ctx context.Context, sample int64, coder string) (out []SampleFigures, err error) {
	return out, s.db.WithContext(ctx).Where("sample_id = ? and coder = ?", sample, coder).Order("revision").Find(&out).Error
}
