// Package mailbox is a real SMTP server in the process that catches the mail
// which apps send, so that it can be read when no mail server is set.
package mailbox

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"strings"
	"time"

	"github.com/emersion/go-message/mail"
	"github.com/emersion/go-smtp"
	"gorm.io/gorm"

	"pinegate/store"
)

// AppHeader is the header by which a mail says which app it is from.
const AppHeader = "X-Pinegate-App"

// SecretHeader is the header by which a mail says that it is for its recipient alone.
const SecretHeader = "X-Pinegate-Secret"

// Mailbox keeps caught mail in the store.
type Mailbox struct{ db *gorm.DB }

// New gives the mailbox of the store.
func New(s *store.Store) *Mailbox { return &Mailbox{s.DB} }

// maxMessage is the largest message that is taken, in bytes.
const maxMessage = 10 << 20

// Serve takes mail on a free port of loopback until the context ends, and
// gives its address.
func (m *Mailbox) Serve(ctx context.Context) (string, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", fmt.Errorf("listen for mail: %w", err)
	}
	s := smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &session{ctx: ctx, box: m}, nil }))
	s.Domain = "mailbox.example"
	s.MaxMessageBytes = maxMessage
	s.ReadTimeout, s.WriteTimeout = 30*time.Second, 30*time.Second
	go func() {
		if err := s.Serve(l); err != nil && !errors.Is(err, smtp.ErrServerClosed) && ctx.Err() == nil {
			slog.Error("mailbox stopped", "error", err)
		}
	}()
	context.AfterFunc(ctx, func() {
		if err := s.Close(); err != nil && !errors.Is(err, smtp.ErrServerClosed) {
			slog.Warn("close mailbox", "error", err)
		}
	})
	return l.Addr().String(), nil
}

// Of lists the newest mails of an app, or of all apps for "".
func (m *Mailbox) Of(ctx context.Context, app string, limit int) ([]store.Mail, error) {
	q := m.db.WithContext(ctx).Order("id DESC").Limit(limit)
	if app != "" {
		q = q.Where("app_id = ?", app)
	}
	out := []store.Mail{}
	if err := q.Find(&out).Error; err != nil {
		return nil, fmt.Errorf("list mails: %w", err)
	}
	return out, nil
}

type session struct {
	ctx  context.Context
	box  *Mailbox
	from string
	to   []string
}

func (s *session) Reset()        { s.from, s.to = "", nil }
func (s *session) Logout() error { return nil }

func (s *session) Mail(from string, _ *smtp.MailOptions) error {
	s.from = from
	return nil
}

func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	s.to = append(s.to, to)
	return nil
}

func (s *session) Data(r io.Reader) error {
	message, err := mail.CreateReader(r)
	if err != nil {
		return fmt.Errorf("read mail: %w", err)
	}
	kept := store.Mail{Sender: s.from, Recipients: strings.Join(s.to, ", ")}
	if kept.Subject, err = message.Header.Subject(); err != nil {
		return fmt.Errorf("read subject: %w", err)
	}
	if app := message.Header.Get(AppHeader); app != "" {
		kept.AppID = &app
	}
	answers, err := message.Header.AddressList("Reply-To")
	if err != nil {
		return fmt.Errorf("read where answers go: %w", err)
	}
	for _, a := range answers {
		kept.ReplyTo = a.Address
	}
	kept.Secret = message.Header.Get(SecretHeader) != ""
	part, err := message.NextPart()
	if err != nil {
		return fmt.Errorf("read mail: %w", err)
	}
	body, err := io.ReadAll(part.Body)
	if err != nil {
		return fmt.Errorf("read mail: %w", err)
	}
	kept.Body = strings.ReplaceAll(string(body), "\r\n", "\n")
	if kept.Files, err = attachedTo(message); err != nil {
		return err
	}
	return s.box.db.WithContext(s.ctx).Create(&kept).Error
}

// attachedTo lists the files that go with a mail whose text was read, with their sizes, and tells which of them its text
// shows.
func attachedTo(message *mail.Reader) (string, error) {
	var out []string
	for {
		part, err := message.NextPart()
		if errors.Is(err, io.EOF) {
			return strings.Join(out, ", "), nil
		}
		if err != nil {
			return "", fmt.Errorf("read mail: %w", err)
		}
		var name, shown string
		switch header := part.Header.(type) {
		case *mail.AttachmentHeader:
			name, err = header.Filename()
		case *mail.InlineHeader:
			if header.Get("Content-Disposition") == "" { // the text once more
				continue
			}
			var params map[string]string
			_, params, err = header.ContentDisposition()
			name, shown = params["filename"], ", shown in it"
		}
		if err != nil {
			return "", fmt.Errorf("read what is attached: %w", err)
		}
		size, err := io.Copy(io.Discard, part.Body)
		if err != nil {
			return "", fmt.Errorf("read what is attached: %w", err)
		}
		out = append(out, fmt.Sprintf("%s (%d bytes%s)", name, size, shown))
	}
}
