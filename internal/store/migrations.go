package store

import (
	"github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/gorm"
)

// statements makes a migration of statements. Migrations are history: what one did stays as it is written here, whatever the
// program's own types become, so that a database of any earlier program comes to the same tables.
func statements(id string, all ...string) *gormigrate.Migration {
	return &gormigrate.Migration{ID: id, Migrate: func(tx *gorm.DB) error {
		return tx.Transaction(func(tx *gorm.DB) error {
			for _, s := range all {
				if err := tx.Exec(s).Error; err != nil {
					return err
				}
			}
			return nil
		})
	}}
}

var migrations = []*gormigrate.Migration{
	statements(
		"2026-11-24 studies",
		`create table studies (id bigserial primary key, name text, respondents bigint, columns jsonb, created timestamptz)`,
		`create table questions (id bigserial primary key, study_id bigint references studies on delete cascade, "column" bigint, revision bigint, scheme jsonb)`,
		`create index idx_questions_study_id on questions (study_id)`,
		`create table respondents (study_id bigint not null, number bigint not null, cells text[], primary key (study_id, number))`,
		`create table decisions (question_id bigint not null references questions on delete cascade, number bigint not null, category text not null, "on" boolean,
			primary key (question_id, number, category))`,
		`create table revisions (question_id bigint not null references questions on delete cascade, number bigint not null, summary text, edit jsonb, inverse jsonb,
			undone boolean, at timestamptz, primary key (question_id, number))`,
		`create table focus (question_id bigint not null references questions on delete cascade, name text not null, conditions jsonb, primary key (question_id, name))`,
	),
	statements(
		"2026-11-24 setup",
		`alter table studies add column if not exists revision bigint, add column if not exists derived jsonb`,
		`update studies set revision = coalesce(revision, 0)`,
		`create table study_edits (study_id bigint not null references studies on delete cascade, number bigint not null, summary text, before jsonb, after jsonb,
			undone boolean, at timestamptz, primary key (study_id, number))`,
		`alter table respondents drop constraint if exists fk_respondents_study`,
	),
	statements(
		"2026-11-25 named states",
		`create table named_states (question_id bigint not null references questions on delete cascade, name text not null, number bigint, scheme jsonb, decisions jsonb,
			at timestamptz, primary key (question_id, name))`,
	),
	// Respondents get numbers that are used once, category keys too; the edits of a study and of its questions become one
	// history, in which an edit is taken back by a patch. What earlier programs kept takes back the whole scheme ("whole").
	statements(
		"2026-11-25 one history",
		`create function pg_temp.marks(old jsonb) returns jsonb language sql as $$
			select coalesce(jsonb_agg(jsonb_build_object('category', coalesce(m->>'category', m->>'Category', ''),
				'to', case when m ? 'On' and (m->>'On')::boolean then 'on' when m ? 'On' then 'off'
					when m->>'category' = '' and m->>'to' = 'off' then 'rules' else m->>'to' end,
				'respondents', jsonb_build_array(coalesce(m->'answer', m->'Number')))), '[]')
			from jsonb_array_elements(case when jsonb_typeof(old) = 'array' then old else '[]' end) m $$`,
		`create function pg_temp.setup(old jsonb) returns jsonb language sql as $$
			select (old - 'respondents') || jsonb_build_object('rows', case when (old->>'respondents')::bigint > 0
				then jsonb_build_array(jsonb_build_object('from', 0, 'to', (old->>'respondents')::bigint)) else '[]' end) $$`,
		`create function pg_temp.newest_key(variadic old text[]) returns bigint language sql as $$
			select coalesce(max(m[1]::bigint), 0) from unnest(old) o, regexp_matches(o, '"c([0-9]{1,9})"', 'g') m $$`,
		`alter table studies add column "rows" jsonb not null default '[]', add column next_respondent bigint not null default 0`,
		`update studies s set "rows" = pg_temp.setup(jsonb_build_object('respondents', respondents))->'rows', next_respondent = greatest(respondents,
			(select coalesce(max(number) + 1, 0) from respondents where study_id = s.id),
			(select coalesce(max(number) + 1, 0) from decisions where question_id in (select id from questions where study_id = s.id)))`,
		`alter table studies drop column respondents`,
		`alter table questions add column last_key bigint not null default 0`,
		`update questions q set last_key = greatest(pg_temp.newest_key(scheme::text),
			(select max(pg_temp.newest_key(edit::text, inverse::text)) from revisions where question_id = q.id),
			(select max(pg_temp.newest_key(scheme::text, decisions::text)) from named_states where question_id = q.id),
			(select max(pg_temp.newest_key('"' || category || '"')) from decisions where question_id = q.id),
			(select max(pg_temp.newest_key(conditions::text)) from focus where question_id = q.id))`,
		`create sequence undone`,
		`create table history (id bigint generated always as identity primary key, study_id bigint not null references studies on delete cascade,
			question_id bigint references questions on delete cascade, number bigint not null, summary text not null, edit jsonb, undo jsonb, redo jsonb,
			undone bigint, ended boolean not null default false, at timestamptz not null default now())`,
		`create index history_line on history (study_id, id)`,
		`create index history_question on history (question_id, number)`,
		`insert into history (study_id, question_id, number, summary, edit, undo, redo, undone, ended, at)
			select study_id, question_id, number, coalesce(summary, ''), edit, undo, redo, case when undone then nextval('undone') end, undone, coalesce(at, now()) from (
				select q.study_id, r.question_id, r.number, r.summary, r.edit, r.undone, r.at, null::jsonb as redo,
					jsonb_strip_nulls(jsonb_build_object('whole', r.inverse->'playbook')) || jsonb_build_object('decisions', pg_temp.marks(r.inverse->'put')) as undo
				from revisions r join questions q on q.id = r.question_id
				union all
				select study_id, null, number, summary, null, undone, at, pg_temp.setup(after), pg_temp.setup(before) from study_edits) every
			order by at, number`,
		`update named_states set decisions = pg_temp.marks(decisions)`,
		`drop table revisions`,
		`drop table study_edits`,
	),
	// Deleted studies are put aside at first; lists tell when something was edited last and how far its coding is.
	statements(
		"2026-11-25 lists",
		`alter table studies add column changed timestamptz not null default now(), add column deleted timestamptz, add column under jsonb`,
		`alter table questions add column changed timestamptz, add column figures jsonb`,
		`update questions q set changed = (select max(at) from history where question_id = q.id)`,
		`update studies s set changed = greatest(created, (select max(at) from history where study_id = s.id))`,
	),
	// Decisions and edits say who made them.
	statements(
		"2026-11-26 by whom",
		`alter table decisions add column origin jsonb not null default '{}'`,
		`alter table history add column "by" text not null default ''`,
	),
	// Samples that are coded by people who don't see how they are coded, and how good the coding was by them.
	statements(
		"2026-11-26 samples",
		`create table samples (id bigint generated always as identity primary key, question_id bigint not null references questions on delete cascade,
			name text not null, drawn jsonb not null, "by" text not null default '', at timestamptz not null default now(), gone timestamptz)`,
		`create index samples_question on samples (question_id)`,
		`create table sample_members (sample_id bigint not null references samples on delete cascade, place bigint not null, number bigint not null,
			stratum bigint not null, primary key (sample_id, number))`,
		`create table sample_codes (sample_id bigint not null references samples on delete cascade, coder text not null, number bigint not null,
			categories jsonb not null, at timestamptz not null, primary key (sample_id, coder, number))`,
		`create table sample_figures (sample_id bigint not null references samples on delete cascade, coder text not null, revision bigint not null,
			figures jsonb not null, at timestamptz not null, primary key (sample_id, coder, revision))`,
	),
	// Charts that were kept under a name.
	statements(
		"2026-11-26 charts",
		`create table charts (id bigint generated always as identity primary key, question_id bigint not null references questions on delete cascade,
			name text not null, note text not null default '', drawn jsonb not null, figures text not null, "by" text not null default '',
			at timestamptz not null, gone timestamptz)`,
		`create index charts_question on charts (question_id)`,
	),
	// Reports, with what they were before each change, and those that were frozen.
	statements(
		"2026-11-26 reports",
		`create table reports (id bigint generated always as identity primary key, study_id bigint not null references studies on delete cascade,
			name text not null, revision bigint not null, version bigint not null, newest bigint not null, gone timestamptz)`,
		`create index reports_study on reports (study_id)`,
		`create table report_versions (report_id bigint not null references reports on delete cascade, number bigint not null, blocks jsonb not null,
			summary text not null, "by" text not null default '', at timestamptz not null, primary key (report_id, number))`,
		`create table frozen_reports (id bigint generated always as identity primary key, report_id bigint not null references reports on delete cascade,
			name text not null, page jsonb not null, "by" text not null default '', at timestamptz not null, gone timestamptz)`,
		`create index frozen_reports_report on frozen_reports (report_id)`,
	),
	// What is set for all studies.
	statements("2026-11-26 settings", `create table settings (name text primary key, value jsonb not null)`),
	// Accounts, what each may do with a study, and a log of who did what, which the program adds to and never changes.
	statements(
		"2026-11-26 accounts",
		`create table users (id bigint generated always as identity primary key, name text not null, email text not null default '', password text not null default '',
			subject text not null default '', admin boolean not null default false, created timestamptz not null default now(), disabled timestamptz)`,
		`create unique index users_name on users (lower(name))`,
		`create unique index users_subject on users (subject) where subject <> ''`,
		`create unique index users_email on users (lower(email)) where email <> ''`,
		`create table sessions (token text primary key, user_id bigint references users on delete cascade, data bytea not null, expiry timestamptz not null)`,
		`create index sessions_user on sessions (user_id)`,
		`create table tokens (id bigint generated always as identity primary key, user_id bigint not null references users on delete cascade, name text not null,
			hash bytea not null unique, scope text not null, created timestamptz not null default now(), ends timestamptz not null, used timestamptz)`,
		`create index tokens_user on tokens (user_id)`,
		`create table members (study_id bigint not null references studies on delete cascade, user_id bigint not null references users on delete cascade,
			role text not null, exports boolean not null default true, primary key (study_id, user_id))`,
		`create table log (id bigint generated always as identity primary key, at timestamptz not null default now(), who text not null, address text not null default '',
			action text not null, study_id bigint, question_id bigint, detail text not null default '')`,
		`create index log_study on log (study_id, id)`,
	),
	// What the columns of tables are made of, kept under a name.
	statements(
		"2026-11-26 column sets",
		`create table column_sets (study_id bigint not null references studies on delete cascade, name text not null, nests jsonb not null,
			primary key (study_id, name))`,
	),
	// What lets somebody in is listed, with where it was used; who may see what is masked; refused attempts are counted.
	statements(
		"2026-12-01 access",
		`alter table users add column begins boolean not null default true`,
		`alter table users alter column begins set default false`,
		`alter table sessions add column id bigint generated always as identity, add column created timestamptz not null default now(),
			add column used timestamptz not null default now(), add column address text not null default '', add column agent text not null default ''`,
		`create unique index sessions_id on sessions (id)`,
		`alter table tokens add column used_from text not null default ''`,
		`alter table members add column personal boolean not null default false`,
		`alter table log add column until timestamptz, add column times bigint not null default 1, add column counted date`,
		`create unique index log_counted on log (who, address, action, detail, counted) where counted is not null`,
		`create index log_at on log (at)`,
	),
}
