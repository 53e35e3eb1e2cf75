package page_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/store/records"
)

// badging is a loft whose page of sails gives badges: for two that are cut in a month, for no more than one that is, for one to three
// sails at all, and for as many as a table says. It collects them, too.
type badging struct {
	*acttest.Loft
	now time.Time
}

func newBadging(t *testing.T, more ...string) *badging {
	goal := func(id, values string) string {
		return fmt.Sprintf(`{"kind":"set","of":"%s_1","values":{%s}}`, id, values)
	}
	cut := `,"table":"sail","date":"cut","range":"this month"`
	l := acttest.NewLoft(t, append([]string{
		block("all", "two", "figure", cut+`,"badge":"Two a month","picture":"star"`), goal("two", `"goal":"least","at":"2"`),
		block("all", "few", "figure", cut+`,"badge":"Sparing"`), goal("few", `"goal":"most","at":"1"`),
		block("all", "now", "figure", `,"table":"sail","badge":"Enough","each":"year"`), goal("now", `"goal":"between","at":"1","to":"2"`),
		block("all", "coll", "badges", `,"title":"Yours"`),
	}, more...)...)
	return &badging{l, time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC)}
}

func (w *badging) seat(who string) *records.Seat {
	s := w.Member(who)
	s.Clock.Now = w.now
	return s
}

// cut has Ines' two sails be cut on days.
func (w *badging) cut(genoa, jib string) { cuts(w.Loft, map[string]string{"Genoa": genoa, "Jib": jib}) }

// award asks for the badge of a figure, and gives the periods for which it is to be celebrated.
func (w *badging) award(who, id string) string {
	w.T.Helper()
	seat := w.seat(who)
	v, err := page.Open(w.T.Context(), w.Road(), seat, "my-sails", "")
	require.NoError(w.T, err)
	var got page.Celebrated
	require.NoError(w.T, w.Acts.EditMany(w.T.Context(), w.App, seat, func(u *act.Unit) (writes []*records.Write, s string, err error) {
		got, writes, s, err = v.Award(w.T.Context(), u.Road, id)
		return writes, s, err
	}))
	var out []string
	for _, d := range got.Days {
		out = append(out, d.From+".."+d.To)
	}
	return strings.Join(out, " ")
}

// badge is how it stands with the badge of a figure.
func (w *badging) badge(who, id string) *page.Badge {
	w.T.Helper()
	return shownAs[page.Figure](w.Loft, w.seat(who), id, "").Badge
}

// held are the badges of somebody, with how often each was reached.
func (w *badging) held(who string) string {
	w.T.Helper()
	var out []string
	for _, b := range shownAs[page.Badges](w.Loft, w.seat(who), "coll", "").Badges {
		out = append(out, fmt.Sprintf("%s %d", b.Name, b.Times))
	}
	return strings.Join(out, ", ")
}

// TestATargetIsCelebratedOnceForEachPeriod gives a badge, gives it no second time, takes it back, gives it again without a word, and
// leaves it alone once its month is over.
func TestATargetIsCelebratedOnceForEachPeriod(t *testing.T) {
	w := newBadging(t)
	w.cut("2026-05-01", "2026-04-30")
	assert.Equal(t, &page.Badge{Name: "Two a month", Picture: "star"}, w.badge("Ines", "two"))
	assert.Empty(t, w.award("Ines", "two"), "what a browser asks for is not given")
	assert.Equal(t, "Two a month 0, Sparing 0, Enough 0", w.held("Ines"))

	w.cut("2026-05-01", "2026-05-01")
	assert.True(t, w.badge("Ines", "two").Due)
	assert.Equal(t, "2026-05-01..2026-05-31", w.award("Ines", "two"))
	assert.Equal(t, &page.Badge{Name: "Two a month", Picture: "star", Won: true}, w.badge("Ines", "two"))
	assert.Empty(t, w.award("Ines", "two"))
	assert.Equal(t, "Two a month 1, Sparing 0, Enough 0", w.held("Ines"))
	assert.Equal(t, "Two a month 0, Sparing 0, Enough 0", w.held("Tomas"), "it is hers")
	assert.False(t, w.badge("Tomas", "two").Due, "who does not see these sails has reached nothing")

	w.cut("2026-05-01", "2026-06-01")
	assert.True(t, w.badge("Ines", "two").Due)
	assert.Empty(t, w.award("Ines", "two"))
	assert.Equal(t, &page.Badge{Name: "Two a month", Picture: "star"}, w.badge("Ines", "two"))
	assert.Equal(t, "Two a month 0, Sparing 0, Enough 0", w.held("Ines"), "it was taken back")
	w.cut("2026-05-01", "2026-05-20")
	assert.Empty(t, w.award("Ines", "two"), "it was celebrated already")
	assert.True(t, w.badge("Ines", "two").Won)

	w.now = time.Date(2026, 6, 2, 9, 0, 0, 0, time.UTC)
	w.cut("2026-06-01", "2026-06-02")
	assert.Equal(t, "2026-06-01..2026-06-30", w.award("Ines", "two"))
	assert.Equal(t, "Two a month 2, Sparing 0, Enough 0", w.held("Ines"), "that of May stays, whatever May is now")
	assert.Equal(t, 2, w.Count(w.Founder(), "two_b"))
}

