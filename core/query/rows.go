package query

import (
	"fmt"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
)

// maxJoins is how many links one statement may follow.
const maxJoins = 64

// join is a part of a FROM clause.
type join interface{ sql() string }

type plainJoin string

func (j plainJoin) sql() string { return string(j) }

// lateral is a subquery beside the row in hand, in which aggregates over the
// same records are computed together.
type lateral struct {
	alias   string
	rows    *source
	columns []string
}

func (l *lateral) sql() string {
	named := make([]string, len(l.columns))
	for i, c := range l.columns {
		named[i] = fmt.Sprintf("%s AS c%d", c, i+1)
	}
	return fmt.Sprintf("LEFT JOIN LATERAL (%s) %s ON true", l.rows.Select(strings.Join(named, ", ")), l.alias)
}

func joinSQL(joins []join) string {
	parts := make([]string, len(joins))
	for i, j := range joins {
		parts[i] = j.sql()
	}
	return strings.Join(parts, " ")
}

// from is a FROM clause that grows by what expressions need.
type from struct {
	base    string // the first relation with its alias; "" where somebody else writes it
	joins   []join
	where   []string
	aliases map[string]string   // of the records to which paths lead
	shared  map[string]*lateral // aggregates, by what they are over
	values  map[string]string   // computed fields that stand in joins of their own
}

func newFrom(base string) *from { return &from{base: base} }

// put sets a key of a map that is made when it is first needed: most FROM
// clauses need none of theirs.
func put[V any](m *map[string]V, key string, value V) {
	if *m == nil {
		*m = map[string]V{}
	}
	(*m)[key] = value
}

// source is a record in hand in the rows of a FROM clause: the row's own, or
// one to which a path leads. It implements [expr.Rows].
type source struct {
	b      *builder
	from   *from
	outer  *source // the row that these rows are inside of, or nil
	prefix string  // the path by which the record in hand is reached
	alias  string  // of the record in hand, or ""
	item   string
	order  []string
	// relation gives what stands for a table: the table itself for rules,
	// which see everything, or its view for whatever is shown.
	relation func(t *blueprint.Table) (string, error)
	trusted  bool
	me       func(table string) string // id of the signed-in person's record
}

// on starts a source of rows whose FROM clause somebody else writes.
func (b *builder) on(alias string) *source {
	return &source{b: b, from: newFrom(""), prefix: string(expr.RootRow), alias: alias, item: alias + ".id", order: []string{alias + ".id"}}
}

// trustedOn is the source in which rules are decided: it sees everything.
func (b *builder) trustedOn(alias, me string) *source {
	s := b.on(alias)
	s.trusted, s.me = true, func(string) string { return me }
	s.relation = func(t *blueprint.Table) (string, error) { return b.everything(t), nil }
	return s
}

// seenOn is the source of what is shown to the viewer.
func (b *builder) seenOn(alias string) *source {
	s := b.on(alias)
	s.trusted = b.Viewer.Founder
	s.relation = b.view
	s.me = func(table string) string { return b.Viewer.Me(b.Blueprint, table) }
	return s
}

// inside starts rows of their own that stand inside of these.
func (s *source) inside(base, alias string) *source {
	return &source{b: s.b, from: newFrom(base), outer: s, prefix: string(expr.RootRow), alias: alias, item: alias + ".id",
		order:    []string{alias + ".id"},
		relation: s.relation, trusted: s.trusted, me: s.me}
}

// at gives the same rows with another record in hand.
func (s *source) at(prefix, alias string) *source {
	out := *s
	out.prefix, out.alias, out.item = prefix, alias, alias+".id"
	return &out
}

func (s *source) compiler() *expr.Compiler {
	return &expr.Compiler{Rows: s, Param: s.b.param, Catalog: s.b.Catalog, Clock: s.b.Clock, MeKnown: s.b.Viewer.SignedIn() &&
		s.b.knownMe()}
}

