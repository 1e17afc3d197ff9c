package accounts

import (
	"context"
	"fmt"

	"aftermath/internal/store"
)

// Role is what somebody may do with a study.
type Role string

// The roles, each may do what the ones before may.
const (
	Nobody  Role = ""
	Reader  Role = "reader"  // sees it, and changes nothing
	Analyst Role = "analyst" // works on it
	Owner   Role = "owner"   // shares and deletes it
)

var ranks = map[Role]int{Nobody: 0, Reader: 1, Analyst: 2, Owner: 3}

// Covers says whether a role may do what another one may.
func (r Role) Covers(other Role) bool { return ranks[r] >= ranks[other] }

// Access is what a user may do, study by study.
type Access struct {
	admin   bool
	studies map[int64]store.Member
}

// AccessOf gives what a user may do. An admin owns every study: somebody must be able to share one whose owner has left.
func (a *Accounts) AccessOf(ctx context.Context, u store.User) (Access, error) {
	out := Access{admin: u.Admin, studies: map[int64]store.Member{}}
	all, err := a.store.MemberOf(ctx, u.ID)
	for _, m := range all {
		out.studies[m.StudyID] = m
	}
	return out, err
}

// To is the role of the user in a study, and whether they may take data out of it.
func (a Access) To(study int64) (role Role, exports bool) {
	m, known := a.studies[study]
	switch {
	case a.admin:
		return Owner, true
	case !known:
		return Nobody, false
	}
	return Role(m.Role), m.Exports || Role(m.Role) != Reader
}

// Share gives a user a role in a study.
func (a *Accounts) Share(ctx context.Context, study, user int64, role Role, exports bool) error {
	if ranks[role] == 0 {
		return fmt.Errorf("%w: there is no role %q", ErrRequest, role)
	}
	return a.store.PutMember(ctx, store.Member{StudyID: study, UserID: user, Role: string(role), Exports: exports})
}

// Unshare takes a study away from a user.
func (a *Accounts) Unshare(ctx context.Context, study, user int64) error {
	return a.store.DropMember(ctx, study, user)
}

// Members lists who may do something with a study.
func (a *Accounts) Members(ctx context.Context, study int64) ([]store.Member, error) {
	return a.store.Members(ctx, study)
}

// StudyOf gives the study of a question.
func (a *Accounts) StudyOf(ctx context.Context, question int64) (int64, error) {
	return a.store.StudyOf(ctx, question)
}
