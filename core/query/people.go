package query

import (
	"fmt"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// Sought says whom [BuildPeople] looks for: those with an e-mail address, the
// one with a record's id, or those who give the right answers.
type Sought struct {
	Email   string
	Record  string
	Answers []string // in the order of the role's match
}

// BuildPeople builds the statement that finds who somebody is: for each role
// that has people and at most two records, JSON with the role, the record's id,
// its label as name, its e-mail, whether it is admitted, and home, the place
// among the role's homes where it lands or null. It looks at the records as they
// are, so the context must be that of a founder.
func BuildPeople(c Context, roles []*blueprint.Role, who Sought) (Statement, error) {
	b := newBuilder(c)
	var selects []string
	for _, r := range roles {
		sql, err := b.peopleOf(r, who)
		if err != nil {
			return Statement{}, fmt.Errorf("find people of %s: %w", r.Name, err)
		}
		selects = append(selects, sql)
	}
	return b.statement("SELECT row_to_json(q)::text FROM (" + strings.Join(selects, " UNION ALL ") + ") q"), nil
}

func (b *builder) peopleOf(r *blueprint.Role, who Sought) (string, error) {
	t := b.Blueprint.Table(r.People)
	s := b.seenOn("r")
	email := "r." + Quote(t.Field(r.Email).Key)
	where := []string{"r.deleted_at IS NULL"}
	switch {
	case who.Record != "":
		where = append(where, "r.id = "+b.param(who.Record, "uuid"))
	case who.Answers != nil:
		more, err := b.answered(r, t, who.Answers)
		if err != nil {
			return "", err
		}
		where = append(where, more...)
	default:
		where = append(where, fmt.Sprintf("lower(%s) = lower(%s)", email, b.param(who.Email, "text")))
	}
	if sql, err := s.ofPerson(r, r.Where, "true"); err != nil {
		return "", err
	} else if r.Where != "" {
		where = append(where, sql)
	}
	admitted, err := s.ofPerson(r, r.Admit, "true")
	if err != nil {
		return "", err
	}
	home := "CASE"
	for i, h := range r.Homes {
		sql, err := s.ofPerson(r, h.When, "true")
		if err != nil {
			return "", err
		}
		home += fmt.Sprintf(" WHEN %s THEN %d", sql, i)
	}
	if home += " END"; len(r.Homes) == 0 {
		home = "NULL::integer"
	}
	label, err := s.Label(expr.RootRow, nil, t.ID)
	if err != nil {
		return "", err
	}
	wish := "NULL::text"
	if f := t.Field(r.HomeField); f != nil {
		wish = "r." + Quote(f.Key) + "::text"
	}
	return fmt.Sprintf("(SELECT %s AS role, r.id::text AS record, %s AS name, %s AS email, COALESCE(%s, false) AS admitted, %s AS home, %s AS wish FROM %s r %s WHERE %s LIMIT 2)",
		b.param(r.ID, "text"), label, email, admitted, home, wish, b.everything(t), joinSQL(s.from.joins), strings.Join(where, " AND ")), nil
}

// ofPerson compiles a condition over the record of a person.
func (s *source) ofPerson(r *blueprint.Role, condition, otherwise string) (string, error) {
	c, err := s.b.Blueprint.OfPerson(r, condition, s.b.Catalog)
	if err != nil || c == nil {
		return otherwise, err
	}
	return s.compiler().Condition(c.Root)
}

// answered gives what the record of somebody meets who gave the right answers.
func (b *builder) answered(r *blueprint.Role, t *blueprint.Table, answers []string) ([]string, error) {
	if len(r.Match) == 0 || len(answers) != len(r.Match) {
		return []string{"false"}, nil
	}
	is := func(alias string, f *blueprint.Field, answer string) string {
		return fmt.Sprintf("lower(btrim(%s.%s::text)) = lower(btrim(%s))", alias, Quote(f.Key), b.param(answer, "text"))
	}
	var out []string
	for i, m := range r.Match {
		id, field, linked := strings.Cut(m, ".")
		if !linked {
			out = append(out, is("r", t.Field(id), answers[i]))
			continue
		}
		via := t.Field(id)
		other := b.Blueprint.Table(via.Target)
		back := other.Field(via.Of)
		if back == nil || back.Type != blueprint.Link {
			return nil, fmt.Errorf("the other side of %s is no link", via.Name)
		}
		out = append(out, fmt.Sprintf("EXISTS (SELECT FROM %s m WHERE m.deleted_at IS NULL AND m.%s = r.id AND %s)", b.TableName(other),
			Quote(back.Key), is("m", other.Field(field), answers[i])))
	}
	return out, nil
}
