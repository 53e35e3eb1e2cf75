package query

import (
	"fmt"
	"strings"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// anyPerson stands for the id of the record of a person, where a statement goes over all
// people of a role: it is a column then, and no parameter.
const anyPerson = "any person"

// anyAlias is what the people are called in such a statement.
const anyAlias = `"~me"`

// BuildBeyond builds the statement that looks whether anybody of a role, of those who can
// sign in, sees a record of the selection: JSON with the id and the name of a person, and
// nothing where nobody does. It goes over all people at once, each as they are: what they
// see is decided as if they had asked themselves.
func BuildBeyond(c Context, r *blueprint.Role, l Selection) (Statement, error) {
	c.Viewer = access.Viewer{Memberships: []access.Membership{{Role: r.ID, Record: anyPerson}}}
	b := newBuilder(c)
	people := b.trustedOn("p", "")
	t := b.Blueprint.Table(r.People)
	can, err := people.ofPerson(r, r.LetIn(), "true")
	if err != nil {
		return Statement{}, err
	}
	name, err := people.Label(expr.RootRow, nil, t.ID)
	if err != nil {
		return Statement{}, err
	}
	email := "NULL::text"
	if f := t.Field(r.Email); f != nil {
		email = "p." + Quote(f.Key)
	}
	relation, where, s, err := b.matching(l)
	if err != nil {
		return Statement{}, err
	}
	sql := fmt.Sprintf(`SELECT row_to_json(q)::text FROM (SELECT %[1]s.id, %[1]s.name AS label FROM
		(SELECT p.id, %[2]s AS name, %[3]s AS email FROM %[4]s p %[5]s WHERE p.deleted_at IS NULL AND %[6]s) %[1]s,
		LATERAL (SELECT r.id FROM %[7]s r %[8]s WHERE %[9]s) x LIMIT 1) q`,
		anyAlias, name, email, b.everything(t), joinSQL(people.from.joins), can, relation, joinSQL(s.from.joins),
		strings.Join(where, " AND "))
	return b.statement(sql), nil
}

// overAll tells whether a statement goes over all people of a role.
func (b *builder) overAll() bool {
	m := b.Viewer.Memberships
	return len(m) == 1 && m[0].Record == anyPerson
}
