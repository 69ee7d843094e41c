package store_test

import (
	"fmt"
	"sync"
	"testing"

	"vividporch/store/storetest"
)

// Found by a soak: of two processes that were started at once on a new channel one ended with a duplicate key.
func TestTwoProcessesBeginOnANewChannelAtOnce(t *testing.T) {
	st := storetest.Open(t)
	for i := range 20 {
		name := fmt.Sprint("evening-", i)
		var both sync.WaitGroup
		var ids [4]int64
		for k := range ids {
			both.Go(func() {
				id, err := st.Channel(t.Context(), name)
				if err != nil {
					t.Error(err)
					return
				}
				ids[k] = id
				if err := st.Log.FirstSettings(t.Context(), id, fmt.Appendf(nil, `{"channel": %q}`, fmt.Sprint(name, k))); err != nil {
					t.Error(err)
				}
			})
		}
		both.Wait()
		list, err := st.Log.SettingsHistory(t.Context(), ids[0], 5)
		if err != nil || len(list) != 1 || ids[0] == 0 || ids[0] != ids[1] || ids[0] != ids[2] || ids[0] != ids[3] {
			t.Fatalf("%v: %d versions, %v", ids, len(list), err)
		}
	}
}
