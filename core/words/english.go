package words

import "maps"

// english is what the messages say. Codes are grouped by what they are about: the
// first word of a code says it.
var english = merged(englishApp, englishWrong, englishServer, englishRecords, englishExpr)

func merged(parts ...map[string]string) map[string]string {
	out := map[string]string{}
	for _, part := range parts {
		maps.Copy(out, part)
	}
	return out
}