func (b *builder) knownMe() bool {
	for _, m := range b.Viewer.Memberships {
		if m.Record != "" {
			return true
		}
	}
	return false
}

func (s *source) Item() string { return s.item }

func (s *source) Order() []string { return s.order }

func (s *source) Where(condition string) { s.from.where = append(s.from.where, condition) }

func (s *source) Select(what string) string {
	where := ""
	if len(s.from.where) > 0 {
		where = " WHERE " + strings.Join(s.from.where, " AND ")
	}
	return fmt.Sprintf("SELECT %s FROM %s %s%s", what, s.from.base, joinSQL(s.from.joins), where)
}

// Column gives the SQL of the value at the end of a path and joins the tables
// on the way, each once.
func (s *source) Column(root expr.Root, path []*expr.Field, of string) (string, error) {
	switch {
	case len(path) == 0 && root == expr.RootRow:
		return s.alias + ".id", nil
	case len(path) == 0:
		return s.rootID(root, of), nil
	case path[0].Table == expr.PersonTable:
		return s.person(path[0]), nil
	case path[0].Table == expr.KeptTable:
		return s.b.kept(path[0]), nil
	case path[0].Table == expr.AnswersTable:
		return "", fmt.Errorf("build statement: the answer to %s was not put in its place", path[0].Name)
	case path[0].Table == expr.MadeTable || path[0].Table == expr.WasTable:
		return "", fmt.Errorf("build statement: what a workflow knows as %s was not put in its place", path[0].Name)
	case path[0].Table == expr.VarsTable:
		return "", fmt.Errorf("build statement: %s is given to a part and was not put in its place", path[0].Name)
	}
	last := path[len(path)-1]
	at, err := s.follow(root, path[:len(path)-1], last.Table)
	if err != nil {
		return "", err
	}
	return at.field(last)
}

// Held tells whether the value at the end of a path is that of a column or a
// parameter: not computed, and not shown in some records only.
func (s *source) Held(root expr.Root, path []*expr.Field) bool {
	if len(path) == 0 || path[0].Table == expr.PersonTable || path[0].Table == expr.KeptTable {
		return true
	}
	last := path[len(path)-1]
	if last.Computed != nil && !s.stored(last) {
		return false
	}
	shown, err := s.shows(last)
	return err == nil && shown == everybody
}

// Label compiles the label of the record at the end of a path.
func (s *source) Label(root expr.Root, path []*expr.Field, table string) (string, error) {
	at, err := s.follow(root, path, table)
	if err != nil {
		return "", err
	}
	label := s.b.Catalog.Tables[table].Label
	if label == nil {
		return "", fmt.Errorf("read the label of %s: it is not right", table)
	}
	sql, err := at.compiler().Value(label.Root)
	if err != nil || root == expr.RootRow && len(path) == 0 {
		return sql, err
	}
	// the fixed words of a label say nothing of a record that is not seen
	return fmt.Sprintf("CASE WHEN %s.id IS NOT NULL THEN %s END", at.alias, sql), nil
}

// follow gives the record, of the table given, to which the links of a path
// lead.
func (s *source) follow(root expr.Root, links []*expr.Field, of string) (*source, error) {
	at := s
	table := func(i int) *blueprint.Table { // of the record after i links
		if i < len(links) {
			return s.b.Blueprint.Table(links[i].Table)
		}
		return s.b.Blueprint.Table(of)
	}
	if root != expr.RootRow {
		var err error
		key := string(root) + " " + table(0).ID
		if _, known := s.from.aliases[key]; known { // a parameter that no join uses would be one too many
			at = s.at(key, s.from.aliases[key])
		} else if at, err = s.join(key, table(0), s.rootID(root, table(0).ID)); err != nil {
			return nil, err
		}
	}
	for i, f := range links {
		key := at.prefix + "." + f.ID
		if alias, known := s.from.aliases[key]; known {
			at = s.at(key, alias)
			continue
		}
		id, err := at.field(f)
		if err != nil {
			return nil, err
		}
		if at, err = s.join(key, table(i+1), id); err != nil {
			return nil, err
		}
	}
	return at, nil
}

