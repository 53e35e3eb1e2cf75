package backup

import (
	"fmt"
	"net/url"
	"regexp"

	"github.com/jackc/pgx/v5"
)

// passwordIn finds the password in an address of keywords and values, as libpq
// reads them.
var passwordIn = regexp.MustCompile(`(^|\s)password\s*=\s*('(?:[^'\\]|\\.)*'|(?:[^\s\\]|\\.)*)`)

// withoutPassword takes the password out of an address: what a program is begun with can be read
// by everybody on the machine.
func withoutPassword(dsn string) (address, password string, err error) {
	config, err := pgx.ParseConfig(dsn)
	if err != nil {
		return "", "", fmt.Errorf("read database address: %w", err)
	}
	u, err := url.Parse(dsn)
	if err != nil || u.Scheme != "postgres" && u.Scheme != "postgresql" {
		return passwordIn.ReplaceAllString(dsn, ""), config.Password, nil
	}
	if u.User != nil {
		u.User = url.User(u.User.Username())
	}
	q := u.Query()
	q.Del("password")
	u.RawQuery = q.Encode()
	return u.String(), config.Password, nil
}
