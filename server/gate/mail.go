package gate

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"html"
	"net"
	"strconv"
	"strings"
	"time"

	"github.com/wneessen/go-mail"

	"pinegate/app/run"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
	"pinegate/standin/mailbox"
	"pinegate/store"
	"pinegate/store/accounts"
)

// Mailer says where mail goes.
type Mailer struct {
	Address string // host:port of an SMTP server
	From    string
	// Base is the address by which browsers reach us, such as
	// https://apps.yard.example, for links in mails. It never comes from a request.
	Base string
	// Patience is how long the server may take for an answer; 20 seconds for none.
	Patience time.Duration
}

// letter is a mail that is ready to go.
type letter struct {
	id         string // the same however often it is sent, or "" for one of no account
	app        string // id, or "" for mail to builders
	name, from string
	replyTo    string // or ""
	to         string
	mail       blueprint.Mail
	html       string // the same as HTML, or ""
	secret     bool   // it holds what only the recipient may know
	attached   []run.Attached
	shown      []run.Shown // which its HTML names by their ids
	leave      string      // the address at which its recipient unsubscribes by a single request, or ""
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
	if l.replyTo != "" {
		if err := message.ReplyTo(l.replyTo); err != nil {
			return fmt.Errorf("set where answers go: %w", err)
		}
	}
	if l.id != "" { // so that one that is sent again, as a server was killed before it said so, is known as the same
		message.SetMessageIDWithValue(l.id + "@" + l.from[strings.LastIndexByte(l.from, '@')+1:])
	}
	message.Subject(l.mail.Subject)
	if l.app != "" {
		message.SetGenHeader(mail.Header(mailbox.AppHeader), l.app)
	}
	if l.secret {
		message.SetGenHeader(mailbox.SecretHeader, "yes")
	}
	message.SetBodyString(mail.TypeTextPlain, l.mail.Body)
	if l.html != "" {
		message.AddAlternativeString(mail.TypeTextHTML, l.html)
	}
	if l.leave != "" { // RFC 8058
		message.SetGenHeader("List-Unsubscribe", "<"+l.leave+">")
		message.SetGenHeader("List-Unsubscribe-Post", "List-Unsubscribe=One-Click")
	}
	for _, f := range l.attached {
		if err := message.AttachReader(bare(f.Name), bytes.NewReader(f.Bytes), mail.WithFileContentType(mail.ContentType(f.Type))); err != nil {
			return fmt.Errorf("attach %s: %w", f.Name, err)
		}
	}
	for _, f := range l.shown {
		if err := message.EmbedReader(bare(f.Name), bytes.NewReader(f.Bytes), mail.WithFileContentType(mail.ContentType(f.Type)),
			mail.WithFileContentID("<"+contentID(f.Attached)+">")); err != nil {
			return fmt.Errorf("show %s: %w", f.Name, err)
		}
	}
	host, portText, err := net.SplitHostPort(m.Address)
	if err != nil {
		return fmt.Errorf("read mail server address: %w", err)
	}
	port, err := strconv.Atoi(portText)
	if err != nil {
		return fmt.Errorf("read mail server port: %w", err)
	}
	client, err := mail.NewClient(host, mail.WithPort(port), mail.WithTLSPolicy(mail.TLSOpportunistic), mail.WithTimeout(cmp.Or(m.Patience, 20*time.Second)))
	if err != nil {
		return fmt.Errorf("make mail client: %w", err)
	}
	if err := client.DialAndSendWithContext(ctx, message); err != nil {
		return fmt.Errorf("send mail: %w", err)
	}
	return nil
}

// contentID is by what the text of a mail names a file that goes with it, RFC 2392.
func contentID(f run.Attached) string { return f.ID + "@pictures" }

