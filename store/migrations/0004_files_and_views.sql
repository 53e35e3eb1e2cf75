-- +goose Up
-- What the files of records are; the bytes are in the blob store. A file without
-- a record was received and is not kept yet.
-- +goose StatementBegin
CREATE FUNCTION make_files(environment text) RETURNS void LANGUAGE plpgsql AS $$
BEGIN
	EXECUTE format('CREATE TABLE %I._files (
		id text PRIMARY KEY,
		name text NOT NULL,
		type text NOT NULL,
		size bigint NOT NULL,
		picture boolean NOT NULL,
		field_id text NOT NULL,
		record_id uuid,
		added_by text NOT NULL,
		added_at timestamptz NOT NULL DEFAULT now(),
		gone boolean NOT NULL DEFAULT false
	)', environment);
	EXECUTE format('CREATE INDEX ON %I._files (record_id)', environment);
	EXECUTE format('CREATE INDEX ON %I._files (added_at) WHERE record_id IS NULL OR gone', environment);
END $$;
-- +goose StatementEnd
SELECT make_files(nspname) FROM pg_namespace WHERE nspname ~ '^app_[0-9a-f]{32}_(draft|live)$';

-- Pictures of choices. Everybody who may see a field sees its choices, so these
-- are no secret.
CREATE TABLE pictures (
	id text PRIMARY KEY,
	app_id uuid NOT NULL REFERENCES apps (id) ON DELETE CASCADE,
	name text NOT NULL,
	type text NOT NULL,
	added_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX pictures_app ON pictures (app_id);

-- How the grid of a table is looked at. Views of nobody in particular are shared.
CREATE TABLE views (
	id uuid PRIMARY KEY,
	app_id uuid NOT NULL REFERENCES apps (id) ON DELETE CASCADE,
	table_id text NOT NULL,
	builder_id uuid REFERENCES builders (id) ON DELETE CASCADE,
	name text NOT NULL,
	settings jsonb NOT NULL,
	changed_at timestamptz NOT NULL DEFAULT now(),
	UNIQUE NULLS NOT DISTINCT (app_id, table_id, builder_id, name)
);

-- Into which tables and fields an import went, so that rows that were kept aside
-- can follow.
ALTER TABLE imports ADD COLUMN placed jsonb;
