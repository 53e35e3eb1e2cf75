package blueprint

import "slices"

// AddExpectation writes down what the people of a role must not do.
type AddExpectation struct {
	ID     string `json:"id,omitempty"`
	Role   string `json:"role"`
	Action Action `json:"action"`
	Table  string `json:"table"`
	Except string `json:"except,omitempty"`
	Field  string `json:"field,omitempty"`
}

func (c *AddExpectation) fill(newID func() string) { fillID(&c.ID, newID) }

func (c *AddExpectation) apply(b *Blueprint) error {
	e := Expectation(*c)
	if e.Action != See {
		e.Except, e.Field = "", ""
	}
	if e.Field != "" {
		e.Except = ""
	}
	b.Expectations = append(b.Expectations, e)
	return nil
}

// RemoveExpectation stops expecting something.
type RemoveExpectation struct {
	Expectation string `json:"expectation"`
}

func (c *RemoveExpectation) apply(b *Blueprint) error {
	if b.Expectation(c.Expectation) == nil {
		return gone("expectation")
	}
	b.forgetExpectations(func(e Expectation) bool { return e.ID == c.Expectation })
	return nil
}

// Expectation gives the expectation with the id, or nil.
func (b *Blueprint) Expectation(id string) *Expectation {
	return find(b.Expectations, func(e *Expectation) bool { return e.ID == id })
}

// forgetExpectations takes out those that are about something that goes.
func (b *Blueprint) forgetExpectations(is func(Expectation) bool) {
	b.Expectations = slices.DeleteFunc(b.Expectations, is)
}

func (b *Blueprint) checkExpectations() error {
	for _, e := range b.Expectations {
		r, t := b.Role(e.Role), b.Table(e.Table)
		switch {
		case r == nil || t == nil:
			return problem("Say of which role and which table you expect something.")
		case !slices.Contains(Actions(), e.Action):
			return problem("There is no action %q.", e.Action)
		case e.Field != "" && t.Field(e.Field) == nil:
			return problem("Say which field of %s %s must not see.", t.Name, r.Name)
		case e.Action != See && (e.Except != "" || e.Field != ""):
			return problem("Only of seeing some records or one field can be expected.")
		}
	}
	return nil
}
