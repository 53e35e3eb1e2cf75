package intake

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/words"
)

// TestTheFirstRowIsWhatItsFounderSays turns sheets over, and back.
func TestTheFirstRowIsWhatItsFounderSays(t *testing.T) {
	read := func(s *Sheet) (out [][]string) {
		require.NoError(t, s.Each(func(_ int, cells []string) error { out = append(out, append([]string{}, cells...)); return nil }))
		return out
	}
	for name, c := range map[string]struct {
		file, content string
		names, turned Names
		header        []string // once it is turned
		rows          [][]string
	}{
		"names that seem to be values": {"names.csv", "2019,2020\n1,2\n3,4\n", NamesFirst, NamesNone, []string{"Column 1", "Column 2"},
			[][]string{{"2019", "2020"}, {"1", "2"}, {"3", "4"}}},
		"words that name nothing": {"words.csv", "Tern,blue\nAuk,red\nGull,green\n", NamesFirst, NamesNone,
			[]string{"Column 1", "Column 2"}, [][]string{{"Tern", "blue"}, {"Auk", "red"}, {"Gull", "green"}}},
		"numbers that are names": {"numbers.csv", "1,2,1\n10,11,12\n13,14,15\n", NamesNone, NamesFirst, []string{"1", "2", "1 2"},
			[][]string{{"10", "11", "12"}, {"13", "14", "15"}}},
		"two rows of names below a title": {"two.csv", "Takings of the yard,,,\n,Hours,,Pay\nWho,2023,2024,2024\nAda,1,2,3\nHugh,3,4,5\n",
			NamesFirst, NamesNone, []string{"Column 1", "Column 2", "Column 3", "Column 4"}, [][]string{{"", "Hours", "", "Pay"},
				{"Who", "2023", "2024", "2024"}, {"Ada", "1", "2", "3"}, {"Hugh", "3", "4", "5"}}},
		"a file that names its columns itself": {"own.json", `[{"a":1},{"a":2}]`, NamesOwn, NamesOwn, []string{"a"}, [][]string{{"1"}, {"2"}}},
	} {
		t.Run(name, func(t *testing.T) {
			sheets, err := Sheets(file(c.file, []byte(c.content)))
			require.NoError(t, err)
			s := sheets[0]
			require.Equal(t, c.names, s.Names)
			header, rows := append([]string{}, s.Header...), read(s)
			require.NoError(t, s.Turn())
			assert.Equal(t, c.turned, s.Names)
			assert.Equal(t, c.header, s.Header)
			assert.Equal(t, c.rows, read(s))
			if c.turned == NamesNone {
				assert.Contains(t, s.Notes, words.Say("intake-no-header", nil))
			}
			if c.names != NamesFirst || len(rows) == len(c.rows)-1 { // two rows of names come back as one
				require.NoError(t, s.Turn())
				assert.Equal(t, header, s.Header)
				assert.Equal(t, rows, read(s))
			}
		})
	}
}
