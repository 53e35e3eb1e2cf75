package records_test

import (
	"context"
	"sync"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/core/access"
	"pinegate/core/expr"
	"pinegate/core/words"
	"pinegate/store/records"
)

// arrival is somebody whose address was confirmed at the gate.
func arrival(ctx context.Context, l *acttest.Loft, seat *records.Seat, email string, values map[string]any) (*records.Write, error) {
	return l.Acts.Edit(ctx, l.App, seat, "test", func(u *act.Unit) (*records.Write, error) {
		return u.Road.Welcome(ctx, seat, seat.Blueprint.Role("r"), email, acttest.Values(l.T, values),
			map[string]expr.Value{"s_ok": expr.YesNoOf(true)})
	})
}

// TestSomebodyNewIsAddedWithTheirAddress signs up with an address that is not there.
func TestSomebodyNewIsAddedWithTheirAddress(t *testing.T) {
	l := acttest.NewLoft(t)
	w, err := arrival(t.Context(), l, l.Founder(), "mo@sails.example", map[string]any{"s_name": "Mo"})
	require.NoError(t, err)
	got := row(l, l.Founder(), "sailor", w.Record)
	assert.Equal(t, "Mo", got["s_name"])
	assert.Equal(t, "mo@sails.example", got["s_mail"])
	assert.Equal(t, true, got["s_ok"])
	assert.Equal(t, 4, l.Count(l.Founder(), "sailor"))
}

