SET statement_timeout = 0;
SET lock_timeout = 0;
SET idle_in_transaction_session_timeout = 0;
SET client_encoding = 'UTF8';
SET standard_conforming_strings = on;
SELECT pg_catalog.set_config('search_path', '', false);
SET check_function_bodies = false;
SET xmloption = content;
SET client_min_messages = warning;
SET row_security = off;
SET default_tablespace = '';
SET default_table_access_method = heap;
CREATE TABLE public.decisions (
    question_id bigint NOT NULL,
    number bigint NOT NULL,
    category text NOT NULL,
    "on" boolean
);
CREATE TABLE public.focus (
    question_id bigint NOT NULL,
    name text NOT NULL,
    conditions jsonb
);
CREATE TABLE public.migrations (
    id character varying(255) NOT NULL
);
CREATE TABLE public.named_states (
    question_id bigint NOT NULL,
    name text NOT NULL,
    number bigint,
    scheme jsonb,
    decisions jsonb,
    at timestamp with time zone
);
CREATE TABLE public.questions (
    id bigint NOT NULL,
    study_id bigint,
    "column" bigint,
    revision bigint,
    scheme jsonb
);
CREATE SEQUENCE public.questions_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1;
ALTER SEQUENCE public.questions_id_seq OWNED BY public.questions.id;
CREATE TABLE public.respondents (
    study_id bigint NOT NULL,
    number bigint NOT NULL,
    cells text[]
);
CREATE TABLE public.revisions (
    question_id bigint NOT NULL,
    number bigint NOT NULL,
    summary text,
    edit jsonb,
    inverse jsonb,
    undone boolean,
    at timestamp with time zone
);
CREATE TABLE public.studies (
    id bigint NOT NULL,
    name text,
    revision bigint,
    respondents bigint,
    columns jsonb,
    derived jsonb,
    created timestamp with time zone
);
CREATE SEQUENCE public.studies_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1;
ALTER SEQUENCE public.studies_id_seq OWNED BY public.studies.id;
CREATE TABLE public.study_edits (
    study_id bigint NOT NULL,
    number bigint NOT NULL,
    summary text,
    before jsonb,
    after jsonb,
    undone boolean,
    at timestamp with time zone
);
ALTER TABLE ONLY public.questions ALTER COLUMN id SET DEFAULT nextval('public.questions_id_seq'::regclass);
ALTER TABLE ONLY public.studies ALTER COLUMN id SET DEFAULT nextval('public.studies_id_seq'::regclass);
INSERT INTO public.decisions VALUES (1, 3, 'c1', true);
INSERT INTO public.decisions VALUES (1, 6, '', true);
INSERT INTO public.decisions VALUES (1, 0, 'c1', false);
INSERT INTO public.decisions VALUES (1, 7, 'c1', true);
INSERT INTO public.decisions VALUES (1, 8, 'c1', true);
INSERT INTO public.focus VALUES (1, 'waiting', '[{"id": "c1", "kind": "category"}]');
INSERT INTO public.migrations VALUES ('2026-11-24 studies');
INSERT INTO public.migrations VALUES ('2026-11-24 setup');
INSERT INTO public.migrations VALUES ('2026-11-25 named states');
INSERT INTO public.named_states VALUES (1, 'first draft', 3, '{"frame": [{"id": "c1", "code": 1, "name": "Waiting", "rules": ["queue"], "short": "1"}], "lexicon": {"merges": [{"term": "queue", "variants": ["tailback"]}], "stopWords": {"base": "en"}, "inflections": true}, "cleaning": [{"step": "markup"}, {"step": "links"}, {"step": "typography"}, {"step": "contractions"}, {"step": "accents"}, {"step": "glued"}, {"step": "repeats"}], "language": "en", "aftermath": 1, "noAnswers": ["n/a", "na", "asdf", "asdfgh", "qwerty", "xxx", "not applicable", "no comment", "no comments", "prefer not to say", "rather not say", "no answer", "refused"]}', '[{"On": true, "Number": 3, "Category": "c1", "Question": null, "QuestionID": 0}]', '2026-11-25 16:16:16.668342+00');
INSERT INTO public.questions VALUES (1, 1, 4, 15, '{"frame": [{"id": "c1", "code": 1, "name": "Waiting", "rules": ["queue"], "short": "1"}], "lexicon": {"merges": [{"term": "queue", "variants": ["tailback"]}], "stopWords": {"add": ["late"], "base": "en"}, "inflections": true}, "cleaning": [{"step": "markup"}, {"step": "repeats"}, {"step": "letters", "letters": {"x": "y"}}], "language": "en", "aftermath": 1, "noAnswers": ["n/a", "na", "asdf", "asdfgh", "qwerty", "xxx", "not applicable", "no comment", "no comments", "prefer not to say", "rather not say", "no answer", "refused"]}');
INSERT INTO public.respondents VALUES (1, 0, '{1,North,3,1,"The queue was long"}');
INSERT INTO public.respondents VALUES (1, 1, '{2,North,9,0.5,"queues, late boat"}');
INSERT INTO public.respondents VALUES (1, 2, '{3,South,"",2,"tailback at the pier"}');
INSERT INTO public.respondents VALUES (1, 3, '{4,South,5,1,"cold tea, didn’t like it"}');
INSERT INTO public.respondents VALUES (1, 4, '{5,"",7,1,n/a}');
INSERT INTO public.respondents VALUES (1, 5, '{6,North,8,1,""}');
INSERT INTO public.respondents VALUES (1, 6, '{7,South,2,1,late}');
INSERT INTO public.respondents VALUES (1, 7, '{8,North,10,1,"more tea"}');
INSERT INTO public.respondents VALUES (1, 8, '{9,West,1,1,late}');
INSERT INTO public.revisions VALUES (1, 1, 'Added the category Waiting', '{"kind": "add category", "category": {"name": "Waiting", "rules": ["queue"]}}', '{"kind": "restore", "playbook": {"frame": [], "lexicon": {"stopWords": {"base": "en"}, "inflections": true}, "cleaning": [{"step": "markup"}, {"step": "links"}, {"step": "typography"}, {"step": "contractions"}, {"step": "accents"}, {"step": "glued"}, {"step": "repeats"}], "language": "en", "aftermath": 1, "noAnswers": ["n/a", "na", "asdf", "asdfgh", "qwerty", "xxx", "not applicable", "no comment", "no comments", "prefer not to say", "rather not say", "no answer", "refused"]}}', false, '2026-11-25 16:16:16.658413+00');
INSERT INTO public.revisions VALUES (1, 2, 'Merged tailback as queue', '{"kind": "merge", "label": "queue", "terms": ["tailback"]}', '{"kind": "restore", "playbook": {"frame": [{"id": "c1", "code": 1, "name": "Waiting", "rules": ["queue"], "short": "1"}], "lexicon": {"stopWords": {"base": "en"}, "inflections": true}, "cleaning": [{"step": "markup"}, {"step": "links"}, {"step": "typography"}, {"step": "contractions"}, {"step": "accents"}, {"step": "glued"}, {"step": "repeats"}], "language": "en", "aftermath": 1, "noAnswers": ["n/a", "na", "asdf", "asdfgh", "qwerty", "xxx", "not applicable", "no comment", "no comments", "prefer not to say", "rather not say", "no answer", "refused"]}}', false, '2026-11-25 16:16:16.662698+00');
INSERT INTO public.revisions VALUES (1, 3, 'Put Waiting on one answer by hand', '{"id": "c1", "to": "on", "kind": "decide", "answers": [3]}', '{"put": [{"to": "rules", "answer": 3, "category": "c1"}], "kind": "restore"}', false, '2026-11-25 16:16:16.664788+00');
INSERT INTO public.revisions VALUES (1, 4, 'Added the category Tea', '{"kind": "add category", "category": {"name": "Tea", "rules": ["tea"]}}', '{"kind": "restore", "playbook": {"frame": [{"id": "c1", "code": 1, "name": "Waiting", "rules": ["queue"], "short": "1"}], "lexicon": {"merges": [{"term": "queue", "variants": ["tailback"]}], "stopWords": {"base": "en"}, "inflections": true}, "cleaning": [{"step": "markup"}, {"step": "links"}, {"step": "typography"}, {"step": "contractions"}, {"step": "accents"}, {"step": "glued"}, {"step": "repeats"}], "language": "en", "aftermath": 1, "noAnswers": ["n/a", "na", "asdf", "asdfgh", "qwerty", "xxx", "not applicable", "no comment", "no comments", "prefer not to say", "rather not say", "no answer", "refused"]}}', false, '2026-11-25 16:16:16.672529+00');
INSERT INTO public.revisions VALUES (1, 5, 'Put Tea on 2 answers by hand', '{"id": "c2", "to": "on", "kind": "decide", "answers": [0, 2]}', '{"put": [{"to": "rules", "answer": 0, "category": "c2"}, {"to": "rules", "answer": 2, "category": "c2"}], "kind": "restore"}', false, '2026-11-25 16:16:16.675846+00');
INSERT INTO public.revisions VALUES (1, 6, 'Removed the category Tea', '{"id": "c2", "kind": "remove category"}', '{"put": [{"to": "on", "answer": 0, "category": "c2"}, {"to": "on", "answer": 2, "category": "c2"}], "kind": "restore", "playbook": {"frame": [{"id": "c1", "code": 1, "name": "Waiting", "rules": ["queue"], "short": "1"}, {"id": "c2", "code": 2, "name": "Tea", "rules": ["tea"], "short": "2"}], "lexicon": {"merges": [{"term": "queue", "variants": ["tailback"]}], "stopWords": {"base": "en"}, "inflections": true}, "cleaning": [{"step": "markup"}, {"step": "links"}, {"step": "typography"}, {"step": "contractions"}, {"step": "accents"}, {"step": "glued"}, {"step": "repeats"}], "language": "en", "aftermath": 1, "noAnswers": ["n/a", "na", "asdf", "asdfgh", "qwerty", "xxx", "not applicable", "no comment", "no comments", "prefer not to say", "rather not say", "no answer", "refused"]}}', false, '2026-11-25 16:16:16.680254+00');
INSERT INTO public.revisions VALUES (1, 7, 'Settled one answer', '{"to": "on", "kind": "settle", "answers": [6]}', '{"put": [{"to": "off", "answer": 6, "category": ""}], "kind": "restore"}', false, '2026-11-25 16:16:16.686617+00');
INSERT INTO public.revisions VALUES (1, 8, 'Changed the cleaning steps', '{"kind": "cleaning", "steps": [{"step": "markup"}, {"step": "repeats"}, {"step": "letters", "letters": {"x": "y"}}]}', '{"kind": "restore", "playbook": {"frame": [{"id": "c1", "code": 1, "name": "Waiting", "rules": ["queue"], "short": "1"}], "lexicon": {"merges": [{"term": "queue", "variants": ["tailback"]}], "stopWords": {"base": "en"}, "inflections": true}, "cleaning": [{"step": "markup"}, {"step": "links"}, {"step": "typography"}, {"step": "contractions"}, {"step": "accents"}, {"step": "glued"}, {"step": "repeats"}], "language": "en", "aftermath": 1, "noAnswers": ["n/a", "na", "asdf", "asdfgh", "qwerty", "xxx", "not applicable", "no comment", "no comments", "prefer not to say", "rather not say", "no answer", "refused"]}}', false, '2026-11-25 16:16:16.689426+00');
INSERT INTO public.revisions VALUES (1, 9, 'Hid boat', '{"kind": "hide", "terms": ["boat"]}', '{"kind": "restore", "playbook": {"frame": [{"id": "c1", "code": 1, "name": "Waiting", "rules": ["queue"], "short": "1"}], "lexicon": {"merges": [{"term": "queue", "variants": ["tailback"]}], "stopWords": {"base": "en"}, "inflections": true}, "cleaning": [{"step": "markup"}, {"step": "repeats"}, {"step": "letters", "letters": {"x": "y"}}], "language": "en", "aftermath": 1, "noAnswers": ["n/a", "na", "asdf", "asdfgh", "qwerty", "xxx", "not applicable", "no comment", "no comments", "prefer not to say", "rather not say", "no answer", "refused"]}}', true, '2026-11-25 16:16:16.692213+00');
INSERT INTO public.revisions VALUES (1, 11, 'Took Waiting off one answer by hand', '{"id": "c1", "to": "off", "kind": "decide", "answers": [0]}', '{"put": [{"to": "rules", "answer": 0, "category": "c1"}], "kind": "restore"}', false, '2026-11-25 16:16:16.704623+00');
INSERT INTO public.revisions VALUES (1, 12, 'Put Waiting on 2 answers by hand', '{"id": "c1", "to": "on", "kind": "decide", "answers": [7, 8]}', '{"put": [{"to": "rules", "answer": 7, "category": "c1"}, {"to": "rules", "answer": 8, "category": "c1"}], "kind": "restore"}', false, '2026-11-25 16:16:16.729098+00');
INSERT INTO public.revisions VALUES (1, 13, 'Hid late', '{"kind": "hide", "terms": ["late"]}', '{"kind": "restore", "playbook": {"frame": [{"id": "c1", "code": 1, "name": "Waiting", "rules": ["queue"], "short": "1"}], "lexicon": {"merges": [{"term": "queue", "variants": ["tailback"]}], "stopWords": {"base": "en"}, "inflections": true}, "cleaning": [{"step": "markup"}, {"step": "repeats"}, {"step": "letters", "letters": {"x": "y"}}], "language": "en", "aftermath": 1, "noAnswers": ["n/a", "na", "asdf", "asdfgh", "qwerty", "xxx", "not applicable", "no comment", "no comments", "prefer not to say", "rather not say", "no answer", "refused"]}}', false, '2026-11-25 16:16:16.736463+00');
INSERT INTO public.revisions VALUES (1, 14, 'Masked mail addresses and phone numbers', '{"to": "on", "kind": "mask"}', '{"kind": "restore", "playbook": {"frame": [{"id": "c1", "code": 1, "name": "Waiting", "rules": ["queue"], "short": "1"}], "lexicon": {"merges": [{"term": "queue", "variants": ["tailback"]}], "stopWords": {"add": ["late"], "base": "en"}, "inflections": true}, "cleaning": [{"step": "markup"}, {"step": "repeats"}, {"step": "letters", "letters": {"x": "y"}}], "language": "en", "aftermath": 1, "noAnswers": ["n/a", "na", "asdf", "asdfgh", "qwerty", "xxx", "not applicable", "no comment", "no comments", "prefer not to say", "rather not say", "no answer", "refused"]}}', true, '2026-11-25 16:16:16.738229+00');
INSERT INTO public.studies VALUES (1, 'Ferries', 2, 9, '[{"name": "id", "role": "identifier"}, {"name": "route", "role": "segment"}, {"name": "recommend", "role": "number"}, {"name": "weight", "role": "weight"}, {"name": "answer", "role": "open-ended"}]', '[{"of": ["recommend"], "kind": "bands", "name": "band", "edges": [7], "names": ["low", "high"]}]', '2026-11-25 16:16:16.526849+00');
INSERT INTO public.study_edits VALUES (1, 1, 'Made the variable band', '{"columns": [{"name": "id", "role": "identifier"}, {"name": "route", "role": "segment"}, {"name": "recommend", "role": "number"}, {"name": "weight", "role": "weight"}, {"name": "answer", "role": "open-ended"}], "respondents": 7}', '{"columns": [{"name": "id", "role": "identifier"}, {"name": "route", "role": "segment"}, {"name": "recommend", "role": "number"}, {"name": "weight", "role": "weight"}, {"name": "answer", "role": "open-ended"}], "derived": [{"of": ["recommend"], "kind": "bands", "name": "band", "edges": [7], "names": ["low", "high"]}], "respondents": 7}', false, '2026-11-25 16:16:16.712003+00');
INSERT INTO public.study_edits VALUES (1, 2, 'Added 2 respondents', '{"columns": [{"name": "id", "role": "identifier"}, {"name": "route", "role": "segment"}, {"name": "recommend", "role": "number"}, {"name": "weight", "role": "weight"}, {"name": "answer", "role": "open-ended"}], "derived": [{"of": ["recommend"], "kind": "bands", "name": "band", "edges": [7], "names": ["low", "high"]}], "respondents": 7}', '{"columns": [{"name": "id", "role": "identifier"}, {"name": "route", "role": "segment"}, {"name": "recommend", "role": "number"}, {"name": "weight", "role": "weight"}, {"name": "answer", "role": "open-ended"}], "derived": [{"of": ["recommend"], "kind": "bands", "name": "band", "edges": [7], "names": ["low", "high"]}], "respondents": 9}', false, '2026-11-25 16:16:16.717013+00');
SELECT pg_catalog.setval('public.questions_id_seq', 1, true);
SELECT pg_catalog.setval('public.studies_id_seq', 1, true);
ALTER TABLE ONLY public.decisions
    ADD CONSTRAINT decisions_pkey PRIMARY KEY (question_id, number, category);
