package server

import (
	"context"
	"fmt"
	"testing"
	"testing/synctest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/store"
)

// TestFilesAreReceivedByTurns has one send more at once than they may, and then all
// places taken.
func TestFilesAreReceivedByTurns(t *testing.T) {
	t.Parallel()
	synctest.Test(t, func(t *testing.T) {
		r := newReceiver()
		var leave []func()
		take := func(who string) error {
			l, err := r.take(t.Context(), who)
			if err == nil {
				leave = append(leave, l)
			}
			return err
		}
		for range receivesOne {
			require.NoError(t, take("builder one"))
		}
		require.ErrorIs(t, take("builder one"), store.ErrBusy)
		for i := range receivesAll - receivesOne {
			require.NoError(t, take(fmt.Sprint("builder of others ", i)))
		}
		require.ErrorIs(t, take("builder last"), store.ErrBusy)
		gone, cancel := context.WithCancel(t.Context())
		cancel()
		_, err := r.take(gone, "builder last")
		require.ErrorIs(t, err, context.Canceled)
		for _, l := range leave {
			l()
		}
		for range receivesOne {
			require.NoError(t, take("builder last"), "a turn that was waited for in vain is given back")
		}
		assert.Len(t, r.places, receivesOne)
	})
}
