package expr

import (
	"sort"
	"strings"
)

// closest gives the candidate that is nearest to what was written, or "" when
// none is near enough to be what was meant.
func closest(written string, candidates []string) string {
	best, bestDistance := "", len([]rune(written))/2+1
	sort.Strings(candidates)
	for _, c := range candidates {
		if d := distance(strings.ToLower(written), strings.ToLower(c)); d < bestDistance {
			best, bestDistance = c, d
		}
	}
	return best
}

// distance is the Levenshtein distance between two texts.
func distance(a, b string) int {
	ra, rb := []rune(a), []rune(b)
	row := make([]int, len(rb)+1)
	for j := range row {
		row[j] = j
	}
	for i := range ra {
		diagonal := row[0]
		row[0] = i + 1
		for j := range rb {
			cost := diagonal
			if ra[i] != rb[j] {
				cost = min(diagonal, row[j], row[j+1]) + 1
			}
			diagonal, row[j+1] = row[j+1], cost
		}
	}
	return row[len(rb)]
}
