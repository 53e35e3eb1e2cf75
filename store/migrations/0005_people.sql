-- +goose Up
-- Teams: apps belong to a workspace, whose members build them.
CREATE TABLE workspaces (
	id uuid PRIMARY KEY,
	name text NOT NULL,
	created_at timestamptz NOT NULL DEFAULT now()
);
CREATE TABLE members (
	workspace_id uuid NOT NULL REFERENCES workspaces (id) ON DELETE CASCADE,
	builder_id uuid NOT NULL REFERENCES builders (id) ON DELETE CASCADE,
	role text NOT NULL CHECK (role IN ('owner', 'editor', 'viewer')),
	since timestamptz NOT NULL DEFAULT now(),
	PRIMARY KEY (workspace_id, builder_id)
);
CREATE INDEX members_builder ON members (builder_id);

-- Every builder so far has an own workspace, known by the same id.
INSERT INTO workspaces (id, name) SELECT id, name || '’s workspace' FROM builders;
INSERT INTO members (workspace_id, builder_id, role) SELECT id, id, 'owner' FROM builders;
ALTER TABLE apps ADD COLUMN workspace_id uuid REFERENCES workspaces (id);
UPDATE apps SET workspace_id = owner_id;
ALTER TABLE apps ALTER COLUMN workspace_id SET NOT NULL, DROP COLUMN owner_id;
CREATE INDEX apps_workspace ON apps (workspace_id);

-- Who did what in a workspace, beyond the changes of a draft.
CREATE TABLE team_log (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	workspace_id uuid NOT NULL REFERENCES workspaces (id) ON DELETE CASCADE,
	app_id uuid REFERENCES apps (id) ON DELETE SET NULL,
	at timestamptz NOT NULL DEFAULT now(),
	by text NOT NULL,
	what text NOT NULL
);
CREATE INDEX team_log_workspace ON team_log (workspace_id, id);

-- An account is no account before its address is confirmed.
ALTER TABLE builders ADD COLUMN confirmed_at timestamptz, ADD COLUMN totp_secret text, ADD COLUMN totp_last bigint NOT NULL DEFAULT 0, ADD COLUMN recovery text NOT NULL DEFAULT '';
UPDATE builders SET confirmed_at = now();

-- Codes are for a purpose, and carry what is to happen when they are used.
-- Those that were on their way are void.
DROP TABLE codes;
CREATE TABLE codes (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	app_id uuid REFERENCES apps (id) ON DELETE CASCADE,
	purpose text NOT NULL,
	subject text NOT NULL,
	salt bytea NOT NULL,
	hash bytea NOT NULL,
	tries integer NOT NULL DEFAULT 0,
	void boolean NOT NULL DEFAULT false,
	data jsonb NOT NULL DEFAULT 'null',
	created_at timestamptz NOT NULL DEFAULT now(),
	expires_at timestamptz NOT NULL
);
CREATE INDEX codes_who ON codes (subject, purpose);

-- Links in mails.
CREATE TABLE tokens (
	id uuid PRIMARY KEY,
	hash bytea NOT NULL UNIQUE,
	app_id uuid REFERENCES apps (id) ON DELETE CASCADE,
	workspace_id uuid REFERENCES workspaces (id) ON DELETE CASCADE,
	purpose text NOT NULL,
	subject text NOT NULL,
	data jsonb NOT NULL DEFAULT 'null',
	created_at timestamptz NOT NULL DEFAULT now(),
	expires_at timestamptz NOT NULL
);
CREATE INDEX tokens_app ON tokens (app_id, purpose);

-- What the people of an app prove themselves with, besides their address.
CREATE TABLE people_accounts (
	app_id uuid NOT NULL REFERENCES apps (id) ON DELETE CASCADE,
	email text NOT NULL,
	password text,
	totp_secret text,
	totp_last bigint NOT NULL DEFAULT 0,
	recovery text NOT NULL DEFAULT '',
	closed_at timestamptz,
	PRIMARY KEY (app_id, email)
);

-- Which terms somebody accepted, and when.
CREATE TABLE accepted_terms (
	app_id uuid NOT NULL REFERENCES apps (id) ON DELETE CASCADE,
	email text NOT NULL,
	version text NOT NULL,
	at timestamptz NOT NULL DEFAULT now(),
	PRIMARY KEY (app_id, email, version)
);

-- Who signed up and waits to be let in.
CREATE TABLE waiting (
	id uuid PRIMARY KEY,
	app_id uuid NOT NULL REFERENCES apps (id) ON DELETE CASCADE,
	role_id text NOT NULL,
	email text NOT NULL,
	answers jsonb NOT NULL,
	asked_at timestamptz NOT NULL DEFAULT now(),
	UNIQUE (app_id, role_id, email)
);

-- What happened at the gate of an app, for its founder.
CREATE TABLE gate_log (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	app_id uuid NOT NULL REFERENCES apps (id) ON DELETE CASCADE,
	at timestamptz NOT NULL DEFAULT now(),
	what text NOT NULL,
	email text NOT NULL,
	host text NOT NULL DEFAULT ''
);
CREATE INDEX gate_log_app ON gate_log (app_id, id);

-- A session knows how far signing in went, as which record, and from where.
ALTER TABLE sessions ADD COLUMN id uuid NOT NULL DEFAULT gen_random_uuid(), ADD COLUMN state text NOT NULL DEFAULT 'in' CHECK (state IN ('in', 'second', 'enrol')),
	ADD COLUMN hours integer NOT NULL DEFAULT 12, ADD COLUMN prolonged boolean NOT NULL DEFAULT false, ADD COLUMN visit boolean NOT NULL DEFAULT false,
	ADD COLUMN people_table text NOT NULL DEFAULT '', ADD COLUMN record_id text NOT NULL DEFAULT '', ADD COLUMN agent text NOT NULL DEFAULT '',
	ADD COLUMN secret text NOT NULL DEFAULT '', ADD COLUMN seen_at timestamptz NOT NULL DEFAULT now(), ADD COLUMN acting jsonb;
CREATE INDEX sessions_person ON sessions (app_id, email);
