package intake

import (
	"errors"
	"fmt"

	"pinegate/core/words"
)

// Names says what names the columns of a sheet: its first rows, or nothing. A file of JSON names them itself.
type Names string

// What names columns.
const (
	NamesFirst Names = "first"
	NamesNone  Names = "none"
	NamesOwn   Names = "own"
)

// namesOf says what names the columns of a table in which so many rows do.
func namesOf(rows int) (Names, string) {
	switch rows {
	case 0:
		return NamesNone, words.Say("intake-no-header", nil)
	case 1:
		return NamesFirst, words.Say("intake-header", nil)
	}
	return NamesFirst, words.Say("intake-headers", nil)
}

// Turn takes the first row of a sheet for names where it was taken for values, and the other way round: its founder knows better.
// It stays as it is where the file itself names its columns, or where there is no row.
func (s *Sheet) Turn() error {
	rows, first := 0, []string(nil)
	switch s.Names {
	case NamesOwn:
		return nil
	case NamesFirst:
		s.first -= s.named
	case NamesNone:
		err := s.Each(func(n int, cells []string) error {
			rows, first, s.first = 1, append(first, cells...), n+1
			return errEnough
		})
		if err != nil && !errors.Is(err, errEnough) {
			return err
		}
		if first == nil {
			return nil
		}
	}
	taken := map[string]bool{}
	for i, at := range s.columns {
		name := fmt.Sprintf("Column %d", at+1)
		if first != nil && plainName(first[i]) != "" {
			name = plainName(first[i])
		}
		s.Header[i] = distinctName(name, taken)
	}
	s.named = rows
	var note string
	s.Names, note = namesOf(rows)
	s.Notes[len(s.Notes)-1] = note
	return nil
}