// TestWhatIsAtMostSomethingIsReachedAtTheEnd gives a badge for a month that is over, also to who did not look while it went on.
func TestWhatIsAtMostSomethingIsReachedAtTheEnd(t *testing.T) {
	w := newBadging(t)
	w.cut("2026-05-02", "2026-05-03")
	assert.Equal(t, "2026-04-01..2026-04-30", w.award("Ines", "few"), "of May it is not known yet")
	w.now = time.Date(2026, 6, 1, 9, 0, 0, 0, time.UTC)
	assert.Empty(t, w.award("Ines", "few"), "two were cut in May")
	assert.Equal(t, "2026-05-01..2026-05-31", w.award("Ines", "two"))
	assert.False(t, w.badge("Ines", "two").Won, "that is the badge of May")
	assert.Equal(t, "Two a month 1, Sparing 1, Enough 0", w.held("Ines"))
}

// TestABadgeForHowThingsAre is given at once, once in each period that is said.
func TestABadgeForHowThingsAre(t *testing.T) {
	w := newBadging(t)
	assert.Equal(t, "..", w.award("Ines", "now"))
	assert.Empty(t, w.award("Ines", "now"))
	w.now = time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC)
	assert.Equal(t, "..", w.award("Ines", "now"))
	l := w.Add("sail", map[string]any{"name": "Storm", "owner": w.People["Ines"]})
	assert.NotEmpty(t, l)
	assert.Empty(t, w.award("Ines", "now"))
	assert.Equal(t, "Enough 1, Two a month 0, Sparing 0", w.held("Ines"), "that of this year was taken back")
}

// TestNobodyGivesThemselvesABadge holds people to what is so: not to what they chose to look at, nor to what they write.
func TestNobodyGivesThemselvesABadge(t *testing.T) {
	w := newBadging(t, `{"kind":"set","of":"two","values":{"ranges":true}}`)
	w.cut("2026-03-01", "2026-03-02")
	got := shownAs[page.Figure](w.Loft, w.seat("Ines"), "two", "two.days=this+year")
	assert.Equal(t, "2", *got.Values[0])
	assert.False(t, got.Badge.Due, "another range reaches nothing")
	assert.Empty(t, w.award("Ines", "two"))

	w.cut("2026-05-01", "2026-05-02")
	assert.NotEmpty(t, w.award("Ines", "two"))
	ines := w.seat("Ines")
	table := ines.Blueprint.Table("two_b")
	add := func(u *act.Unit) (*records.Write, error) {
		return u.Road.Add(t.Context(), ines, table, acttest.Values(t, map[string]any{"two_ba": "Mine", "two_bb": w.People["Ines"]}), nil)
	}
	_, err := w.Acts.Edit(t.Context(), w.App, ines, "", add)
	assert.ErrorIs(t, err, records.ErrForbidden)
	assert.Equal(t, []int{1, 0}, []int{w.Count(ines, "two_b"), w.Count(w.seat("Tomas"), "two_b")}, "people see their own")

	require.NoError(t, apply(t, w.Loft, blueprint.Setting("r.two_b", "see", map[string]string{"extent": "none"})))
	assert.True(t, shownAs[page.Badges](w.Loft, w.seat("Ines"), "coll", "").Hidden)
	assert.False(t, w.badge("Ines", "two").Due, "it is not given again to who does not see it")
	assert.Equal(t, &page.Badge{Name: "Two a month", Picture: "star"}, shownAs[page.Figure](w.Loft, w.Founder(), "two", "").Badge,
		"the founder is none of the people, and sees what there is for them")
	assert.Len(t, shownAs[page.Badges](w.Loft, w.Founder(), "coll", "").Badges, 3)
	assert.Nil(t, shownAs[page.Figure](w.Loft, w.Member(""), "two", "").Badge, "nor is somebody without a record")
}