ALTER TABLE ONLY public.focus
    ADD CONSTRAINT focus_pkey PRIMARY KEY (question_id, name);
ALTER TABLE ONLY public.migrations
    ADD CONSTRAINT migrations_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.named_states
    ADD CONSTRAINT named_states_pkey PRIMARY KEY (question_id, name);
ALTER TABLE ONLY public.questions
    ADD CONSTRAINT questions_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.respondents
    ADD CONSTRAINT respondents_pkey PRIMARY KEY (study_id, number);
ALTER TABLE ONLY public.revisions
    ADD CONSTRAINT revisions_pkey PRIMARY KEY (question_id, number);
ALTER TABLE ONLY public.studies
    ADD CONSTRAINT studies_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.study_edits
    ADD CONSTRAINT study_edits_pkey PRIMARY KEY (study_id, number);
CREATE INDEX idx_questions_study_id ON public.questions USING btree (study_id);
ALTER TABLE ONLY public.decisions
    ADD CONSTRAINT fk_decisions_question FOREIGN KEY (question_id) REFERENCES public.questions(id) ON DELETE CASCADE;
ALTER TABLE ONLY public.focus
    ADD CONSTRAINT fk_focus_question FOREIGN KEY (question_id) REFERENCES public.questions(id) ON DELETE CASCADE;
ALTER TABLE ONLY public.named_states
    ADD CONSTRAINT fk_named_states_question FOREIGN KEY (question_id) REFERENCES public.questions(id) ON DELETE CASCADE;
ALTER TABLE ONLY public.questions
    ADD CONSTRAINT fk_questions_study FOREIGN KEY (study_id) REFERENCES public.studies(id) ON DELETE CASCADE;
ALTER TABLE ONLY public.revisions
    ADD CONSTRAINT fk_revisions_question FOREIGN KEY (question_id) REFERENCES public.questions(id) ON DELETE CASCADE;
ALTER TABLE ONLY public.study_edits
    ADD CONSTRAINT fk_study_edits_study FOREIGN KEY (study_id) REFERENCES public.studies(id) ON DELETE CASCADE;
