package backup

import (
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestPasswordsAreTakenOutOfAddresses holds that what others can read names no
// password, and leads to the same database.
func TestPasswordsAreTakenOutOfAddresses(t *testing.T) {
	t.Setenv("PGPASSFILE", "/dev/null")
	for _, x := range []struct{ dsn, address, password string }{
		{"host=db user=a dbname=b sslmode=disable", "host=db user=a dbname=b sslmode=disable", ""},
		{"host=db user=a password=kelp dbname=b", "host=db user=a dbname=b", "kelp"},
		{"password = kelp host=db user=a dbname=b", " host=db user=a dbname=b", "kelp"},
		{`host=db user=a dbname=b password='two words \'quoted\''`, "host=db user=a dbname=b", "two words 'quoted'"},
		{"postgres://a:kelp@db:5433/b?sslmode=disable", "postgres://a@db:5433/b?sslmode=disable", "kelp"},
		{"postgresql://a@db/b?password=kelp&sslmode=disable", "postgresql://a@db/b?sslmode=disable", "kelp"},
	} {
		address, password, err := withoutPassword(x.dsn)
		require.NoError(t, err, x.dsn)
		assert.Equal(t, x.address, address)
		assert.Equal(t, x.password, password, x.dsn)
		with, err := pgx.ParseConfig(x.dsn)
		require.NoError(t, err)
		without, err := pgx.ParseConfig(address)
		require.NoError(t, err, address)
		assert.Equal(t, []any{with.Host, with.Port, with.User, with.Database}, []any{without.Host, without.Port, without.User,
			without.Database})
		assert.Empty(t, without.Password)
	}
	_, _, err := withoutPassword("port=nine")
	require.Error(t, err)
}