// bare gives the name of a file, which is no path whatever it was called.
func bare(name string) string { return name[strings.LastIndexAny(name, `/\`)+1:] }

// sendOf sends a mail of an app's gate.
func (g *Gate) sendOf(ctx context.Context, app store.App, b *blueprint.Blueprint, which blueprint.GateMail, to string,
	values map[string]string) error {
	l, err := g.letterOf(ctx, app, b, which, to, values)
	if err != nil {
		return err
	}
	l.secret = values["code"] != "" || values["link"] != ""
	return g.mailer.send(ctx, l)
}

func (g *Gate) letterOf(ctx context.Context, app store.App, b *blueprint.Blueprint, which blueprint.GateMail, to string,
	values map[string]string) (letter, error) {
	values["app"] = b.Name
	words, err := b.Gate.Fill(which, values, expr.Clock{Now: time.Now(), Zone: b.Location()})
	if err != nil {
		return letter{}, fmt.Errorf("write the mail %s: %w", which, err)
	}
	sender, err := g.SenderOf(ctx, app.WorkspaceID, b)
	if err != nil {
		return letter{}, err
	}
	return letter{app: app.ID, name: sender.Name, from: sender.Address, replyTo: sender.ReplyTo, to: to, mail: words}, nil
}

// Post sends a mail of a workflow.
func (g *Gate) Post(ctx context.Context, app store.App, b *blueprint.Blueprint, l run.Sending) error {
	sender, err := g.SenderOf(ctx, app.WorkspaceID, b)
	if err != nil {
		return err
	}
	out := letter{id: l.ID, app: app.ID, replyTo: l.ReplyTo, to: l.Recipient, html: l.HTML, attached: l.Attached, shown: l.Shown,
		mail: blueprint.Mail{Subject: l.Subject, Body: l.Plain}}
	out.html = around(l.Shown, out.html)
	if l.WayOut != "" {
		args := words.Args{"app": blueprint.Plain(b.Name), "link": g.mailer.link(app, "unsubscribe") + fragment(l.WayOut, "")}
		out.leave = g.mailer.Base + LeavePath + l.WayOut
		out.mail.Body += "\n\n-- \n" + words.Say("mail-leave", args) + "\n"
		out.html += fmt.Sprintf("<hr><p>%s <a href=\"%s\">%s</a></p>", html.EscapeString(words.Say("mail-leave-from", args)),
			html.EscapeString(args["link"].(string)), html.EscapeString(words.Say("mail-leave-link", nil)))
	}
	return g.mailer.post(ctx, sender, out)
}

// around puts pictures around a text in HTML: that of the app above it, the others below.
func around(pictures []run.Shown, text string) string {
	above := ""
	for _, p := range pictures {
		shown := fmt.Sprintf("<p><img src=\"cid:%s\" alt=\"%s\" style=\"max-width:100%%\"></p>\n", contentID(p.Attached),
			html.EscapeString(bare(p.Name)))
		if p.Above {
			above += shown
		} else {
			text += shown
		}
	}
	return above + text
}

// LeavePath is the path at which mail programs unsubscribe by a single request; what the link carries follows.
const LeavePath = "/leave/"

// post sends a mail of a workflow from a sender or, where the mail server does not take that, from
// ours, and answers go to the sender.
func (m Mailer) post(ctx context.Context, sender Sender, out letter) error {
	out.name, out.from, out.replyTo = sender.Name, sender.Address, cmp.Or(out.replyTo, sender.ReplyTo)
	err := m.send(ctx, out)
	var refused *mail.SendError
	if !errors.As(err, &refused) || refused.Reason != mail.ErrSMTPMailFrom || refused.IsTemp() || out.from == "" || out.from == m.From {
		return err
	}
	out.replyTo, out.from = cmp.Or(out.replyTo, out.from), m.From
	if again := m.send(ctx, out); again != nil {
		return errors.Join(err, again)
	}
	return nil
}

// link gives the address of a page of the gate of an app.
func (m Mailer) link(app store.App, page string) string {
	return m.Base + "/a/" + app.Slug + "/~/" + page
}

// Sender is whom the mails of an app come from.
type Sender struct {
	Name    string `json:"name"`
	Address string `json:"address"`
	// ReplyTo is where answers go, or "" where they go to the address.
	ReplyTo string `json:"replyTo,omitempty"`
	// Asked is the address that the app is to have, while that is not confirmed, or "".
	Asked string `json:"asked,omitempty"`
}

// SenderOf gives whom the mails of an app come from: the address that it is to have, once
// that is confirmed; until then ours, and answers go to who owns the workspace.
func (g *Gate) SenderOf(ctx context.Context, workspace string, b *blueprint.Blueprint) (Sender, error) {
	out := Sender{Name: blueprint.Plain(b.Gate.Sender), Address: g.mailer.From}
	if out.Name == "" {
		out.Name = blueprint.Plain(b.Name)
	}
	if b.Gate.Address != "" {
		confirmed, err := g.accounts.ConfirmedSender(ctx, workspace, b.Gate.Address)
		if err != nil {
			return out, err
		}
		if confirmed {
			out.Address = b.Gate.Address
			return out, nil
		}
		out.Asked = b.Gate.Address
	}
	var err error
	out.ReplyTo, err = g.accounts.ReplyTo(ctx, workspace)
	return out, err
}

// AskSender has a code sent to the address that mails of an app are to come from.
func (g *Gate) AskSender(ctx context.Context, app store.App, b *blueprint.Blueprint, by store.Builder) error {
	if b.Gate.Address == "" {
		return words.New("mail-no-sender")
	}
	if err := g.allowMail(ctx, app.WorkspaceID, by); err != nil {
		return err
	}
	code, err := g.accounts.SenderCode(ctx, app.WorkspaceID, b.Gate.Address)
	if err != nil || code == "" {
		return err
	}
	return g.toBuilder(ctx, b.Gate.Address, "mail-sender", words.Args{"code": code, "name": by.Name, "app": b.Name})
}

// ConfirmSender makes the address of which the code came that from which mails of the
// workspace may come.
func (g *Gate) ConfirmSender(ctx context.Context, app store.App, b *blueprint.Blueprint, by store.Builder, code string) error {
	err := g.accounts.ConfirmSender(ctx, app.WorkspaceID, b.Gate.Address, code)
	err = g.wrong(ctx, From{Host: "sender " + app.WorkspaceID}.builder(by.Email), err)
	if errors.Is(err, accounts.ErrRefused) {
		return words.New("mail-sender-code")
	}
	return err
}

// Try sends a builder a mail of the gate as it would go out, with sample values.
func (g *Gate) Try(ctx context.Context, app store.App, b *blueprint.Blueprint, which blueprint.GateMail, by store.Builder) error {
	if err := g.allowMail(ctx, app.WorkspaceID, by); err != nil {
		return err
	}
	l, err := g.letterOf(ctx, app, b, which, by.Email, map[string]string{"name": by.Name, "code": "123456",
		"link": g.mailer.link(app, "sign-in"), "what": words.Say("account-password-changed", words.Args{"app": blueprint.Plain(b.Name)})})
	if err != nil {
		return err
	}
	return g.mailer.send(ctx, l)
}
