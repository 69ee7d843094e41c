package spec_test

import (
	"testing"

	"github.com/getkin/kin-openapi/openapi3"

	"vividporch/spec"
)

func TestTheDescriptionOfTheInterfaceIsValidOpenAPI(t *testing.T) {
	doc, err := openapi3.NewLoader().LoadFromData(spec.OpenAPI)
	if err != nil {
		t.Fatal(err)
	}
	if err := doc.Validate(t.Context()); err != nil {
		t.Error(err)
	}
	if n := len(doc.Components.Schemas); n < 50 {
		t.Errorf("%d schemas", n)
	}
}
