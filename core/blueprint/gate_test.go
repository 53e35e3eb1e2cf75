package blueprint_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

func TestMailsAreFilledIn(t *testing.T) {
	clock := expr.Clock{Now: time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC), Zone: time.UTC}
	g := loft(t).Gate
	values := map[string]string{"app": "Loft", "name": "Ines", "code": "123456", "link": "https://sails.example/x",
		"what": "Your password was changed."}
	for _, m := range blueprint.GateMails() {
		mail, err := g.Fill(m, values, clock)
		require.NoError(t, err, m)
		assert.NotContains(t, mail.Subject+mail.Body, "{{", m)
		assert.NotContains(t, mail.Subject, "\n", m)
		assert.Contains(t, mail.Subject, "Loft", m)
		assert.NotEmpty(t, blueprint.MailCalled(m))
	}
	b := after(t, loft(t), `{"kind":"set","of":"gate","values":{"mails.code.subject":"{{ code }} for {{ UPPER(app) }}",
		"mails.code.body":"Dear {{ COALESCE(name, \"sailor\") }}: {{ code }}"}}`)
	mail, err := b.Gate.Fill(blueprint.CodeMail, map[string]string{"app": "Loft", "code": "654321"}, clock)
	require.NoError(t, err)
	assert.Equal(t, blueprint.Mail{Subject: "654321 for LOFT", Body: "Dear sailor: 654321"}, mail)
	mail, err = b.Gate.Fill(blueprint.CodeMail, map[string]string{"app": "A\r\nBcc: x@y.example", "code": "1"}, clock)
	require.NoError(t, err)
	assert.Equal(t, "1 for A BCC: X@Y EXAMPLE", mail.Subject, "a subject is one line")
}

func TestMailsThatMissWhatTheyAreFor(t *testing.T) {
	b := loft(t)
	for source, code := range map[string]string{
		`{"mails.code.subject":"Hello","mails.code.body":"No code here"}`: "mail-needs",
		`{"mails.link.body":"Hello {{ name }}"}`:                          "mail-needs",
		`{"mails.code.subject":"{{ cod }}"}`:                              "mail-unreadable",
		`{"ways":[]}`:                                                     "",
		`{"ways":["magic"]}`:                                              "not-offered",
		`{"session.hours":100000}`:                                        "number-range",
		`{"sender":"a\"b"}`:                                               "sender-signs",
		`{"address":"nowhere"}`:                                           "sender-address",
		`{"terms.version":"1"}`:                                           "terms-missing",
		`{"words.sign-in title":"x","words.other":1}`:                     "no-setting",
	} {
		source = `{"kind":"set","of":"gate","values":` + source + `}`
		if code == "" {
			after(t, b, source)
			continue
		}
		refused(t, b, source, code)
	}
}

func TestTheStrongerSecondStepIsTaken(t *testing.T) {
	for _, x := range []struct{ a, b, want blueprint.SecondStep }{
		{blueprint.NoSecond, blueprint.NoSecond, blueprint.NoSecond}, {blueprint.NoSecond, blueprint.MailCode, blueprint.MailCode},
		{blueprint.MailCode, blueprint.Authentic, blueprint.Authentic}, {blueprint.Authentic, blueprint.NoSecond, blueprint.Authentic},
	} {
		assert.Equal(t, x.want, x.a.Stronger(x.b))
		assert.Equal(t, x.want, x.b.Stronger(x.a))
	}
}

// TestSignUpCannotChooseARole holds that people are not asked for what decides who
// they are.
func TestSignUpCannotChooseARole(t *testing.T) {
	b := after(t, loft(t), `{"kind":"set","of":"r","values":{"signUp.mode":"open"}}`)
	refused(t, b, `{"kind":"set","of":"r:sign-up","values":{"fields":[{"field":"s_ok"}]}}`, "decides")
	asked := after(t, b, `{"kind":"set","of":"r:sign-up","values":{"fields":[{"field":"s_name","required":true}]}}`)
	refused(t, asked, `{"kind":"set","of":"r","values":{"signUp.presets":[{"field":"s_name","value":"\"x\""}]}}`, "asked-and-set")
}
