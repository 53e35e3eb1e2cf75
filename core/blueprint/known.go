package blueprint

// KnownBy gives the roles whose people are known by an address in the field.
func (b *Blueprint) KnownBy(table, field string) []*Role {
	var out []*Role
	for i := range b.Roles {
		if r := &b.Roles[i]; r.People == table && r.Email == field && field != "" {
			out = append(out, r)
		}
	}
	return out
}

// Addresses lists the tables and fields, by ids, that hold the addresses by which people
// are known, each once.
func (b *Blueprint) Addresses() [][2]string {
	var out [][2]string
	seen := map[[2]string]bool{}
	for i := range b.Roles {
		r := &b.Roles[i]
		at := [2]string{r.People, r.Email}
		if t := b.Table(r.People); t == nil || t.Field(r.Email) == nil || seen[at] {
			continue
		}
		seen[at] = true
		out = append(out, at)
	}
	return out
}

// Opening is a rule by which strangers can make others, or themselves, people of roles:
// visitors, or people of a role that everyone can sign up for.
type Opening struct {
	Role   *Role
	Table  *Table
	People []*Role // that are known by records of the table
}

// Openings lists the rules that let strangers add people.
func (b *Blueprint) Openings() []Opening {
	var out []Opening
	for _, at := range b.Addresses() {
		t, people := b.Table(at[0]), b.KnownBy(at[0], at[1])
		for i := range b.Roles {
			r := &b.Roles[i]
			if r.ID != VisitorRole && r.SignUp.Mode != Open {
				continue
			}
			if x := r.Rule(t.ID).Add.Extent; x == AllRecords || x == Where {
				out = append(out, Opening{r, t, people})
			}
		}
	}
	return out
}

// NewOpenings lists the openings of a blueprint that an earlier one has not: also those
// where it is only now that the records are people.
func NewOpenings(before, after *Blueprint) []Opening {
	was := map[string]bool{}
	key := func(o Opening, p *Role) string { return o.Role.ID + " " + o.Table.ID + " " + p.ID }
	for _, o := range before.Openings() {
		for _, p := range o.People {
			was[key(o, p)] = true
		}
	}
	var out []Opening
	for _, o := range after.Openings() {
		var people []*Role
		for _, p := range o.People {
			if !was[key(o, p)] {
				people = append(people, p)
			}
		}
		if len(people) > 0 {
			out = append(out, Opening{o.Role, o.Table, people})
		}
	}
	return out
}
