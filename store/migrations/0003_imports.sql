-- +goose Up
-- Files that were brought, in pieces, so that any server can read them.
CREATE TABLE uploads (
	id uuid PRIMARY KEY,
	app_id uuid NOT NULL REFERENCES apps (id) ON DELETE CASCADE,
	name text NOT NULL,
	size bigint NOT NULL DEFAULT 0,
	created_at timestamptz NOT NULL DEFAULT now()
);
CREATE TABLE upload_pieces (
	upload_id uuid NOT NULL REFERENCES uploads (id) ON DELETE CASCADE,
	number integer NOT NULL,
	data bytea NOT NULL,
	PRIMARY KEY (upload_id, number)
);
ALTER TABLE upload_pieces ALTER COLUMN data SET STORAGE EXTERNAL;

CREATE TABLE imports (
	id uuid PRIMARY KEY,
	app_id uuid NOT NULL REFERENCES apps (id) ON DELETE CASCADE,
	made_by text NOT NULL,
	uploads uuid[] NOT NULL,
	proposal jsonb NOT NULL,
	status text NOT NULL DEFAULT 'waiting' CHECK (status IN ('waiting', 'running', 'done', 'failed', 'cancelled')),
	message text NOT NULL DEFAULT '',
	total integer NOT NULL DEFAULT 0,
	done integer NOT NULL DEFAULT 0,
	imported integer NOT NULL DEFAULT 0,
	created_at timestamptz NOT NULL DEFAULT now()
);

-- Rows that could not be read, with the reason.
CREATE TABLE imports_aside (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	import_id uuid NOT NULL REFERENCES imports (id) ON DELETE CASCADE,
	sheet integer NOT NULL,
	row_number integer NOT NULL,
	reason text NOT NULL,
	cells jsonb NOT NULL
);
CREATE INDEX imports_aside_import ON imports_aside (import_id, sheet, row_number);

-- Which records an import added to tables that were there, so that it can be undone.
CREATE TABLE imports_added (
	import_id uuid NOT NULL REFERENCES imports (id) ON DELETE CASCADE,
	table_id text NOT NULL,
	record_id uuid NOT NULL
);
CREATE INDEX imports_added_import ON imports_added (import_id);
ALTER TABLE activities ADD COLUMN import_id uuid;
