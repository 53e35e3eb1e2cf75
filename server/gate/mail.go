package gate

import (
	"context"
	"fmt"
	"net"
	"strconv"
	"time"

	"github.com/wneessen/go-mail"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
	"pinegate/standin/mailbox"
	"pinegate/store"
)

// Mailer says where mail goes.
type Mailer struct {
	Address string // host:port of an SMTP server
	From    string
	// Base is the address by which browsers reach us, such as
	// https://apps.yard.example, for links in mails. It never comes from a request.
	Base string
}

// letter is a mail that is ready to go.
type letter struct {
	app        string // id, or "" for mail to builders
	name, from string
	to         string
	mail       blueprint.Mail
	secret     bool // it holds what only the recipient may know
}

// send sends a mail.
func (m Mailer) send(ctx context.Context, l letter) error {
	message := mail.NewMsg()
	if l.from == "" {
		l.from = m.From
	}
	if err := message.FromFormat(l.name, l.from); err != nil {
		return fmt.Errorf("set sender: %w", err)
	}
	if err := message.To(l.to); err != nil {
		return fmt.Errorf("set recipient: %w", err)
	}
	message.Subject(l.mail.Subject)
	if l.app != "" {
		message.SetGenHeader(mail.Header(mailbox.AppHeader), l.app)
	}
	if l.secret {
		message.SetGenHeader(mailbox.SecretHeader, "yes")
	}
	message.SetBodyString(mail.TypeTextPlain, l.mail.Body)
	host, portText, err := net.SplitHostPort(m.Address)
	if err != nil {
		return fmt.Errorf("read mail server address: %w", err)
	}
	port, err := strconv.Atoi(portText)
	if err != nil {
		return fmt.Errorf("read mail server port: %w", err)
	}
	client, err := mail.NewClient(host, mail.WithPort(port), mail.WithTLSPolicy(mail.TLSOpportunistic), mail.WithTimeout(20*time.Second))
	if err != nil {
		return fmt.Errorf("make mail client: %w", err)
	}
	if err := client.DialAndSendWithContext(ctx, message); err != nil {
		return fmt.Errorf("send mail: %w", err)
	}
	return nil
}

// sendOf sends a mail of an app's gate.
func (m Mailer) sendOf(ctx context.Context, app store.App, b *blueprint.Blueprint, which blueprint.GateMail, to string,
	values map[string]string) error {
	l, err := letterOf(app, b, which, to, values)
	if err != nil {
		return err
	}
	l.secret = values["code"] != "" || values["link"] != ""
	return m.send(ctx, l)
}

func letterOf(app store.App, b *blueprint.Blueprint, which blueprint.GateMail, to string, values map[string]string) (letter, error) {
	values["app"] = b.Name
	words, err := b.Gate.Fill(which, values, expr.Clock{Now: time.Now(), Zone: b.Location()})
	if err != nil {
		return letter{}, fmt.Errorf("write the mail %s: %w", which, err)
	}
	name := b.Gate.Sender
	if name == "" {
		name = b.Name
	}
	return letter{app: app.ID, name: name, from: b.Gate.Address, to: to, mail: words}, nil
}

// link gives the address of a page of the gate of an app.
func (m Mailer) link(app store.App, page string) string {
	return m.Base + "/a/" + app.Slug + "/~/" + page
}

// Try sends a builder a mail of the gate as it would go out, with sample values.
func (g *Gate) Try(ctx context.Context, app store.App, b *blueprint.Blueprint, which blueprint.GateMail, to, name string) error {
	if err := g.limitAsking(ctx, From{Host: "trial " + to}.builder("trial "+to)); err != nil {
		return err
	}
	l, err := letterOf(app, b, which, to, map[string]string{"name": name, "code": "123456", "link": g.mailer.link(app, "sign-in"),
		"what": words.Say("account-password-changed", words.Args{"app": b.Name})})
	if err != nil {
		return err
	}
	return g.mailer.send(ctx, l)
}
