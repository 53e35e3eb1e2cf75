package service_test

import (
	"encoding/json"
	"net/url"
	"strings"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/expr"
	"pinegate/core/service"
	"pinegate/core/words"
)

func call(t testing.TB, id string) *blueprint.Call {
	_, out := blueprinttest.Busy(t).CallOf(id)
	require.NotNil(t, out)
	return out
}

func given(values map[string]expr.Value) service.Given {
	return func(id string) expr.Value { return values[id] }
}

func code(t *testing.T, err error) string {
	var told *words.Problem
	require.ErrorAs(t, err, &told)
	return told.Code
}

// TestWhatIsAsked puts requests together: in the path, in the query, and as JSON.
func TestWhatIsAsked(t *testing.T) {
	got, err := service.Compose(call(t, "tides"), given(map[string]expr.Value{"t_harbour": expr.TextOf("Alder/Cove ?x=1#y"),
		"t_day": {Kind: expr.Date, Text: "2026-05-02"}}))
	require.NoError(t, err)
	assert.Equal(t, "/tides/Alder%2FCove%20%3Fx=1%23y", got.Path)
	assert.Equal(t, "day=2026-05-02", got.Query.Encode())
	assert.Nil(t, got.Body)

	got, err = service.Compose(call(t, "order"), given(map[string]expr.Value{"o_part": expr.TextOf(`a "seal"`),
		"o_count": expr.NumberOf(decimal.RequireFromString("2.50"))}))
	require.NoError(t, err)
	assert.Equal(t, `{"line":{"count":2.5,"part":"a \"seal\""}}`, string(got.Body))

	for _, bad := range []string{"", ".", ".."} {
		_, err = service.Compose(call(t, "tides"), given(map[string]expr.Value{"t_harbour": expr.TextOf(bad)}))
		assert.Equal(t, "service-empty", code(t, err), bad)
	}
	lost := *call(t, "tides")
	lost.Sends = lost.Sends[1:]
	_, err = service.Compose(&lost, given(nil))
	assert.Equal(t, "service-slot", code(t, err))
	twice := *call(t, "order")
	twice.Sends = append(twice.Sends, blueprint.Sent{ID: "more", Name: "More", Type: blueprint.Text, As: "line"})
	_, err = service.Compose(&twice, given(map[string]expr.Value{"o_part": expr.TextOf("x"), "more": expr.TextOf("y")}))
	assert.Equal(t, "service-twice", code(t, err))
}

// TestAPathLeadsNowhereElse holds of any value that it stays one piece of the path.
func TestAPathLeadsNowhereElse(t *testing.T) {
	tides := call(t, "tides")
	rapid.Check(t, func(t *rapid.T) {
		value := rapid.String().Draw(t, "harbour")
		got, err := service.Compose(tides, given(map[string]expr.Value{"t_harbour": expr.TextOf(value)}))
		if err != nil {
			return
		}
		u, err := url.Parse("https://harbour.example/api" + got.Path)
		require.NoError(t, err)
		assert.Equal(t, "harbour.example", u.Host)
		assert.Empty(t, u.RawQuery+u.Fragment)
		assert.Equal(t, 3, strings.Count(u.EscapedPath(), "/"))
		assert.NotContains(t, strings.Split(u.EscapedPath(), "/"), "..")
	})
}

// TestWhatIsTaken reads answers.
func TestWhatIsTaken(t *testing.T) {
	tides, order := call(t, "tides"), call(t, "order")
	rows, err := service.Read(tides, []byte(tides.Sample))
	require.NoError(t, err)
	require.Len(t, rows, 2)
	assert.Equal(t, "2.5", rows[0]["t_height"].String())
	assert.Equal(t, "2026-05-02T16:10:00Z", rows[1]["t_at"].String())
	rows, err = service.Read(order, []byte(order.Sample))
	require.NoError(t, err)
	assert.Equal(t, "12.5", rows[0]["o_total"].String(), "a number that is written as a text is one")
	rows, err = service.Read(order, []byte(`{"order":{"number":{"a":1},"total":"much"}}`))
	require.NoError(t, err)
	assert.Empty(t, rows[0], "what is of another kind is empty")
	rows, err = service.Read(order, []byte(`[]`))
	require.NoError(t, err)
	assert.Empty(t, rows[0])
	for raw, want := range map[string]string{`{"tides":`: "service-nonsense", `<html>`: "service-nonsense", ``: "service-nonsense",
		`{"tides":[]} {}`: "service-nonsense", `{"tides":{}}`: "service-no-rows", `7`: "service-no-rows",
		`{"tides":[` + strings.Repeat("1,", service.MostRows) + `1]}`: "service-rows"} {
		_, err := service.Read(tides, []byte(raw))
		assert.Equal(t, want, code(t, err), "%.40s", raw)
	}
}

// FuzzRead reads any answer: it is refused in words, or gives values of the types that were asked for.
func FuzzRead(f *testing.F) {
	for _, id := range []string{"tides", "order"} {
		f.Add([]byte(call(f, id).Sample))
	}
	f.Add([]byte(`{"tides":[{"height":1e999999999,"at":"9999-99-99"}],"order":{"number":"\u0000","total":"1e-400"}}`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		for _, id := range []string{"tides", "order"} {
			x := call(t, id)
			rows, err := service.Read(x, raw)
			if err != nil {
				require.NotEmpty(t, code(t, err))
				continue
			}
			for _, r := range rows {
				for _, take := range x.Takes {
					field := blueprint.Field{ID: take.ID, Type: take.Type}
					if v, is := r[take.ID]; is {
						require.Equal(t, field.ExprType().Kind, v.Kind)
					}
				}
				_, err := json.Marshal(r)
				require.NoError(t, err)
			}
		}
	})
}
