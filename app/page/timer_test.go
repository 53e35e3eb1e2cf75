package page_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/store/records"
)

// watch is a loft with a timer on the page about a sail, for two kinds of work, and the day on which it is used.
type watch struct {
	*acttest.Loft
	now time.Time
}

func newWatch(t *testing.T) *watch {
	l := acttest.NewLoft(t, `{"kind":"set","of":"r.sail","values":{"see":{"extent":"all"}}}`,
		`{"kind":"set","of":"one","values":{"audience":"signed in"}}`, block("one", "tm", "timer", `,"title":"On {{ name }}"`),
		`{"kind":"add","what":"field","into":"tm_e","id":"tm_kind","values":{"name":"Kind","type":"choice","list":"cloth"}}`,
		`{"kind":"set","of":"tm","values":{"sort":"tm_kind","day":"tm_ec"}}`)
	return &watch{l, time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC)}
}

// seat is somebody's at the time that it is.
func (w *watch) seat(who string) *records.Seat {
	s := w.Member(who)
	s.Clock.Now = w.now
	return s
}

func (w *watch) does(who, sail string, what page.Timing) error {
	w.T.Helper()
	seat := w.seat(who)
	v, err := page.Open(w.T.Context(), w.Road(), seat, "sail", w.Sails[sail])
	require.NoError(w.T, err)
	return w.Acts.EditMany(w.T.Context(), w.App, seat, func(u *act.Unit) ([]*records.Write, string, error) {
		return v.Time(w.T.Context(), u.Road, "tm", what)
	})
}

// shows is the timer for somebody in short: the kinds of work with their hours, * for what runs and ! for what is forgotten, and
// all hours that were counted.
func (w *watch) shows(who, sail string) string {
	w.T.Helper()
	v, err := page.Open(w.T.Context(), w.Road(), w.seat(who), "sail", w.Sails[sail])
	require.NoError(w.T, err)
	blocks, err := v.Blocks(w.T.Context())
	require.NoError(w.T, err)
	var out []string
	for _, b := range blocks {
		x, is := b.(*page.Timer)
		if !is {
			continue
		}
		for _, e := range x.Open {
			s := e.Kind + " " + e.Hours
			if e.Since != "" {
				s += "*"
			}
			if e.Forgotten {
				s += "!"
			}
			out = append(out, s)
		}
		out = append(out, "= "+x.Whole)
		if x.Elsewhere != "" {
			out = append(out, "on "+x.Elsewhere)
		}
	}
	return strings.Join(out, ", ")
}

func (w *watch) later(minutes int) { w.now = w.now.Add(time.Duration(minutes) * time.Minute) }

// TestATimerCountsWhatIsWorked starts it for two kinds of work in one session, pauses, goes on, and stops, with presses
// that come twice.
func TestATimerCountsWhatIsWorked(t *testing.T) {
	w := newWatch(t)
	start := func(kind string) page.Timing { return page.Timing{Do: page.StartTimer, Kind: kind} }
	does := func(minutes int, what page.Timing, want string) {
		t.Helper()
		w.later(minutes)
		require.NoError(t, w.does("Ines", "Genoa", what))
		assert.Equal(t, want, w.shows("Ines", "Genoa"))
	}
	does(0, start("dacron"), "dacron 0*, = 0")
	does(30, start("dacron"), "dacron 0*, = 0")
	does(30, start("laminate"), "dacron 1, laminate 0*, = 1")
	does(15, page.Timing{Do: page.PauseTimer}, "dacron 1, laminate 0.25, = 1.25")
	does(60, page.Timing{Do: page.PauseTimer}, "dacron 1, laminate 0.25, = 1.25")
	does(0, start("dacron"), "dacron 1*, laminate 0.25, = 1.25")
	does(1, page.Timing{Do: page.StopTimer}, "= 1.2667")
	does(1, page.Timing{Do: page.StopTimer}, "= 1.2667")
	assert.Equal(t, 2, w.Count(w.Founder(), "tm_e"), "each kind of work is one entry")
	does(0, start("dacron"), "dacron 0*, = 1.2667")

	var p *words.Problem
	require.ErrorAs(t, w.does("Ines", "Genoa", start("silk")), &p)
	assert.Equal(t, "timer-sort", p.Code)
}

// TestATimerLeavesAloneWhatWasWrittenByHand counts it, and does not go on with it.
func TestATimerLeavesAloneWhatWasWrittenByHand(t *testing.T) {
	w := newWatch(t)
	w.Add("tm_e", map[string]any{"tm_ea": w.Sails["Genoa"], "tm_eb": w.People["Ines"], "tm_ed": "2.5", "tm_kind": "dacron"})
	assert.Equal(t, "= 2.5", w.shows("Ines", "Genoa"))
	require.NoError(t, w.does("Ines", "Genoa", page.Timing{Do: page.StartTimer, Kind: "dacron"}))
	assert.Equal(t, "dacron 0*, = 2.5", w.shows("Ines", "Genoa"))
	assert.Equal(t, 2, w.Count(w.Founder(), "tm_e"))
}

