// Package query turns what to read, and as whom, into one PostgreSQL
// statement. Values enter only as parameters, and every table is read through
// the rules of the viewer.
package query

import (
	"fmt"
	"strconv"
	"strings"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// Context says what is read and as whom.
type Context struct {
	Schema    string // PostgreSQL schema of the app's environment
	Blueprint *blueprint.Blueprint
	Catalog   *expr.Catalog
	Viewer    access.Viewer
	Clock     expr.Clock
	Page      string // id of the page's record, which the viewer is known to see, or ""
	// Kept are the values that are kept for the viewer, by their ids, as texts that
	// PostgreSQL reads; what is not there is empty.
	Kept map[string]string
}

// Statement is a SQL text with its parameters.
type Statement struct {
	SQL  string
	Args []any
}

// Quote gives a name as a PostgreSQL identifier.
func Quote(name string) string {
	if strings.IndexByte(name, '"') >= 0 {
		name = strings.ReplaceAll(name, `"`, `""`)
	}
	return `"` + name + `"`
}

// TableName gives the qualified name of a table.
func (c Context) TableName(t *blueprint.Table) string {
	return Quote(c.Schema) + "." + Quote(t.Key)
}

// builder collects the parameters of one statement, and what is known of the
// viewer's rules.
type builder struct {
	Context
	args   []any
	types  []string // of the parameters
	timed  bool     // the statement depends on the time of day
	next   int
	joins  int
	grants map[string][]access.Grant // by table, for seeing
}

func newBuilder(c Context) *builder {
	return &builder{Context: c, grants: map[string][]access.Grant{}}
}

// field gives the field as the expression language knows it.
func (b *builder) field(table, id string) *expr.Field {
	for _, f := range b.Catalog.Tables[table].Fields {
		if f.ID == id {
			return f
		}
	}
	return nil
}

// seeing gives what the viewer may see of a table.
func (b *builder) seeing(table string) ([]access.Grant, error) {
	if g, ok := b.grants[table]; ok {
		return g, nil
	}
	g, err := access.Grants(b.Blueprint, b.Catalog, b.Viewer, table, blueprint.See)
	b.grants[table] = g
	return g, err
}

// param adds a parameter. A text that is one already is not sent twice, so that
// the database knows them to be equal.
func (b *builder) param(value any, sqlType string) string {
	if m, ok := value.(expr.Moment); ok {
		b.timed, value = true, m.String()
	}
	place := 0
	if text, ok := value.(string); ok {
		for i, x := range b.args {
			if x == text && b.types[i] == sqlType { // one parameter has one type
				place = i + 1
			}
		}
	}
	if place == 0 {
		b.args, b.types = append(b.args, value), append(b.types, sqlType)
		place = len(b.args)
	}
	return "$" + strconv.Itoa(place) + "::" + sqlType
}

// statement gives the statement with the parameters that it uses; some were
// made for a part that was then not needed. A parameter stands as $1:: in it.
// Statements are made of names, which are quoted and have no dollar signs, and
// of these, so nothing else looks like it.
func (b *builder) statement(sql string) Statement {
	places := make([]int, len(b.args))
	var args []any
	var out strings.Builder
	out.Grow(len(sql))
	for {
		i := strings.IndexByte(sql, '$')
		if i < 0 {
			break
		}
		out.WriteString(sql[:i+1])
		sql = sql[i+1:]
		end := strings.Index(sql, "::")
		n, err := strconv.Atoi(sql[:max(end, 0)])
		if err != nil || n < 1 || n > len(b.args) {
			continue
		}
		if places[n-1] == 0 {
			args = append(args, b.args[n-1])
			places[n-1] = len(args)
		}
		out.WriteString(strconv.Itoa(places[n-1]))
		sql = sql[end:]
	}
	out.WriteString(sql)
	return Statement{out.String(), args}
}

func (b *builder) alias(prefix string) string {
	b.next++
	return prefix + strconv.Itoa(b.next)
}

// Permitted builds the statement that finds, locked, the record with the id if
// the viewer's grants reach it with all the fields given. It looks at the
// record as it is in the transaction that runs it.
func Permitted(c Context, t *blueprint.Table, id string, action blueprint.Action, fields []string) (Statement, error) {
	return permitted(c, t, id, action, fields, "IS NULL", locked)
}

// Permits is [Permitted] for those who only ask: the record is not locked.
func Permits(c Context, t *blueprint.Table, id string, action blueprint.Action, fields []string) (Statement, error) {
	return permitted(c, t, id, action, fields, "IS NULL", "")
}

const locked = " FOR NO KEY UPDATE OF r"

// PermittedInBin is [Permitted] for a record in the bin.
func PermittedInBin(c Context, t *blueprint.Table, id string, action blueprint.Action, fields []string) (Statement, error) {
	return permitted(c, t, id, action, fields, "IS NOT NULL", locked)
}

func permitted(c Context, t *blueprint.Table, id string, action blueprint.Action, fields []string, deleted, lock string) (Statement,
	error) {
	b := newBuilder(c)
	from, err := b.permitted(t, "r.id = "+b.param(id, "uuid")+" AND r.deleted_at "+deleted, action, fields)
	if err != nil {
		return Statement{}, err
	}
	return b.statement("SELECT r.revision " + from + lock), nil
}

// PermittedAll builds the statement that counts those of records to which the viewer's rules reach
// for the action.
func PermittedAll(c Context, t *blueprint.Table, ids []string, action blueprint.Action, fields []string) (Statement, error) {
	b := newBuilder(c)
	from, err := b.permitted(t, "r.id = ANY ("+b.param(ids, "uuid[]")+") AND r.deleted_at IS NULL", action, fields)
	if err != nil {
		return Statement{}, err
	}
	return b.statement("SELECT count(*) " + from), nil
}

// permitted is what stands behind the columns of a statement about those of records to which the
// viewer's rules reach.
func (b *builder) permitted(t *blueprint.Table, which string, action blueprint.Action, fields []string) (string, error) {
	c := b.Context
	where := []string{which}
	var joins []join
	if !c.Viewer.Founder {
		grants, err := access.Grants(c.Blueprint, c.Catalog, c.Viewer, t.ID, action)
		if err != nil {
			return "", err
		}
		var fitting []access.Grant
		for _, g := range grants {
			if setsAll(g, fields) {
				fitting = append(fitting, g)
			}
		}
		conditions, more, err := b.granted("r", fitting)
		if err != nil {
			return "", err
		}
		joins = more
		where = append(where, "("+strings.Join(append(conditions, "false"), " OR ")+")")
	}
	return fmt.Sprintf("FROM %s r %s WHERE %s", c.TableName(t), joinSQL(joins), strings.Join(where, " AND ")), nil
}

func setsAll(g access.Grant, fields []string) bool {
	for _, f := range fields {
		if !g.Sets(f) {
			return false
		}
	}
	return true
}
