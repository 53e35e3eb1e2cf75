// Package acttest gives tests what does things to apps.
package acttest

import (
	"testing"

	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/store/apps"
)

// New gives what does things to the apps.
func New(t testing.TB, a *apps.Apps) *act.Acts {
	t.Helper()
	acts, err := act.New(a)
	require.NoError(t, err)
	return acts
}
