package records_test

import (
	"context"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/core/expr"
	"pinegate/store/records"
)

// openLoft is a loft in which sailors and visitors may do everything with sailors.
func openLoft(t *testing.T, more ...string) *acttest.Loft {
	return acttest.NewLoft(t, append([]string{
		`{"kind":"set","of":"r.sailor","values":{"see":{"extent":"all"},"add":{"extent":"all"},"change":{"extent":"all"}}}`,
		`{"kind":"set","of":"visitor.sailor","values":{"add":{"extent":"all"}}}`,
		`{"kind":"set","of":"all","values":{"audience":"roles","roles":["r"]}}`,
		`{"kind":"add","what":"table","id":"crew","values":{"name":"Crew"}}`,
		`{"kind":"add","what":"field","into":"crew","id":"c_mail","values":{"name":"Email","type":"e-mail"}}`,
		`{"kind":"add","what":"role","id":"c","values":{"name":"Crew","people":"crew","email":"c_mail"}}`}, more...)...)
}

// adds adds a sailor as somebody.
func adds(ctx context.Context, l *acttest.Loft, seat *records.Seat, email string) (string, error) {
	values := acttest.Values(l.T, map[string]any{"s_name": "Mo", "s_mail": email})
	w, err := l.Acts.Edit(ctx, l.App, seat, "test", func(u *act.Unit) (*records.Write, error) {
		return u.Road.Add(ctx, seat, seat.Blueprint.Table("sailor"), values, nil)
	})
	if err != nil {
		return "", err
	}
	return w.Record, nil
}

// wrongWith gives the code of what is wrong with a field.
func wrongWith(t *testing.T, err error, field string) string {
	t.Helper()
	var fields records.FieldErrors
	require.ErrorAs(t, err, &fields)
	require.NotNil(t, fields[field], "%v", fields)
	return fields[field].Code
}

// TestNobodyIsMadeSomebodyElse tries to be taken for somebody by their address.
func TestNobodyIsMadeSomebodyElse(t *testing.T) {
	l := openLoft(t)
	l.Add("crew", map[string]any{"crew_1": "Office", "c_mail": "Office@sails.example"})
	for _, name := range []string{"Ines", "visitor"} {
		seat := l.Member(name)
		for _, email := range []string{"ruth@sails.example", "RUTH@Sails.example", "office@sails.example"} {
			_, err := adds(t.Context(), l, seat, email)
			assert.Equal(t, "person-known", wrongWith(t, err, "s_mail"), "%s adds %s", name, email)
		}
	}
	_, err := adds(t.Context(), l, l.Member("visitor"), "mo@sails.example")
	require.NoError(t, err, "somebody who is not known yet can be added, where a rule lets one")
	_, err = adds(t.Context(), l, l.Founder(), "Mo@sails.example")
	assert.Equal(t, "person-known", wrongWith(t, err, "s_mail"), "founders make no two either")

	change := func(seat *records.Seat, person string, email any, presets map[string]expr.Value) error {
		_, err := l.Acts.Edit(t.Context(), l.App, seat, "test", func(u *act.Unit) (*records.Write, error) {
			revision := int(row(l, l.Founder(), "sailor", l.People[person])["revision"].(float64))
			entered := records.Values{}
			if presets == nil {
				entered = acttest.Values(t, map[string]any{"s_mail": email})
			}
			return u.Road.Change(t.Context(), seat, seat.Blueprint.Table("sailor"), l.People[person], revision, entered, presets)
		})
		return err
	}
	ines := l.Member("Ines")
	for _, email := range []any{"new@sails.example", "ines@sails.example", "ruth@sails.example", nil} {
		assert.Equal(t, "person-email", wrongWith(t, change(ines, "Ruth", email, nil), "s_mail"), "%v", email)
		assert.Equal(t, "own-email", wrongWith(t, change(ines, "Ines", email, nil), "s_mail"), "%v", email)
	}
	preset := map[string]expr.Value{"s_mail": expr.TextOf("ruth@sails.example")}
	assert.Equal(t, "person-known", wrongWith(t, change(ines, "Ines", nil, preset), "s_mail"), "nor by what a form sets")
	assert.Equal(t, "person-known", wrongWith(t, change(l.Founder(), "Ines", "RUTH@sails.example", nil), "s_mail"))
	require.NoError(t, change(l.Founder(), "Ruth", "RUTH@sails.example", nil), "the case of one's own is no matter")
	require.NoError(t, change(l.Founder(), "Ruth", "new@sails.example", nil))
	require.NoError(t, change(l.Founder(), "Ines", "ruth@sails.example", nil), "the address is nobody's now")
	assert.Equal(t, "person-known", wrongWith(t, change(l.Founder(), "Ruth", "ruth@sails.example", nil), "s_mail"))
}

