package e2e

import (
	"context"
	"io"
	"mime"
	"net/http"
	"path/filepath"
	"strings"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/legacy"
)

// promises is what the contract says of every route.
func promises(t *testing.T) routers.Router {
	t.Helper()
	doc, err := openapi3.NewLoader().LoadFromFile(filepath.Join(root(t), "api/openapi.yaml"))
	if err != nil {
		t.Fatal(err)
	}
	router, err := legacy.NewRouter(doc)
	if err != nil {
		t.Fatal(err)
	}
	return router
}

// kept holds an answer against what the contract promises of its route: the kind of content, and for JSON
// every field that is required, with its type. What is no route is not in the contract.
func kept(t *testing.T, contract routers.Router, req *http.Request, resp *http.Response, body string) {
	t.Helper()
	route, params, err := contract.FindRoute(req)
	if err != nil {
		return
	}
	name := req.Method + " " + req.URL.RequestURI()
	promise := route.Operation.Responses.Status(resp.StatusCode)
	if promise == nil {
		promise = route.Operation.Responses.Default()
	}
	kind, _, _ := mime.ParseMediaType(resp.Header.Get("Content-Type"))
	switch {
	case promise == nil || promise.Value == nil:
		t.Errorf("%s: the contract has no answer %d", name, resp.StatusCode)
	case len(promise.Value.Content) == 0 && body != "":
		t.Errorf("%s: %d has no content in the contract, and there is some: %s", name, resp.StatusCode, cut(body))
	case body != "" && promise.Value.Content[kind] == nil:
		t.Errorf("%s: %d is %s, which the contract does not promise", name, resp.StatusCode, kind)
	case kind == "application/json":
		input := &openapi3filter.ResponseValidationInput{
			RequestValidationInput: &openapi3filter.RequestValidationInput{Request: req, PathParams: params, Route: route},
			Status:                 resp.StatusCode, Header: resp.Header, Body: io.NopCloser(strings.NewReader(body)),
			Options: &openapi3filter.Options{IncludeResponseStatus: true},
		}
		if err := openapi3filter.ValidateResponse(context.Background(), input); err != nil {
			why, _, _ := strings.Cut(err.Error(), "Schema:")
			t.Errorf("%s: the answer %d is not as promised: %s", name, resp.StatusCode, strings.TrimSpace(why))
		}
	}
}
