package blueprint_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/demo"
)

func TestTheGateRefusesInWords(t *testing.T) {
	for source, want := range map[string]string{
		`{"kind":"SetWays","ways":[]}`:                                                                     "Leave at least one way in.",
		`{"kind":"SetWays","ways":["magic"]}`:                                                              `There is no way in called "magic"`,
		`{"kind":"SetSession","hours":0,"prolonged":false,"each":false,"asks":false}`:                      "1 to 8760 hours",
		`{"kind":"SetRoleCondition","role":"visitor","where":"true"}`:                                      "Say first which table the people of Visitors are in.",
		`{"kind":"SetRoleCondition","role":"r_crew","where":"no_such_field"}`:                              "The condition by which people are Crew",
		`{"kind":"SetAdmission","role":"r_crew","admit":"me = this"}`:                                      "The condition by which Crew are let in",
		`{"kind":"SetHome","role":"r_own","at":0,"page":"p_orders","when":""}`:                             "Boat owners can only land on a page that is open to them",
		`{"kind":"SetHome","role":"r_own","at":7,"page":"p_boats","when":""}`:                              "no longer there",
		`{"kind":"SetMatch","role":"r_own","match":["own_news"]}`:                                          "can only be found by texts",
		`{"kind":"SetMatch","role":"r_own","match":["own_name.boat_name"]}`:                                "by their own fields, and by those of records that link to them",
		`{"kind":"SetSecondStep","role":"r_own","second":"face"}`:                                          `There is no second step "face".`,
		`{"kind":"SetSignUp","role":"r_own","mode":"always"}`:                                              `There is no way to sign up called "always".`,
		`{"kind":"SetSignUp","role":"r_own","questions":[{"field":"own_email"}]}`:                          "The e-mail is asked of everybody who signs up",
		`{"kind":"SetSignUp","role":"r_own","questions":[{"field":"own_since"}]}`:                          "Customer since is filled in for new Boat owners",
		`{"kind":"SetSignUp","role":"r_crew","questions":[{"field":"crew_manager"}]}`:                      "they would choose what they may do",
		`{"kind":"SetProfile","role":"r_own","fields":["boat_name"]}`:                                      "shows what is no field of Owners",
		`{"kind":"SetGiven","role":"r_own","table":"req","given":[{"field":"req_owner","value":"owner"}]}`: "hat is filled in for Owner when Boat owners add to Work requests",
		`{"kind":"SetGiven","role":"r_own","table":"req","given":[{"field":"boat_name","value":"\"x\""}]}`: "a field is not in Work requests",
		`{"kind":"SetTerms","version":"1","text":"","privacy":""}`:                                         "Write down the terms that people accept.",
		`{"kind":"SetGateMail","mail":"code","subject":"Hello","body":"no code here"}`:                     "This mail needs {{code}} somewhere",
		`{"kind":"SetGateMail","mail":"link","subject":"Hello","body":"{{link}} {{code}}"}`:                "The mail cannot be read",
		`{"kind":"SetSender","sender":"","address":"not an address"}`:                                      "is no mail address from which mail can come",
		`{"kind":"RemovePage","page":"p_hauls"}`:                                                           "signing in as one of Crew leads to it",
		`{"kind":"SetAudience","page":"p_orders","audience":"roles","roles":["r_man"]}`:                    "Crew can only land on a page that is open to them",
	} {
		_, err := change(t, demo.Blueprint(), source)
		var p *blueprint.Problem
		if assert.ErrorAs(t, err, &p, source) {
			assert.Contains(t, p.Message, want, source)
		}
	}
}

func TestAnotherTableOfPeopleForgetsWhatWasSaidOfThem(t *testing.T) {
	b, err := change(t, demo.Blueprint(), `{"kind":"SetPeople","role":"r_man","table":"own"}`)
	require.NoError(t, err)
	r := b.Role("r_man")
	assert.Equal(t, "own_email", r.Email)
	assert.Empty(t, r.Where+r.Admit)
}

// A combination of fields that loses one would let in more easily.
func TestACombinationThatLosesAFieldIsClosed(t *testing.T) {
	b, err := change(t, demo.Blueprint(), `{"kind":"SetMatch","role":"r_own","match":["own_email","own_phone"]}`)
	require.NoError(t, err)
	b, err = change(t, b, `{"kind":"RemoveField","table":"own","field":"own_phone","mend":true}`)
	require.NoError(t, err)
	assert.Empty(t, b.Role("r_own").Match)
}

func TestMailsOfTheGateAreFilledIn(t *testing.T) {
	clock := expr.Clock{Now: time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC), Zone: time.UTC}
	values := map[string]string{"app": "Alder Cove", "name": "Ines", "code": "123456", "link": "https://a.example/x", "what": "Your password was changed"}
	for _, m := range blueprint.GateMails() {
		mail, err := blueprint.Gate{}.Fill(m, values, clock)
		require.NoError(t, err, m)
		assert.NotContains(t, mail.Subject+mail.Body, "{{", m)
		assert.Contains(t, mail.Body, "Hello Ines,", m)
	}
	mail, err := blueprint.Gate{}.Fill(blueprint.CodeMail, map[string]string{"app": "Alder\r\nCove", "code": "123456"}, clock)
	require.NoError(t, err)
	assert.Equal(t, "123456 is your code for Alder Cove", mail.Subject, "a subject is one line, whatever goes into it")
	assert.Contains(t, mail.Body, "Hello,", "who has no name is greeted all the same")
}

func TestTheStrongerSecondStepCounts(t *testing.T) {
	none, mail, app := blueprint.NoSecond, blueprint.MailCode, blueprint.Authentic
	for _, x := range [][3]blueprint.SecondStep{{none, none, none}, {none, mail, mail}, {mail, none, mail}, {mail, app, app}, {app, mail, app}, {app, none, app}} {
		assert.Equal(t, x[2], x[0].Stronger(x[1]), "%q and %q", x[0], x[1])
	}
}