// TestRecordsThatComeBackAreNobodyElse brings records with an address that others have by
// now out of the bin and out of their history.
func TestRecordsThatComeBackAreNobodyElse(t *testing.T) {
	l := openLoft(t)
	seat := l.Founder()
	sailor := seat.Blueprint.Table("sailor")
	do := func(what func(*act.Unit) (*records.Write, error)) error {
		_, err := l.Acts.Edit(t.Context(), l.App, seat, "test", what)
		return err
	}
	mo, err := adds(t.Context(), l, seat, "mo@sails.example")
	require.NoError(t, err)
	require.NoError(t, do(func(u *act.Unit) (*records.Write, error) { return u.Road.Delete(t.Context(), seat, sailor, mo, 1) }))
	other, err := adds(t.Context(), l, seat, "mo@sails.example")
	require.NoError(t, err)
	assert.Equal(t, "person-known", wrongWith(t,
		do(func(u *act.Unit) (*records.Write, error) { return u.Road.Restore(t.Context(), seat, sailor, mo) }), "s_mail"))
	require.NoError(t, do(func(u *act.Unit) (*records.Write, error) {
		return u.Road.Change(t.Context(), seat, sailor, other, 1, acttest.Values(t, map[string]any{"s_mail": "jo@sails.example"}), nil)
	}))
	require.NoError(t, do(func(u *act.Unit) (*records.Write, error) { return u.Road.Restore(t.Context(), seat, sailor, mo) }))
	versions, err := l.Road().History(t.Context(), seat, sailor, other)
	require.NoError(t, err)
	assert.Equal(t, "person-known", wrongWith(t, do(func(u *act.Unit) (*records.Write, error) {
		return u.Road.BringBack(t.Context(), seat, sailor, other, 2, versions[1].ID)
	}), "s_mail"))
}

// TestOneAddressIsAddedOnce adds the same address at once, by whom a rule lets do so.
func TestOneAddressIsAddedOnce(t *testing.T) {
	l := openLoft(t)
	seat := l.Member("visitor")
	var wait sync.WaitGroup
	var added atomic.Int64
	for range 8 {
		wait.Go(func() {
			if _, err := adds(context.Background(), l, seat, "mo@sails.example"); err == nil {
				added.Add(1)
			}
		})
	}
	wait.Wait()
	assert.EqualValues(t, 1, added.Load())
	assert.Equal(t, 4, l.Count(l.Founder(), "sailor"))
}

// TestThoseWhoAreToldApartMayShareAnAddress lets founders have couples.
func TestThoseWhoAreToldApartMayShareAnAddress(t *testing.T) {
	l := openLoft(t, `{"kind":"set","of":"gate","values":{"ways":["code","fields"]}}`,
		`{"kind":"set","of":"r","values":{"match":["s_mail","s_name"]}}`)
	_, err := adds(t.Context(), l, l.Founder(), "ruth@sails.example")
	require.NoError(t, err)
	_, err = adds(t.Context(), l, l.Member("Ines"), "ruth@sails.example")
	assert.Equal(t, "person-known", wrongWith(t, err, "s_mail"))
}