// TestWhatOneDoesNotSeeIsNotKeptLow gives no badge for at most something to who sees neither the numbers nor any record.
func TestWhatOneDoesNotSeeIsNotKeptLow(t *testing.T) {
	w := newBadging(t, block("all", "low", "figure", `,"table":"sail","badge":"Cheap"`),
		`{"kind":"set","of":"low_1","values":{"total":"sum","of":"price","goal":"most","at":"1000000"}}`)
	assert.Empty(t, w.award("Ines", "low"), "she sees no prices")
	require.NoError(t, apply(t, w.Loft, blueprint.Setting("r.sail", "hidden", []string{})))
	assert.Equal(t, "..", w.award("Ines", "low"))
	require.NoError(t, apply(t, w.Loft, blueprint.Setting("r.sail", "see", map[string]string{"extent": "none"})))
	assert.Empty(t, w.award("Tomas", "low"), "he sees no sails")
}

// TestTwoWindowsGiveOneBadge asks for one twice at once.
func TestTwoWindowsGiveOneBadge(t *testing.T) {
	w := newBadging(t)
	w.cut("2026-05-01", "2026-05-02")
	all := make(chan error)
	for range 2 {
		seat := w.seat("Ines")
		v, err := page.Open(t.Context(), w.Road(), seat, "my-sails", "")
		require.NoError(t, err)
		go func() {
			all <- w.Acts.EditMany(t.Context(), w.App, seat, func(u *act.Unit) (writes []*records.Write, s string, err error) {
				_, writes, s, err = v.Award(t.Context(), u.Road, "two")
				return writes, s, err
			})
		}()
	}
	require.NoError(t, <-all)
	require.NoError(t, <-all)
	assert.Equal(t, 1, w.Count(w.Founder(), "two_b"))
}

// TestTargetsOfATableGiveBadges reach what the table says for the period, and nothing where it says nothing.
func TestTargetsOfATableGiveBadges(t *testing.T) {
	w := newBadging(t,
		`{"kind":"add","what":"table","into":"","id":"aim","values":{"name":"Aims","fields":[
			{"id":"aim_n","name":"Number","type":"number"},{"id":"aim_d","name":"Day","type":"date"}]}}`,
		`{"kind":"set","of":"two_1","values":{"goals":"aim","goalsOf":"aim_n","goalsBy":"aim_d"}}`)
	require.NoError(t, apply(t, w.Loft, blueprint.Adding("rule", "r", "r_aim", "table", "aim", "see", map[string]string{"extent": "all"})))
	w.cut("2026-05-01", "2026-05-02")
	assert.Empty(t, w.award("Ines", "two"))
	w.Add("aim", map[string]any{"aim_n": "3", "aim_d": "2026-05-01"})
	assert.Empty(t, w.award("Ines", "two"))
	w.Add("aim", map[string]any{"aim_n": "-1", "aim_d": "2026-05-15"})
	assert.Equal(t, "2026-05-01..2026-05-31", w.award("Ines", "two"), "the targets of its days are summed")
	require.NoError(t, apply(t, w.Loft, &blueprint.Remove{Of: "aim", Mend: true}))
	assert.Nil(t, w.badge("Ines", "two"), "without a target there is no badge to be reached")
}