// join adds the record of a table with the id.
func (s *source) join(key string, t *blueprint.Table, id string) (*source, error) {
	if t == nil {
		return nil, fmt.Errorf("build statement: %q leads to no table", key)
	}
	if err := s.b.countJoin(); err != nil {
		return nil, err
	}
	relation, err := s.relation(t)
	if err != nil {
		return nil, err
	}
	alias := s.b.alias("j")
	put(&s.from.aliases, key, alias)
	s.from.joins = append(s.from.joins,
		plainJoin("LEFT JOIN "+relation+" "+alias+" ON "+alias+".id = "+id+" AND "+alias+".deleted_at IS NULL"))
	return s.at(key, alias), nil
}

func (b *builder) countJoin() error {
	if b.joins++; b.joins > maxJoins {
		return words.New("query-links")
	}
	return nil
}

// rootID gives the parameter that is the id of the root record.
func (s *source) rootID(root expr.Root, table string) string {
	if root == expr.RootPage {
		return s.uuid(s.b.Page)
	}
	return s.uuid(s.me(table))
}

// person gives the e-mail or the name of a person of no particular table.
func (s *source) person(f *expr.Field) string {
	value := s.b.Viewer.Name
	if f.ID == "email" {
		value = s.b.Viewer.Email
	}
	if s.me != nil && s.b.overAll() {
		if f.ID == "email" {
			return "NULLIF(lower(" + anyAlias + ".email), '')"
		}
		return "COALESCE(NULLIF(" + anyAlias + ".name, ''), NULLIF(lower(" + anyAlias + ".email), ''))"
	}
	return "NULLIF(" + s.b.param(value, "text") + ", '')"
}

// kept gives a value that is kept for the viewer.
func (b *builder) kept(f *expr.Field) string {
	if value := b.Kept[f.ID]; value != "" {
		return b.param(value, sqlType(f.Type))
	}
	return "NULL::" + sqlType(f.Type)
}

func (s *source) uuid(id string) string {
	switch id {
	case "":
		return "NULL::uuid"
	case anyPerson:
		return anyAlias + ".id"
	}
	return s.b.param(id, "uuid")
}

// longValue is the length of SQL from which a computed field stands in a join
// of its own, so that formulas made of formulas do not grow without end.
const longValue = 400

// field gives the SQL of a field of the record in hand.
func (s *source) field(f *expr.Field) (string, error) {
	column := s.alias + "." + Quote(f.Key)
	if f.Computed == nil {
		return column, nil
	}
	shown, err := s.shows(f)
	if err != nil || shown == nobody {
		return "NULL::" + sqlType(f.Type), err
	}
	if s.stored(f) {
		return column, nil
	}
	key := s.prefix + "." + f.ID
	if v, ok := s.from.values[key]; ok {
		return v, nil
	}
	sql, err := s.compiler().Value(f.Computed.Root)
	if err != nil {
		return "", fmt.Errorf("compile %s: %w", f.Name, err)
	}
	if shown == some {
		sql = fmt.Sprintf("CASE WHEN %s THEN %s END", column, sql)
	}
	if len(sql) > longValue {
		alias := s.b.alias("v")
		s.from.joins = append(s.from.joins, plainJoin(fmt.Sprintf("LEFT JOIN LATERAL (SELECT %s AS v OFFSET 0) %s ON true", sql, alias)))
		sql = alias + ".v"
	}
	put(&s.from.values, key, sql)
	return sql, nil
}

// relationOf gives the table's relation under a new alias.
func (s *source) relationOf(table string) (relation, alias string, err error) {
	t := s.b.Blueprint.Table(table)
	if t == nil {
		return "", "", fmt.Errorf("build statement: there is no table %q", table)
	}
	if err := s.b.countJoin(); err != nil {
		return "", "", err
	}
	relation, err = s.relation(t)
	return relation, s.b.alias("t"), err
}
