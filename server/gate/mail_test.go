package gate

import (
	"errors"
	"io"
	"net"
	"net/mail"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/emersion/go-smtp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/run"
	"pinegate/core/blueprint"
	"pinegate/store/records"
)

// strict is a mail server that takes mail of one sender only.
type strict struct {
	mu    sync.Mutex
	takes string
	got   []*mail.Message
	texts []string
}

func (s *strict) NewSession(*smtp.Conn) (smtp.Session, error) { return &strictSession{s}, nil }

type strictSession struct{ *strict }

func (s *strictSession) Mail(from string, _ *smtp.MailOptions) error {
	if from != s.takes {
		return &smtp.SMTPError{Code: 553, Message: "not your address"}
	}
	return nil
}

func (*strictSession) Rcpt(to string, _ *smtp.RcptOptions) error {
	if strings.HasPrefix(to, "nobody") {
		return &smtp.SMTPError{Code: 550, Message: "no such user"}
	}
	return nil
}

func (s *strictSession) Data(r io.Reader) error {
	m, err := mail.ReadMessage(r)
	if err != nil {
		return err
	}
	text, err := io.ReadAll(m.Body)
	if err != nil {
		return err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.got, s.texts = append(s.got, m), append(s.texts, string(text))
	return nil
}

func (*strictSession) Reset()        {}
func (*strictSession) Logout() error { return nil }

func shown(id, name string, above bool) run.Shown {
	f := records.File{ID: id, Name: name, Type: "image/png"}
	return run.Shown{Attached: run.Attached{File: f, Bytes: []byte("picture")}, Above: above}
}

// TestPicturesStandAroundAText puts the picture of the app above, and those of records below.
func TestPicturesStandAroundAText(t *testing.T) {
	img := func(id, alt string) string {
		return `<p><img src="cid:` + id + `@pictures" alt="` + alt + `" style="max-width:100%"></p>` + "\n"
	}
	assert.Equal(t, img("b", "logo.png")+"<p>Hi</p>"+img("a", "hull &#34;&gt; 1.png"),
		around([]run.Shown{shown("b", "logo.png", true), shown("a", `x/hull "> 1.png`, false)}, "<p>Hi</p>"))
	assert.Equal(t, "<p>Hi</p>", around(nil, "<p>Hi</p>"))
}

// TestASenderFallsBack sends a mail of a workflow from the sender of an app or, where the mail server refuses that,
// from ours; what is sent again is known as the same mail.
func TestASenderFallsBack(t *testing.T) {
	const ours, own = "no-reply@pinegate.example", "yard@aldercove.example"
	server := &strict{takes: own}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	s := smtp.NewServer(server)
	s.Domain = "mail.example"
	served := make(chan error, 1)
	go func() { served <- s.Serve(l) }()
	t.Cleanup(func() {
		require.NoError(t, s.Close())
		require.NoError(t, <-served)
	})
	m := Mailer{Address: l.Addr().String(), From: ours}
	send := func(to string) error {
		return m.post(t.Context(), Sender{Name: "Yard", Address: own},
			letter{id: "01a00000-0000-7000-8000-000000000000", app: "app", to: to, mail: blueprint.Mail{Subject: "Hi", Body: "There"},
				html: "<p>There</p>", attached: []run.Attached{{File: records.File{Name: "../plan.pdf", Type: "application/pdf"},
					Bytes: []byte("%PDF-1.7")}}, shown: []run.Shown{shown("a1", "../hull.png", false)}, leave: m.Base + LeavePath + "x"})
	}
	require.NoError(t, send("ines@sailmail.example"))
	require.NoError(t, send("ines@sailmail.example"))
	server.takes = ours
	require.NoError(t, send("ines@sailmail.example"))
	require.Len(t, server.got, 3)
	from := func(i int) string { return server.got[i].Header.Get("From") }
	id := func(i int) string { return server.got[i].Header.Get("Message-ID") }
	assert.Contains(t, from(0), own)
	assert.Equal(t, "<01a00000-0000-7000-8000-000000000000@aldercove.example>", id(0))
	assert.Equal(t, id(0), id(1))
	assert.Contains(t, from(2), ours)
	assert.Contains(t, server.got[2].Header.Get("Reply-To"), own, "answers go to the app all the same")
	for i := range server.got { // also of one that was refused first
		assert.Contains(t, server.texts[i], "JVBERi0xLjc=", "the file goes along")
		assert.Contains(t, server.texts[i], `"plan.pdf"`)
		assert.Contains(t, server.texts[i], "Content-Id: <a1@pictures>")
		assert.Contains(t, server.texts[i], `"hull.png"`)
		assert.NotContains(t, server.texts[i], "../")
		assert.Equal(t, "</leave/x>", server.got[i].Header.Get("List-Unsubscribe"))
		assert.Equal(t, "List-Unsubscribe=One-Click", server.got[i].Header.Get("List-Unsubscribe-Post"))
	}
	require.Error(t, send("nobody@sailmail.example"), "an address that there is none of stays refused")
	server.takes = "none"
	require.Error(t, send("ines@sailmail.example"))
}

// TestAMailServerThatHangs sends a mail to a server that takes calls and says nothing: it is given up.
func TestAMailServerThatHangs(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	held := make(chan net.Conn, 1)
	go func() {
		c, err := l.Accept()
		assert.NoError(t, err)
		held <- c
	}()
	m := Mailer{Address: l.Addr().String(), From: "no-reply@pinegate.example", Patience: 100 * time.Millisecond}
	began := time.Now()
	require.Error(t, m.send(t.Context(), letter{to: "ines@sailmail.example", mail: blueprint.Mail{Subject: "Hi", Body: "There"}}))
	assert.Less(t, time.Since(began), 5*time.Second)
	require.NoError(t, errors.Join((<-held).Close(), l.Close()))
}
