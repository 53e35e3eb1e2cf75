package e2e

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/e2e/browser"
)

// anotherSite serves a page in which the demo's enquiry stands in a frame, at an origin of its own,
// and somebody who looks at it.
func anotherSite(t *testing.T, w *walk) (origin string, open func() *walk) {
	t.Helper()
	other := httptest.NewServer(http.HandlerFunc(func(out http.ResponseWriter, _ *http.Request) {
		fmt.Fprintf(out, `<!doctype html><title>Sailing club</title><p>Ask the yard:</p>
			<iframe src="%s/a/alder-cove/~/form/enquiry" height="10" style="width: 100%%; border: 0"></iframe>
			<script>const frame = document.querySelector("iframe"); frame.onload = () => { document.title = "Loaded" };
			addEventListener("message", (e) => { if (e.source === frame.contentWindow && e.data.form === "enquiry") frame.height = e.data.height; });
			</script>`, w.site.URL)
	}))
	t.Cleanup(other.Close)
	return other.URL, func() *walk {
		b, err := chromium()
		require.NoError(t, err)
		p, err := b.Person(other.URL)
		require.NoError(t, err)
		t.Cleanup(p.Close)
		there := &walk{p, t, w.site}
		there.must(p.Size(1280, 900), p.Go("/"), p.Until("load the frame", `document.title === 'Loaded'`))
		return there
	}
}

// TestAnEnquiryInAnotherSite fills in a public form in a page of a site that is listed, where its
// height follows; in one that is not, nothing is shown.
func TestAnEnquiryInAnotherSite(t *testing.T) {
	w := start(t)
	listed, open := anotherSite(t, w)
	unlisted, openUnlisted := anotherSite(t, w)
	require.NotEqual(t, listed, unlisted)
	w.live(map[string]any{"kind": "set", "of": "p_enquire_c", "values": map[string]any{"sites": "https://sailing-club.example\n" + listed}})

	there := open()
	there.must(there.Until("be told the height", `+document.querySelector('iframe').height > 300`))
	next := func(text string) { there.must(there.Type("\t"), there.Type(text)) }
	next("A berth")
	next("Is there one?")
	next("Pia Holm")
	next("pia@holm.example")
	there.must(there.Type("\r"))
	there.must(there.Until("be thanked, which takes less room", `+document.querySelector('iframe').height < 200`))
	assert.Equal(t, 1, w.number(`SELECT count(*) FROM live.enquiries e JOIN live.owners o ON o.id = e.owner
		WHERE e.subject = 'A berth' AND e.message = 'Is there one?' AND o.email = 'pia@holm.example'`))

	stranger := openUnlisted()
	again := open() // which takes as long as that would
	again.must(again.Until("be told the height", `+document.querySelector('iframe').height > 300`))
	height, err := browser.Eval[string](stranger.Person, `document.querySelector('iframe').height`)
	w.must(err)
	assert.Equal(t, "10", height, "nothing in it has said how high it is")
}

// TestWhoAsksIsLinked sends a public form with the address of somebody who exists: they are linked,
// not doubled, and whoever asks is told what everyone is. Who is known is not asked who they are.
func TestWhoAsksIsLinked(t *testing.T) {
	w := start(t)
	people := w.number(`SELECT count(*) FROM live.owners`)
	w.must(w.Size(1280, 900), w.Go("/a/alder-cove/~/form/enquiry?about=Winter+storage&Email=x"))
	w.see("Your email")
	w.must(w.Until("have the subject filled in", `field('Subject').value === 'Winter storage' && field('Your email').value === ''`))
	assert.Empty(t, serious(t, w))
	for i, email := range []string{"INES.Calder@sailmail.example", "new@person.example"} {
		w.fill("Question", "How much?")
		w.fill("Subject", fmt.Sprint("Storage ", i))
		w.fill("Your name", "Somebody")
		w.fill("Your email", email)
		w.press("Send the question")
		w.see("Thank you. We have your question")
		w.press("Send another")
		w.must(w.Until("be asked anew", `field('Question')?.value === ''`))
	}
	assert.Equal(t, people+1, w.number(`SELECT count(*) FROM live.owners`))
	assert.Equal(t, 1, w.number(`SELECT count(*) FROM live.enquiries e JOIN live.owners o ON o.id = e.owner
		WHERE e.subject = 'Storage 0' AND o.name = 'Ines Calder'`))
}

// TestSignUpIsAFormLikeOthers follows what is answered, keeps it through a reload and from the code
// back to the questions, and shows the same in a profile, on a phone.
func TestSignUpIsAFormLikeOthers(t *testing.T) {
	w := start(t)
	news := map[string]any{"when": "answers.news", "requiredWhen": "answers.news"}
	w.live(map[string]any{"kind": "move", "of": "r_own_s3", "to": 3}, map[string]any{"kind": "set", "of": "r_own_s3", "values": news},
		map[string]any{"kind": "move", "of": "r_own_p3", "to": 3}, map[string]any{"kind": "set", "of": "r_own_p3", "values": news})
	w.must(w.Size(390, 844))
	const email = "pia.strand@sailmail.example"
	w.app("/~/sign-up")
	w.fill("Your email", email)
	w.fill("Name", "Pia Strand")
	w.fill("Phone", "0555 0404")
	w.notSee("Address")
	w.choose("Wants the newsletter", "Yes")
	w.see("Address")
	w.press("I accept the terms")
	w.press("Continue")
	w.see("Fill in Address.")
	w.must(w.Until("be at the question", `document.activeElement === field('Address')`))
	assert.Empty(t, serious(t, w))
	w.fill("Address", "3 Quay Row")
	w.app("/~/sign-up")
	w.see("What you answered before is still here.")
	w.must(w.Until("find her name again", `field('Name').value === 'Pia Strand' && field('Address').value === '3 Quay Row'`))
	w.must(w.Until("find her address again", `field('Your email').value === 'pia.strand@sailmail.example'`))
	w.press("I accept the terms")
	w.press("Continue")
	w.see("Confirm your email")
	w.press("Back")
	w.must(w.Until("find her phone again", `field('Phone').value === '0555 0404'`))
	w.mail(email, "") // goes out in the background
	last := int64(w.number("SELECT max(id) FROM mails"))
	w.press("Continue")
	w.fill("Code from the email", w.site.Code(t, email, last))
	w.press("Confirm")
	w.see("Pia Strand", "Sign out")
	assert.Equal(t, "3 Quay Row", read[string](w, "SELECT address FROM live.owners WHERE email = 'pia.strand@sailmail.example'"))
	w.app("/~/me")
	w.see("Your details", "Address", "Customer since")
	w.must(w.Until("fit the width", `document.documentElement.scrollWidth <= innerWidth`))
	w.choose("Wants the newsletter", "No")
	w.notSee("Address")
	w.press("Save")
	w.see("Your details are saved.")
	assert.Empty(t, read[string](w, "SELECT coalesce(address, '') FROM live.owners WHERE email = 'pia.strand@sailmail.example'"))
	w.app("/~/sign-up")
	assert.Empty(t, serious(t, w))
}
