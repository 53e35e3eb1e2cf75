package localpg

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/jackc/pgx/v5"
)

// Roles of the server. The keeper owns it, and is asked for nothing but to make the
// product's role, which is none that may do everything.
const (
	keeper  = "keeper"
	product = "pinegate"
)

// key is how the roles prove themselves: other users of the machine reach the port,
// too. A server of an older version has no keeper.
type key struct{ product, keeper string }

// keyFile is beside the data, for nobody but the user that the product runs as.
func (s *Server) keyFile() string { return s.dir + ".key" }

func (s *Server) readKey() error {
	raw, err := os.ReadFile(s.keyFile())
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if err != nil {
		return fmt.Errorf("read the key of the database: %w", err)
	}
	lines := strings.Split(strings.TrimSpace(string(raw)), "\n")
	s.key.product = lines[0]
	if len(lines) > 1 {
		s.key.keeper = lines[1]
	}
	return nil
}

func (s *Server) writeKey(k key) error {
	text := k.product + "\n"
	if k.keeper != "" {
		text += k.keeper + "\n"
	}
	if err := os.WriteFile(s.keyFile(), []byte(text), 0o600); err != nil {
		return fmt.Errorf("write the key of the database: %w", err)
	}
	s.key = k
	return nil
}

// keeperFile writes the keeper's password where the user that the server runs as can
// read it, while the data is made.
func (s *Server) keeperFile() (path string, remove func(), err error) {
	f, err := os.CreateTemp("", "pinegate-key-*")
	if err != nil {
		return "", nil, fmt.Errorf("hand over the key of the database: %w", err)
	}
	remove = func() { _ = os.Remove(f.Name()) } // of what nobody else may read
	_, err = f.WriteString(s.key.keeper + "\n")
	if err == nil && s.cred != nil {
		err = f.Chown(int(s.cred.Uid), int(s.cred.Gid))
	}
	if err = errors.Join(err, f.Close()); err != nil {
		remove()
		return "", nil, fmt.Errorf("hand over the key of the database: %w", err)
	}
	return f.Name(), remove, nil
}

// admit makes the product's role, where it is not there, and has all who come prove
// who they are.
func (s *Server) admit(ctx context.Context) error {
	switch {
	case s.key.product == "":
		return s.adopt(ctx)
	case s.key.keeper == "":
		return nil
	}
	conn, err := pgx.Connect(ctx, s.address(keeper, s.key.keeper, "postgres"))
	if err != nil {
		return fmt.Errorf("connect to the new database: %w", err)
	}
	var there bool
	err = conn.QueryRow(ctx, "SELECT EXISTS (SELECT 1 FROM pg_roles WHERE rolname = $1)", product).Scan(&there)
	if err == nil && !there {
		_, err = conn.Exec(ctx, fmt.Sprintf("BEGIN; CREATE ROLE %[1]s LOGIN CREATEDB PASSWORD '%[2]s'; ALTER DATABASE postgres OWNER TO %[1]s; COMMIT",
			product, s.key.product))
	}
	if err = errors.Join(err, conn.Close(ctx)); err != nil {
		return fmt.Errorf("make the product's role: %w", err)
	}
	return nil
}

// adopt gives a server of an older version, which trusted whoever came, a key.
func (s *Server) adopt(ctx context.Context) error {
	k := key{product: rand.Text()}
	conn, err := pgx.Connect(ctx, s.address(product, "", "postgres"))
	if err != nil {
		return fmt.Errorf("connect to the database (its key is missing; put %s back, which belongs to the data): %w", s.keyFile(), err)
	}
	_, err = conn.Exec(ctx, fmt.Sprintf("ALTER ROLE %s PASSWORD '%s'", product, k.product))
	if err == nil {
		err = s.writeKey(k)
	}
	if err == nil {
		err = s.distrust()
	}
	if err == nil {
		_, err = conn.Exec(ctx, "SELECT pg_reload_conf()")
	}
	if err = errors.Join(err, conn.Close(ctx)); err != nil {
		return fmt.Errorf("give the database a key: %w", err)
	}
	return nil
}

// distrust has the server ask everybody for their password.
func (s *Server) distrust() error {
	name := filepath.Join(s.dir, "pg_hba.conf")
	raw, err := os.ReadFile(name)
	if err != nil {
		return err
	}
	lines := strings.Split(string(raw), "\n")
	for i, line := range lines {
		if fields := strings.Fields(line); len(fields) > 0 && fields[len(fields)-1] == "trust" && !strings.HasPrefix(line, "#") {
			lines[i] = strings.TrimSuffix(strings.TrimRight(line, " \t"), "trust") + "scram-sha-256"
		}
	}
	return os.WriteFile(name, []byte(strings.Join(lines, "\n")), 0o600)
}

func (s *Server) address(role, password, database string) string {
	out := fmt.Sprintf("host=127.0.0.1 port=%d user=%s dbname=%s sslmode=disable", s.Port, role, database)
	if password != "" {
		out += " password=" + password
	}
	return out
}
