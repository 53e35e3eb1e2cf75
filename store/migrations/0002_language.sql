-- +goose Up
-- The functions of the expression language. Each does exactly what its
-- counterpart in core/expr does. Those that are STRICT are empty where an
-- argument is.

-- A number without what is behind the point, as a count.
CREATE FUNCTION whole(x numeric) RETURNS integer LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN x < -1000000000 THEN -1000000000 WHEN x > 1000000000 THEN 1000000000 ELSE trunc(x)::integer END $$;
CREATE FUNCTION text_bounded(x text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN octet_length(x) BETWEEN 1 AND 1048576 THEN x END $$;

CREATE FUNCTION number_abs(x numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS $$ SELECT abs(x) $$;
CREATE FUNCTION number_sign(x numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS $$ SELECT sign(x) $$;
CREATE FUNCTION number_int(x numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS $$ SELECT pinegate.number_bounded(floor(x)) $$;
CREATE FUNCTION places(n numeric) RETURNS integer LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT GREATEST(-50, LEAST(50, pinegate.whole(n))) $$;
CREATE FUNCTION number_round(x numeric, n numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT pinegate.number_bounded(round(x, pinegate.places(n))) $$;
CREATE FUNCTION number_round_down(x numeric, n numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT trunc(x, pinegate.places(n)) $$;
CREATE FUNCTION number_round_up(x numeric, n numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN trunc(x, pinegate.places(n)) = x THEN x
		ELSE pinegate.number_bounded(trunc(x, pinegate.places(n)) + sign(x) * ('1e' || -pinegate.places(n))::numeric) END $$;
CREATE FUNCTION number_ceiling(x numeric, step numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN step = 0 THEN 0 ELSE pinegate.number_bounded(abs(step) * (div(x, abs(step)) + CASE WHEN mod(x, abs(step)) > 0 THEN 1 ELSE 0 END)) END $$;
CREATE FUNCTION number_floor(x numeric, step numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN step = 0 THEN 0 ELSE pinegate.number_bounded(abs(step) * (div(x, abs(step)) - CASE WHEN mod(x, abs(step)) < 0 THEN 1 ELSE 0 END)) END $$;
CREATE FUNCTION number_mod(x numeric, y numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN y <> 0 THEN mod(x, y) + CASE WHEN sign(mod(x, y)) * sign(y) < 0 THEN y ELSE 0 END END $$;
CREATE FUNCTION number_percent(part numeric, total numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT pinegate.number_divide(pinegate.number_bounded(part * 100), total) $$;
CREATE FUNCTION number_clamp(x numeric, low numeric, high numeric) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN x < low THEN low WHEN x > high THEN high ELSE x END $$;

-- What is not exact is computed to many places and rounded to 12. The zeros
-- that are added set the number of places to which PostgreSQL computes.
CREATE FUNCTION number_sqrt(x numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN x >= 0 THEN round(sqrt(x + 0.0000000000000000000000000000000000000000), 12) END $$;
CREATE FUNCTION number_exp(x numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN x > 93 THEN NULL WHEN x < -30 THEN 0 ELSE pinegate.number_bounded(round(exp(x + 0.0000000000000000000000000000000000000000), 12)) END $$;
CREATE FUNCTION number_ln(x numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN x > 0 THEN round(ln(x + 0.0000000000000000000000000000000000000000), 12) END $$;
CREATE FUNCTION number_log10(x numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN x > 0 THEN round(log(x + 0.0000000000000000000000000000000000000000), 12) END $$;
CREATE FUNCTION number_power_fine(x numeric, y numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE
		WHEN y = 0 THEN 1
		WHEN x = 0 AND y > 0 THEN 0
		WHEN x = 0 OR x < 0 AND y <> trunc(y) THEN NULL
		WHEN log(abs(x) + 0.0000000000000000000000000000000000000000) * y > 41 THEN NULL
		WHEN log(abs(x) + 0.0000000000000000000000000000000000000000) * y < -45 THEN 0
		ELSE power(x + 0.000000000000000000000000000000000000000000000000000000000000, y) END $$;
CREATE FUNCTION number_power(x numeric, y numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT pinegate.number_bounded(round(pinegate.number_power_fine(x, y), 12)) $$;

-- Money over time reckons to 40 places.
CREATE FUNCTION fine_multiply(x numeric, y numeric) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT round(x * y, 40) $$;
CREATE FUNCTION fine_divide(x numeric, y numeric) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT sign(x) * sign(y) * div(abs(x) * 2e40 + abs(y), 2 * abs(y)) * 1e-40 $$;
CREATE FUNCTION money_growth(rate numeric, n numeric) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN rate > -1 THEN round(pinegate.number_bounded(pinegate.number_power_fine(rate + 1, n)), 40) END $$;
CREATE FUNCTION money_settled(x numeric) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT pinegate.number_bounded(round(x, 12)) $$;
-- +goose StatementBegin
CREATE FUNCTION money_pmt(rate numeric, n numeric, present numeric, future numeric, at_start numeric) RETURNS numeric LANGUAGE plpgsql IMMUTABLE STRICT PARALLEL SAFE AS $$
DECLARE
	q numeric := 1;
	due numeric := CASE WHEN at_start = 0 THEN 0 ELSE 1 END;
	bottom numeric;
BEGIN
	IF rate = 0 THEN
		RETURN CASE WHEN n <> 0 THEN pinegate.money_settled(pinegate.fine_divide(-(present + future), n)) END;
	END IF;
	q := pinegate.money_growth(rate, n);
	IF q IS NULL OR q = 1 THEN
		RETURN NULL;
	END IF;
	bottom := pinegate.fine_multiply(1 + pinegate.fine_multiply(rate, due), q - 1);
	IF bottom = 0 THEN
		RETURN NULL;
	END IF;
	RETURN pinegate.money_settled(pinegate.fine_divide(pinegate.fine_multiply(-(pinegate.fine_multiply(present, q) + future), rate), bottom));
END $$;
CREATE FUNCTION money_regular(rate numeric, q numeric, payment numeric, at_start numeric) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT pinegate.fine_divide(pinegate.fine_multiply(pinegate.fine_multiply(payment, 1 + pinegate.fine_multiply(rate, CASE WHEN at_start = 0 THEN 0 ELSE 1 END)), q - 1), rate) $$;
CREATE FUNCTION money_pv(rate numeric, n numeric, payment numeric, future numeric, at_start numeric) RETURNS numeric LANGUAGE plpgsql IMMUTABLE STRICT PARALLEL SAFE AS $$
DECLARE
	q numeric;
BEGIN
	IF rate = 0 THEN
		RETURN pinegate.money_settled(-(future + pinegate.fine_multiply(payment, n)));
	END IF;
	q := pinegate.money_growth(rate, n);
	IF q IS NULL OR q = 0 THEN
		RETURN NULL;
	END IF;
	RETURN pinegate.money_settled(pinegate.fine_divide(-(future + pinegate.money_regular(rate, q, payment, at_start)), q));
END $$;
CREATE FUNCTION money_fv(rate numeric, n numeric, payment numeric, present numeric, at_start numeric) RETURNS numeric LANGUAGE plpgsql IMMUTABLE STRICT PARALLEL SAFE AS $$
DECLARE
	q numeric;
BEGIN
	IF rate = 0 THEN
		RETURN pinegate.money_settled(-(present + pinegate.fine_multiply(payment, n)));
	END IF;
	q := pinegate.money_growth(rate, n);
	RETURN pinegate.money_settled(-(pinegate.fine_multiply(present, q) + pinegate.money_regular(rate, q, payment, at_start)));
END $$;
CREATE FUNCTION money_nper(rate numeric, payment numeric, present numeric, future numeric, at_start numeric) RETURNS numeric LANGUAGE plpgsql IMMUTABLE STRICT PARALLEL SAFE AS $$
DECLARE
	regular numeric;
	bottom numeric;
	a numeric;
	b numeric;
BEGIN
	IF rate = 0 THEN
		RETURN CASE WHEN payment <> 0 THEN pinegate.money_settled(pinegate.fine_divide(-(present + future), payment)) END;
	END IF;
	IF rate <= -1 THEN
		RETURN NULL;
	END IF;
	regular := pinegate.fine_multiply(payment, 1 + pinegate.fine_multiply(rate, CASE WHEN at_start = 0 THEN 0 ELSE 1 END));
	bottom := regular + pinegate.fine_multiply(present, rate);
	IF bottom = 0 THEN
		RETURN NULL;
	END IF;
	a := pinegate.number_ln(pinegate.fine_divide(regular - pinegate.fine_multiply(future, rate), bottom));
	b := pinegate.number_ln(rate + 1);
	IF b = 0 THEN
		RETURN NULL;
	END IF;
	RETURN pinegate.money_settled(pinegate.fine_divide(a, b));
END $$;
-- What amounts are worth by the factor that each period takes off.
CREATE FUNCTION money_discounted(list numeric[], factor numeric, first integer) RETURNS numeric LANGUAGE plpgsql IMMUTABLE PARALLEL SAFE AS $$
DECLARE
	total numeric := 0;
	f numeric := 1;
	v numeric;
BEGIN
	FOR i IN 1..first LOOP
		f := pinegate.fine_multiply(f, factor);
	END LOOP;
	FOREACH v IN ARRAY list LOOP
		total := total + pinegate.fine_multiply(v, f);
		f := pinegate.fine_multiply(f, factor);
		IF abs(f) > 1e40 THEN
			RETURN NULL;
		END IF;
	END LOOP;
	RETURN total;
END $$;
CREATE FUNCTION money_npv(rate numeric, list numeric[]) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN rate > -1 THEN pinegate.money_settled(pinegate.money_discounted(list, pinegate.fine_divide(1, 1 + rate), 1)) END $$;
CREATE FUNCTION money_worth(list numeric[], rate numeric) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN rate > -1 AND rate <= 1e10 THEN pinegate.money_discounted(list, pinegate.fine_divide(1, 1 + rate), 0) END $$;
CREATE FUNCTION money_irr(list numeric[], guess numeric) RETURNS numeric LANGUAGE plpgsql IMMUTABLE STRICT PARALLEL SAFE AS $$
DECLARE
	r0 numeric := guess;
	r1 numeric := guess + 0.01;
	r2 numeric;
	f0 numeric := pinegate.money_worth(list, guess);
	f1 numeric;
	step numeric;
BEGIN
	FOR i IN 1..60 LOOP
		f1 := pinegate.money_worth(list, r1);
		IF f0 IS NULL OR f1 IS NULL THEN
			RETURN NULL;
		END IF;
		IF f1 = 0 THEN
			RETURN pinegate.money_settled(r1);
		END IF;
		IF f1 = f0 THEN
			RETURN NULL;
		END IF;
		step := pinegate.fine_divide(pinegate.fine_multiply(f1, r1 - r0), f1 - f0);
		r2 := round(r1 - step, 40);
		r0 := r1;
		f0 := f1;
		r1 := r2;
		IF abs(step) < 1e-25 THEN
			RETURN pinegate.money_settled(r1);
		END IF;
	END LOOP;
	RETURN NULL;
END $$;
-- +goose StatementEnd

CREATE FUNCTION list_sum(x numeric[]) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT pinegate.number_bounded(COALESCE(sum(v), 0)) FROM unnest(x) v $$;
CREATE FUNCTION list_average(x numeric[]) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT pinegate.number_divide(sum(v), count(v)) FROM unnest(x) v $$;
CREATE FUNCTION list_median(x numeric[]) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN cardinality(s) % 2 = 1 THEN s[cardinality(s) / 2 + 1]
		WHEN cardinality(s) > 0 THEN pinegate.number_divide(pinegate.number_add(s[cardinality(s) / 2], s[cardinality(s) / 2 + 1]), 2) END
		FROM (SELECT array_agg(v ORDER BY v) AS s FROM unnest(x) v WHERE v IS NOT NULL) q $$;
-- +goose StatementBegin
CREATE FUNCTION list_product(x numeric[]) RETURNS numeric LANGUAGE plpgsql IMMUTABLE PARALLEL SAFE AS $$
DECLARE
	p numeric;
	v numeric;
BEGIN
	FOREACH v IN ARRAY COALESCE(x, '{}') LOOP
		IF v IS NOT NULL THEN
			p := pinegate.fine_multiply(COALESCE(p, 1), v);
			IF abs(p) > 1e40 THEN
				RETURN NULL;
			END IF;
		END IF;
	END LOOP;
	RETURN pinegate.money_settled(p);
END $$;
-- +goose StatementEnd

-- Texts; an empty one counts as a text of no characters.
CREATE FUNCTION text_length(x text) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT COALESCE(char_length(x), 0)::numeric $$;
CREATE FUNCTION text_left(x text, n numeric) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN pinegate.whole(n) > 0 THEN NULLIF(left(x, pinegate.whole(n)), '') END $$;
CREATE FUNCTION text_right(x text, n numeric) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN pinegate.whole(n) > 0 THEN NULLIF(right(x, pinegate.whole(n)), '') END $$;
CREATE FUNCTION text_mid(x text, start numeric, n numeric) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN pinegate.whole(n) > 0 AND pinegate.whole(start) > 0 THEN NULLIF(substr(x, pinegate.whole(start), pinegate.whole(n)), '') END $$;
CREATE FUNCTION text_find(part text, x text, start numeric) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN pinegate.whole(start) BETWEEN 1 AND char_length(COALESCE(x, '')) + 1
		AND strpos(substr(COALESCE(x, ''), pinegate.whole(start)) COLLATE "C", COALESCE(part, '') COLLATE "C") > 0
		THEN (pinegate.whole(start) - 1 + strpos(substr(COALESCE(x, ''), pinegate.whole(start)) COLLATE "C", COALESCE(part, '') COLLATE "C"))::numeric END $$;
CREATE FUNCTION text_lower(x text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT pinegate.text_bounded(lower(x COLLATE "und-x-icu")) $$;
CREATE FUNCTION text_upper(x text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT pinegate.text_bounded(upper(x COLLATE "und-x-icu")) $$;
CREATE FUNCTION text_folded(x text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT lower(COALESCE(x, '') COLLATE "und-x-icu") COLLATE "C" $$;
CREATE FUNCTION text_search(part text, x text, start numeric) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT pinegate.text_find(pinegate.text_folded(part), pinegate.text_folded(x), start) $$;
CREATE FUNCTION text_contains(x text, part text) RETURNS boolean LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT strpos(pinegate.text_folded(x), pinegate.text_folded(part)) > 0 $$;
CREATE FUNCTION text_starts(x text, part text) RETURNS boolean LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT starts_with(pinegate.text_folded(x), pinegate.text_folded(part)) $$;
-- These two stand in conditions: an equality there, of values from both sides of
-- an outer join, would let PostgreSQL before 16 check it below the join as well.
CREATE FUNCTION text_ends(x text, part text) RETURNS boolean LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT right(pinegate.text_folded(x), char_length(pinegate.text_folded(part))) IS NOT DISTINCT FROM pinegate.text_folded(part) $$;
CREATE FUNCTION text_exact(x text, y text) RETURNS boolean LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT COALESCE(x, '') IS NOT DISTINCT FROM COALESCE(y, '') $$;
CREATE FUNCTION text_trim(x text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT NULLIF(btrim(regexp_replace(x, ' +', ' ', 'g'), ' '), '') $$;
CREATE FUNCTION text_digits(x text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT NULLIF(regexp_replace(x COLLATE "C", '[^0-9]+', '', 'g'), '') $$;
CREATE FUNCTION text_repeat(x text, n numeric) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN pinegate.whole(n) > 0 AND octet_length(x)::bigint * pinegate.whole(n) BETWEEN 1 AND 1048576 THEN repeat(x, pinegate.whole(n)) END $$;
CREATE FUNCTION text_replace(x text, start numeric, n numeric, new text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN pinegate.whole(start) > 0 AND pinegate.whole(n) >= 0 THEN pinegate.text_bounded(
		left(COALESCE(x, ''), pinegate.whole(start) - 1) || COALESCE(new, '') || substr(COALESCE(x, ''), pinegate.whole(start) + pinegate.whole(n))) END $$;
-- +goose StatementBegin
CREATE FUNCTION text_substitute(x text, old text, new text, which numeric) RETURNS text LANGUAGE plpgsql IMMUTABLE PARALLEL SAFE AS $$
DECLARE
	n bigint;
	place integer := 0;
	rest text := x;
BEGIN
	IF which IS NULL OR pinegate.whole(which) < 0 THEN
		RETURN NULL;
	END IF;
	IF x IS NULL OR old IS NULL THEN
		RETURN x;
	END IF;
	n := (octet_length(x) - octet_length(replace(x, old, ''))) / octet_length(old);
	IF pinegate.whole(which) > 0 THEN
		IF pinegate.whole(which) > n THEN
			RETURN x;
		END IF;
		FOR i IN 1..pinegate.whole(which) - 1 LOOP
			place := place + strpos(rest, old) + char_length(old) - 1;
			rest := substr(x, place + 1);
		END LOOP;
		place := place + strpos(rest, old);
		RETURN pinegate.text_bounded(left(x, place - 1) || COALESCE(new, '') || substr(x, place + char_length(old)));
	END IF;
	IF octet_length(x) + n * (COALESCE(octet_length(new), 0) - octet_length(old)) > 1048576 THEN
		RETURN NULL;
	END IF;
	RETURN NULLIF(replace(x, old, COALESCE(new, '')), '');
END $$;
CREATE FUNCTION text_proper(x text) RETURNS text LANGUAGE plpgsql IMMUTABLE PARALLEL SAFE AS $$
DECLARE
	c text;
	up text;
	low text;
	in_word boolean := false;
	parts text[] := '{}';
BEGIN
	FOREACH c IN ARRAY COALESCE(string_to_array(x, NULL), '{}') LOOP
		up := upper(c COLLATE "und-x-icu");
		low := lower(c COLLATE "und-x-icu");
		parts := parts || CASE WHEN in_word THEN low ELSE up END;
		in_word := up <> low OR in_word AND c = '''';
	END LOOP;
	RETURN pinegate.text_bounded(array_to_string(parts, ''));
END $$;
CREATE FUNCTION number_text(x numeric, digits integer, low integer, high integer, grouped boolean, percent boolean, prefix text, suffix text)
	RETURNS text LANGUAGE plpgsql IMMUTABLE PARALLEL SAFE AS $$
DECLARE
	written text;
	before text;
	behind text;
BEGIN
	IF x IS NULL THEN
		RETURN NULL;
	END IF;
	written := round(abs(CASE WHEN percent THEN x * 100 ELSE x END), high)::text;
	before := split_part(written, '.', 1);
	behind := split_part(written, '.', 2);
	WHILE char_length(behind) > low AND right(behind, 1) = '0' LOOP
		behind := left(behind, -1);
	END LOOP;
	IF before = '0' THEN
		before := '';
	END IF;
	before := repeat('0', GREATEST(0, digits - char_length(before))) || before;
	IF grouped THEN
		before := reverse(regexp_replace(reverse(before), '([0-9]{3})(?=[0-9])', '\1,', 'g'));
	END IF;
	RETURN NULLIF(prefix || before || CASE WHEN behind <> '' THEN '.' || behind ELSE '' END || suffix, '');
END $$;
-- +goose StatementEnd

-- Dates, from the year 1 to the year 9999.
CREATE FUNCTION date_text(x date) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT to_char(x, 'YYYY-MM-DD') $$;
CREATE FUNCTION time_text(x timestamp) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT to_char(x, 'YYYY-MM-DD HH24:MI') $$;
CREATE FUNCTION date_year(x date) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT extract(year FROM x) $$;
CREATE FUNCTION date_month(x date) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT extract(month FROM x) $$;
CREATE FUNCTION date_day(x date) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT extract(day FROM x) $$;
CREATE FUNCTION date_week(x date) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT extract(week FROM x) $$;
CREATE FUNCTION date_weekday(x date, kind numeric) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE pinegate.whole(kind) WHEN 1 THEN extract(dow FROM x) + 1 WHEN 2 THEN extract(isodow FROM x) WHEN 3 THEN extract(isodow FROM x) - 1 END $$;
-- Days are counted from the first day of the calendar, so that none is out of range.
CREATE FUNCTION date_of_number(n bigint) RETURNS date LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN n BETWEEN 0 AND 3652058 THEN date '0001-01-01' + n::integer END $$;
CREATE FUNCTION date_add_days(x date, n numeric) RETURNS date LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN pinegate.whole(n) BETWEEN -4000000 AND 4000000 THEN pinegate.date_of_number((x - date '0001-01-01')::bigint + pinegate.whole(n)) END $$;
CREATE FUNCTION date_of_months(total bigint, wanted integer) RETURNS date LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN total BETWEEN 12 AND 119999 THEN make_date((total / 12)::integer, (total % 12)::integer + 1, 1)
		+ (LEAST(wanted, extract(day FROM make_date((total / 12)::integer, (total % 12)::integer + 1, 1) + interval '1 month' - interval '1 day')::integer) - 1) END $$;
CREATE FUNCTION date_months(x date) RETURNS bigint LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT (extract(year FROM x) * 12 + extract(month FROM x) - 1)::bigint $$;
CREATE FUNCTION date_add_months(x date, n numeric) RETURNS date LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN pinegate.whole(n) BETWEEN -1000000 AND 1000000 THEN pinegate.date_of_months(pinegate.date_months(x) + pinegate.whole(n), extract(day FROM x)::integer) END $$;
CREATE FUNCTION date_end_of_month(x date, n numeric) RETURNS date LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN pinegate.whole(n) BETWEEN -1000000 AND 1000000 THEN pinegate.date_of_months(pinegate.date_months(x) + pinegate.whole(n), 31) END $$;
CREATE FUNCTION date_make(y numeric, m numeric, d numeric) RETURNS date LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN pinegate.whole(y) BETWEEN -100000 AND 100000 AND pinegate.whole(m) BETWEEN -1000000 AND 1000000
		THEN pinegate.date_add_days(pinegate.date_of_months(pinegate.whole(y)::bigint * 12 + pinegate.whole(m) - 1, 1), pinegate.whole(d) - 1) END $$;
CREATE FUNCTION date_days(later date, earlier date) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT (later - earlier)::numeric $$;
CREATE FUNCTION date_weekdays_until(n integer) RETURNS integer LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT n / 7 * 5 + LEAST(n % 7, 5) $$;
CREATE FUNCTION date_workdays(a date, b date) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN a > b
		THEN pinegate.date_weekdays_until(b - date '0001-01-01') - pinegate.date_weekdays_until(a - date '0001-01-01' + 1)
		ELSE pinegate.date_weekdays_until(b - date '0001-01-01' + 1) - pinegate.date_weekdays_until(a - date '0001-01-01') END::numeric $$;
CREATE FUNCTION date_months_between(a date, b date) RETURNS bigint LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT pinegate.date_months(b) - pinegate.date_months(a) - CASE WHEN extract(day FROM b) < extract(day FROM a) THEN 1 ELSE 0 END $$;
CREATE FUNCTION date_difference(a date, b date, unit text) RETURNS numeric LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN a <= b THEN CASE unit
		WHEN 'y' THEN pinegate.date_months_between(a, b) / 12
		WHEN 'm' THEN pinegate.date_months_between(a, b)
		WHEN 'ym' THEN pinegate.date_months_between(a, b) % 12
		WHEN 'd' THEN b - a
		WHEN 'yd' THEN b - pinegate.date_add_months(a, pinegate.date_months_between(a, b) / 12 * 12)
		ELSE b - pinegate.date_add_months(a, pinegate.date_months_between(a, b)) END END::numeric $$;
CREATE FUNCTION date_start_of(x date, unit text) RETURNS date LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT date_trunc(unit, x::timestamp)::date $$;

-- Time stamps, to the second.
CREATE FUNCTION time_bounded(x timestamptz) RETURNS timestamptz LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN x BETWEEN timestamptz '0001-01-02 00:00:00+00' AND timestamptz '9999-12-30 23:59:59+00' THEN x END $$;
CREATE FUNCTION time_make(x date, h numeric, m numeric, s numeric, zone text) RETURNS timestamptz LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN pinegate.whole(h) BETWEEN 0 AND 23 AND pinegate.whole(m) BETWEEN 0 AND 59 AND pinegate.whole(s) BETWEEN 0 AND 59
		THEN pinegate.time_bounded((x + make_time(pinegate.whole(h), pinegate.whole(m), pinegate.whole(s))) AT TIME ZONE zone) END $$;
CREATE FUNCTION time_add_days(x timestamptz, n numeric, zone text) RETURNS timestamptz LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT pinegate.time_bounded((pinegate.date_of_number(((x AT TIME ZONE zone)::date - date '0001-01-01')::bigint + pinegate.whole(n))
		+ (x AT TIME ZONE zone)::time) AT TIME ZONE zone) $$;
CREATE FUNCTION time_add_hours(x timestamptz, n numeric) RETURNS timestamptz LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS
	$$ SELECT CASE WHEN round(extract(epoch FROM x)) + round(n * 3600) BETWEEN -62135510400 AND 253402214399
		THEN timestamptz 'epoch' + make_interval(hours => div(round(extract(epoch FROM x)) + round(n * 3600), 3600)::integer,
			secs => mod(round(extract(epoch FROM x)) + round(n * 3600), 3600)::double precision) END $$;
CREATE FUNCTION time_part(x timestamp, code text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE code
		WHEN 'yyyy' THEN to_char(x, 'YYYY') WHEN 'yy' THEN to_char(x, 'YY')
		WHEN 'mmmm' THEN to_char(x, 'FMMonth') WHEN 'mmm' THEN to_char(x, 'Mon') WHEN 'mm' THEN to_char(x, 'MM') WHEN 'm' THEN to_char(x, 'FMMM')
		WHEN 'dddd' THEN to_char(x, 'FMDay') WHEN 'ddd' THEN to_char(x, 'Dy') WHEN 'dd' THEN to_char(x, 'DD') WHEN 'd' THEN to_char(x, 'FMDD')
		WHEN 'hh' THEN to_char(x, 'HH24') WHEN 'h' THEN to_char(x, 'FMHH24') WHEN 'half hh' THEN to_char(x, 'HH12') WHEN 'half h' THEN to_char(x, 'FMHH12')
		WHEN 'nn' THEN to_char(x, 'MI') WHEN 'n' THEN to_char(x, 'FMMI') WHEN 'ss' THEN to_char(x, 'SS') WHEN 's' THEN to_char(x, 'FMSS')
		WHEN 'am/pm' THEN to_char(x, 'AM') END $$;

-- A date that does not exist is no date; without an exception block, which no
-- parallel plan can run.
CREATE OR REPLACE FUNCTION text_to_date(x text) RETURNS date LANGUAGE sql IMMUTABLE PARALLEL SAFE AS
	$$ SELECT CASE WHEN btrim(x) ~ '^[0-9]{4}-(0[1-9]|1[0-2])-[0-9]{2}$' AND substr(btrim(x), 1, 4) <> '0000'
		AND substr(btrim(x), 9, 2)::integer BETWEEN 1 AND extract(day FROM make_date(substr(btrim(x), 1, 4)::integer, substr(btrim(x), 6, 2)::integer, 1) + interval '1 month' - interval '1 day')
		THEN make_date(substr(btrim(x), 1, 4)::integer, substr(btrim(x), 6, 2)::integer, substr(btrim(x), 9, 2)::integer) END $$;
