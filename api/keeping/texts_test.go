package keeping_test

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"vividporch/core/housefile"
	"vividporch/porch/desk"
	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/store/members"
)

func TestWhyATextFromOutsideIsNotFetchedIsToldBesideTheLastGoodOne(t *testing.T) {
	outside := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Write([]byte(`{"water": {"level": "2.4 m"}}`))
	}))
	defer outside.Close()
	b := porchtest.Launch(t, func(s *housefile.Settings) {
		s.FillIns = append(s.FillIns, housefile.FillIn{Name: "water", Kind: "fetched", Address: outside.URL, Pointer: "/water/level", Every: 30},
			housefile.FillIn{Name: "nowhere", Kind: "fetched", Address: outside.URL, Pointer: "/no/such", Every: 30})
	})
	b.SignIn()
	is := func(name string) (x spec.FetchedText) {
		var list []spec.FetchedText
		if s := b.Do("GET", "/api/house/fetched", nil, &list); s != 200 {
			t.Fatal(s)
		}
		for _, x := range list {
			if x.Name == name {
				return x
			}
		}
		return x
	}
	b.Until("it is fetched", func() bool { return is("water").Text == "2.4 m" && is("water").Why == "" })
	b.Until("what is not there is said", func() bool { return strings.Contains(is("nowhere").Why, "/no/such") })
	if _, err := b.House.Desk.ChangeSettings(t.Context(), desk.By{Role: members.RoleOwner}, "another place in it", func(s *housefile.Settings) error {
		s.FillIns[len(s.FillIns)-2].Pointer = "/water/depth"
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	b.Until("there is none any more", func() bool { return strings.Contains(is("water").Why, "/water/depth") })
	if x := is("water"); x.Text != "2.4 m" || x.At.IsZero() {
		t.Errorf("the last good one is lost: %+v", x)
	}
}
