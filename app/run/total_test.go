package run_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAStepTotalsNumbers finds what numbers of records come to, in one statement, of those records that whoever sets it off sees, and
// with the app's own rights of all.
func TestAStepTotalsNumbers(t *testing.T) {
	step := func(id, what, of, where string) string {
		return fmt.Sprintf(`{"kind":"add","what":"step","into":"sums","id":%q,"values":{"kind":"find","what":%q,"table":"sail","of":%q,
			"name":%q,"where":%q}}`, id, what, of, id, where)
	}
	b := newBusy(t, `{"kind":"add","what":"workflow","id":"sums","values":{"kind":"press","name":"Sums","roles":["r"],"record":"sail"}}`,
		step("sum", "sum", "area * 2", ""), step("average", "average", "area", ""), step("least", "least", "area + this.area", ""),
		step("greatest", "greatest", "area", `name <> this.name`), step("none", "sum", "area", `name = "Nobody’s"`),
		step("lacking", "average", "area", `name = "Nobody’s"`),
		`{"kind":"add","what":"step","into":"sums","id":"say","values":{"kind":"message","text":
			"{{made.sum}} {{made.average}} {{made.least}} {{made.greatest}} {{made.none}} {{ISBLANK(made.lacking)}}"}}`)
	b.Add("sail", map[string]any{"name": "Storm", "area": "4"})
	b.Add("sail", map[string]any{"name": "Bare"})
	jib := b.Sails["Jib"]
	got, err := b.press(b.Member("Ines"), "sums", jib)
	require.NoError(t, err)
	assert.Equal(t, "80 20 40 20 0 yes", got.Message)
	b.apply(`{"kind":"set","of":"sums","values":{"rights":"app"}}`)
	got, err = b.press(b.Member("Ines"), "sums", jib)
	require.NoError(t, err)
	assert.Equal(t, "128 16 20 20 0 yes", got.Message)
	_, trace := b.last()
	assert.Equal(t, "sum did, average did, least did, greatest did, none did, lacking did, say did", told(trace))
}
