-- +goose Up
CREATE TABLE builders (
	id uuid PRIMARY KEY,
	email text NOT NULL,
	name text NOT NULL,
	password text NOT NULL,
	created_at timestamptz NOT NULL DEFAULT now()
);
CREATE UNIQUE INDEX builders_email ON builders (lower(email));

CREATE TABLE apps (
	id uuid PRIMARY KEY,
	owner_id uuid NOT NULL REFERENCES builders (id),
	slug text NOT NULL UNIQUE,
	name text NOT NULL,
	revision integer NOT NULL DEFAULT 0,
	live_version integer NOT NULL DEFAULT 0,
	created_at timestamptz NOT NULL DEFAULT now()
);

-- Every accepted change makes a revision of the draft's blueprint.
CREATE TABLE revisions (
	app_id uuid NOT NULL REFERENCES apps (id) ON DELETE CASCADE,
	number integer NOT NULL,
	blueprint jsonb NOT NULL,
	PRIMARY KEY (app_id, number)
);

-- What was published, and when. Going back makes a new version.
CREATE TABLE versions (
	app_id uuid NOT NULL REFERENCES apps (id) ON DELETE CASCADE,
	number integer NOT NULL,
	blueprint jsonb NOT NULL,
	differences jsonb NOT NULL,
	made_by text NOT NULL,
	made_at timestamptz NOT NULL DEFAULT now(),
	PRIMARY KEY (app_id, number)
);

-- What was done to the draft, newest last: the list of changes, and what undo
-- and redo walk along.
CREATE TABLE activities (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	app_id uuid NOT NULL REFERENCES apps (id) ON DELETE CASCADE,
	made_at timestamptz NOT NULL DEFAULT now(),
	made_by text NOT NULL,
	sentences jsonb NOT NULL,
	before_revision integer,
	after_revision integer,
	writes jsonb,
	status text NOT NULL DEFAULT 'done' CHECK (status IN ('done', 'undone', 'dropped'))
);
CREATE INDEX activities_app ON activities (app_id, id);

CREATE TABLE sessions (
	token_hash bytea PRIMARY KEY,
	builder_id uuid REFERENCES builders (id) ON DELETE CASCADE,
	app_id uuid REFERENCES apps (id) ON DELETE CASCADE,
	email text,
	created_at timestamptz NOT NULL DEFAULT now(),
	expires_at timestamptz NOT NULL,
	CHECK ((builder_id IS NULL) <> (app_id IS NULL AND email IS NULL))
);

CREATE TABLE codes (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	app_id uuid NOT NULL REFERENCES apps (id) ON DELETE CASCADE,
	email text NOT NULL,
	salt bytea NOT NULL,
	hash bytea NOT NULL,
	tries integer NOT NULL DEFAULT 0,
	void boolean NOT NULL DEFAULT false,
	created_at timestamptz NOT NULL DEFAULT now(),
	expires_at timestamptz NOT NULL
);
CREATE INDEX codes_who ON codes (app_id, email);

-- Counts of what is limited, by key and window of time.
CREATE TABLE hits (
	key text NOT NULL,
	window_start timestamptz NOT NULL,
	count integer NOT NULL,
	PRIMARY KEY (key, window_start)
);

CREATE TABLE mails (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	app_id uuid REFERENCES apps (id) ON DELETE CASCADE,
	received_at timestamptz NOT NULL DEFAULT now(),
	sender text NOT NULL,
	recipients text NOT NULL,
	subject text NOT NULL,
	body text NOT NULL
);
CREATE INDEX mails_app ON mails (app_id, id);

-- The rules of the expression language about empties and limits.
CREATE FUNCTION number_bounded(x numeric) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN abs(x) <= 1e40 THEN x END $$;
CREATE FUNCTION number_add(x numeric, y numeric) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT pinegate.number_bounded(COALESCE(x + y, x, y)) $$;
CREATE FUNCTION number_subtract(x numeric, y numeric) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT pinegate.number_bounded(COALESCE(x - y, x, -y)) $$;
CREATE FUNCTION number_multiply(x numeric, y numeric) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT pinegate.number_bounded(x * y) $$;
-- Half away from zero to 12 places, without rounding twice.
CREATE FUNCTION number_divide(x numeric, y numeric) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN y <> 0 THEN pinegate.number_bounded(
		sign(x) * sign(y) * div(abs(x) * 2000000000000 + abs(y), 2 * abs(y)) * 0.000000000001) END $$;
CREATE FUNCTION number_negate(x numeric) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT -x $$;
CREATE FUNCTION text_join(x text, y text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN octet_length(COALESCE(x, '')) + octet_length(COALESCE(y, '')) BETWEEN 1 AND 1048576
		THEN COALESCE(x, '') || COALESCE(y, '') END $$;

-- Conversions for fields whose type changes; NULL where a value cannot be converted.
CREATE FUNCTION text_to_number(x text) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN btrim(x) ~ '^[+-]?[0-9]{1,20}([.][0-9]{1,30})?$' THEN btrim(x)::numeric END $$;
CREATE FUNCTION text_to_yes_no(x text) RETURNS boolean LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE lower(btrim(x)) WHEN 'yes' THEN true WHEN 'true' THEN true WHEN 'no' THEN false WHEN 'false' THEN false END $$;
-- +goose StatementBegin
CREATE FUNCTION text_to_date(x text) RETURNS date LANGUAGE plpgsql IMMUTABLE PARALLEL SAFE AS $$
BEGIN
	IF btrim(x) ~ '^[0-9]{4}-[0-9]{2}-[0-9]{2}$' THEN
		RETURN make_date(substr(btrim(x), 1, 4)::int, substr(btrim(x), 6, 2)::int, substr(btrim(x), 9, 2)::int);
	END IF;
	RETURN NULL;
EXCEPTION WHEN datetime_field_overflow THEN
	RETURN NULL;
END $$;
-- +goose StatementEnd
