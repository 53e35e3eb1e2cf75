package main

import (
	"bytes"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(storetest.Main(m)) }

// TestEvalAnswersEachLine asks both back ends, which have to agree.
func TestEvalAnswersEachLine(t *testing.T) {
	lines := []struct{ in, out string }{
		{`{"fields": {"price": {"type":"number","value":"12.50"}, "n": {"type":"number","value":3}}, "expression": "price * n", "today": "2026-03-01"}`, `{"type":"number","value":"37.5"}`},
		{`{"fields": {"d": {"type":"date","value":"2024-02-29"}}, "expression": "EDATE(d, 12) < TODAY()", "today": "2026-03-01"}`,
			`{"type":"yes/no","value":true}`},
		{`{"fields": {"s": {"type":"time stamp","value":"2026-07-01T10:00:00Z"}}, "expression": "HOUR(s)", "zone": "Europe/Lisbon"}`,
			`{"type":"number","value":"11"}`},
		{`{"fields": {"a": {"type":"text","value":"x\ny"}, "b": {"type":"text"}}, "expression": "UPPER(a) & b"}`,
			`{"type":"text","value":"X\nY"}`},
		{`{"fields": {"a": {"type":"number"}}, "expression": "a * 2"}`, `{"type":"number","value":null}`},
		{`{"fields": {"price": {"type":"number"}}, "expression": "prise * 2"}`,
			`{"error":{"message":"There is no prise in the fields.","at":{"start":0,"end":5},"suggestion":"Did you mean price?"}}`},
		{`{"fields": {"a": {"type":"magic"}}, "expression": "a"}`,
			`{"error":{"message":"the type of a must be text, number, yes/no, date or time stamp, not \"magic\""}}`},
		{`nonsense`, `{"error":{"message":"This line is not well-formed JSON: invalid character 'o' in literal null (expecting 'u')."}}`},
	}
	var in strings.Builder
	for _, l := range lines {
		in.WriteString(l.in + "\n")
	}
	for _, backend := range []string{"go", "both"} {
		e := &evaluation{backend: backend}
		if backend == "both" {
			e.store = storetest.New(t)
		}
		var out bytes.Buffer
		require.NoError(t, e.run(t.Context(), strings.NewReader(in.String()), &out))
		got := strings.Split(strings.TrimSpace(out.String()), "\n")
		require.Len(t, got, len(lines))
		for i, l := range lines {
			assert.Equal(t, l.out, got[i], backend)
		}
	}
}