// TestATimerRunsInOnePlace pauses on one record what is started on another, and leaves alone what others work.
func TestATimerRunsInOnePlace(t *testing.T) {
	w := newWatch(t)
	start := page.Timing{Do: page.StartTimer, Kind: "dacron"}
	require.NoError(t, w.does("Ines", "Genoa", start))
	require.NoError(t, w.does("Tomas", "Genoa", start))
	w.later(60)
	assert.Equal(t, "= 0, on Genoa", w.shows("Ines", "Jib"))
	require.NoError(t, w.does("Ines", "Jib", start))
	assert.Equal(t, "dacron 0*, = 0", w.shows("Ines", "Jib"))
	assert.Equal(t, "dacron 1, = 1, on Jib", w.shows("Ines", "Genoa"))
	assert.Equal(t, "dacron 0*, = 1", w.shows("Tomas", "Genoa"), "hers are counted, his runs on")
	require.NoError(t, w.does("Ines", "Genoa", page.Timing{Do: page.StopTimer}))
	assert.Equal(t, "dacron 0*, = 0", w.shows("Ines", "Jib"), "it is stopped where one is")
}

// TestAForgottenTimerIsAskedAbout ends it when it should have been, and not before it began or in the future.
func TestAForgottenTimerIsAskedAbout(t *testing.T) {
	w := newWatch(t)
	require.NoError(t, w.does("Ines", "Genoa", page.Timing{Do: page.StartTimer, Kind: "dacron"}))
	w.later(60 * 24)
	assert.Equal(t, "dacron 0*!, = 0", w.shows("Ines", "Genoa"))
	entry := ""
	seat := w.seat("Ines")
	v, err := page.Open(t.Context(), w.Road(), seat, "sail", w.Sails["Genoa"])
	require.NoError(t, err)
	blocks, err := v.Blocks(t.Context())
	require.NoError(t, err)
	for _, b := range blocks {
		if x, is := b.(*page.Timer); is {
			entry = x.Open[0].ID
		}
	}
	end := func(who, at string) error {
		return w.does(who, "Genoa", page.Timing{Do: page.EndTimer, Entry: entry, At: at})
	}
	for at, code := range map[string]string{"2026-05-01T08:59:59Z": "timer-at", "2026-05-03T00:00:00Z": "timer-at", "x": "timer-at"} {
		var p *words.Problem
		require.ErrorAs(t, end("Ines", at), &p, at)
		assert.Equal(t, code, p.Code, at)
	}
	assert.Error(t, end("Tomas", "2026-05-01T12:00:00Z"), "it is not his")
	require.NoError(t, end("Ines", "2026-05-01T14:30:00+02:00"))
	assert.Equal(t, "= 3.5", w.shows("Ines", "Genoa"))
	assert.Error(t, end("Ines", "2026-05-01T12:00:00Z"), "it does not run any more")
}

// TestATimerKeepsToTheRules is started by nobody who may not add to what is worked, or who is none of those who work.
func TestATimerKeepsToTheRules(t *testing.T) {
	w := newWatch(t)
	start := page.Timing{Do: page.StartTimer, Kind: "dacron"}
	var p *words.Problem
	seat := w.Founder()
	v := onPage(t, w.Loft, seat, "Genoa")
	err := w.Acts.EditMany(t.Context(), w.App, seat, func(u *act.Unit) ([]*records.Write, string, error) {
		return v.Time(t.Context(), u.Road, "tm", start)
	})
	require.ErrorAs(t, err, &p)
	assert.Equal(t, "timer-unknown", p.Code)
	require.NoError(t, apply(t, w.Loft, blueprint.Setting("r.tm_e", "add", map[string]string{"extent": "none"})))
	assert.ErrorIs(t, w.does("Ines", "Genoa", start), records.ErrForbidden)
	require.NoError(t, apply(t, w.Loft, blueprint.Setting("r.tm_e", "hidden", []string{"tm_ed"})))
	assert.Equal(t, "= 0", w.shows("Ines", "Genoa"))
}

// TestATimerThatSeesTooLittleCountsNothing leaves what was worked as it is, where some of that is hidden from who works: else
// what was stopped would be open, and hours would begin at 0.
func TestATimerThatSeesTooLittleCountsNothing(t *testing.T) {
	w := newWatch(t)
	start := page.Timing{Do: page.StartTimer, Kind: "dacron"}
	require.NoError(t, w.does("Ines", "Genoa", start))
	w.later(60)
	require.NoError(t, w.does("Ines", "Genoa", page.Timing{Do: page.PauseTimer}))
	for _, hidden := range []string{"tm_ed", "tm_ef", "tm_eg", "tm_eh"} {
		require.NoError(t, apply(t, w.Loft, blueprint.Setting("r.tm_e", "hidden", []string{hidden})))
		var p *words.Problem
		for _, do := range []page.TimerAct{page.StartTimer, page.StopTimer} {
			require.ErrorAs(t, w.does("Ines", "Genoa", page.Timing{Do: do, Kind: "dacron"}), &p, hidden)
			assert.Equal(t, "timer-unknown", p.Code, hidden)
		}
	}
	require.NoError(t, apply(t, w.Loft, blueprint.Setting("r.tm_e", "hidden", nil)))
	assert.Equal(t, "dacron 1, = 1", w.shows("Ines", "Genoa"))
}
