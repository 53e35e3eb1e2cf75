package gate_test

import (
	"context"
	"os"
	"testing"
	"time"

	"github.com/riverqueue/river"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act/acttest"
	"pinegate/server/gate"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(storetest.Main(m)) }

// lasting is a job that lasts until it is let go, as an import can.
type lasting struct{}

func (lasting) Kind() string { return "test_lasting" }

type lastingWorker struct {
	river.WorkerDefaults[lasting]
	begun chan<- struct{}
	let   <-chan struct{}
}

func (w *lastingWorker) Work(context.Context, *river.Job[lasting]) error {
	w.begun <- struct{}{}
	<-w.let
	return nil
}

// TestNothingThatLastsHoldsMail keeps all other workers busy, and asks for a code.
func TestNothingThatLastsHoldsMail(t *testing.T) {
	s := storetest.New(t)
	a, acc := apps.New(s), accounts.New(s)
	_, err := acc.AddBuilder(t.Context(), "ann@yard.example", "Ann", "barnacle-and-orchard")
	require.NoError(t, err)
	const jobs = 20
	begun, let := make(chan struct{}, jobs), make(chan struct{})
	g, err := gate.New(context.WithoutCancel(t.Context()), s, a, acttest.New(t, a), acc,
		gate.Mailer{Address: "127.0.0.1:1", From: "app@pine.example"},
		gate.Jobs{Workers: []func(*river.Workers){func(w *river.Workers) { river.AddWorker(w, &lastingWorker{begun: begun, let: let}) }}})
	require.NoError(t, err)
	t.Cleanup(func() {
		close(let)
		assert.NoError(t, g.Stop(context.Background()))
	})
	for range jobs {
		_, err := g.Jobs().Insert(t.Context(), lasting{}, nil)
		require.NoError(t, err)
	}
	for range 4 {
		<-begun
	}
	require.NoError(t, g.RenewBuilder(t.Context(), "ann@yard.example", gate.From{Host: "127.0.0.1", Device: "a browser"}))
	require.Eventually(t, func() bool {
		n := 0
		return s.DB.Raw("SELECT count(*) FROM codes WHERE purpose = ?", accounts.ToRenew).Scan(&n).Error == nil && n == 1
	}, 10*time.Second, 20*time.Millisecond, "the code is made while the others last")
	select {
	case <-begun:
		assert.Fail(t, "no more than its share is worked at once")
	default:
	}
}
