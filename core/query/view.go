package query

import (
	"fmt"
	"slices"
	"strings"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// shown says in how many of the records that a viewer sees a field is shown.
type shown int

const (
	nobody shown = iota
	some
	everybody
)

// shows tells how far a field is shown in these rows.
func (s *source) shows(f *expr.Field) (shown, error) {
	if s.trusted {
		return everybody, nil
	}
	return s.b.shows(f)
}

func (b *builder) shows(f *expr.Field) (shown, error) {
	if b.Viewer.Founder {
		return everybody, nil
	}
	grants, err := b.seeing(f.Table)
	if err != nil {
		return nobody, err
	}
	n := 0
	for _, g := range grants {
		if g.Shows(f.ID) {
			n++
		}
	}
	switch n {
	case len(grants):
		return everybody, nil
	case 0:
		return nobody, nil
	}
	return some, nil
}

// stored tells whether the value of a computed field can be read from its
// column: it is kept in one, and the viewer sees all that it is made of.
func (s *source) stored(f *expr.Field) bool {
	return Stored(f) && (s.trusted || s.b.whole(f))
}

// whole tells whether the viewer sees a stored field, and all that it is made of, wherever they see its
// record.
func (b *builder) whole(f *expr.Field) bool {
	for _, ref := range Depends(b.Catalog, f) {
		if all, err := b.shows(ref); err != nil || all != everybody {
			return false
		}
	}
	all, err := b.shows(f)
	return err == nil && all == everybody
}

// Stored tells whether a computed field is kept in a column: it depends on the
// record's own fields and nothing else.
func Stored(f *expr.Field) bool {
	return f.Computed != nil && f.Computed.Own()
}

// Depends lists the fields, other than computed ones, of the same record of
// which a stored field is made.
func Depends(c *expr.Catalog, f *expr.Field) []*expr.Field {
	var out []*expr.Field
	for _, ref := range f.Computed.Refs {
		for _, x := range c.Tables[f.Table].Fields {
			switch {
			case x.ID != ref.Field:
			case x.Computed != nil:
				out = append(out, Depends(c, x)...)
			default:
				out = append(out, x)
			}
		}
	}
	return out
}

// granted compiles grants over the row of an alias into one condition each,
// with the joins that they need. No grants give no conditions.
func (b *builder) granted(alias string, grants []access.Grant) (conditions []string, joins []join, err error) {
	for _, g := range grants {
		if g.Condition == nil {
			conditions = append(conditions, "true")
			continue
		}
		s := b.trustedOn(alias, g.Me)
		c := s.compiler()
		c.MeKnown = g.Me != ""
		sql, err := c.Condition(g.Condition.Root)
		if err != nil {
			return nil, nil, fmt.Errorf("compile the rule of %s: %w", g.Role, err)
		}
		conditions = append(conditions, sql)
		joins = append(joins, s.from.joins...)
	}
	return conditions, joins, nil
}

// everything is a table as rules and founders get it.
func (b *builder) everything(t *blueprint.Table) string {
	var extra []string
	for i := range t.Fields {
		if f := &t.Fields[i]; f.Type.Recorded() {
			extra = append(extra, "x."+recorded(f)+" AS "+Quote(f.Key))
		}
	}
	if len(extra) == 0 {
		return b.TableName(t)
	}
	return fmt.Sprintf("(SELECT x.*, %s FROM %s x)", strings.Join(extra, ", "), b.TableName(t))
}

// recorded gives the system's column that a field shows. Time stamps are kept
// to the second.
func recorded(f *blueprint.Field) string { return f.Type.Row().System }

// view is a table as the viewer gets it: only the records that a rule shows,
// and in each only the fields that the rules which show it let be seen.
// Computed fields and links to many that are seen in some records only have a
// column that tells in which.
func (b *builder) view(t *blueprint.Table) (string, error) {
	if b.Viewer.Founder {
		return b.everything(t), nil
	}
	grants, err := b.seeing(t.ID)
	if err != nil {
		return "", err
	}
	x := b.alias("x")
	conditions, joins, err := b.granted(x, grants)
	if err != nil {
		return "", err
	}
	columns := []string{x + ".id", x + ".revision", x + ".deleted_at"}
	for i := range t.Fields {
		f := &t.Fields[i]
		columns = append(columns, b.maskedColumn(x, t, f, grants, conditions)+" AS "+Quote(f.Key))
	}
	where := "false"
	if len(conditions) > 0 {
		where = strings.Join(conditions, " OR ")
	}
	return "(SELECT " + strings.Join(columns, ", ") + " FROM " + b.TableName(t) + " " + x + " " + joinSQL(joins) + " WHERE " + x +
		".deleted_at IS NULL AND (" + where + "))", nil
}

// maskedColumn gives the column, NULL in the records that only show it by
// grants which hide it.
func (b *builder) maskedColumn(alias string, t *blueprint.Table, f *blueprint.Field, grants []access.Grant, conditions []string) string {
	var showing []string
	for i, g := range grants {
		if g.Shows(f.ID) {
			showing = append(showing, conditions[i])
		}
	}
	ef := b.field(t.ID, f.ID)
	held := ef.Computed == nil && f.Type != blueprint.Links || ef.Computed != nil && Stored(ef) && b.whole(ef)
	column := alias + "." + Quote(f.Key)
	if f.Type.Recorded() {
		column = alias + "." + recorded(f)
	}
	switch {
	case !held && len(showing) == len(grants):
		return "true"
	case !held:
		return "(" + strings.Join(append(slices.Clone(showing), "false"), " OR ") + ")"
	case len(showing) == len(grants):
		return column
	case len(showing) == 0:
		return "NULL::" + sqlType(ef.Type)
	}
	return fmt.Sprintf("CASE WHEN %s THEN %s END", strings.Join(showing, " OR "), column)
}

// BuildShown builds the statement that tells, as a JSON array of their ids, which
// fields of a record the viewer sees: those that a rule which shows the record
// does not hide.
func BuildShown(c Context, t *blueprint.Table, id string) (Statement, error) {
	b := newBuilder(c)
	grants, err := b.seeing(t.ID)
	if err != nil {
		return Statement{}, err
	}
	conditions, joins, err := b.granted("x", grants)
	if err != nil {
		return Statement{}, err
	}
	var fields []string
	for _, f := range t.Fields {
		showing := []string{"false"}
		for i, g := range grants {
			if g.Shows(f.ID) {
				showing = append(showing, conditions[i])
			}
		}
		fields = append(fields, fmt.Sprintf("CASE WHEN %s THEN %s END", strings.Join(showing, " OR "), b.param(f.ID, "text")))
	}
	return b.statement(fmt.Sprintf("SELECT array_to_json(array_remove(ARRAY[%s]::text[], NULL))::text FROM %s x %s WHERE x.deleted_at IS NULL AND x.id = %s",
		strings.Join(fields, ", "), b.TableName(t), joinSQL(joins), b.param(id, "uuid"))), nil
}

// sqlType gives the PostgreSQL type of values of a type of the language.
func sqlType(t expr.Type) string {
	out := map[expr.Kind]string{expr.Number: "numeric", expr.YesNo: "boolean", expr.Date: "date", expr.Time: "timestamptz",
		expr.Record: "uuid"}[t.Kind]
	if out == "" {
		out = "text"
	}
	if t.Many {
		out += "[]"
	}
	return out
}
