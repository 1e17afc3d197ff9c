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

// Rights are what somebody may do with a study.
type Rights struct {
	Role     Role
	Exports  bool // take data out of it
	Personal bool // see personal data in it, where it is masked
}

// Access is what somebody may do, study by study.
type Access struct {
	admin   bool
	begins  bool
	studies map[int64]store.Member
}

// AccessOf gives what somebody may do. An admin owns every study: somebody must be able to share one whose owner has left.
func (a *Accounts) AccessOf(ctx context.Context, of Asker) (Access, error) {
	out := Access{admin: of.Admin(), begins: of.user.Begins, studies: map[int64]store.Member{}}
	all, err := a.store.MemberOf(ctx, of.ID())
	for _, m := range all {
		out.studies[m.StudyID] = m
	}
	return out, err
}

// To is what they may do with a study.
func (a Access) To(study int64) Rights {
	m, known := a.studies[study]
	role := Role(m.Role)
	switch {
	case a.admin:
		return Rights{Owner, true, true}
	case !known:
		return Rights{}
	}
	return Rights{role, m.Exports || role != Reader, role == Owner || role == Analyst && m.Personal}
}

// BringsIn says whether they may bring in files: into a study that they may change, or to begin one.
func (a Access) BringsIn() bool {
	if a.admin || a.begins {
		return true
	}
	for _, m := range a.studies {
		if Role(m.Role).Covers(Analyst) {
			return true
		}
	}
	return false
}

// Share gives a user rights in a study.
func (a *Accounts) Share(ctx context.Context, study, user int64, r Rights) error {
	if ranks[r.Role] == 0 {
		return fmt.Errorf("%w: there is no role %q", ErrRequest, r.Role)
	}
	return a.store.PutMember(ctx, store.Member{StudyID: study, UserID: user, Role: string(r.Role), Exports: r.Exports, Personal: r.Personal})
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