// TestARecordThatIsThereBecomesTheirs signs up with an address that the founder entered
// before: nothing of what stands there is overwritten, what is empty is filled in.
func TestARecordThatIsThereBecomesTheirs(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"add","what":"field","into":"sailor","id":"s_phone","values":{"name":"Phone","type":"phone"}}`)
	w, err := arrival(t.Context(), l, l.Founder(), "RUTH@sails.example", map[string]any{"s_name": "Somebody else", "s_phone": "0123"})
	require.NoError(t, err)
	assert.Equal(t, l.People["Ruth"], w.Record, "the case of an address does not matter")
	got := row(l, l.Founder(), "sailor", w.Record)
	assert.Equal(t, "Ruth", got["s_name"])
	assert.Equal(t, "0123", got["s_phone"])
	assert.Equal(t, false, got["s_ok"], "no is an answer too")
	assert.Equal(t, 3, l.Count(l.Founder(), "sailor"))

	again, err := arrival(t.Context(), l, l.Founder(), "ruth@sails.example", map[string]any{"s_name": "Mo", "s_phone": "9"})
	require.NoError(t, err)
	assert.Equal(t, got, row(l, l.Founder(), "sailor", again.Record), "there is nothing left to fill in")
}

func TestTwoRecordsWithOneAddressAreNobody(t *testing.T) {
	l := acttest.NewLoft(t)
	seat := l.Founder()
	require.NoError(t, l.Acts.Do(t.Context(), func(u *act.Unit) error { // as an import does
		return u.Road.AddMany(t.Context(), seat, seat.Blueprint.Table("sailor"), []records.New{{ID: uuid.NewString(),
			Values: map[string]expr.Value{"s_name": expr.TextOf("Ruth again"), "s_mail": expr.TextOf("ruth@sails.example")}}})
	}))
	_, err := arrival(t.Context(), l, l.Founder(), "ruth@sails.example", map[string]any{"s_name": "Ruth"})
	var p *words.Problem
	require.ErrorAs(t, err, &p)
	assert.Equal(t, "gate-several", p.Code)
	assert.Equal(t, 4, l.Count(l.Founder(), "sailor"))
}

// TestManyWithOneAddressMakeOneRecord confirms the same address ten times at once.
func TestManyWithOneAddressMakeOneRecord(t *testing.T) {
	l := acttest.NewLoft(t)
	var wait sync.WaitGroup
	seat := l.Founder()
	ids := make(chan string, 10)
	for range 10 {
		wait.Go(func() {
			w, err := arrival(context.Background(), l, seat, "mo@sails.example", map[string]any{"s_name": "Mo"})
			if assert.NoError(t, err) {
				ids <- w.Record
			}
		})
	}
	wait.Wait()
	close(ids)
	seen := map[string]bool{}
	for id := range ids {
		seen[id] = true
	}
	assert.Len(t, seen, 1)
	assert.Equal(t, 4, l.Count(l.Founder(), "sailor"))
}

// TestOnlyTheGateWelcomes tries what the gate does as a member and as a visitor.
func TestOnlyTheGateWelcomes(t *testing.T) {
	l := acttest.NewLoft(t)
	for _, name := range []string{"Ines", "visitor"} {
		seat := l.Member(name)
		_, err := arrival(t.Context(), l, seat, "mo@sails.example", map[string]any{"s_name": "Mo"})
		require.ErrorIs(t, err, records.ErrForbidden, name)
		err = l.Acts.Do(t.Context(), func(u *act.Unit) error {
			_, err := u.Road.Readdress(t.Context(), seat, seat.Viewer, "other@sails.example")
			return err
		})
		require.ErrorIs(t, err, records.ErrForbidden, name)
		err = l.Acts.Do(t.Context(), func(u *act.Unit) error {
			_, err := u.Road.Leave(t.Context(), seat, seat.Viewer)
			return err
		})
		require.ErrorIs(t, err, records.ErrForbidden, name)
		require.ErrorIs(t, l.Acts.Do(t.Context(), func(u *act.Unit) error {
			return u.Road.NumberAll(t.Context(), seat, seat.Blueprint.Table("sail"), seat.Blueprint.Table("sail").Field("name"))
		}), records.ErrForbidden, name)
	}
	assert.Equal(t, 3, l.Count(l.Founder(), "sailor"))
}

// TestAnAddressIsChangedInAllOnesRecords is somebody in two tables of people, and in one
// of them by two roles.
func TestAnAddressIsChangedInAllOnesRecords(t *testing.T) {
	l := acttest.NewLoft(t,
		`{"kind":"add","what":"table","id":"judge","values":{"name":"Judges","fields":[
			{"id":"j_name","name":"Name","type":"text"},{"id":"j_mail","name":"Email","type":"e-mail"}]}}`,
		`{"kind":"set","of":"all","values":{"audience":"roles","roles":["r"]}}`,
		`{"kind":"add","what":"role","id":"judges","values":{"name":"Judges","people":"judge"}}`,
		`{"kind":"add","what":"role","id":"stewards","values":{"name":"Stewards","people":"sailor"}}`)
	judge := l.Add("judge", map[string]any{"j_name": "Ines", "j_mail": "ines@sails.example"})
	gate := l.Founder()
	ines := access.Viewer{Name: "Ines", Memberships: []access.Membership{{Role: "r", Record: l.People["Ines"]},
		{Role: "stewards", Record: l.People["Ines"]}, {Role: "judges", Record: judge}, {Role: "gone", Record: judge}}}
	var writes []*records.Write
	require.NoError(t, l.Acts.Do(t.Context(), func(u *act.Unit) (err error) {
		writes, err = u.Road.Readdress(t.Context(), gate, ines, "ines@new.example")
		return err
	}))
	assert.Len(t, writes, 2, "each record once")
	assert.Equal(t, "ines@new.example", row(l, gate, "sailor", l.People["Ines"])["s_mail"])
	assert.Equal(t, "ines@new.example", row(l, gate, "judge", judge)["j_mail"])
	assert.Equal(t, "Tomas@sails.example", row(l, gate, "sailor", l.People["Tomas"])["s_mail"])

	require.NoError(t, l.Acts.Do(t.Context(), func(u *act.Unit) (err error) {
		writes, err = u.Road.Leave(t.Context(), gate, ines)
		return err
	}))
	assert.Len(t, writes, 2)
	assert.ElementsMatch(t, []string{"Tomas", "Ruth"}, names(l, gate, "sailor"))
	assert.Empty(t, names(l, gate, "judge"))
	require.ErrorIs(t, l.Acts.Do(t.Context(), func(u *act.Unit) error {
		_, err := u.Road.Leave(t.Context(), gate, ines)
		return err
	}), records.ErrForbidden, "who has left cannot leave again")
}
