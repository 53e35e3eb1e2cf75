package expr_test

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/expr"
)

// TestNumbersAreWrittenWhole writes numbers of few digits and of many as the library does.
func TestNumbersAreWrittenWhole(t *testing.T) {
	for _, text := range []string{"0", "-0.00", "0.5", "-0.05", "100", "12.50", "1e3", "999999999999999999",
		"-1234567890123456789012.000000000000000000001"} {
		d, err := decimal.NewFromString(text)
		require.NoError(t, err)
		assert.Equal(t, d.String(), expr.NumberOf(d).String(), text)
	}
	rapid.Check(t, func(t *rapid.T) {
		d := decimal.New(rapid.Int64().Draw(t, "digits"), rapid.Int32Range(-25, 12).Draw(t, "exponent"))
		if v := expr.NumberOf(d); !v.IsEmpty() {
			require.Equal(t, v.Num.String(), v.String())
		}
	})
}
