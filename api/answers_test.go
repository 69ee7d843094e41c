package api_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"

	"vividporch/porchtest"
	"vividporch/spec"
)

func TestAnswersAreAsTheDescriptionOfTheInterfaceSays(t *testing.T) {
	doc, err := openapi3.NewLoader().LoadFromData(spec.OpenAPI)
	if err != nil {
		t.Fatal(err)
	}
	b := porchtest.Launch(t)
	b.SignIn()
	held := 0
	hold := func(when string) {
		for path, item := range doc.Paths.Map() {
			if item.Get == nil || strings.Contains(path, "{") {
				continue
			}
			ok := item.Get.Responses.Value("200")
			if ok == nil || ok.Value.Content["application/json"] == nil {
				continue
			}
			var raw json.RawMessage
			if s := b.Do("GET", path, nil, &raw); s != 200 {
				continue // wants to be asked something
			}
			var v any
			if err := json.Unmarshal(raw, &v); err != nil {
				t.Errorf("%s %s: %v", when, path, err)
				continue
			}
			if err := ok.Value.Content["application/json"].Schema.Value.VisitJSON(v, openapi3.MultiErrors()); err != nil {
				t.Errorf("%s, GET %s: %v", when, path, err)
			}
			held++
		}
	}
	hold("before anything")
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	says(b, "9330", "kelpwright", "evening all")
	b.Until("kelpwright is greeted", func() bool { return said(b, "kelpwright") })
	hold("while a stream is on")
	if held < 30 {
		t.Errorf("%d answers were held against it", held)
	}
}
