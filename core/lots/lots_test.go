package lots_test

import (
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"testing"

	"vividporch/core/lots"
)

// The vectors were made by the script in docs/contract, which is written in another language.
func TestVectorsOfTheDocsHold(t *testing.T) {
	raw, err := os.ReadFile("../../docs/contract/draw-vectors.json")
	if err != nil {
		t.Fatal(err)
	}
	var v struct {
		Secret, Commit, Draw, Digest string
		Marks                        []struct{ Account, Mark string }
		Picks                        []struct{ Pick, Of, At int }
		Numbers                      []struct{ From, To, Number int64 }
		Kept                         []struct {
			Answers []string
			Kept    string
		}
	}
	if err := json.Unmarshal(raw, &v); err != nil {
		t.Fatal(err)
	}
	if len(v.Marks) < 5 || len(v.Picks) < 5 || len(v.Numbers) < 3 || len(v.Kept) < 3 {
		t.Fatal("the vectors are few")
	}
	secret, _ := hex.DecodeString(v.Secret)
	if got := lots.Commit(secret); got != v.Commit {
		t.Errorf("commit %s, not %s", got, v.Commit)
	}
	var marks []string
	for _, m := range v.Marks {
		if got := lots.Mark(v.Draw, m.Account); got != m.Mark {
			t.Errorf("mark of %s: %s, not %s", m.Account, got, m.Mark)
		}
		marks = append(marks, m.Mark)
	}
	if got := lots.Digest(marks); got != v.Digest {
		t.Errorf("digest %s, not %s", got, v.Digest)
	}
	for _, p := range v.Picks {
		if got := lots.Pick(secret, v.Digest, p.Pick, p.Of); got != p.At {
			t.Errorf("pick %d of %d: %d, not %d", p.Pick, p.Of, got, p.At)
		}
	}
	for _, n := range v.Numbers {
		if got := lots.Number(secret, n.From, n.To); got != n.Number {
			t.Errorf("number of %d to %d: %d, not %d", n.From, n.To, got, n.Number)
		}
	}
	for _, k := range v.Kept {
		if got := lots.Kept(secret, k.Answers); got != k.Kept {
			t.Errorf("%q kept as %s, not %s", k.Answers, got, k.Kept)
		}
	}
}

// Over a million draws every place is as likely: Pearson's chi-square, with the 99.99 % quantile of its distribution for so many
// degrees of freedom (Abramowitz and Stegun, table 26.8).
func TestEveryPlaceIsAsLikelyOverAMillionDraws(t *testing.T) {
	quantile := map[int]float64{2: 15.14, 6: 27.86, 10: 35.56, 99: 161.32} // by degrees of freedom
	for _, n := range []int{3, 7, 11, 100} {
		t.Run(fmt.Sprint(n, " entries"), func(t *testing.T) {
			draws := 250_000 // four sizes: a million in all
			r := rand.New(rand.NewPCG(11, uint64(n)))
			seen := make([]int, n)
			secret := make([]byte, lots.SecretBytes)
			for range draws {
				for i := range secret {
					secret[i] = byte(r.Uint32())
				}
				seen[lots.Pick(secret, lots.Digest([]string{"a", fmt.Sprint(n)}), 0, n)]++
			}
			chi, want := 0.0, float64(draws)/float64(n)
			for _, s := range seen {
				chi += (float64(s) - want) * (float64(s) - want) / want
			}
			if chi > quantile[n-1] {
				t.Errorf("chi-square %.1f beyond %.1f: %v", chi, quantile[n-1], seen)
			}
		})
	}
}

func TestTheOrderOfEntriesDoesNotMatterAndOneEntryMoreDoes(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 200 {
		var marks []string
		for i := range 1 + r.IntN(40) {
			marks = append(marks, lots.Mark("low-water", fmt.Sprintf("quayside:%d", i)))
		}
		was := lots.Digest(marks)
		shuffled := slices.Clone(marks)
		r.Shuffle(len(shuffled), func(i, j int) { shuffled[i], shuffled[j] = shuffled[j], shuffled[i] })
		if lots.Digest(shuffled) != was || lots.Digest(append(shuffled, marks[0])) != was {
			t.Fatal("another order, or one told twice, is another list")
		}
		if lots.Digest(append(marks, lots.Mark("low-water", "quayside:one-more"))) == was || lots.Digest(marks[1:]) == was {
			t.Fatal("one more or less is the same list")
		}
	}
}

func TestNothingIsPickedFromNothing(t *testing.T) {
	secret := make([]byte, lots.SecretBytes)
	if lots.Pick(secret, lots.Digest(nil), 0, 0) != -1 || lots.Pick(secret, "no digest", 0, 5) != -1 {
		t.Error("something is picked from nothing")
	}
	if lots.Number(secret, 5, 5) != 5 || lots.Number(secret, 6, 5) != 6 {
		t.Error("a range of one number has others")
	}
}
